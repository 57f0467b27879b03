"""The figures that stand beside the drawing at each step, in the workshop's units."""

from __future__ import annotations

import math
from functools import singledispatch

import shapely

from ..built import Build
from ..figures import MM_PER_INCH, LengthStyle, format_length, format_quantity
from ..measure import Measured
from ..measure.bodies import Body
from ..measure.body import Frustum
from ..measure.kinds import BLANK
from ..measure.outliers import spoken
from ..measure.taper import readable_width
from ..pricing.price import film_cost, to_cents
from ..verdict import Step
from .drawn import View

MOST_ROWS = 14
NAMES = {
    "width": "Width",
    "height": "Height",
    "depth": "Depth",
    "side": "Along the side",
    "seam_top": "Seam, top",
    "seam_bottom": "Seam, bottom",
    "panel_radius": "Radius",
    "arc": "Over the dome",
    "rim": "Rim",
    "insert_diameter": "Cut across",
    "bend_across": "Bends across",
    "bend_up": "Bends up",
    "rise": "Rises in all",
    "area": "Area",
    "free_area": "Free area",
}


class RowView(View):
    """One figure: its name and what it is."""

    name: str
    text: str


class _Words:
    """Figures in a workshop's units, lengths without theirs."""

    def __init__(self, style: LengthStyle) -> None:
        self.style = style

    def length(self, mm: float) -> str:
        return format_length(mm, self.style).rpartition(" ")[0]

    def sure(self, mm: float) -> str:
        fine = format_length(mm, "mm", 2) if self.style == "mm" else format_length(mm, "in_decimal", 1)
        return f"± {fine.rpartition(' ')[0]}"

    def area(self, mm2: float) -> str:
        square, unit = (100.0, "cm²") if self.style == "mm" else (MM_PER_INCH**2, "in²")
        return f"{mm2 / square:.{2 if mm2 < 1000 else 1}f} {unit}"

    def volume(self, ml: float) -> str:
        return format_quantity(ml, "ml", self.style)

    def size(self, box: tuple[float, ...]) -> str:
        return f"{self.length(box[2] - box[0])} × {self.length(box[3] - box[1])}"


Rows = list[tuple[str, str]]


def _measured_rows(m: Measured, w: _Words) -> Rows:
    """All figures of a body with their spread, and which reading to take again first."""
    rows: Rows = []
    for c in m.consequences:
        name = NAMES.get(c.name)
        if name is None and c.name.startswith("seam_"):
            name = f"Seam, ring {int(c.name[5:]) + 1}"
        if name is None:
            continue
        if c.name.startswith("seam"):
            rows.append((name, w.sure(c.error)))
        elif c.unit == "mm":
            rows.append((name, w.length(c.value) + (f" {w.sure(c.error)}" if c.error else "")))
        elif c.unit == "mm2":
            rows.append((name, w.area(c.value) + (f" ± {w.area(c.error)}" if c.error else "")))
        else:
            rows.append((name, f"{c.value:.2f} ± {c.error:.2f} {c.unit}"))
    if m.free.parts:
        part = m.free.parts[0]
        rows.append(("Largest rectangle", f"{w.length(part.width)} × {w.length(part.height)}"))
    if len(m.free.parts) > 1:
        rows.append(("Free pieces", str(len(m.free.parts))))
    if m.volume_ml:
        rows.append(("Volume", w.volume(m.volume_ml)))
    drifts = [c.error for c in m.consequences if c.name.startswith("edge_drift")]
    if drifts:
        rows.append(("Edge drift", w.sure(max(drifts))))
    said = next((v for v in m.verdicts if v.code == "measure.again_first"), None)
    least = next(
        (c for c in m.consequences if c.name == "panel_radius" and c.error),
        next((c for c in m.consequences if c.first), None),
    )
    if said is not None:
        # What the sentence says, and nothing else beside it.
        rows.append(("Again first", f"{spoken(said.field.removeprefix(BLANK + '.'))} ({said.value:.0f} %)"))
    elif least and least.first:
        rows.append(("Again first", f"{spoken(least.first)} ({100 * least.shares[0][1]:.0f} %)"))
    return rows[:MOST_ROWS]


@singledispatch
def body_rows(body: Body, m: Measured, w: _Words) -> Rows:
    """What a maker looks at on a body that was just measured."""
    return _measured_rows(m, w)


@body_rows.register
def _(body: Frustum, m: Measured, w: _Words) -> Rows:
    rows = [
        ("Seam, top", w.sure(m.error_of("seam_top") or 0.0)),
        ("Seam, bottom", w.sure(m.error_of("seam_bottom") or 0.0)),
        ("Edge drift", w.sure(m.error_of("edge_drift") or 0.0)),
        ("Taper", f"{math.degrees(math.asin(body.k)):.1f}° each side"),
        ("Readable, top", w.length(readable_width(body, m.free.high))),
    ]
    if m.volume_ml:
        rows.append(("Outside volume", w.volume(m.volume_ml)))
    return [*rows, free_row(body, m, w)]


