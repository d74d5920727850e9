"""Directions, rotations, the one lens family, the equirectangular picture and frames on the sphere.

Conventions, written here once and used everywhere (see docs/science.md):
body frame of the camera x forward (front lens), y left, z up; yaw positive right, pitch positive up, roll positive
clockwise as the viewer sees the camera turn, applied roll, then pitch, then yaw; degrees at every public boundary.
"""
