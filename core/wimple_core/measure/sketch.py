"""The dimensioned drawing of a measured blank: strokes, dimension lines tied to their fields, and marks, in mm, y
up."""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from typing import Literal

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from ..figures import LengthStyle, format_length
from ..job.blanks import (
    Blank,
    CurvedPanelBlank,
    DomeBlank,
    InsertBlank,
    MeshBlank,
    PanelBlank,
    RevolutionBlank,
    RisePanelBlank,
    RoundBlank,
    StackBlank,
)
from .body import Array, Cap, Frustum, MeshBody, Panel, Profile, RiseSurface, RoundBody
from .measured import Measured
from .rises import evaluate
from .zones import FreeArea

StrokeKind = Literal["body", "fine", "centre", "free", "zone", "section", "found", "level"]
Place = tuple[float, float]


@dataclass(frozen=True, eq=False)
class Stroke:
    """Lines or areas of one kind: `body` heavy, `fine` thin, `centre` dash-dot, `free` dashed over a wash, `zone`
    hatched,
    `section` a side line drawn apart, `found` what a photograph gave, `level` where water would stand."""

    kind: StrokeKind
    lines: tuple[Array, ...]
    closed: bool = True


@dataclass(frozen=True)
class DimensionLine:
    """From place to place, moved `row` steps along `out` (a unit vector), its figure in words; `field` is what it
    dimensions.

    `leader` is set for a figure that stands beside the drawing, with a line to `start`.
    """

    field: str
    start: Place
    end: Place
    text: str
    out: Place = (0.0, 0.0)
    row: float = 0.0
    leader: Literal["left", "right"] | None = None


@dataclass(frozen=True)
class Mark:
    """A figure at a place of the drawing."""

    field: str
    at: Place
    text: str


@dataclass(frozen=True, eq=False)
class Sketch:
    """One view of a blank."""

    title: str
    strokes: tuple[Stroke, ...]
    dimensions: tuple[DimensionLine, ...]
    marks: tuple[Mark, ...] = ()
    note: str = ""
    reach: tuple[float, float, float, float] = field(default=(0.0, 0.0, 1.0, 1.0))


def _rings(region: BaseGeometry, tolerance: float = 0.02) -> tuple[Array, ...]:
    if region.is_empty:
        return ()
    parts = shapely.get_parts(shapely.simplify(region, tolerance))
    return tuple(shapely.get_coordinates(r)[:-1] for r in shapely.get_rings(parts[~shapely.is_empty(parts)]))


def _side(body: RoundBody) -> tuple[Array, Array]:
    """Heights and radii along the side at even steps, with the distances along it."""
    if isinstance(body, Profile):
        return body.s, np.column_stack([body.r, body.z])
    s = np.array([0.0, body.slant])
    return s, np.column_stack([body.radii_at(s), s * body.upright / body.slant])


def seen_from_front(region: BaseGeometry, body: RoundBody, turns: bool = True) -> BaseGeometry:
    """What of a region in (angle, side) coordinates is seen from the front, in the elevation: `x = r sin a`, y the
    height."""
    copies = (
        [shapely.transform(region, lambda p, n=n: p + (2 * math.pi * n, 0)) for n in (-1, 0, 1)] if turns else [region]
    )  # type: ignore[misc]
    front = shapely.intersection(shapely.union_all(copies), shapely.box(-math.pi / 2, 0, math.pi / 2, body.length))
    if front.is_empty:
        return front
    s, side = _side(body)
    fine = shapely.segmentize(shapely.transform(front, lambda p: p * (60.0, 1.0)), 4.0)

    def lay(p: Array) -> Array:
        r, z = np.interp(p[:, 1], s, side[:, 0]), np.interp(p[:, 1], s, side[:, 1])
        return np.column_stack([r * np.sin(p[:, 0] / 60.0), z])

    out = shapely.transform(fine, lay)
    return out if out.is_valid else shapely.make_valid(out)


def front_strokes(free: FreeArea, body: RoundBody) -> tuple[Stroke, ...]:
    """Zones the maker drew and the faces' largest free rectangles, as the front of a round body shows them."""
    out = []
    zones = [seen_from_front(z.region, body) for z in free.zones]
    rings = tuple(r for z in zones for r in _rings(z))
    if rings:
        out.append(Stroke("zone", rings))
    boxes = [seen_from_front(shapely.box(*f.box), body) for f in free.faces if abs(f.centre) <= math.pi / 2 + 1e-6]
    faces = tuple(r for b in boxes for r in _rings(b))
    if faces:
        out.append(Stroke("free", faces))
    return tuple(out)


