"""The window: the only part of Glintor that knows Qt. It draws what the document holds and computes nothing."""

import gc

# What a start makes stays: looking through it for garbage is a twentieth of the time. `app` turns this on again when
# the first picture is painted.
gc.disable()
