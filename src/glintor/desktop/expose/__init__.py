"""The Expose desk."""
