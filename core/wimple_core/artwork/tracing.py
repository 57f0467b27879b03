"""A picture traced: its pixels put into a few flat colours, and the outline of each colour drawn where the pixels along
it are covered half.

A pixel on an edge mixes the colours of its two sides; how far along it lies between them is how much of it the second
covers, so an outline is found to a fraction of a pixel.
"""

from __future__ import annotations

import io
import warnings
from collections.abc import Callable
from dataclasses import dataclass, replace

import cv2
import numpy as np
import shapely
from contourpy import FillType, contour_generator
from numpy.typing import NDArray
from PIL import Image, ImageOps, UnidentifiedImageError

from ..errors import BadDrawing
from ..overlay import difference, together
from .artwork import Artwork, Note, Paint

MOST_PIXELS, LONGEST_SIDE, TRACED_PIXELS, ROUGH_PIXELS = 60_000_000, 30_000, 4_000_000, 200_000
"""What is opened, what is traced, and what is traced of it roughly, to be seen at once: a larger picture is made
smaller first."""
MM_PER_PIXEL = 25.4 / 96
SAMPLE = 40_000
"""So many pixels are looked at to find the colours."""
CLEAR = 128
"""Of 255: what is less opaque is no part of the picture."""
EDGE, AROUND = 6.0, 2
"""A pixel further from all colours than that (CIELAB) lies along an edge; it looks so many pixels about itself."""
SURE = 0.6
"""Of what is just large enough, so much across is surely of its colour: the rest is its edge."""
STEP_PX = 0.12
"""Outlines are thinned to that share of a pixel."""
FORMATS = ("PNG", "JPEG", "WEBP")


@dataclass(frozen=True)
class Tracing:
    """How a picture is traced: into how many colours, or into which, and what is dropped as a speckle, in pixels
    across."""

    colours: int = 6
    palette: tuple[str, ...] = ()
    speckle_px: int = 4


def is_picture(data: bytes) -> bool:
    """Is a file a PNG, JPEG or WebP? Told by its first bytes."""
    return (
        data[:8] == b"\x89PNG\r\n\x1a\n" or data[:3] == b"\xff\xd8\xff" or (data[:4], data[8:12]) == (b"RIFF", b"WEBP")
    )


Progress = Callable[[str, float], None]


def _silent(what: str, share: float) -> None:
    """Nobody listens."""


def _opened(data: bytes, most: int = TRACED_PIXELS) -> tuple[NDArray[np.uint8], float, list[Note]]:
    """Pixels (h, w, 4), how many mm each is, and what is to be said. Raises BadDrawing."""
    Image.MAX_IMAGE_PIXELS = None  # our own limit, checked before anything is unpacked, says more
    notes = []
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            picture: Image.Image = Image.open(io.BytesIO(data), formats=FORMATS)
            w, h = picture.size
            if w * h > MOST_PIXELS or max(w, h) > LONGEST_SIDE:
                raise BadDrawing(
                    f"The picture has {w:,} × {h:,} pixels.",
                    hint=f"At most {MOST_PIXELS // 1_000_000} megapixels are taken: make it smaller.",
                )
            if getattr(picture, "n_frames", 1) > 1:
                notes.append(Note("artwork.picture", "moving picture", "only its first frame is traced"))
                picture.seek(0)
            dpi = picture.info.get("dpi", (0, 0))[0]
            picture.load()
            if picture.mode in ("I", "I;16", "I;16B", "I;16L", "F"):
                # Sixteen bits to eight, and not cut off at 255.
                deep = np.asarray(picture, dtype=np.float64)
                picture = Image.fromarray((deep / (65535 if deep.max() > 255 else 255) * 255).astype(np.uint8))
            upright = ImageOps.exif_transpose(picture).convert("RGBA")
    except BadDrawing:
        raise
    except UnidentifiedImageError:
        raise BadDrawing("This file is not a picture.", hint="Give one as PNG, JPEG or WebP.") from None
    except Exception as bad:
        raise BadDrawing("The picture is cut short or damaged.", hint="Save it anew.") from bad
    mm = 25.4 / float(dpi) if 20 <= float(dpi) <= 5000 else MM_PER_PIXEL
    shrink = (most / (w * h)) ** 0.5
    if shrink < 1:
        size = (max(round(upright.width * shrink), 1), max(round(upright.height * shrink), 1))
        if w * h > TRACED_PIXELS:
            said = f"traced as {size[0]:,} × {size[1]:,} pixels"
            notes.append(Note("artwork.picture", f"{w * h / 1e6:.0f} megapixels", said))
        mm *= upright.width / size[0]
        upright = upright.resize(size, Image.Resampling.BOX)
    return np.asarray(upright), mm, notes


