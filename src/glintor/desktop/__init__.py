"""The window: the only part of Glintor that knows Qt. It draws what the document holds and computes nothing."""
