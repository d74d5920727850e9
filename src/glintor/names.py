"""Names of files that are no text: how they are written in JSON and shown, and what a copy of such a file is called.

On Linux a name is bytes. Python holds what of it is no UTF-8 as lone surrogates (PEP 383), which no JSON, list or window takes.
"""

import os
import re
from pathlib import Path

MARK = "\ufffd"  # Unicode's own replacement character, followed here by the byte that it stands for
_NO_TEXT = re.compile(f"[\ud800-\udfff{MARK}]")
_MARKED = re.compile(f"(?:{MARK}[0-9A-F]{{2}})+")
_CONTROL = re.compile(r"[\x00-\x1f\x7f-\x9f]")  # XML 1.0, 2.2: most of these may not be in a list of checksums


def text_of(path: Path | str) -> str:
    """A path as text that anything can hold: each byte that is no text as its two digits behind a mark. `path_of` gives the path back."""

    def marked(found: re.Match[str]) -> str:
        return "".join(f"{MARK}{byte:02X}" for byte in found[0].encode("utf-8", "surrogateescape"))

    return _NO_TEXT.sub(marked, str(path))


def path_of(text: str) -> Path:
    """The path that `text_of` wrote; any other text is a path as it is."""

    def unmarked(found: re.Match[str]) -> str:
        return bytes.fromhex(found[0].replace(MARK, "")).decode("utf-8", "surrogateescape")

    return Path(_MARKED.sub(unmarked, text))


def plain_name(name: str) -> str:
    """What a copy of a file is called, so that every list and disk can hold it: its own name where that is text. Bytes that are none are
    read as ISO 8859-1, which older cameras write; control characters become `_`."""
    try:
        name.encode()
    except UnicodeEncodeError:
        name = os.fsencode(name).decode("latin-1")
    return _CONTROL.sub("_", name)
