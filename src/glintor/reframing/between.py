"""Ways from one view to the next that are no level pan: along a great circle, over the top, and drawn back on the way."""

import numpy as np

from glintor.reframing.curve import Ease, gently
from glintor.sphere.angle import wrap_deg
from glintor.sphere.equirect import direction, lonlat_deg
from glintor.sphere.rotation import angles_of_all, view_matrix
from glintor.types import Array

RHO = np.sqrt(
    2.0
)  # how much is zoomed for how much is panned: what people liked best in van Wijk & Nuij's trial is near 1.4
_WIDEST = np.log(0.12)  # of the focal length in frame widths: no drawing back beyond nearly the whole sphere


def progress(share: Array, leaves: Ease, arrives: Ease) -> Array:
    """How much of a way is done (n,) at shares of its time; it starts and ends at rest where it is not to go on evenly."""
    if leaves != "even" and arrives != "even":
        return gently(share)
    first, last = float(leaves == "even"), float(arrives == "even")
    out = share**2 * (3.0 - 2.0 * share) + (first * (1.0 - share) - last * share) * share * (1.0 - share)
    return np.asarray(out)


def great_circle(start: Array, end: Array, done: Array) -> Array:
    """(n, 2) yaw and pitch, degrees, on the shortest way on the sphere from one (yaw, pitch) to another; done (n,) 0 to 1. Between
    opposite directions it goes level."""
    a, b = direction(start[0], start[1]), direction(end[0], end[1])
    angle = np.arctan2(np.linalg.norm(np.cross(a, b)), float(a @ b))
    if angle < 1e-9 or angle > np.pi - 1e-6:
        return np.asarray(start[:2] + (end[:2] - start[:2]) * done[:, None])
    way = (np.sin((1.0 - done) * angle)[:, None] * a + np.sin(done * angle)[:, None] * b) / np.sin(angle)
    yaw, pitch = lonlat_deg(way)
    return np.stack([_near(yaw, start[0], end[0], done), pitch], axis=1)


def over_the_top(start: Array, end: Array, done: Array) -> Array:
    """(n, 3) yaw, pitch and roll, degrees, from one of these to another through straight up, turning upright on the way."""
    chord = direction(end[0], 0.0) - direction(start[0], 0.0)
    if np.linalg.norm(chord) < 1e-9:
        chord = -direction(start[0], 0.0)
    ahead = chord / np.linalg.norm(chord)
    frame = np.stack(
        [-ahead, np.array([0.0, 0.0, 1.0]), np.cross([0.0, 0.0, 1.0], ahead)], axis=1
    )  # its "level" goes over the top
    ends = view_matrix(*np.stack([start[:3], end[:3]], axis=1))
    yaw, pitch, roll = angles_of_all(np.einsum("ji,njk->nik", frame, ends))
    turn = -float((yaw[0] - yaw[1]) % 360.0)  # up is at -90 in it
    lean = (pitch[0] * (1.0 - done) + pitch[1] * done) * (
        2.0 * done - 1.0
    ) ** 2  # through straight up, however near the ends are
    bank = roll[0] + float(wrap_deg(roll[1] - roll[0])) * done
    there = np.einsum("ij,njk->nik", frame, view_matrix(yaw[0] + turn * done, lean, bank))
    out = np.stack(angles_of_all(there), axis=1)
    out[:, 0] = _near(out[:, 0], start[0], end[0], done)
    return out


def _near(yaw: Array, first: float, last: float, done: Array) -> Array:
    """Yaws on the turns that lie nearest to an even way between the two ends."""
    even = first + (last - first) * done
    return np.asarray(even + wrap_deg(yaw - even))


def drawn_back(angle_rad: float, log_focal: tuple[float, float], done: Array) -> tuple[Array, Array]:
    """Share of the pan that is done (n,) and the logarithm of the focal length in frame widths (n,) where pan and zoom go together
    as smoothly and shortly as a viewer can see it: van Wijk & Nuij, "Smooth and efficient zooming and panning", IEEE InfoVis 2003,
    with the frame's width on the sphere as 1/f."""
    w0, w1 = np.exp(-log_focal[0]), np.exp(-log_focal[1])
    u1, rho = max(angle_rad, 0.0), RHO
    if u1 < 1e-6 * w0:
        return done, log_focal[0] + (log_focal[1] - log_focal[0]) * done
    b0 = (w1**2 - w0**2 + rho**4 * u1**2) / (2.0 * w0 * rho**2 * u1)
    b1 = (w1**2 - w0**2 - rho**4 * u1**2) / (2.0 * w1 * rho**2 * u1)
    r0, r1 = -np.arcsinh(b0), -np.arcsinh(b1)
    s = (r1 - r0) / rho * done
    u = w0 / rho**2 * (np.cosh(r0) * np.tanh(rho * s + r0) - np.sinh(r0))
    w = w0 * np.cosh(r0) / np.cosh(rho * s + r0)
    return u / u1, np.maximum(-np.log(w), min(_WIDEST, *log_focal))
