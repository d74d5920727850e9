"""Clips, sound and pictures on disk, through PyAV and OpenCV. Originals are only ever opened for reading."""
