"""A simulated place and camera with known truth: the Hollin Cut as an analytic scene, in linear light (cd/m2).

Scene axes: s along the canal in the direction of travel, n to the left, z up from the water of the upper pound, metres.
"""
