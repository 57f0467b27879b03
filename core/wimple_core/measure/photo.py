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

import io
import math
from collections.abc import Callable
from dataclasses import dataclass

import cv2
import numpy as np
from PIL import Image, ImageOps, UnidentifiedImageError

from ..errors import BadReading
from ..figures import carried
from ..job.blanks import Photo
from .body import Array

MOST_PIXELS = 50_000_000
SMALL_SIDE = 1100
"""The outline is found on a picture of this size, and then sharpened in the whole one."""
EDGE_POINTS = 1600
_CORNER = 7
"""Points of an edge next to a corner that smoothing has moved."""
LEAST_CONTRAST = 6.0
"""How much a body must differ from its ground (CIELAB, 0 to 100) to have an outline."""
PHOTO_ERROR_MM = 0.4


def _bad(message: str, hint: str) -> BadReading:
    return BadReading(message, field="blank.photo.file", hint=hint)


@dataclass(frozen=True)
class Outline:
    """What stands out from the ground: closed lines (n, 2) in pixels from the upper left corner of the upright picture,
    the largest first."""

    width: int
    height: int
    parts: tuple[Array, ...]

    def as_dict(self) -> dict[str, object]:
        """For keeping beside the picture."""
        return {"width": self.width, "height": self.height, "parts": [np.round(p, 2).tolist() for p in self.parts]}

    @classmethod
    def from_dict(cls, raw: dict[str, object]) -> Outline:
        """What `as_dict` kept."""
        parts = tuple(np.array(p, dtype=np.float64) for p in raw["parts"])  # type: ignore[attr-defined]
        return cls(int(raw["width"]), int(raw["height"]), parts)  # type: ignore[call-overload]


def open_picture(data: bytes) -> np.ndarray:
    """The picture upright, as its metadata says, (h, w, 3) RGB. Raises BadReading for what is none, or is too large."""
    Image.MAX_IMAGE_PIXELS = None  # our own limit, checked before anything is unpacked, says more
    try:
        picture = Image.open(io.BytesIO(data), formats=["JPEG", "PNG", "WEBP", "TIFF", "BMP"])
        w, h = picture.size
        if w * h > MOST_PIXELS:
            raise _bad(
                f"The picture has {w * h / 1e6:.0f} megapixels.",
                f"At most {MOST_PIXELS // 1_000_000} are taken: make it smaller.",
            )
        if min(w, h) < 200:
            raise _bad(f"The picture has only {w} × {h} pixels.", "Take it with at least 1000 pixels along the body.")
        upright = ImageOps.exif_transpose(picture)
        return np.asarray(upright.convert("RGB"))
    except BadReading:
        raise
    except UnidentifiedImageError:
        raise _bad("This file is not a picture.", "Give a photograph as JPEG, PNG, WebP or TIFF.") from None
    except Exception as bad:
        raise _bad("The picture is cut short or damaged.", "Copy it from the camera again.") from bad


def upright_jpeg(data: bytes) -> bytes:
    """The picture upright, as a JPEG without its metadata: what is kept. Raises as `open_picture` does."""
    out = io.BytesIO()
    Image.fromarray(open_picture(data)).save(out, "JPEG", quality=92)
    return out.getvalue()


def _lab(rgb: np.ndarray) -> Array:
    return np.asarray(cv2.cvtColor(rgb.astype(np.float32) / 255, cv2.COLOR_RGB2LAB), dtype=np.float64)


def _ground(lab: Array) -> tuple[Array, float]:
    """Coefficients (6, 3) of the light's slow change over a plain ground, from the picture's border, and its grain."""
    h, w = lab.shape[:2]
    b = max(3, min(h, w) // 40)
    mask = np.zeros((h, w), dtype=bool)
    mask[:b], mask[-b:], mask[:, :b], mask[:, -b:] = True, True, True, True
    yy, xx = np.nonzero(mask)
    values = lab[yy, xx]
    terms = _terms(xx / w, yy / h)
    keep = np.ones(len(values), dtype=bool)
    for _ in range(4):
        fit, *_ = np.linalg.lstsq(terms[keep], values[keep], rcond=None)
        off = np.linalg.norm(values - terms @ fit, axis=1)
        keep = off <= max(3.0, 2.5 * float(np.median(off[keep])))
    return np.asarray(fit, dtype=np.float64), float(np.median(off[keep]))


def _terms(x: Array, y: Array) -> Array:
    return np.column_stack([np.ones_like(x), x, y, x * x, x * y, y * y])


def find_outline(data: bytes, progress: Callable[[str], None] = lambda what: None) -> Outline:
    """What stands out from the plain ground of a picture, to a fraction of a pixel.

    Raises BadReading for no picture, one too large, or one without an outline.
    """
    progress("opening the picture")
    rgb = open_picture(data)
    height, width = rgb.shape[:2]
    progress("finding the ground")
    share = min(1.0, SMALL_SIDE / max(height, width))
    small = cv2.resize(rgb, (round(width * share), round(height * share)), interpolation=cv2.INTER_AREA)
    lab: Array = np.asarray(cv2.GaussianBlur(_lab(small), (0, 0), 1.0), dtype=np.float64)
    fit, grain = _ground(lab)
    h, w = lab.shape[:2]
    yy, xx = np.mgrid[0:h, 0:w]
    off = np.linalg.norm(lab - (_terms(xx.ravel() / w, yy.ravel() / h) @ fit).reshape(h, w, 3), axis=2)
    strongest = float(np.quantile(off, 0.995))
    if strongest < max(LEAST_CONTRAST, 4 * grain):
        raise _bad(
            "Nothing stands out from the ground in this picture.",
            "Put the blank before a plain ground of another colour, without shadows.",
        )
    scaled = np.clip(off / strongest * 255, 0, 255).astype(np.uint8)
    cut, _ = cv2.threshold(scaled, 0, 255, cv2.THRESH_BINARY + cv2.THRESH_OTSU)
    level = max(min(cut / 255 * strongest, 0.5 * strongest), 3.5 * grain, LEAST_CONTRAST * 0.6)
    mask = (off > level).astype(np.uint8)
    mask = cv2.morphologyEx(mask, cv2.MORPH_CLOSE, np.ones((7, 7), np.uint8))
    mask = cv2.morphologyEx(mask, cv2.MORPH_OPEN, np.ones((3, 3), np.uint8))
    contours, _ = cv2.findContours(mask, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    large = sorted((c for c in contours if cv2.contourArea(c) > 0.002 * h * w), key=cv2.contourArea, reverse=True)[:4]
    if not large:
        raise _bad(
            "No body was found in this picture.", "Come nearer: the blank should fill at least a third of its height."
        )
    if len(large[0]) < 80 or cv2.contourArea(large[0]) > 0.9 * h * w:
        raise _bad(
            "The ground is not plain enough to tell the blank from it.",
            "Put it before one colour, and leave some ground on every side.",
        )
    progress("sharpening the edge")
    parts = tuple(_sharpened(rgb, c[:, 0, :].astype(np.float64), share, fit) for c in large)
    return Outline(width, height, parts)


def _evenly(points: Array, count: int) -> Array:
    closed = np.vstack([points, points[:1]])
    along = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(closed, axis=0), axis=1))])
    at = np.linspace(0, along[-1], count, endpoint=False)
    return np.column_stack([np.interp(at, along, closed[:, i]) for i in range(2)])


