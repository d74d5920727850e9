"""Before and during a take: what to check, and how long card and camera will last."""
