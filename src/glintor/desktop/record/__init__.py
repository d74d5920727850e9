"""The Record desk."""
