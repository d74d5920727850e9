"""Where the camera goes: sun, shadow, seam, stick, framing and the findings about a placement."""
