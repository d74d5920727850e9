"""Records the shipped demo clips anew (about half an hour on two cores): python -m tools.record_demo_clips [NUMBER ...]."""

import sys

from glintor.demo.day import BRACKET, CLIPS, DAY_CLIPS, record_bracket, record_clip


def main() -> None:
    wanted = {int(number) for number in sys.argv[1:]}
    for clip in DAY_CLIPS:
        if wanted and clip.number not in wanted:
            continue
        words = f"{clip.file.name}, {clip.shot_id}"
        file = record_clip(
            clip, CLIPS, report=lambda share, words=words: print(f"\r{words} {share:4.0%}", end="", flush=True)
        )
        print(f"\r{words}: {file.size_bytes / 1e6:.1f} MB")
    if not wanted:
        for name in BRACKET:
            (CLIPS / name).unlink(missing_ok=True)
        record_bracket(CLIPS.parent)
        for name in BRACKET:
            (CLIPS.parent / "photos" / name).replace(CLIPS / name)
        (CLIPS.parent / "photos").rmdir()


if __name__ == "__main__":
    main()
