"""What the numbers of the flat array mean that `place` writes and `raytrace` reads: places in the array, and masks.

Apart from the renderer, so that who only builds a place need not load the compiler.
"""

# Places in `w`: direction to the sun (3), illuminance of sun, sky and bounce in lux (3), sky numbers (11), then these.
SUN, LUX, SKY = 0, 3, 6
ORIGIN, BANK, GROUND_Z, BRIDGE_S, TUNNEL_S, LOCK_S0, LOCK_S1, LOCK_WATER, LOW_WATER, TIME, HAZE = range(17, 28)
ROWS, ROW_COUNT, GROUPS, GROUP_COUNT = range(28, 32)  # where the tables begin, in places of `w`
ROW_SIZE, GROUP_SIZE, BOX_SIZE, CAPSULE_SIZE, ELLIPSOID_SIZE, PRISM_SIZE, PLANE_SIZE = 8, 17, 7, 8, 7, 3, 4
ARCH_HALF, ARCH_RISE, BORE_HALF, BORE_RISE, BRIDGE_HALF = 5.6, 3.0, 3.1, 3.25, 1.9
PORTAL_TOP, PORTAL_HALF, TUNNEL_LENGTH = 5.2, 6.5, 180.0
# How far hills rise at the horizon; then of a place that is described: whether it is one, half the way's width, what way and
# sides are made of, the edges of the ground towards water (left, right, ahead, behind), the water's height, whether anything
# is overhead (2: a roof of the carrier alone), its lamps and its horizon (where their tables begin, and how many numbers they
# have): tangents of the height, all the way round from ahead to the left. Of its photo: where it begins, width and height,
# luminance of a unit, which way its middle faces (radians from ahead to the left), how high it was taken, what is left of
# the ground's light in a shadow, and whether it shows but a part, the rest being as described. How much the ground rises for each metre ahead and to the left.
(
    HILLS,
    DESCRIBED,
    WAY_HALF,
    WAY_OF,
    BESIDE_OF,
    EDGE_LEFT,
    EDGE_RIGHT,
    EDGE_AHEAD,
    EDGE_BEHIND,
    WATER_Z,
    COVERED,
    LAMPS,
    LAMP_COUNT,
    HORIZON,
    HORIZON_COUNT,
    PHOTO_AT,
    PHOTO_W,
    PHOTO_H,
    PHOTO_GAIN,
    PHOTO_TURN,
    PHOTO_Z,
    PHOTO_SHADE,
    PHOTO_PART,
    SLOPE_AHEAD,
    SLOPE_LEFT,
    HEAD,
) = range(32, 58)
LAMP_SIZE = 4
NOTHING = 1e30

# What the mask beside a picture says of each pixel.
SEES_SUBJECT, SEES_MOUNT, SHADOW_OF_SUBJECT, SHADOW_OF_MOUNT = 1, 2, 4, 8