def _round(blank: RoundBlank, m: Measured, body: Profile, style: LengthStyle) -> Sketch:
    r, z = body.r, body.z
    outline = np.concatenate([np.column_stack([r, z]), np.column_stack([-r, z])[::-1]])
    strokes = [Stroke("body", (outline,))]
    joints_r, joints_z = body.radii_at(body.joints), np.interp(body.joints, body.s, body.z)
    whole = shapely.Polygon(outline)
    for low, high in ((0.0, m.free.low), (m.free.high, body.length)):
        z0, z1 = body.height_at(low), body.height_at(high)
        if z1 - z0 > 0.01:
            strokes.append(Stroke("zone", _rings(shapely.intersection(whole, shapely.box(-1e4, z0, 1e4, z1)))))
    strokes += front_strokes(m.free, body)
    strokes.append(
        Stroke("fine", tuple(np.array([[-a, b], [a, b]]) for a, b in zip(joints_r, joints_z, strict=True)), False)
    )
    top = float(z[-1])
    strokes.append(Stroke("centre", (np.array([[0.0, -0.06 * top], [0.0, 1.06 * top]]),), False))
    if m.level is not None:
        at = m.level.height_mm
        half = float(np.interp(at, z, r))
        strokes.append(Stroke("level", (np.array([[-half, at], [half, at]]),), False))
    if m.photo is not None:
        p = m.photo.profile
        strokes.append(Stroke("found", (np.column_stack([p.r, p.z]), np.column_stack([-p.r, p.z])), False))
    dims = []
    widest = float(r.max())

    def say(mm: float) -> str:
        return format_length(mm, style)

    if isinstance(blank, StackBlank):
        fields = ["blank.base", *(f"blank.sections.{i}.upper" for i in range(len(blank.sections)))]
        for i, section in enumerate(blank.sections):
            a, b = (float(joints_r[i]), float(joints_z[i])), (float(joints_r[i + 1]), float(joints_z[i + 1]))
            long = math.hypot(b[0] - a[0], b[1] - a[1])
            normal = ((b[1] - a[1]) / long, -(b[0] - a[0]) / long)
            upright = section.side.reads == "upright"
            text = f"{say(b[1] - a[1])} upright" if upright else f"{say(long)} along the side"
            if long > 0.12 * top:
                dims.append(DimensionLine(f"blank.sections.{i}.side", a, b, text, normal, 1.0))
            else:
                dims.append(
                    DimensionLine(
                        f"blank.sections.{i}.side", ((a[0] + b[0]) / 2, (a[1] + b[1]) / 2), b, text, leader="right"
                    )
                )
    else:
        fields = [f"blank.rings.{i}.girth" for i in range(len(joints_r))]
        assert isinstance(blank, RevolutionBlank)
        for i in range(len(joints_r)):
            dims.append(
                DimensionLine(
                    f"blank.rings.{i}.height",
                    (float(joints_r[i]), float(joints_z[i])),
                    (0, 0),
                    f"{say(m.readings[f'rings.{i}.height'].mean)} up",
                    leader="right",
                )
            )
    for i, path in enumerate(fields):
        radius = float(joints_r[i])
        dims.append(
            DimensionLine(
                path,
                (-radius, float(joints_z[i])),
                (radius, float(joints_z[i])),
                f"round {say(2 * math.pi * radius)} · across {say(2 * radius)}",
                leader="left",
            )
        )
    middle = (m.free.low + m.free.high) / 2
    if "handle.free_width" in m.readings:
        beside = (body.radius_at(middle) * 0.5, body.height_at(middle) + 0.03 * top)
        text = f"{say(m.readings['handle.free_width'].mean)} free beside the handle"
        dims.append(DimensionLine("blank.handle.free_width", beside, (0, 0), text, leader="right"))
    if "handle.free_height" in m.readings:
        beside = (body.radius_at(m.free.high) * 0.5, body.height_at(m.free.high))
        dims.append(
            DimensionLine(
                "blank.handle.free_height",
                beside,
                (0, 0),
                f"{say(m.readings['handle.free_height'].mean)} free up to here",
                leader="right",
            )
        )
    dims.append(DimensionLine("", (-widest, 0.0), (widest, 0.0), f"widest {say(2 * widest)}", (0.0, -1.0), 1.0))
    return Sketch("Side view", tuple(strokes), tuple(dims), reach=(-widest, 0.0, widest, top))


