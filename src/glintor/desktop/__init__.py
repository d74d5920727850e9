"""The window: the only part of Glintor that knows Qt. It draws what the document holds and computes nothing."""

import contextlib
import ctypes
import gc
import threading

# What a start makes stays: looking through it for garbage is a twentieth of the time. `app` turns this on again when
# the first picture is painted.
gc.disable()


def _read_font_settings() -> None:
    """Lets fontconfig read its fifty files beside the imports; Qt, which would do it before the first word, finds it done."""
    with contextlib.suppress(OSError, AttributeError):
        ctypes.CDLL("libfontconfig.so.1").FcInit()


threading.Thread(target=_read_font_settings, name="fonts", daemon=True).start()

# NumPy is imported first, from here: Python 3.11 gives each call its frame from pieces of 16 kB, and whoever stands just
# at the end of one fetches and gives back a new piece at every call. Deep in a chain of imports that happens to NumPy's,
# 800 times and for a twentieth of the start (`strace -c -e trace=mmap,munmap` counts them).
import numpy  # noqa: E402, F401
