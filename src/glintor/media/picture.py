"""Single pictures on disk: PNG and JPEG in, PNG out."""

from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from glintor.files import write_bytes
from glintor.media.probe import ClipError

SUFFIXES = {".png", ".jpg", ".jpeg", ".tif", ".tiff", ".webp"}


def read_rgb(path: Path) -> NDArray[np.uint8]:
    """(H, W, 3) red, green, blue at 8 bits. Raises ClipError."""
    if not path.exists():
        raise ClipError(f"There is no file {path}.", advice="Check the name.")
    content = np.frombuffer(path.read_bytes(), np.uint8)
    picture = cv2.imdecode(content, cv2.IMREAD_COLOR) if content.size else None
    if picture is None:
        raise ClipError(
            f"{path.name} cannot be read as a picture.", unharmed="It was not changed.", advice="Copy it again."
        )
    return np.ascontiguousarray(picture[..., ::-1])


def png_bytes(picture_rgb: NDArray[np.uint8]) -> bytes:
    """The picture packed as PNG."""
    done, packed = cv2.imencode(".png", picture_rgb[..., ::-1])
    assert done, "PNG packing of an 8-bit picture cannot fail"
    return packed.tobytes()


def write_png(path: Path, picture_rgb: NDArray[np.uint8]) -> None:
    """Writes (H, W, 3) whole. Raises WriteError."""
    write_bytes(path, png_bytes(picture_rgb))
