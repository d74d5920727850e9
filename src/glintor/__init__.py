"""Glintor: from a camera placement to finished flat films, for one person who films alone."""

__version__ = "0.1.0"
