"""Minutes of the day in words."""


def clock(minute: float) -> str:
    """Minutes after midnight as 09:20."""
    whole = int(round(minute)) % 1440
    return f"{whole // 60:02d}:{whole % 60:02d}"
