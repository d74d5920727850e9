import numpy as np
import pytest

from glintor.pixels import colour
from glintor.pixels.yuv import ColourTags, Yuv
from tests.conftest import psnr, smooth_sphere

ALL_TAGS = [ColourTags(m, f) for m in ("bt709", "bt601") for f in (False, True)]


@pytest.mark.parametrize("tags", ALL_TAGS, ids=str)
def test_rgb_to_planes_and_back(tags):
    picture = smooth_sphere(512)
    assert psnr(colour.rgb(colour.yuv(picture, tags)), picture) > 48.0


@pytest.mark.parametrize(
    ("rgb", "y", "cb", "cr"),
    [
        ((255, 255, 255), 235, 128, 128),
        ((0, 0, 0), 16, 128, 128),
        ((255, 0, 0), 63, 102, 240),
        ((0, 0, 255), 32, 240, 118),
    ],
)
def test_limited_range_bt709_codes(rgb, y, cb, cr):
    """Source: Rec. ITU-R BT.709-6, 3.2 to 3.4 (luma weights 0.2126, 0.7152, 0.0722; 8-bit codes 16-235, 16-240)."""
    drawn = colour.yuv(np.full((4, 4, 3), rgb, np.uint8))
    assert (drawn.y[0, 0], drawn.u[0, 0], drawn.v[0, 0]) == (
        pytest.approx(y, abs=1),
        pytest.approx(cb, abs=1),
        pytest.approx(cr, abs=1),
    )


def test_full_range_is_not_stretched():
    grey = Yuv(
        np.full((2, 2), 100, np.uint8),
        np.full((1, 1), 128, np.uint8),
        np.full((1, 1), 128, np.uint8),
        ColourTags("bt709", True),
    )
    assert (colour.rgb(grey) == 100).all()