def _zones_flat(free: FreeArea) -> list[Stroke]:
    rings = tuple(r for z in free.zones for r in _rings(z.region))
    return [Stroke("zone", rings)] if rings else []


def _flat(blank: PanelBlank | CurvedPanelBlank | InsertBlank, m: Measured, body: Panel, style: LengthStyle) -> Sketch:
    left, low, right, high = body.outline.bounds

    def say(mm: float) -> str:
        return format_length(mm, style)

    strokes = []
    margin = shapely.difference(body.outline, m.free.region)
    if not margin.is_empty:
        strokes.append(Stroke("zone", _rings(margin)))
    strokes += [Stroke("body", _rings(body.outline, 0.003)), Stroke("free", (_box(m.free.parts[0].box),))]
    dims: list[DimensionLine] = []
    w = "blank.width"
    if isinstance(blank, InsertBlank):
        r = (m.consequence("insert_diameter").value if m.consequence("insert_diameter") else body.width) / 2  # type: ignore[union-attr]
        dims.append(
            DimensionLine(
                "blank.inside",
                (-r - blank.clearance_mm, 0.0),
                (r + blank.clearance_mm, 0.0),
                f"inside {say(2 * r + 2 * blank.clearance_mm)} · cut {say(2 * r)}",
                (0, -1),
                1.0,
            )
        )
        ring = np.column_stack([np.cos(np.linspace(0, 2 * math.pi, 181)), np.sin(np.linspace(0, 2 * math.pi, 181))]) * (
            r + blank.clearance_mm
        ) + (0, r)
        strokes.append(Stroke("fine", (ring,), False))
        if blank.tab:
            t = blank.tab
            dims.append(
                DimensionLine(
                    "blank.tab.height_mm",
                    (t.width_mm / 2, 2 * r),
                    (t.width_mm / 2, high),
                    f"tab {say(t.width_mm)} × {say(t.height_mm)}",
                    leader="right",
                )
            )
        if blank.hole:
            h = blank.hole
            text = f"hole {say(h.width_mm)}" + (f" × {say(h.height_mm)}" if h.form == "slot" else "")
            dims.append(
                DimensionLine(
                    "blank.hole.width_mm", (h.across_mm + h.width_mm / 2, r + h.up_mm), (0, 0), text, leader="right"
                )
            )
    elif isinstance(blank, PanelBlank) and blank.shape in ("circle", "hexagon", "polygon", "outline"):
        if blank.shape == "circle":
            dims.append(
                DimensionLine(
                    w,
                    (left, low),
                    (right, low),
                    f"across {say(body.width)} · round {say(math.pi * body.width)}",
                    (0, -1),
                    1.0,
                )
            )
        elif blank.shape == "outline":
            dims.append(DimensionLine(w, (left, low), (right, low), f"width {say(body.width)}", (0, -1), 1.0))
            dims.append(DimensionLine("", (right, low), (right, high), say(body.height), (1, 0), 1.0))
        else:
            sides = 6 if blank.shape == "hexagon" else blank.sides
            corner, flats = body.outline.exterior.coords[0], body.height
            radius = math.dist(corner, (0.0, float(_centre_up(body))))
            side = 2 * radius * math.sin(math.pi / sides)
            reads = blank.width.reads
            dims.append(
                DimensionLine(
                    w if reads == "across_corners" else "",
                    (left, low),
                    (right, low),
                    f"{'across corners' if sides % 2 == 0 else 'width'} {say(body.width)}",
                    (0, -1),
                    1.0,
                )
            )
            dims.append(
                DimensionLine(
                    w if reads == "across_flats" else "",
                    (right, low),
                    (right, high),
                    f"{'across flats' if sides % 2 == 0 else 'height'} {say(flats)}",
                    (1, 0),
                    1.0,
                )
            )
            dims.append(
                DimensionLine(w if reads == "side" else "", (0.0, low), (0.0, low), f"side {say(side)}", leader="left")
            )
    else:
        dims.append(DimensionLine(w, (left, low), (right, low), say(body.width), (0, -1), 1.0))
        dims.append(DimensionLine("blank.height", (right, low), (right, high), say(body.height), (1, 0), 1.0))
    if isinstance(blank, PanelBlank) and blank.shape == "rounded" and "corner" in m.readings:
        c = m.readings["corner"].mean
        dims.append(
            DimensionLine(
                "blank.corner", (left + c * 0.29, high - c * 0.29), (0, 0), f"corner radius {say(c)}", leader="left"
            )
        )
    if isinstance(blank, CurvedPanelBlank):
        extra, more, top = _bend_section(blank, m, body, style)
        strokes += extra
        dims += more
        high = top
    strokes += _zones_flat(m.free)
    title = "Front view" + (" laid flat, and the bend" if isinstance(blank, CurvedPanelBlank) else "")
    return Sketch(title, tuple(strokes), tuple(dims), reach=(left, low, right, high))


