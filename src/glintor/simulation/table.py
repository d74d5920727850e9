"""What the numbers of the flat array mean that `place` writes and `raytrace` reads: materials, and places in the array.

Apart from the renderer, so that who only builds a place need not load the compiler.
"""

WATER, GROUND, STONE, BRICK, LEAF, BARK = 1, 2, 3, 4, 5, 6
HULL, CABIN, ROOF, RAIL, WOOD, BRASS, WHITE, DARK = 10, 11, 12, 13, 14, 15, 16, 17
JEANS, JACKET, SKIN, HAIR, CAP, SCARF = 20, 21, 22, 23, 24, 25
STICK, TILE, PLASTER, FLOWERS, ROPE, DUCK = 30, 31, 32, 33, 34, 35

# Places in `w`: direction to the sun (3), illuminance of sun, sky and bounce in lux (3), sky numbers (11), then these.
SUN, LUX, SKY = 0, 3, 6
ORIGIN, BANK, GROUND_Z, BRIDGE_S, TUNNEL_S, LOCK_S0, LOCK_S1, LOCK_WATER, LOW_WATER, TIME, HAZE = range(17, 28)
ROWS, ROW_COUNT, GROUPS, GROUP_COUNT, HEAD = range(28, 33)  # where the tables begin, in places of `w`
ROW_SIZE, GROUP_SIZE, BOX_SIZE, CAPSULE_SIZE, ELLIPSOID_SIZE, PRISM_SIZE, PLANE_SIZE = 8, 17, 7, 8, 7, 3, 4
ARCH_HALF, ARCH_RISE, BORE_HALF, BORE_RISE, BRIDGE_HALF = 5.6, 3.0, 3.1, 3.25, 1.9
PORTAL_TOP, PORTAL_HALF, TUNNEL_LENGTH = 5.2, 6.5, 180.0
NOTHING = 1e30

# Whose a group of solids is, and what the mask beside a picture says of each pixel.
PLACE, SUBJECT, MOUNT = 0, 1, 2
SEES_SUBJECT, SEES_MOUNT, SHADOW_OF_SUBJECT, SHADOW_OF_MOUNT = 1, 2, 4, 8
