"""Records the shipped demo clips anew (about half an hour on two cores): python -m tools.record_demo_clips [SHOT ...]."""

import sys

from glintor.demo.day import CLIPS, FILM_S, record_clip


def main() -> None:
    for shot_id in sys.argv[1:] or FILM_S:
        take = record_clip(
            shot_id, CLIPS, report=lambda share, name=shot_id: print(f"\r{name} {share:4.0%}", end="", flush=True)
        )
        print(f"\r{take.card_file}: {take.size_bytes / 1e6:.1f} MB")


if __name__ == "__main__":
    main()