def _centre_up(body: Panel) -> float:
    """Height of a regular polygon's middle above its lowest side."""
    xy = np.asarray(body.outline.exterior.coords)[:-1]
    return float(xy[:, 1].mean())


def _box(box: tuple[float, float, float, float]) -> Array:
    l, b, r, t = box  # noqa: E741
    return np.array([[l, b], [r, b], [r, t], [l, t]])


def _bend_section(
    blank: CurvedPanelBlank, m: Measured, body: Panel, style: LengthStyle
) -> tuple[list[Stroke], list[DimensionLine], float]:
    """The bend drawn above the front view, as long as the panel, with chord and rise of every place."""
    assert body.bend_radius is not None
    r = body.bend_radius
    across = body.bend == "across"
    length = body.width if across else body.height
    half = length / (2 * r)
    t = np.linspace(-half, half, 80)
    sag = r * (1 - math.cos(half)) if half < math.pi else 2 * r
    base = body.height + 0.22 * max(body.height, body.width) * 0.6 + sag * (0 if not body.hollow else 1)
    arc = np.column_stack([r * np.sin(t), r * (np.cos(t) - math.cos(half))])
    if body.hollow:
        arc[:, 1] = sag - arc[:, 1]
    arc[:, 1] += base
    dims = []
    for i in range(len(blank.places)):
        c, h = m.readings[f"places.{i}.chord"].mean, m.readings[f"places.{i}.rise"].mean
        y = base + (sag - h if not body.hollow else h)
        name = f"place {i + 1}: " if len(blank.places) > 1 else ""
        if i == 0:
            dims.append(
                DimensionLine("blank.places.0.chord", (-c / 2, y), (c / 2, y), f"chord {format_length(c, style)}")
            )
            dims.append(
                DimensionLine(
                    "blank.places.0.rise",
                    (0.0, base + (sag if not body.hollow else 0.0)),
                    (0.0, y),
                    f"rise {format_length(h, style)}",
                    leader="right",
                )
            )
        else:
            dims.append(
                DimensionLine(
                    f"blank.places.{i}.chord",
                    (-c / 2, y),
                    (c / 2, y),
                    f"{name}chord {format_length(c, style)}",
                    leader="left",
                )
            )
            dims.append(
                DimensionLine(
                    f"blank.places.{i}.rise",
                    (c / 4, y),
                    (0.0, y),
                    f"{name}rise {format_length(h, style)}",
                    leader="right",
                )
            )
    strokes = [Stroke("section", (arc,), False)]
    return strokes, dims, base + sag + 0.05 * body.height


def _dome(blank: DomeBlank, m: Measured, body: Cap, style: LengthStyle) -> Sketch:
    """The side view, and above it the dome laid out from its middle by true distances, where zones are placed."""
    t = np.linspace(-body.angle, body.angle, 120)
    low = -body.arc - 0.3 * body.arc - body.rise
    arc = np.column_stack([body.radius * np.sin(t), low + body.rise - body.radius * (1 - np.cos(t))])
    a = body.rim

    def say(mm: float) -> str:
        return format_length(mm, style)

    turn = np.linspace(0, 2 * math.pi, 181)
    disc = body.arc * np.column_stack([np.cos(turn), np.sin(turn)])
    strokes = [
        Stroke("body", (arc,)),
        Stroke("centre", (np.array([[0, low - 0.06 * body.arc], [0, 1.06 * body.arc]]),), False),
        Stroke("section", (disc[:-1],)),
        Stroke("zone", _rings(shapely.difference(shapely.Polygon(disc), m.free.region))),
        Stroke("free", (_box(m.free.parts[0].box),)),
        *_zones_flat(m.free),
    ]
    dims = (
        DimensionLine(
            "blank.base", (-a, low), (a, low), f"round {say(2 * math.pi * a)} · across {say(2 * a)}", (0, -1), 1.0
        ),
        DimensionLine("blank.rise", (a, low), (a, low + body.rise), f"rise {say(body.rise)}", (1, 0), 1.0),
        DimensionLine("", (-body.arc, 0.0), (body.arc, 0.0), f"over the dome {say(2 * body.arc)}"),
    )
    note = f"laid out from the middle; ball of radius {say(body.radius)}"
    return Sketch(
        "Side view, and the dome laid out", tuple(strokes), dims, (), note, (-body.arc, low, body.arc, body.arc)
    )