def _smoothed(points: Array, reach: float) -> Array:
    n = len(points)
    freq = np.fft.fftfreq(n)
    kernel = np.exp(-2 * (math.pi * freq * reach) ** 2)
    out = np.fft.ifft(np.fft.fft(points[:, 0] + 1j * points[:, 1]) * kernel)
    return np.column_stack([out.real, out.imag])


def _sharpened(rgb: np.ndarray, contour: Array, share: float, fit: Array) -> Array:
    """The contour moved to where, across it, the picture is half way from ground to body."""
    height, width = rgb.shape[:2]
    count = int(min(EDGE_POINTS, max(200, len(contour))))
    points = (_evenly(_smoothed(_evenly(contour, count * 2), 2.0), count) + 0.5) / share - 0.5
    for reach in (4.0 / share + 2, 2.0 / share + 2):
        ahead = np.roll(points, -2, axis=0) - np.roll(points, 2, axis=0)
        normal = np.column_stack([ahead[:, 1], -ahead[:, 0]])
        normal /= np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-9)
        t = np.linspace(-reach, reach, 2 * math.ceil(reach) + 1)
        at = points[:, None, :] + normal[:, None, :] * t[None, :, None]
        sampled = cv2.remap(
            rgb,
            at[..., 0].astype(np.float32),
            at[..., 1].astype(np.float32),
            cv2.INTER_LINEAR,
            borderMode=cv2.BORDER_REPLICATE,
        )
        ground = (_terms(at[..., 0].ravel() / width, at[..., 1].ravel() / height) @ fit).reshape(*at.shape[:2], 3)
        off = np.linalg.norm(_lab(sampled) - ground, axis=2)
        off = cv2.blur(off.astype(np.float32), (3, 5))
        edge = max(2, len(t) // 5)
        first, last = np.median(off[:, :edge], axis=1), np.median(off[:, -edge:], axis=1)
        turn = first < last  # the normal may look inward
        level = (first + last) / 2
        inside = np.where(turn[:, None], off, off) > level[:, None]
        inside = np.where(
            turn[:, None], inside, ~inside
        )  # now False before the edge, True behind it, in the order of t
        hit = np.argmax(inside, axis=1)
        hit = np.clip(hit, 1, len(t) - 1)
        rows = np.arange(len(points))
        a, b = off[rows, hit - 1], off[rows, hit]
        step = np.where(np.abs(b - a) > 1e-6, (level - a) / np.where(np.abs(b - a) > 1e-6, b - a, 1), 0.5)
        where = t[hit - 1] + np.clip(step, 0, 1) * (t[1] - t[0])
        weak = np.abs(last - first) < LEAST_CONTRAST * 0.5
        where = np.where(weak, 0.0, where)
        near = np.median(np.stack([np.roll(where, i) for i in range(-4, 5)]), axis=0)
        where = np.where(np.abs(where - near) > 1.5, near, where)
        points = points + normal * where[:, None]
    return points


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
            field="blank.photo.known",
            hint="Drag them to both ends of the card or rule.",
        )
    if math.dist(*photo.axis) < 20:
        raise BadReading(
            "The two ends of the axis lie on one place.",
            field="blank.photo.axis",
            hint="Drag one to the middle of the foot, the other to the middle of the rim.",
        )
    scale = photo.known_mm / pixels
    if photo.distance_mm is None:
        return scale
    if photo.nearer_mm >= photo.distance_mm:
        raise BadReading(
            "The known length stands behind the lens.",
            field="blank.photo.nearer_mm",
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
            field="blank.photo.axis",
            hint="Drag its ends to the middle of the foot and the middle of the rim.",
        )
    smooth = _smoothed(body, 2.5)
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
            "No side line was found along the axis.",
            field="blank.photo.axis",
            hint="Drag the axis, or read the other edge.",
        )
    low = max(float(z.min()) for z, _, _ in sides)
    high = min(float(z.max()) for z, _, _ in sides)
    foot_up = float(np.mean([f for _, _, f in sides]))
    if high - low < 5:
        raise BadReading(
            "The two edges share too little of their height.",
            field="blank.photo.axis",
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
