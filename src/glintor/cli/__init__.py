"""The command `glintor`: opens the window, or does one job with the same code as the window.

Exit code 0 when done; 2 for bad input and 1 for work that failed, each with a message on standard error.
"""

import os
import sys
from collections.abc import Sequence
from importlib import import_module
from typing import NamedTuple

from glintor import __version__
from glintor.errors import GlintorError

# Each command and the module with its function; loaded when asked for, since the window opens without them.
COMMANDS = {
    "demo": "days",
    "check": "days",
    "reframe": "films",
    "still": "films",
    "export": "films",
    "path": "paths",
    "hdr": "light",
    "meter": "light",
    "look": "recordings",
    "lenses": "recordings",
    "steady": "recordings",
    "sync": "recordings",
    "track": "recordings",
    "offload": "cards",
    "verify": "cards",
    "camera": "camera",
}


def main(arguments: Sequence[str] | None = None) -> int:
    """Runs one command and returns its exit code."""
    words = list(sys.argv[1:] if arguments is None else arguments)
    try:
        if words and words[0] in COMMANDS:
            room = import_module(f"glintor.cli.{COMMANDS[words[0]]}")
            done: int = getattr(room, words[0])(words[1:])
            compiling = sys.modules.get("glintor.pixels.compiling")
            if compiling is not None and compiling.Kernels.words:
                print(f"glintor: {compiling.Kernels.words}.", file=sys.stderr)
            return done
        return _window(words)
    except GlintorError as error:
        print(f"glintor: {error}", file=sys.stderr)
        return error.exit_code
    except BrokenPipeError:  # whoever read the words has seen enough
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 0
    except Exception as error:
        from glintor.report import fault, log_file

        print(f"glintor: {fault(' '.join(['The command', *words[:1]]), error)} It is in {log_file()}.", file=sys.stderr)
        return 1
    except KeyboardInterrupt:
        print("glintor: stopped. Nothing half written is left.", file=sys.stderr)
        return 1


class Asked(NamedTuple):
    """What a call without a command asks of the window."""

    files: tuple[str, ...] = ()
    demo: bool = False
    close_after: float | None = None


def asked(words: list[str]) -> Asked:
    """Reads the call; the usual one, with a project or nothing, needs no parser, which would hold the window up."""
    if not any(word.startswith("-") for word in words):
        return Asked(tuple(words))
    from glintor.cli.options import parser

    read = parser("", "Plan, expose, record, offload, reframe and export 360 footage.")
    read.add_argument(
        "files",
        nargs="*",
        help="day to open (.glintor), or films, photos and folders to begin one with; without it the last day",
    )
    read.add_argument("--demo", action="store_true", help="open the demo day")
    read.add_argument("--close-after", type=float, metavar="S", help="close the window by itself after S seconds")
    read.add_argument("--version", action="version", version=f"glintor {__version__}")
    read.epilog = "Other commands: demo, reframe, still, export, check, hdr, meter, look, lenses, steady, sync, offload, verify; each has --help."
    chosen = read.parse_args(words)
    return Asked(tuple(chosen.files), chosen.demo, chosen.close_after)


def _window(words: list[str]) -> int:
    wanted = asked(words)
    from glintor.desktop.app import run

    return run(wanted.files, demo=wanted.demo, close_after_s=wanted.close_after)
