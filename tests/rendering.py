"""Made-up photographs and meshes of bodies that are known exactly: pictures by projecting points of the body,
nothing else.

Run as a script it writes those the examples use.
"""

from __future__ import annotations

import io
import math
import sys
from collections.abc import Callable
from pathlib import Path

import cv2
import numpy as np
import trimesh
from PIL import Image

Profile = Callable[[np.ndarray], np.ndarray]
CARD_MM = (54.0, 85.6)


def profile_of(points: list[tuple[float, float]]) -> tuple[Profile, float]:
    """A smooth side line through (height, radius) points, and its height."""
    z, r = np.array(points).T
    from scipy.interpolate import PchipInterpolator

    return PchipInterpolator(z, r), float(z[-1])


def photograph(
    profile: Profile,
    height: float,
    distance: float = 600.0,
    *,
    size: tuple[int, int] = (1600, 1200),
    eye: float | None = None,
    off_mm: float = 0.0,
    noise: float = 0.0,
    seed: int = 1,
    handle: bool = False,
    blur: float = 0.0,
    body: tuple[int, int, int] = (52, 84, 130),
    ground: tuple[int, int, int] = (226, 224, 216),
):
    """A level photograph of a turned body, its foot at z = 0, and where things are in it.

    The lens is `distance` mm from the axis at the height `eye` (the middle by default); `off_mm` moves the body
    sideways off the
    picture's middle. Returns the picture (h, w, 3) RGB and a dict with `known` and `axis` in pixels. Every corner of
    a fine net
    on the body is projected through the lens; what is drawn is the union of its projected slices.
    """
    w, h = size
    eye = height / 2 if eye is None else eye
    widest = float(profile(np.linspace(0, height, 200)).max())
    # Pixels to a mm in the plane of the axis: the body fills some two thirds of the height, and the card has room.
    scale = min(0.66 * h / height, 0.47 * w / (widest + 20 + CARD_MM[0]))
    over = 2
    picture = np.zeros((h * over, w * over, 3), np.float32)
    y, x = np.mgrid[0 : h * over, 0 : w * over].astype(np.float32)
    for c in range(3):
        picture[..., c] = ground[c] * (0.9 + 0.1 * (1 - y / (h * over)) + 0.04 * x / (w * over))

    def project(points: np.ndarray) -> np.ndarray:
        """(n, 3) of (sideways, up, toward the lens) from the axis's foot, to pixels."""
        depth = distance - points[:, 2]
        px = w / 2 + (points[:, 0] + off_mm) * distance / depth * scale
        py = h / 2 - (points[:, 1] - eye) * distance / depth * scale
        return np.column_stack([px, py])

    def fill(corners: np.ndarray, colour: np.ndarray) -> None:
        # Pixel (0, 0) is the middle of the first pixel of the small picture.
        cv2.fillConvexPoly(
            picture,
            np.round(((corners + 0.5) * over - 0.5) * 16).astype(np.int32),
            [float(v) for v in colour],
            lineType=cv2.LINE_AA,
            shift=4,
        )

    card = np.array([[-1, 0, 0], [0, 0, 0], [0, 1, 0], [-1, 1, 0]], float) * (CARD_MM[0], CARD_MM[1], 1)
    card += (-widest - 14, 2, 0)
    fill(project(card), np.array([168, 60, 52]))
    if handle:
        t = np.linspace(-math.pi / 2, math.pi / 2, 60)
        for a, b in zip(t, t[1:], strict=False):
            ring = [
                (
                    widest * 0.9 + (18 + d) * 1.0 + 22 * math.cos(u) + d * math.cos(u),
                    height / 2 + (height * 0.3 + d) * math.sin(u),
                    0,
                )
                for u, d in ((a, -4), (b, -4), (b, 4), (a, 4))
            ]
            fill(project(np.array(ring)), np.array(body) * 0.9)
    z = np.linspace(0, height, 260)
    phi = np.linspace(0, 2 * math.pi, 361)[:-1]
    r = profile(z)
    rings = [
        project(np.column_stack([q * np.sin(phi), np.full(360, at), q * np.cos(phi)]))
        for q, at in zip(r, z, strict=True)
    ]
    paint = np.array(body, float)
    for low, high in zip(rings, rings[1:], strict=False):
        # Between two level circles the body is a cone's frustum, and what is seen of that is the hull of both circles.
        fill(cv2.convexHull(np.concatenate([low, high]).astype(np.float32))[:, 0, :], paint * 0.85)
    facing = np.abs((phi + math.pi) % (2 * math.pi) - math.pi) < 1.1
    for j in np.flatnonzero(facing)[:-1:6]:
        for i in range(0, len(z) - 10, 10):
            light = 0.62 + 0.38 * max(math.cos(phi[j] + 0.5), 0)
            fill(
                np.array([rings[i][j], rings[i][(j + 6) % 360], rings[i + 10][(j + 6) % 360], rings[i + 10][j]]),
                paint * light,
            )
    fill(rings[-1], paint * (0.45 if eye > height else 0.8))
    small = cv2.resize(picture, (w, h), interpolation=cv2.INTER_AREA)
    if blur:
        small = cv2.GaussianBlur(small, (0, 0), blur)
    if noise:
        small = small + np.random.default_rng(seed).normal(0, noise, small.shape)
    marks = {
        "known": [tuple(p) for p in project(card[1:3])],
        "axis": [tuple(p) for p in project(np.array([[0.0, 0, 0], [0, height, 0]]))],
    }
    return np.clip(small, 0, 255).astype(np.uint8), marks


