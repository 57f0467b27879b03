"""The outline of a body in a photograph."""

from __future__ import annotations

import io
import math
from collections.abc import Callable
from dataclasses import dataclass

import cv2
import numpy as np
from PIL import Image, ImageOps, UnidentifiedImageError

from ..arrays import Array
from ..errors import BadReading

MOST_PIXELS = 50_000_000
LONGEST_SIDE = 30_000
SMALL_SIDE = 1100
"""The outline is found on a picture of this size, and then sharpened in the whole one."""
EDGE_POINTS = 1600
LEAST_CONTRAST = 6.0
"""How much a body must differ from its ground (CIELAB, 0 to 100) to have an outline."""


def _bad(message: str, hint: str) -> BadReading:
    return BadReading(message, hint=hint)


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
        if max(w, h) > LONGEST_SIDE:
            raise _bad(f"The picture is {max(w, h):,} pixels long.", f"At most {LONGEST_SIDE:,} are taken.")
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


def smoothed(points: Array, reach: float) -> Array:
    """Points (n, 2) of a closed line, smoothed by a Gaussian of `reach` places (standard deviation)."""
    n = len(points)
    freq = np.fft.fftfreq(n)
    kernel = np.exp(-2 * (math.pi * freq * reach) ** 2)
    out = np.fft.ifft(np.fft.fft(points[:, 0] + 1j * points[:, 1]) * kernel)
    return np.column_stack([out.real, out.imag])


def _sharpened(rgb: np.ndarray, contour: Array, share: float, fit: Array) -> Array:
    """The contour moved to where, across it, the picture is half way from ground to body."""
    height, width = rgb.shape[:2]
    count = int(min(EDGE_POINTS, max(200, len(contour))))
    points = (_evenly(smoothed(_evenly(contour, count * 2), 2.0), count) + 0.5) / share - 0.5
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
