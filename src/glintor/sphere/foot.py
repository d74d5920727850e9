"""What may cover the foot of a picture, where stick and mount are seen."""

from typing import Annotated, Literal

from msgspec import Meta, Struct


class Patch(Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """kind of cover: the surroundings mirrored into it, blurred, or a picture of one's own in `file`; radius_deg: from the foot's
    middle to its edge."""

    kind: Literal["mirror", "blur", "picture"] = "mirror"
    radius_deg: Annotated[float, Meta(ge=2, le=60)] = 14.0
    file: str = ""
