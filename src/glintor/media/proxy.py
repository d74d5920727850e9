"""Small stand-ins for large clips: what is scrubbed and played while the original is too heavy for it."""

import hashlib
import threading
from functools import partial
from pathlib import Path

from glintor.content import quick_of
from glintor.errors import Cancelled
from glintor.files import whole_file
from glintor.media.channel import Channel, ChannelClosed
from glintor.media.encoding import Encoding
from glintor.media.parts import Part
from glintor.media.probe import ClipInfo
from glintor.media.read import Decoded
from glintor.media.write import FilmWriter
from glintor.pixels.bands import in_bands
from glintor.pixels.yuv import Yuv
from glintor.places import own_folder
from glintor.types import Report

WIDTH_PX = 1920
FROM_WIDTH_PX = 2560  # narrower clips play as they are
_KEY_FRAMES = 6


def proxy_folder() -> Path:
    """Where this person's proxies lie; it can be deleted at any time."""
    return own_folder("cache") / "proxies"


def proxy_file(clip: Path | Part) -> Path:
    """The proxy that belongs to a clip, wherever it lies: on a card, copied, moved (by its size, head and tail)."""
    part = _part(clip)
    name = "|".join([*(quick_of(file) for file in part.files), *filter(None, [part.paired])])
    return proxy_folder() / f"{hashlib.sha256(name.encode()).hexdigest()[:24]}.mp4"


def _part(clip: Path | Part) -> Part:
    return clip if isinstance(clip, Part) else Part((clip,))


def proxy_of(clip: Path | Part) -> Path | None:
    """The clip's finished proxy, if there is one."""
    file = proxy_file(clip)
    return file if file.exists() else None


def wants_proxy(width_px: int) -> bool:
    """Whether a clip so wide is too heavy to be scrubbed."""
    return width_px >= FROM_WIDTH_PX


def make_proxy(clip: Path | Part, *, report: Report = lambda _share: None, stop: threading.Event | None = None) -> Path:
    """Writes the clip's proxy (of a pair with its lenses side by side), about 1920 wide with a key frame every 6 frames, and returns it. It has the clip's time
    stamps and no sound. Raises ClipError, WriteError, Cancelled."""
    part_of, target = _part(clip), proxy_file(clip)
    info = part_of.info
    stop = stop or threading.Event()
    decoded: Channel[Decoded] = Channel()
    failure: list[BaseException] = []
    with whole_file(target, sources=part_of.files) as part, part_of.reader(draft=True) as reader:

        def decode() -> None:
            try:
                for item in reader.frames():
                    decoded.put(item)
                decoded.finish()
            except ChannelClosed:
                return
            except BaseException as error:
                failure.append(error)
                decoded.abort()

        thread = threading.Thread(target=decode, name="decode")
        thread.start()
        try:
            _pack(decoded, info, part, report, stop)
        except ChannelClosed:
            raise failure[0] from None
        finally:
            decoded.abort()
            thread.join()
    return target


def _pack(decoded: Channel[Decoded], info: ClipInfo, part: Path, report: Report, stop: threading.Event) -> None:
    factor = max(round(info.width_px / WIDTH_PX), 1)
    size = (info.width_px // factor // 2 * 2, info.height_px // factor // 2 * 2)
    encoding = Encoding(crf=30, preset="ultrafast", key_every_s=_KEY_FRAMES / float(info.rate), draft=True)
    writer: FilmWriter | None = None
    end = 0.0
    try:
        for item in decoded:
            if stop.is_set():
                raise Cancelled
            if writer is None:
                writer = FilmWriter(
                    part, size, rate=info.rate, time_base=info.time_base, encoding=encoding, tags=item.picture.tags
                )
            frame, planes = writer.new_frame()
            _shrink(item.picture, planes)
            writer.write(frame, int(item.time / info.time_base), info.time_base)
            end = float(item.until)
            report(min(end / max(info.duration_s, 1e-9), 1.0))
        assert writer is not None, "a clip without pictures raises while it is read"
        writer.close(end)
    except BaseException:
        if writer is not None:
            writer.abandon()
        raise


def _shrink(picture: Yuv, out: Yuv) -> None:
    """Means of factor x factor samples into `out`, brought to 8 bits and 4:2:0."""
    from glintor.pixels.kernels import box_mean

    for plane, small in ((picture.y, out.y), (picture.u, out.u), (picture.v, out.v)):
        down, right = plane.shape[0] // small.shape[0], plane.shape[1] // small.shape[1]
        factor = min(down, right)
        fine = plane[
            :: down // factor, :: right // factor
        ]  # colour finer one way than the other is picked, not averaged
        rows = partial(box_mean, plane=fine, factor=factor, shift=picture.bits - 8, out=small)
        in_bands(small.shape[0], rows)
