"""A side view as a measuring instrument: its outline, and the profile of the body behind it.

The picture is taken level, so that its middle lies on the lens's axis. A body turned on an upright axis at distance
D shows as
its edge not its widest place but where the line of sight touches it: on a cylinder of radius r that ray leaves the
lens at
`sin a = r / D` and seems to lie `D tan a = r / sqrt(1 - (r / D)^2)` off the axis. On any other side line the place
of touching
follows from the outline's own direction there, see `profile_from`.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import cv2
import numpy as np

from ..arrays import Array
from ..errors import BadReading
from ..figures import carried
from ..job.turned import Photo
from .silhouette import Outline, smoothed

_CORNER = 7
"""Points of an edge next to a corner that smoothing has moved."""


PHOTO_ERROR_MM = 0.4


@dataclass(frozen=True)
class PhotoProfile:
    """A side line taken off a photograph: `z` (n,) mm above its lowest place, `r` (n,) mm; `apart` the mean
    difference between
    the left and the right edge (None where only one was read)."""

    z: Array
    r: Array
    apart: float | None

    def radius_at(self, z: float) -> float:
        """Radius at a height, mm."""
        return float(np.interp(z, self.z, self.r))


def mm_per_pixel(photo: Photo) -> float:
    """Scale in the plane of the axis; a known length that stood nearer to the lens looks larger by `D / (D - nearer)`.

    Raises BadReading where the two ends of the known length, or of the axis, fall on one place.
    """
    pixels = math.dist(*photo.known)
    if pixels < 20:
        raise BadReading(
            "The two ends of the known length lie on one place.",
            field="photo.known",
            hint="Drag them to both ends of the card or rule.",
        )
    if math.dist(*photo.axis) < 20:
        raise BadReading(
            "The two ends of the axis lie on one place.",
            field="photo.axis",
            hint="Drag one to the middle of the foot, the other to the middle of the rim.",
        )
    scale = photo.known_mm / pixels
    if photo.distance_mm is None:
        return scale
    if photo.nearer_mm >= photo.distance_mm:
        raise BadReading(
            "The known length stands behind the lens.",
            field="photo.nearer_mm",
            hint=f"It must be less than the distance of {carried(photo.distance_mm)}.",
        )
    return scale * photo.distance_mm / (photo.distance_mm - photo.nearer_mm)


def _touching(across: Array, up: Array, distance: float) -> tuple[Array, Array]:
    """Radius and height of the places where lines of sight touch the body, from its outline in the plane of the axis.

    `across` (> 0) and `up` (n,) mm, in order along the outline, seen from `distance` on the line up = 0. The line of
    sight and the
    outline's direction span the plane that touches the body; its normal `n` at a place `(r cos t, r sin t, z)` of a
    body with side
    line r(z) is `(cos t, sin t, -r')`, so `tan t = n_y / n_x`. The place lies on the line of sight at the share
    `q = D tan t / (x + D tan t)` of the way to the axis: `r = q x / sin t`, `z = q y`.
    """
    dx, dy = np.gradient(across), np.gradient(up)
    # (-D, x, y) is the line of sight, (0, dx, dy) the outline's direction; n is their cross product.
    nx = across * dy - up * dx
    ny = distance * dy
    t = np.arctan2(np.abs(ny), np.abs(nx) * np.sign(nx * ny))
    tangent = np.tan(t)
    q = distance * tangent / (across + distance * tangent)
    steep = np.abs(t - math.pi / 2) < 1e-7
    q = np.where(steep, 1.0, q)
    return q * across / np.sin(t), q * up


def profile_from(outline: Outline, photo: Photo) -> PhotoProfile:
    """The side line of the body whose outline crosses the axis. Raises BadReading where no edge is left on the side
    asked for."""
    scale = mm_per_pixel(photo)
    foot, top = np.array(photo.axis[0]), np.array(photo.axis[1])
    if foot[1] < top[1]:
        foot, top = top, foot
    up = (top - foot) / np.linalg.norm(top - foot)
    right = np.array([-up[1], up[0]])  # pixels count downward: up is (0, -1), right is (1, 0)
    middle = np.array([outline.width / 2, outline.height / 2])

    def in_axis(points: Array) -> tuple[Array, Array]:
        return (points - foot) @ right, (points - foot) @ up

    body = None
    for part in outline.parts:
        x, y = in_axis(part)
        if x.min() < 0 < x.max() and np.ptp(y) > 0.3 * np.linalg.norm(top - foot):
            body = part
            break
    if body is None:
        raise BadReading(
            "The axis runs past the outline of the body.",
            field="photo.axis",
            hint="Drag its ends to the middle of the foot and the middle of the rim.",
        )
    smooth = smoothed(body, 2.5)
    x, y = in_axis(smooth)
    cx, cy = in_axis(middle[None, :])
    x, y = x * scale, (y - cy[0]) * scale
    if photo.distance_mm is not None:
        # Turn the view so that it looks straight at the axis: off the picture's middle the body is seen aslant.
        d, x0 = photo.distance_mm, -float(cx[0]) * scale
        turn = math.atan2(x0, d)
        flat = np.hypot(d, x0)
        seen = x + x0
        ahead = seen * math.sin(turn) + d * math.cos(turn)
        x, y = (seen * math.cos(turn) - d * math.sin(turn)) * flat / ahead, y * flat / ahead
        distance = float(flat)
    else:
        distance = 1e9
    sides: list[tuple[Array, Array, float]] = []
    for sign, name in ((1, "right"), (-1, "left")):
        if photo.side in ("both", name):
            found = _one_side(x * sign, y, distance)
            if found is not None:
                sides.append(found)
    if not sides:
        raise BadReading(
            "No side line was found along the axis.", field="photo.axis", hint="Drag the axis, or read the other edge."
        )
    low = max(float(z.min()) for z, _, _ in sides)
    high = min(float(z.max()) for z, _, _ in sides)
    foot_up = float(np.mean([f for _, _, f in sides]))
    if high - low < 5:
        raise BadReading(
            "The two edges share too little of their height.",
            field="photo.axis",
            hint="Drag the axis upright along the body.",
        )
    z = np.linspace(low, high, 240)
    rows = np.array([np.interp(z, zs, rs) for zs, rs, _ in sides])
    apart = float(np.abs(rows[0] - rows[1]).mean()) if len(rows) == 2 else None
    return PhotoProfile(z - foot_up, rows.mean(axis=0), apart)


def _one_side(x: Array, y: Array, distance: float) -> tuple[Array, Array, float] | None:
    """Height and radius along one edge, from the foot up, and the height of the foot; the ends, where smoothing
    rounds the corners of
    rim and foot off, are left out."""
    below = (x <= 0) & (y < np.median(y))
    if not below.any():
        return None
    start = int(np.argmax(np.where(below, x, -np.inf)))  # under the foot, just on the other side of the axis
    x, y = np.roll(x, -start), np.roll(y, -start)
    run = x > np.abs(x).max() * 0.02
    if run.sum() < 20:
        return None
    x, y = x[run], y[run]
    if y[0] > y[-1]:
        x, y = x[::-1], y[::-1]
    dx, dy = np.gradient(x), np.gradient(y)
    side = (dy > 0) & (np.abs(dx) < 1.6 * dy)
    if side.sum() < 4 * _CORNER:
        return None
    first, last = np.nonzero(side)[0][[0, -1]]
    x, y = x[first : last + 1], y[first : last + 1]
    r, z = _touching(x, y, distance)
    good = np.isfinite(r) & np.isfinite(z) & (r > 0)
    r, z = r[good], z[good]
    order = np.argsort(z, kind="stable")
    r, z = r[order], z[order]
    return z[_CORNER:-_CORNER], r[_CORNER:-_CORNER], float(z[0])


def suggest_marks(
    outline: Outline,
) -> tuple[tuple[tuple[float, float], tuple[float, float]], tuple[tuple[float, float], tuple[float, float]]]:
    """Where the known length and the axis probably are: ends of the second thing's long side, and the middles of the
    first.

    Returns (known, axis), each two places in pixels, the axis from foot to rim.
    """
    body = outline.parts[0]
    low, high = body[:, 1].max(), body[:, 1].min()
    tall = low - high
    mids = []
    for share in np.linspace(0.15, 0.85, 15):
        row = body[np.abs(body[:, 1] - (high + share * tall)) < tall * 0.02]
        if len(row):
            mids.append(((row[:, 0].min() + row[:, 0].max()) / 2, high + share * tall))
    m = np.array(mids)
    slope, at = np.polyfit(m[:, 1], m[:, 0], 1) if len(m) > 2 else (0.0, float(body[:, 0].mean()))
    axis = ((float(at + slope * low), float(low)), (float(at + slope * high), float(high)))
    if len(outline.parts) > 1:
        corners = cv2.boxPoints(cv2.minAreaRect(outline.parts[1].astype(np.float32)))
        sides = [(corners[i], corners[(i + 1) % 4]) for i in range(4)]
        a, b = max(sides, key=lambda s: float(np.linalg.norm(s[0] - s[1])))
        return ((float(a[0]), float(a[1])), (float(b[0]), float(b[1]))), axis
    y = float(outline.height * 0.95)
    return ((outline.width * 0.1, y), (outline.width * 0.4, y)), axis