@singledispatch
def free_row(body: Body, m: Measured, w: _Words) -> tuple[str, str]:
    """What is free on the face."""
    face = m.free.faces[0] if m.free.faces else None
    return "Free on the face", f"{w.length(face.width)} × {w.length(face.height)}" if face else "nothing"


@free_row.register
def _(body: Frustum, m: Measured, w: _Words) -> tuple[str, str]:
    free = m.free
    turn = free.right - free.left
    wide = [w.length(turn * body.radius_at(s)) for s in (free.high, free.low)]
    return "Free area", f"{wide[0]} / {wide[1]} × {w.length(free.high - free.low)}"


def _seam_row(m: Measured, w: _Words) -> tuple[str, str]:
    top, bottom = (w.sure(m.error_of(f"seam_{end}") or 0.0) for end in ("top", "bottom"))
    return "Seam, top / bottom", f"{top} / {bottom[2:]}"


def _sector_rows(b: Build, w: _Words) -> Rows:
    assert b.template
    s = b.template.sector
    if s is None:
        return [("Template", "a straight strip")]
    return [
        ("Sector angle", f"{math.degrees(s.angle):.2f}°"),
        ("Sector radii", f"{w.length(s.radius_upper)} / {w.length(s.radius_lower)}"),
    ]


def _strained_rows(b: Build, w: _Words) -> Rows:
    t = b.template
    assert t and t.strain
    s = t.strain
    rows = [
        ("Stretched", f"{100 * s.stretch_max:.1f} %"),
        ("Shortened", f"{100 * s.shorten_max:.1f} %"),
        ("Film takes", "not stated" if s.limit is None else f"{100 * s.limit:.1f} %"),
        ("Over that", f"{100 * s.share_over_limit:.1f} %"),
    ]
    if (t.slits or t.gores) and t.before:
        rows.append(("In one piece", f"{100 * t.before.worst:.1f} %"))
    if t.slits:
        rows.append(("Slits", f"{len(t.slits)}, {w.length(max(x.depth for x in t.slits))} deep"))
    if t.gores:
        rows.append(("Gores", f"{len(t.gores)}, {w.length(t.gores[0].width)} wide"))
    return [*rows, ("Lengths differ", f"{s.length_ratio:.3f} : 1"), ("Over all", w.size(t.outline.bounds))]


def _unwrap_rows(b: Build, w: _Words) -> Rows:
    m, t = b.body, b.template
    assert t
    if t.strain is not None:
        return _strained_rows(b, w)
    if not m.body.closed:
        return _measured_rows(m, w)
    over_all = ("Over all", w.size(t.outline.bounds))
    pieces = len(shapely.get_parts(t.outline))
    if pieces > 1:
        joints = [(f"Joint at {w.length(at)}", f"{abs(math.degrees(turn)):.1f}°") for at, turn in t.joints]
        return [("Pieces", str(pieces)), *joints, over_all, _seam_row(m, w)]
    return [
        *_sector_rows(b, w),
        over_all,
        ("Along the side", w.length(t.high - t.low)),
        _seam_row(m, w),
        ("Edge drift", w.sure(m.error_of("edge_drift") or 0.0)),
    ]


def _artwork_rows(b: Build, w: _Words) -> Rows:
    m = b.body
    read = [row for row in body_rows(m.body, m, w) if row[0] == "Readable, top"]
    return [*(_sector_rows(b, w) if read else []), *read, free_row(m.body, m, w)]


def rows_beside(b: Build, step: Step, style: LengthStyle) -> list[RowView]:
    """The figures of one step."""
    w = _Words(style)
    rows: Rows = []
    if step == "measure" or b.template is None:
        rows = body_rows(b.body.body, b.body, w)
    elif step == "unwrap":
        rows = _unwrap_rows(b, w)
    elif step == "artwork":
        rows = _artwork_rows(b, w)
    elif step == "layers" and b.layers:
        layers = b.layers.layers
        rows = [
            ("Layers", str(len(layers))),
            ("Joints", b.layers.joint.replace("_", " ")),
            ("Pieces that stay", str(sum(la.pieces for la in layers))),
            ("Pieces to weed", str(sum(la.weeded for la in layers))),
        ]
    elif step == "sheets" and b.sheets and b.cutting:
        cutter = b.sheets.cutter
        rows = [
            ("Safe area", f"{w.length(cutter.safe_width_mm)} × {w.length(cutter.safe_length_mm)}"),
            ("Film used", format_quantity(b.sheets.film_area, "mm2", style)),
            ("Film costs", str(to_cents(film_cost(b.sheets)))),
            ("Blade under way", format_quantity(b.cutting.seconds / 60, "min", style)),
        ]
    return [RowView(name=name, text=text) for name, text in rows]