def _rises(blank: RisePanelBlank, m: Measured, body: RiseSurface, style: LengthStyle) -> Sketch:
    w, h = body.width, body.height
    x = body.x - body.x[0] - w / 2
    y = body.y - body.y[0]
    strokes = _zones_flat(m.free)
    if blank.margin_mm:
        strokes.append(Stroke("zone", _rings(shapely.difference(shapely.box(-w / 2, 0, w / 2, h), m.free.region))))
    strokes.append(Stroke("body", (_box((-w / 2, 0.0, w / 2, h)),)))
    strokes.append(Stroke("free", (_box(m.free.parts[0].box),)))
    strokes.append(
        Stroke(
            "fine",
            tuple(np.array([[a, 0.0], [a, h]]) for a in x) + tuple(np.array([[-w / 2, b], [w / 2, b]]) for b in y),
            False,
        )
    )
    fine = np.linspace(body.x[0], body.x[-1], 90)
    z = evaluate(body, fine, body.y)
    reach = float(np.ptp(body.rises)) or 1.0
    times = max(1.0, round(0.55 * float(np.diff(y).min()) / reach))
    strokes.append(
        Stroke(
            "section",
            tuple(np.column_stack([fine - body.x[0] - w / 2, y[j] + times * (z[j] - z.min())]) for j in range(len(y))),
            False,
        )
    )
    marks = []
    sign = 1 if blank.reads == "rise" else -1
    for j in range(len(y)):
        for i in range(len(x)):
            off = sign * float(body.residuals[j, i])
            figure = format_length(sign * float(body.rises[j, i]), style).removesuffix(" mm").removesuffix(" in")
            said = (
                f" ({'+' if off > 0 else '−'}{format_length(abs(off), style).removesuffix(' mm').removesuffix(' in')})"
                if abs(off) > 0.1
                else ""
            )
            marks.append(Mark(f"blank.rises.{j}.{i}", (float(x[i]), float(y[j])), figure + said))
    dims = (
        DimensionLine("blank.across_mm", (-w / 2, 0.0), (w / 2, 0.0), format_length(w, style), (0, -1), 1.0),
        DimensionLine("blank.up_mm", (w / 2, 0.0), (w / 2, h), format_length(h, style), (1, 0), 1.0),
    )
    note = "in brackets: off the fairest surface" if float(np.abs(body.residuals).max()) > 0.1 else ""
    if times > 1:
        note = f"rises drawn {times:.0f} times" + (f"; {note}" if note else "")
    return Sketch(
        "Front view with its rises",
        tuple(strokes),
        dims,
        tuple(marks),
        note,
        (-w / 2, 0.0, w / 2, h + times * reach * 0.3),
    )


def _mesh(blank: MeshBlank, m: Measured, body: MeshBody, style: LengthStyle) -> Sketch:
    w, h = body.width, body.height
    reads = blank.check.reads if blank.check else ""
    dims = (
        DimensionLine(
            "blank.check" if reads == "width" else "",
            (-w / 2, 0.0),
            (w / 2, 0.0),
            format_length(w, style),
            (0, -1),
            1.0,
        ),
        DimensionLine(
            "blank.check" if reads in ("height", "upright") else "",
            (w / 2, 0.0),
            (w / 2, h),
            format_length(h, style),
            (1, 0),
            1.0,
        ),
    )
    return Sketch("Front view", (Stroke("body", _rings(body.front, 0.0)),), dims, reach=(-w / 2, 0.0, w / 2, h))


def sketch_of(blank: Blank, m: Measured, style: LengthStyle = "mm") -> Sketch | None:
    """The dimensioned drawing; None for a cup, which the screen draws from its own figures."""
    body = m.body
    if isinstance(body, Frustum):
        return None
    if isinstance(body, Profile) and isinstance(blank, (StackBlank, RevolutionBlank)):
        return _round(blank, m, body, style)
    if isinstance(body, Panel) and isinstance(blank, (PanelBlank, CurvedPanelBlank, InsertBlank)):
        return _flat(blank, m, body, style)
    if isinstance(body, Cap) and isinstance(blank, DomeBlank):
        return _dome(blank, m, body, style)
    if isinstance(body, RiseSurface) and isinstance(blank, RisePanelBlank):
        return _rises(blank, m, body, style)
    assert isinstance(body, MeshBody) and isinstance(blank, MeshBlank)
    return _mesh(blank, m, body, style)