def _lab(rgb: NDArray[np.uint8]) -> NDArray[np.float32]:
    return np.asarray(cv2.cvtColor(rgb.astype(np.float32) / 255, cv2.COLOR_RGB2LAB), dtype=np.float32)


def _rgb(colours: tuple[str, ...]) -> NDArray[np.uint8]:
    return np.array([[int(c[i : i + 2], 16) for i in (1, 3, 5)] for c in colours], dtype=np.uint8)


def found_colours(pixels: NDArray[np.uint8], opaque: NDArray[np.bool_], how: Tracing) -> NDArray[np.uint8]:
    """The colours (n, 3) a picture is put into: those asked for, or the middles of its clusters by k-means in CIELAB.

    Only pixels like their neighbours are looked at: those along an edge are of no colour of their own. Each middle
    becomes the commonest colour near it, so that a flat colour is met exactly.
    """
    if how.palette:
        return _rgb(how.palette)
    rgb = np.ascontiguousarray(pixels[..., :3])
    grey = cv2.cvtColor(rgb, cv2.COLOR_RGB2GRAY)
    flat = (cv2.morphologyEx(grey, cv2.MORPH_GRADIENT, np.ones((3, 3), np.uint8)) < 24) & opaque
    some = rgb[flat if flat.sum() > 200 else opaque]
    dice = np.random.default_rng(1)
    if len(some) > SAMPLE:
        some = some[dice.integers(0, len(some), SAMPLE)]
    distinct, counts = np.unique(some, axis=0, return_counts=True)
    n = min(how.colours, len(distinct))
    lab = _lab(some.reshape(-1, 1, 3)).reshape(-1, 3)
    cv2.setRNGSeed(1)
    rule = (cv2.TERM_CRITERIA_EPS + cv2.TERM_CRITERIA_MAX_ITER, 40, 0.2)
    _, label, middles = cv2.kmeans(lab, n, None, rule, 4, cv2.KMEANS_PP_CENTERS)  # type: ignore[call-overload]
    apart = _lab(distinct.reshape(-1, 1, 3)).reshape(-1, 3)
    out = []
    for middle in middles:
        near = np.linalg.norm(apart - middle, axis=1)
        close = near < max(4.0, float(near.min()) + 1e-6)
        out.append(distinct[close][np.argmax(counts[close])])
    return np.unique(np.array(out, dtype=np.uint8), axis=0)


@dataclass(frozen=True)
class Flattened:
    """A picture in a few colours: `colours` (n, 3), those that lie lowest first; for each pixel (h, w) the two it lies
    between (`first`, `second`), how much of it the second covers, and how much of it is covered at all."""

    colours: NDArray[np.uint8]
    first: NDArray[np.uint8]
    second: NDArray[np.uint8]
    share: NDArray[np.float32]
    opaque: NDArray[np.float32]

    def covered(self, lowest: int) -> NDArray[np.float32]:
        """How much of each pixel the colours from that one upward cover."""
        one, other = self.first >= lowest, self.second >= lowest
        mixed = np.where(one, 1.0 - self.share, 0.0) + np.where(other, self.share, 0.0)
        return np.asarray(np.where(one == other, one, mixed) * self.opaque, dtype=np.float32)


