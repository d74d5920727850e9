"""The Export desk."""
