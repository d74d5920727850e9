"""The Reframe desk."""
