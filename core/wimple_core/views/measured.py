"""What was measured, for the screens: readings, figures, faces, free area, level and photograph."""

from __future__ import annotations

import math
from typing import Any, Literal

import numpy as np

from ..figures import LengthStyle, format_quantity
from ..measure import Measured, kind_of
from ..measure.free import READABLE_HALF_ANGLE, FreeArea
from ..measure.kinds.offers import FLAT_ZONES, ROUND_ZONES, offers_for
from ..measure.measured import PhotoFound
from ..measure.outliers import spoken
from .body_figures import BodyFigures, body_figures
from .drawn import Ring, View, flat


class ReadingView(View):
    mean: float
    error: float
    count: int
    outlier: int | None
    deviation: float | None


class FigureView(View):
    """A figure that follows from the readings, with its spread and the reading to take again first."""

    name: str
    value: float
    error: float
    unit: str
    first: str
    first_words: str
    first_share: float


class FaceView(View):
    """A side that is looked at, with the largest rectangle free and readable there: where its middle is (degrees on a
    round body, mm on a panel; mm up), and its size."""

    seen_by: str
    centre: float
    up: float
    width: float
    height: float


class FreePartView(View):
    """One piece of the free area."""

    area: str
    width: float
    height: float
    readable: float


class FreeView(View):
    """What the zones leave, in the surface's own coordinates; `handle` the angle of its middle."""

    left: float
    right: float
    low: float
    high: float
    handle: float | None
    handle_width: float
    faces: list[FaceView]
    parts: list[FreePartView]


class LevelView(View):
    height: float
    volume: float | None
    brim: float
    along: float


class PhotoCheckView(View):
    name: str
    by_photo: float
    by_hand: float
    spread: float


class PhotoView(View):
    """The side line a photograph gave: heights above the foot and radii, the places read by hand too, and the
    outlines found, in pixels from the upper left corner of the picture (y down)."""

    z: list[float]
    r: list[float]
    apart: float | None
    checks: list[PhotoCheckView]
    outline: list[Ring]
    width: int
    height: int


class TrialView(View):
    """The ways round before and after one trial fit, mm."""

    top_before: float
    top_after: float
    bottom_before: float
    bottom_after: float


class MeasuredView(View):
    """What was measured. `size` is what it is wide and high, mm; `closed` tells that it goes all round; `wraps` which
    fields of the wrap have a meaning on it, `reliefs` and `edges` what film may be relieved by."""

    kind: str
    closed: bool
    body: BodyFigures
    size: tuple[float, float]
    readings: dict[str, ReadingView]
    figures: list[FigureView]
    free: FreeView
    level: LevelView | None
    photo: PhotoView | None
    volume: float | None
    readable_half_angle: float
    trials: list[TrialView]
    zone_kinds: dict[str, str]
    offers: dict[str, Any]
    """Parts of the document offered on it, by the place in the blank they go to."""
    wraps: list[str]
    reliefs: list[Literal["none", "slits", "gores"]]
    edges: list[str]


def free_view(free: FreeArea, closed: bool, style: LengthStyle) -> FreeView:
    """The free area of a body."""
    return FreeView(
        left=free.left,
        right=free.right,
        low=free.low,
        high=free.high,
        handle=free.handle,
        handle_width=free.handle_width,
        faces=[
            FaceView(
                seen_by=f.seen_by,
                centre=math.degrees(f.centre) if closed else f.centre,
                up=(f.box[1] + f.box[3]) / 2,
                width=f.width,
                height=f.height,
            )
            for f in free.faces
        ],
        parts=[
            FreePartView(
                area=format_quantity(p.area, "mm2", style), width=p.width, height=p.height, readable=p.readable
            )
            for p in free.parts
        ],
    )


def _photo_view(found: PhotoFound) -> PhotoView:
    return PhotoView(
        z=np.round(found.profile.z[::4], 2).tolist(),
        r=np.round(found.profile.r[::4], 3).tolist(),
        apart=found.profile.apart,
        checks=[
            PhotoCheckView(name=c.name, by_photo=c.by_photo, by_hand=c.by_hand, spread=c.spread) for c in found.checks
        ],
        outline=[flat(part[::2], 1) for part in found.outline.parts],
        width=found.outline.width,
        height=found.outline.height,
    )


def measured_view(m: Measured, free: FreeArea, style: LengthStyle) -> MeasuredView:
    """What was measured, with the free area as it is laid open."""
    kind = kind_of(m.blank)
    return MeasuredView(
        kind=kind.name,
        closed=m.body.closed,
        body=body_figures(m),
        size=m.body.extent,
        readings={
            n: ReadingView(mean=r.mean, error=r.error, count=r.count, outlier=r.outlier, deviation=r.deviation)
            for n, r in m.readings.items()
        },
        figures=[
            FigureView(
                name=c.name,
                value=c.value,
                error=c.error,
                unit=c.unit,
                first=c.first,
                first_words=spoken(c.first) if c.first else "",
                first_share=c.shares[0][1] if c.shares else 0.0,
            )
            for c in m.consequences
        ],
        free=free_view(free, m.body.closed, style),
        level=LevelView(
            height=m.level.height_mm, volume=m.level.volume_ml, brim=m.level.brim_ml, along=m.level.along_mm
        )
        if m.level
        else None,
        photo=_photo_view(m.photo) if m.photo else None,
        volume=m.volume_ml,
        readable_half_angle=READABLE_HALF_ANGLE,
        trials=[
            TrialView(
                top_before=t.top_before,
                top_after=t.top_after,
                bottom_before=t.bottom_before,
                bottom_after=t.bottom_after,
            )
            for t in kind.trials(m.blank)
        ],
        zone_kinds=ROUND_ZONES if m.body.closed else FLAT_ZONES,
        offers=offers_for(kind, m),
        wraps=list(kind.wraps),
        reliefs=list(kind.reliefs),
        edges=list(kind.edges),
    )
