"""Single pictures on disk: PNG, JPEG, TIFF, WebP and the light of EXR and Radiance HDR in; PNG, JPEG, TIFF, EXR out."""

import os
from collections.abc import Sequence
from pathlib import Path
from typing import Any

os.environ.setdefault("OPENCV_IO_ENABLE_OPENEXR", "1")  # read by OpenCV at its first EXR file

import cv2
import numpy as np
from numpy.typing import NDArray

from glintor.errors import InputError
from glintor.files import whole_file
from glintor.media.gain_map import MARK, light_in
from glintor.media.probe import ClipError, need_sphere
from glintor.media.spherical import photo_coverage
from glintor.pixels.colour import LUMA_709
from glintor.pixels.curves import display_of
from glintor.sphere.equirect import Coverage

LIGHT = {".exr", ".hdr"}  # files of linear light, without an upper end
SUFFIXES = {".png", ".jpg", ".jpeg", ".tif", ".tiff", ".webp"} | LIGHT
WRITTEN = (".png", ".jpg", ".tif", ".exr", ".hdr")
MOST_PX = (16384, 8192)
_JPEG_QUALITY = 95
_REC709 = np.array(LUMA_709, np.float32)


def read_flat(path: Path) -> NDArray[Any]:
    """(H, W, 3) red, green, blue of any picture in the file's own depth (uint8, uint16, or float32 light, which a JPEG with a gain map is
    too). Raises ClipError."""
    if not path.exists():
        raise ClipError(f"There is no file {path}.", advice="Check the name.")
    try:
        content = np.frombuffer(path.read_bytes(), np.uint8)
        picture = cv2.imdecode(content, cv2.IMREAD_COLOR | cv2.IMREAD_ANYDEPTH) if content.size else None
    except (cv2.error, OSError) as error:
        raise _unreadable(path) from error
    if picture is None or picture.dtype not in (np.uint8, np.uint16, np.float32):
        raise _unreadable(path)
    height, width = picture.shape[:2]
    if width > MOST_PX[0] or height > MOST_PX[1]:
        raise ClipError(
            f"{path.name} is {width}x{height}.", unharmed="It was not changed.", advice="Up to 16384x8192 can be used."
        )
    rgb = np.ascontiguousarray(picture[..., ::-1])
    if path.suffix.lower() in (".jpg", ".jpeg") and MARK in (raw := content.tobytes()):
        light = light_in(raw, rgb)
        return rgb if light is None else light
    return rgb


def read_sphere(path: Path, told: Coverage | None = None) -> tuple[NDArray[Any], Coverage]:
    """(H, W, 3) red, green, blue in the file's own depth (uint8, uint16 or float32 light), and what it shows.

    Raises ClipError where it cannot be read, is no sphere, or is larger than 16384x8192.
    """
    picture = read_flat(path)
    height, width = picture.shape[:2]
    coverage = need_sphere(path, (width, height), photo_coverage(path), told)
    return picture, coverage


def sphere_size(path: Path, told: Coverage | None = None) -> tuple[tuple[int, int], Coverage]:
    """Width and height of a picture by its header, and what part of the sphere it shows. Raises ClipError."""
    if path.suffix.lower() in LIGHT:
        pixels, coverage = read_sphere(path, told)
        return (pixels.shape[1], pixels.shape[0]), coverage
    size = picture_size(path)
    return size, need_sphere(path, size, photo_coverage(path), told)


def sphere_or_flat_size(path: Path) -> tuple[int, int]:
    """Width and height of any picture, those of light too, which have to be read for it. Raises ClipError."""
    if path.suffix.lower() in LIGHT:
        pixels = read_flat(path)
        return pixels.shape[1], pixels.shape[0]
    return picture_size(path)


def picture_size(path: Path) -> tuple[int, int]:
    """Width and height of any picture by its header. Raises ClipError."""
    if not path.exists():
        raise ClipError(f"There is no file {path}.", advice="Check the name.")
    from PIL import Image, UnidentifiedImageError

    try:
        with Image.open(path) as header:
            return header.size
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, Image.DecompressionBombError) as error:
        raise _unreadable(path) from error


