"""The dimensioned drawing of a blank, for the screens."""

from __future__ import annotations

from typing import Literal

from ..figures import LengthStyle
from ..measure import Measured, sketch_of
from .drawn import Box, Ring, View, box, flat


class StrokeView(View):
    kind: Literal["body", "edge", "fine", "centre", "free", "zone", "section", "found", "level"]
    closed: bool
    lines: list[Ring]


class DimensionView(View):
    """A dimension line of the drawing, mm; `leader` is set where its figure stands beside the drawing."""

    field: str
    start: tuple[float, float]
    end: tuple[float, float]
    out: tuple[float, float]
    row: float
    text: str
    leader: Literal["left", "right"] | None


class MarkView(View):
    field: str
    at: tuple[float, float]
    text: str


class SketchView(View):
    """The dimensioned drawing of a blank."""

    title: str
    strokes: list[StrokeView]
    dimensions: list[DimensionView]
    marks: list[MarkView]
    note: str
    reach: Box


def sketch_view(m: Measured, style: LengthStyle) -> SketchView:
    """The drawing of a measured blank, its figures in the workshop's units."""
    s = sketch_of(m, style)
    return SketchView(
        title=s.title,
        strokes=[StrokeView(kind=k.kind, closed=k.closed, lines=[flat(line) for line in k.lines]) for k in s.strokes],
        dimensions=[
            DimensionView(field=d.field, start=d.start, end=d.end, out=d.out, row=d.row, text=d.text, leader=d.leader)
            for d in s.dimensions
        ],
        marks=[MarkView(field=k.field, at=k.at, text=k.text) for k in s.marks],
        note=s.note,
        reach=box(s.reach),
    )