def flattened(pixels: NDArray[np.uint8], how: Tracing) -> Flattened:
    """A picture (h, w, 4) put into its colours. Raises BadDrawing where it is clear all over."""
    opaque = pixels[..., 3] >= CLEAR
    if not opaque.any():
        raise BadDrawing("The picture is clear all over.", hint="Save it with what is to be cut in a colour.")
    rgb = np.ascontiguousarray(pixels[..., :3])
    colours = found_colours(pixels, opaque, how)
    lab = _lab(rgb)

    def nearest_to(some: NDArray[np.uint8]) -> tuple[NDArray[np.uint8], NDArray[np.float32]]:
        label, least = np.zeros(opaque.shape, dtype=np.uint8), np.full(opaque.shape, np.inf, dtype=np.float32)
        for n, w in enumerate(_lab(some.reshape(-1, 1, 3)).reshape(-1, 3)):
            away = cv2.transform((lab - w) ** 2, np.ones((1, 3), np.float32))
            nearer = away < least
            label[nearer], least[nearer] = n, away[nearer]
        return label, least

    # Those that cover most lie lowest.
    count = np.bincount(nearest_to(colours)[0][opaque], minlength=len(colours))
    colours = colours[np.argsort(-count, kind="stable")]
    label, away = nearest_to(colours)
    sure = _without_specks(label, (away <= EDGE**2) & opaque, how.speckle_px)
    share, second = np.zeros(opaque.shape, dtype=np.float32), label.copy()
    y, x = np.nonzero(~sure & opaque)
    if len(y) and len(colours) > 1:
        one, other = _sides(np.where(sure, label.astype(np.int16), -1), y, x, _nearest(label, sure)[y, x], len(colours))
        a, b, p = (v.astype(np.float32) for v in (colours[one], colours[other], rgb[y, x]))
        along = ((p - a) * (b - a)).sum(axis=1) / np.maximum(((b - a) ** 2).sum(axis=1), 1)
        label[y, x], second[y, x], share[y, x] = one, other, np.clip(along, 0, 1)
    return Flattened(colours, label, second, share, np.asarray(pixels[..., 3] / 255, dtype=np.float32))


def _without_specks(label: NDArray[np.uint8], sure: NDArray[np.bool_], speckle: int) -> NDArray[np.bool_]:
    """Which pixels are surely of their colour, without those of specks."""
    out = sure.copy()
    for n in np.unique(label[sure]).tolist():
        _, at, figures, _ = cv2.connectedComponentsWithStats(((label == n) & sure).astype(np.uint8), connectivity=8)
        small = figures[:, cv2.CC_STAT_AREA] < (SURE * speckle) ** 2
        small[0] = False
        out[small[at]] = False
    return out


def _nearest(label: NDArray[np.uint8], sure: NDArray[np.bool_]) -> NDArray[np.uint8]:
    """For each pixel the colour of the nearest that is sure; its own where none is."""
    if not sure.any():
        return label
    _, at = cv2.distanceTransformWithLabels((~sure).astype(np.uint8), cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL)
    known = np.zeros(int(at.max()) + 1, dtype=np.uint8)
    known[at[sure]] = label[sure]
    return np.asarray(known[at])


def _sides(
    sure: NDArray[np.int16], y: NDArray[np.int64], x: NDArray[np.int64], nearest: NDArray[np.uint8], n: int
) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """The two colours that most of its sure neighbours have, for each pixel of an edge; twice the `nearest` where none
    is sure."""
    around = np.pad(sure, AROUND, constant_values=-1)
    votes, rows = np.zeros((len(y), n), dtype=np.int16), np.arange(len(y))
    for dy in range(2 * AROUND + 1):
        for dx in range(2 * AROUND + 1):
            there = around[y + dy, x + dx]
            known = there >= 0
            votes[rows[known], there[known]] += 1
    first = np.where(votes.max(axis=1) > 0, votes.argmax(axis=1), nearest)
    votes[rows, first] = 0
    return first, np.where(votes.max(axis=1) > 0, votes.argmax(axis=1), first)