def jpeg(picture: np.ndarray, quality: int = 92, orientation: int = 1) -> bytes:
    """The picture as a JPEG file, turned as its metadata will say."""
    image = Image.fromarray(picture)
    if orientation == 6:
        image = image.transpose(Image.Transpose.ROTATE_90)
    exif = Image.Exif()
    exif[0x0112] = orientation
    out = io.BytesIO()
    image.save(out, "JPEG", quality=quality, exif=exif)
    return out.getvalue()


def cap_mesh(radius: float, angle_deg: float, rings: int = 24, spokes: int = 72) -> trimesh.Trimesh:
    """A spherical cap as an open mesh, z up."""
    v, f = [(0.0, 0.0, radius)], []
    for i in range(1, rings + 1):
        a = math.radians(angle_deg) * i / rings
        for j in range(spokes):
            t = 2 * math.pi * j / spokes
            v.append((radius * math.sin(a) * math.cos(t), radius * math.sin(a) * math.sin(t), radius * math.cos(a)))
    at = lambda i, j: 0 if i == 0 else 1 + (i - 1) * spokes + j % spokes  # noqa: E731
    for i in range(rings):
        for j in range(spokes):
            f.append((at(i, j), at(i + 1, j), at(i + 1, j + 1)))
            if i:
                f.append((at(i, j), at(i + 1, j + 1), at(i, j + 1)))
    return trimesh.Trimesh(v, f, process=False)


BELLIED = [(0.0, 31.0), (12.0, 35.5), (35.0, 41.5), (55.0, 42.5), (78.0, 38.0), (92.0, 36.5)]
"""The demo's bellied mug: (height, radius), mm."""


def main(folder: Path) -> None:
    """Write the examples' photograph and mesh."""
    profile, height = profile_of(BELLIED)
    picture, marks = photograph(
        profile, height, 520.0, noise=2.0, blur=0.7, off_mm=12.0, body=(196, 206, 218), ground=(74, 80, 88)
    )
    (folder / "bellied-mug.jpg").write_bytes(jpeg(picture))
    print({k: [[round(float(c), 2) for c in p] for p in v] for k, v in marks.items()})
    mesh = cap_mesh(100.0, 40.0)
    (folder / "dome-40.ply").write_bytes(mesh.export(file_type="ply"))


if __name__ == "__main__":
    main(Path(sys.argv[1]))