def glance(path: Path) -> NDArray[np.uint8] | None:
    """A small grey copy (H, W) of a picture, read as quickly as its kind allows; None where it cannot be read so."""
    from PIL import Image, UnidentifiedImageError

    try:
        with Image.open(path) as picture:
            picture.draft("L", (1024, 512))
            picture.thumbnail((1024, 512))
            return np.asarray(picture.convert("L"))
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, Image.DecompressionBombError):
        return None


def _unreadable(path: Path) -> ClipError:
    return ClipError(
        f"{path.name} cannot be read as a picture.", unharmed="It was not changed.", advice="Copy it again."
    )


def shown(light: NDArray[Any], depth: int = 8) -> NDArray[Any]:
    """sRGB of linear light, of 8 or 16 bits, for screens and plain files: the mean (as luminance) goes to 18 % grey, highlights roll
    off. Sources: IEC 61966-2-1 for the curve; Reinhard et al., SIGGRAPH 2002, eq. 2 to 4."""
    light = np.maximum(np.nan_to_num(light.astype(np.float32), posinf=1e6), 0.0)
    luminance = light @ _REC709
    mean = float(np.exp(np.log(luminance + 1e-6).mean()))
    scaled = luminance * (0.18 / max(mean, 1e-9))
    white = max(float(np.percentile(scaled, 99.0)), 1.0)
    mapped = scaled * (1.0 + scaled / white**2) / (1.0 + scaled)
    curve = display_of(light * (mapped / np.maximum(luminance, 1e-9))[..., None])
    return (curve * (2.0**depth - 1.0) + 0.5).astype(np.uint8 if depth == 8 else np.uint16)


def packed(picture_rgb: NDArray[Any], suffix: str) -> bytes:
    """The picture as a file of that kind: depth is kept where the kind can hold it. Raises InputError."""
    kind = {".jpeg": ".jpg", ".tiff": ".tif"}.get(suffix.lower(), suffix.lower())
    if kind not in WRITTEN:
        raise InputError(f"Stills are not written as {suffix or 'that'}.", advice=f"Use {', '.join(WRITTEN)}.")
    depth = picture_rgb.dtype
    if kind in LIGHT:
        if depth.kind != "f":
            raise InputError(
                f"{kind[1:].upper()} holds linear light, which this source has not.", advice="Use .tif for full depth."
            )
    elif depth.kind == "f":
        picture_rgb = shown(picture_rgb, 16 if kind == ".tif" else 8)
    if kind == ".jpg" and picture_rgb.dtype == np.uint16:
        picture_rgb = (picture_rgb >> 8).astype(np.uint8)
    if kind == ".tif" and picture_rgb.dtype == np.uint8:
        picture_rgb = picture_rgb.astype(np.uint16) * 257
    options = {
        ".jpg": [cv2.IMWRITE_JPEG_QUALITY, _JPEG_QUALITY],
        ".exr": [cv2.IMWRITE_EXR_TYPE, cv2.IMWRITE_EXR_TYPE_HALF],
    }
    if kind == ".exr":  # half floats end at 65504
        picture_rgb = np.clip(np.nan_to_num(picture_rgb, nan=0.0, posinf=65504.0, neginf=0.0), 0.0, 65504.0)
    done, content = cv2.imencode(kind, np.ascontiguousarray(picture_rgb[..., ::-1]), options.get(kind, []))
    assert done, "packing a picture in memory cannot fail"
    return content.tobytes()


def write_picture(path: Path, picture_rgb: NDArray[Any], *, sources: Sequence[Path] = ()) -> None:
    """Writes (H, W, 3) whole, packed as the name says, never over one of `sources`. Raises WriteError, InputError."""
    with whole_file(path, sources=sources) as part:
        part.write_bytes(packed(picture_rgb, path.suffix))
