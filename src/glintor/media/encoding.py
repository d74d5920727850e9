"""How a film is packed: codecs, and what can be asked of them."""

from msgspec import Struct

from glintor.errors import InputError

PRESETS = ("ultrafast", "superfast", "veryfast", "faster", "fast", "medium", "slow", "slower")


class Codec(Struct, frozen=True):
    """A way of packing pictures. `deep` is its pixel format for sources of more than 8 bits."""

    id: str
    words: str
    encoder: str
    plain: str
    deep: str
    suffix: str
    by_quality: bool = True  # a quality (crf) or a bit rate can be asked for

    def pixel_format(self, source_bits: int) -> str:
        return self.deep if source_bits > 8 else self.plain


CODECS = {
    codec.id: codec
    for codec in (
        Codec("h264", "H.264, edits and plays everywhere", "libx264", "yuv420p", "yuv420p", ".mp4"),
        Codec("h265", "H.265, smaller, heavier to edit", "libx265", "yuv420p", "yuv420p", ".mp4"),
        Codec("h265-10", "H.265, 10 bit, for grading", "libx265", "yuv420p10le", "yuv420p10le", ".mp4"),
        Codec("prores", "ProRes 422 HQ, for editors", "prores_ks", "yuv422p10le", "yuv422p10le", ".mov", False),
        Codec("ffv1", "FFV1, lossless, for archives", "ffv1", "yuv420p", "yuv420p10le", ".mkv", False),
    )
}


def codec_named(name: str) -> Codec:
    """The codec of that id. Raises InputError."""
    if name not in CODECS:
        raise InputError(f"There is no packing {name}.", advice=f"Choose one of {', '.join(CODECS)}.")
    return CODECS[name]


class Encoding(Struct, frozen=True, kw_only=True):
    """How a film is packed: a bit rate in Mbit/s, or a constant quality where it is None; AAC in kbit/s, or PCM."""

    mbit_s: float | None = None
    crf: int = 19
    preset: str = "veryfast"
    aac_kbit_s: int = 256
    key_every_s: float = 2.0
    codec: str = "h264"
    pcm: bool = False
    draft: bool = False  # as quick as H.264 can be packed: for proxies

    def __post_init__(self) -> None:
        if self.mbit_s is not None and not 0.1 <= self.mbit_s <= 400.0:
            raise InputError(f"A bit rate of {self.mbit_s:g} Mbit/s is out of range.", advice="Choose 0.1 to 400.")
        if not 0 <= self.crf <= 51:
            raise InputError(f"A quality of {self.crf} is out of range.", advice="Choose 0 (lossless) to 51.")
        if self.preset not in PRESETS:
            raise InputError(f"There is no preset {self.preset}.", advice=f"Choose one of {', '.join(PRESETS)}.")
        if self.pcm and codec_named(self.codec).suffix == ".mp4":
            raise InputError("Few players take PCM sound in MP4.", advice="Choose AAC, or ProRes or FFV1 for PCM.")

    @property
    def suffix(self) -> str:
        return codec_named(self.codec).suffix