def _outlined(covered: NDArray[np.float32], speckle: int) -> NDArray[np.object_]:
    """The polygons (m,) whose pixels are covered by half and more, in pixels, y down, without specks and pinholes."""
    z = np.pad(covered, 1)
    found = contour_generator(z=z, fill_type=FillType.OuterOffset, corner_mask=False).filled(0.5, 2.0)
    out = []
    for points, offsets in zip(*found, strict=True):
        rings = [points[a:b] for a, b in zip(offsets, offsets[1:], strict=False)]
        areas = [abs(_area(r)) for r in rings]
        if areas[0] >= speckle**2:
            holes = [r for r, area in zip(rings[1:], areas[1:], strict=True) if area >= speckle**2]
            out.append(shapely.Polygon(rings[0], holes))
    parts = np.array(out, dtype=object)
    # Places of the padded field are middles of pixels.
    moved = shapely.transform(parts, lambda p: p - 0.5) if len(parts) else parts
    thinned: NDArray[np.object_] = shapely.make_valid(shapely.simplify(moved, STEP_PX), method="structure")
    return thinned


def _area(ring: NDArray[np.float64]) -> float:
    x, y = ring[:, 0], ring[:, 1]
    return float(np.dot(x[:-1], y[1:]) - np.dot(x[1:], y[:-1])) / 2


def clean_picture(data: bytes) -> bytes:
    """A picture as it is kept: upright, no larger than it is traced, without what its file says of who made it, and
    where."""
    pixels, mm, _ = _opened(data)
    out = io.BytesIO()
    Image.fromarray(pixels).save(out, "PNG", dpi=(25.4 / mm, 25.4 / mm), compress_level=4)
    return out.getvalue()


def picture_pixels(data: bytes) -> int:
    """How many pixels a picture has. Raises BadDrawing."""
    try:
        with Image.open(io.BytesIO(data), formats=FORMATS) as picture:
            return picture.width * picture.height
    except Exception:
        raise BadDrawing("This file is not a picture.", hint="Give one as PNG, JPEG or WebP.") from None


def trace(
    data: bytes, how: Tracing = Tracing(), progress: Progress = _silent, most_pixels: int = TRACED_PIXELS
) -> Artwork:
    """A picture as flat coloured pieces that lie beside each other; one of more than `most_pixels` is made smaller
    first, and what is dropped as a speck with it. Raises BadDrawing for what is no picture, is too large, or holds
    nothing."""
    progress("opening the picture", 0.0)
    had = picture_pixels(data) if most_pixels < TRACED_PIXELS else 0
    pixels, mm, notes = _opened(data, most_pixels)
    h, w = pixels.shape[:2]
    if had > h * w:
        how = replace(how, speckle_px=round(how.speckle_px * (h * w / min(had, TRACED_PIXELS)) ** 0.5))
    progress("finding its colours", 0.1)
    flat = flattened(pixels, how)
    stack = []
    for n in range(len(flat.colours)):
        progress(f"outlining colour {n + 1} of {len(flat.colours)}", 0.4 + 0.4 * n / len(flat.colours))
        stack.append(together(_outlined(flat.covered(n), how.speckle_px)))
    progress("parting the colours", 0.8)
    paints = []
    for n, colour in enumerate(flat.colours.tolist()):
        # Each colour is what its layer has and the next has not: they share their edges.
        region = difference(stack[n], stack[n + 1]) if n + 1 < len(stack) else stack[n]
        parts = shapely.get_parts(region)
        whole = together(parts[shapely.area(parts) >= max(how.speckle_px, 1) ** 2])
        if not whole.is_empty:
            placed = shapely.transform(whole, lambda p: np.column_stack([p[:, 0], h - p[:, 1]]) * mm)
            name = "#{:02x}{:02x}{:02x}".format(*colour)
            paints.append(Paint(shapely.orient_polygons(placed), name, str(n + 1)))
    if not paints:
        raise BadDrawing(
            "All of the picture is smaller than a speckle.", field="speckle_px", hint="Keep smaller specks."
        )
    said = f"in {len(paints)} colour{'' if len(paints) == 1 else 's'} of {w:,} × {h:,} pixels"
    notes.append(Note("artwork.traced", "a picture", f"traced {said}", "ok", "source.colours"))
    return Artwork(tuple(paints), w * mm, h * mm, True, tuple(notes), STEP_PX * mm, traced=True)
