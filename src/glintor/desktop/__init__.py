"""The window: the only part of Glintor that knows Qt. It draws what the document holds and computes nothing."""

import gc

# What a start makes stays: looking through it for garbage is a twentieth of the time. `app` turns this on again when
# the first picture is painted.
gc.disable()

# Imported first, from here: Python 3.11 gives each call its frame from pieces of 16 kB, and whoever stands just at the
# end of one fetches and gives back a new piece at every call. Deep in a chain of imports that happens to NumPy's, 800
# times and for a twentieth of the start (`strace -c -e trace=mmap,munmap` counts them).
import numpy  # noqa: E402, F401
