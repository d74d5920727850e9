"""The Offload desk."""
