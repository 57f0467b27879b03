"""What the screens draw: a build turned into numbers in mm, y up, and words in the workshop's units.

No rule of the job is here: every figure comes from the core as it is.
"""

from __future__ import annotations

import math

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry
from wimple_core.built import Build
from wimple_core.errors import WimpleError
from wimple_core.figures import LengthStyle, format_quantity
from wimple_core.job import Job
from wimple_core.job.blanks import CupBlank
from wimple_core.measure import Measured
from wimple_core.measure.body import Cap, Frustum, MeshBody, Panel, Profile, RiseSurface
from wimple_core.measure.capacity import side_line_of
from wimple_core.measure.measured import readable_width
from wimple_core.measure.sketch import Stroke, front_strokes, sketch_of
from wimple_core.measure.slips import spoken
from wimple_core.measure.solids import solid_of
from wimple_core.measure.zones import READABLE_HALF_ANGLE
from wimple_core.pricing.price import film_cost, to_cents
from wimple_core.surface import Template
from wimple_core.surface.skin import skin_of
from wimple_core.surface.strain_map import strain_areas
from wimple_core.verdict import STEPS, Verdict

from .scene_shapes import Ring

DRAWN_TOLERANCE_MM = 0.015
"""Contours are thinned to this for the screen; files are made from the whole ones."""


def rings_of(region: BaseGeometry, tolerance: float = DRAWN_TOLERANCE_MM) -> list[Ring]:
    """Contours for the screen, each a flat list of numbers to 0.001 mm."""
    if tolerance:
        region = shapely.simplify(region, tolerance)
    parts = shapely.get_parts(region)
    rings = shapely.get_rings(parts[~shapely.is_empty(parts)])
    return [np.round(shapely.get_coordinates(r)[:-1], 3).ravel().tolist() for r in rings]


def _box(bounds: tuple[float, ...]) -> tuple[float, float, float, float]:
    a, b, c, d = (round(float(v), 4) for v in bounds)
    return a, b, c, d


def _verdict(v: Verdict, style: LengthStyle) -> dict[str, object]:
    return {
        "code": v.code,
        "step": v.step,
        "level": v.level,
        "sentence": v.sentence(style),
        "field": v.field,
        "fix": v.fix,
        "fixes": dict(v.fixes),
        "places": list(v.places),
    }


def _flat(points: np.ndarray, digits: int = 3) -> list[float]:
    return np.round(points, digits).ravel().tolist()


def _strokes(strokes: tuple[Stroke, ...]) -> list[dict[str, object]]:
    return [{"kind": s.kind, "closed": s.closed, "lines": [_flat(line) for line in s.lines]} for s in strokes]


def _sketch(b: Build, style: LengthStyle) -> dict[str, object]:
    m = b.measured
    sketch = sketch_of(b.job.blank, m, style)
    if sketch is None:
        assert isinstance(m.body, Frustum)
        on_it = front_strokes(m.free, m.body)
        return {
            "title": "Side view",
            "strokes": _strokes(on_it),
            "dimensions": [],
            "marks": [],
            "note": "",
            "reach": (0.0, 0.0, 1.0, 1.0),
        }
    return {
        "title": sketch.title,
        "strokes": _strokes(sketch.strokes),
        "note": sketch.note,
        "reach": _box(sketch.reach),
        "dimensions": [
            {
                "field": d.field,
                "start": d.start,
                "end": d.end,
                "out": d.out,
                "row": d.row,
                "text": d.text,
                "leader": d.leader,
            }
            for d in sketch.dimensions
        ],
        "marks": [{"field": k.field, "at": k.at, "text": k.text} for k in sketch.marks],
    }


def _solid(b: Build) -> dict[str, object] | None:
    solid = solid_of(b.job.blank, b.measured.body)
    if solid is None:
        return None
    return {
        "line": _flat(solid.line) if solid.line is not None else [],
        "plate": rings_of(solid.plate) if solid.plate is not None else [],
        "positions": _flat(solid.positions) if solid.positions is not None else [],
        "triangles": solid.triangles.ravel().tolist() if solid.triangles is not None else [],
        "size": solid.size,
    }


def _skin(b: Build) -> dict[str, object] | None:
    skin = skin_of(b.measured.body, b.template)
    if skin is None:
        return None
    left, low, right, high = skin.bounds
    return {
        "left": left,
        "right": right,
        "low": low,
        "high": high,
        "coordinates": _flat(skin.coordinates, 5),
        "positions": _flat(skin.space),
        "triangles": skin.triangles.ravel().tolist(),
        "strain": [] if skin.strain is None else _flat(skin.strain, 5),
    }


def side_view(document: Job, m: Measured) -> dict[str, object]:
    """The body's outline and its bounds, thinned for a card."""
    body = m.body
    if isinstance(body, Frustum):
        z, r = side_line_of(document.blank, body)  # type: ignore[arg-type]
        rings = [np.concatenate([np.column_stack([r, z]), np.column_stack([-r, z])[::-1]])]
    else:
        sketch = sketch_of(document.blank, m)
        assert sketch is not None
        rings = [line for s in sketch.strokes if s.kind == "body" for line in s.lines]
    places = np.concatenate(rings)
    low, high = places.min(axis=0), places.max(axis=0)
    size = float((high - low).max())
    shapes = [shapely.simplify(shapely.LinearRing(r), size / 4000) for r in rings if len(r) > 2]
    return {"outline": [_flat(shapely.get_coordinates(s)[:-1], 2) for s in shapes], "bounds": _box((*low, *high))}


def _measure(b: Build, style: LengthStyle, step: str) -> dict[str, object]:
    m, body, blank = b.measured, b.measured.body, b.job.blank
    free = b.template.limits if b.template is not None else m.free
    round_body = isinstance(body, (Frustum, Profile))
    readings = {
        n: {"mean": r.mean, "error": r.error, "count": r.count, "outlier": r.outlier, "deviation": r.deviation}
        for n, r in m.readings.items()
    }
    out: dict[str, object] = {
        "kind": blank.kind,
        "closed": round_body,
        "readings": readings,
        "radius_lower": 0,
        "radius_upper": 0,
        "slant": 0,
        "upright": 0,
        "k": 0,
        "rim": 0,
        "foot": 0,
        "width": 0,
        "height": 0,
        "free_low": free.low,
        "free_high": free.high,
        "free_left": free.left,
        "free_right": free.right,
        "free_width_low": free.right - free.left,
        "free_width_high": free.right - free.left,
        "handle": free.handle,
        "handle_width": free.handle_width,
        "volume": m.volume_ml,
        "seam_top": 0,
        "seam_bottom": 0,
        "edge_drift": 0,
        "taper_deg": 0,
        "readable_half_angle": READABLE_HALF_ANGLE,
        "readable_top": 0,
        "figures": [
            {
                "name": c.name,
                "value": c.value,
                "error": c.error,
                "unit": c.unit,
                "first": c.first,
                "first_words": spoken(c.first) if c.first else "",
                "first_share": c.shares[0][1] if c.shares else 0.0,
            }
            for c in m.consequences
        ],
        "faces": [
            {
                "seen_by": f.seen_by,
                "centre": math.degrees(f.centre) if round_body else f.centre,
                "up": (f.box[1] + f.box[3]) / 2,
                "width": f.width,
                "height": f.height,
            }
            for f in free.faces
        ],
        "free_parts": [
            {
                "area": format_quantity(p.area, "mm2", style),
                "width": p.width,
                "height": p.height,
                "readable": p.readable,
            }
            for p in free.parts
        ],
        "sketch": (
            _sketch(b, style)
            if step == "measure"
            else {"title": "", "strokes": [], "dimensions": [], "marks": [], "note": "", "reach": (0, 0, 1, 1)}
        ),
        "solid": _solid(b),
        "skin": _skin(b),
        "level": (
            {
                "height": m.level.height_mm,
                "volume": m.level.volume_ml,
                "brim": m.level.brim_ml,
                "along": m.level.along_mm,
            }
            if m.level
            else None
        ),
        "photo": (
            None
            if m.photo is None
            else {
                "z": np.round(m.photo.profile.z[::4], 2).tolist(),
                "r": np.round(m.photo.profile.r[::4], 3).tolist(),
                "apart": m.photo.profile.apart,
                "checks": [
                    {"name": c.name, "by_photo": c.by_photo, "by_hand": c.by_hand, "spread": c.spread}
                    for c in m.photo.checks
                ],
                "outline": [_flat(part[::2], 1) for part in m.photo.outline.parts],
                "width": m.photo.outline.width,
                "height": m.photo.outline.height,
            }
        ),
    }
    seam = {name: c.error for name in ("seam_top", "seam_bottom", "edge_drift") if (c := m.consequence(name))}
    out |= seam
    if isinstance(body, Frustum) and isinstance(blank, CupBlank):
        turn = free.right - free.left
        out |= {
            "radius_lower": body.radius_lower,
            "radius_upper": body.radius_upper,
            "slant": body.slant,
            "upright": body.upright,
            "k": body.k,
            "rim": blank.rim_mm,
            "foot": blank.foot_mm,
            "taper_deg": math.degrees(math.asin(body.k)),
            "readable_top": readable_width(body, free.high),
            "free_width_low": turn * body.radius_at(free.low),
            "free_width_high": turn * body.radius_at(free.high),
        }
    elif isinstance(body, (Panel, MeshBody, RiseSurface)):
        out |= {"width": body.width, "height": body.height}
    elif isinstance(body, Cap):
        out |= {"width": 2 * body.rim, "height": body.rise}
    else:
        assert isinstance(body, Profile)
        out |= {"width": 2 * float(body.r.max()), "height": body.upright}
    return out


def _strain(t: Template, drawn: bool) -> dict[str, object] | None:
    s = t.strain
    if s is None:
        return None
    areas = strain_areas(s, t.outline) if drawn else ()
    return {
        "stretch": 100 * s.stretch_max,
        "shorten": 100 * s.shorten_max,
        "ratio": s.length_ratio,
        "share_over": 100 * s.share_over_limit,
        "limit": None if s.limit is None else 100 * s.limit,
        "worst_at": s.worst_at,
        "before": 100 * t.before.worst if t.before else 0.0,
        "areas": [{"step": a.step, "stretched": a.stretched, "rings": rings_of(a.region, 0.1)} for a in areas],
    }


def _along(b: Build) -> list[dict[str, float]]:
    """Strain along the height of a band, for the elevation."""
    t, body = b.template, b.measured.body
    if t is None or t.hoop is None or not isinstance(body, Profile):
        return []
    s = np.linspace(t.low, t.high, 60)
    e = body.radii_at(s) / (t.hoop[0] + t.hoop[1] * s) - 1
    return [{"up": float(u), "strain": 100 * float(v)} for u, v in zip(s, e, strict=True)]


def _template(b: Build, step: str) -> dict[str, object] | None:
    t = b.template
    if t is None:
        return None
    s, turn = t.sector, t.right - t.left
    return {
        "outline": rings_of(t.outline, 0.003),
        "free": rings_of(t.free, 0.003),
        "zones": [ring for z in t.zones for ring in rings_of(z.region, 0.01)],
        "overlap": rings_of(t.overlap) if t.overlap else [],
        "bounds": _box(t.outline.bounds),
        "k": t.surface.k,
        "r0": t.surface.scale_at(0),
        "left": t.left,
        "right": t.right,
        "low": t.low,
        "high": t.high,
        "sector_lower": s.radius_lower if s else None,
        "sector_upper": s.radius_upper if s else None,
        "sector_angle_deg": math.degrees(s.angle) if s else None,
        "length_lower": turn * t.surface.scale_at(t.low),
        "length_upper": turn * t.surface.scale_at(t.high),
        "strain": _strain(t, step in ("unwrap", "artwork")),
        "along": _along(b),
        "slits": [(*x.start, *x.end) for x in t.slits],
        "slit_depth": max((x.depth for x in t.slits), default=0.0),
        "film_thickness_um": 1000 * t.film_thickness,
        "gores": len(t.gores),
        "gore_width": t.gores[0].width if t.gores else 0.0,
        "joints": [(at, math.degrees(turn)) for at, turn in t.joints],
        "pieces": len(shapely.get_parts(t.outline)),
    }


def _way_figure(w: object, style: LengthStyle) -> str:
    way, sag = w.way, w.sag  # type: ignore[attr-defined]
    if way == "flat":
        return f"nothing bends · sags {format_quantity(sag, 'mm', style)} at the ends"
    if way == "even":
        return f"widths true · verticals lean {math.degrees(w.lean):.1f}°"  # type: ignore[attr-defined]
    if way == "conformal":
        return f"circles stay round · size ± {w.width_change_percent:.1f} %"  # type: ignore[attr-defined]
    return f"horizontals level · width ± {w.width_change_percent:.1f} %"  # type: ignore[attr-defined]


def _placed(b: Build, style: LengthStyle, step: str) -> list[dict[str, object]]:
    if b.fit is None or b.template is None:
        return []
    out = []
    h = 1e-4
    surface = b.template.surface
    for d in b.fit.drawings:
        x, y = surface.develop(
            np.array([d.a_c, d.a_c - h, d.a_c + h, d.a_c, d.a_c]), np.array([d.s_c, d.s_c, d.s_c, d.s_c - h, d.s_c + h])
        )
        out.append(
            {
                "file": d.file,
                "outline": np.round(d.outline, 3).ravel().tolist(),
                "centre": (float(x[0]), float(y[0])),
                "width": d.width,
                "across": (float(x[2] - x[1]) / (2 * h), float(y[2] - y[1]) / (2 * h)),
                "up": (float(x[4] - x[3]) / (2 * h), float(y[4] - y[3]) / (2 * h)),
                "paints": (
                    [{"colour": c.colour, "rings": rings_of(c.seen)} for c in d.colours] if step == "artwork" else []
                ),
                "height": d.height,
                "way": d.way,
                "suggested": d.suggested,
                "ways": [{"way": w.way, "figure": _way_figure(w, style)} for w in d.ways],
                "colours": len(d.colours),
                "pieces": sum(len(shapely.get_parts(c.seen)) for c in d.colours),
                "across_field": "centre_deg" if surface.closed else "across_mm",
                "across_unit": math.radians(1) if surface.closed else 1.0,
                "tapered": surface.closed and d.tapered,
            }
        )
    return out


def _object(b: Build) -> list[dict[str, object]]:
    """What is seen of each layer, wrapped back onto the surface."""
    if b.layers is None or b.template is None:
        return []
    surface = b.template.surface

    def back(p: np.ndarray) -> np.ndarray:
        return np.column_stack(surface.wrap(p[:, 0], p[:, 1]))

    out = []
    for layer in b.layers.layers:
        seen = shapely.simplify(layer.seen, DRAWN_TOLERANCE_MM)
        wrapped = shapely.transform(seen, back)
        rings = [
            np.round(shapely.get_coordinates(r)[:-1], 5).ravel().tolist()
            for r in shapely.get_rings(shapely.get_parts(wrapped))
        ]
        out.append({"colour": layer.film_colour, "finish": layer.film.finish, "rings": rings})
    return out


def _layers(b: Build, style: LengthStyle) -> dict[str, object] | None:
    if b.layers is None:
        return None
    rows = [
        {
            "name": la.name,
            "colour": la.colour,
            "film": la.film.id,
            "film_name": la.film.name,
            "film_colour": la.film_colour,
            "finish": la.film.finish,
            "pieces": la.pieces,
            "weeded": la.weeded,
            "area": format_quantity(la.area, "mm2", style),
            "rings": rings_of(la.region),
            "marks": rings_of(la.marks),
            "places": list(la.inspection.dots[:200] + la.inspection.thin[:200]),
        }
        for la in b.layers.layers
    ]
    regions = [r for la in b.layers.layers for r in (la.region, la.marks)]
    box = shapely.total_bounds(np.array(regions, dtype=object)) if regions else (0, 0, 1, 1)
    return {"layers": rows, "joint": b.layers.joint, "gap_chance": b.layers.gap_chance, "bounds": _box(tuple(box))}


def _sheets(b: Build, style: LengthStyle) -> dict[str, object] | None:
    s = b.sheets
    if s is None:
        return None
    c = s.cutter
    return {
        "cutter": c.name,
        "medium": c.medium,
        "width": c.width_mm,
        "length": c.length_mm,
        "safe_width": c.safe_width_mm,
        "safe_length": c.safe_length_mm,
        "film_area": format_quantity(s.film_area, "mm2", style),
        "film_cost": str(to_cents(film_cost(s))),
        "sheets": [
            {
                "layer": x.layer.name,
                "colour": x.layer.film_colour,
                "sets": x.sets,
                "times": x.times,
                "turned": x.turned,
                "fits": x.fits,
                "width": x.width,
                "height": x.height,
                "film_area": format_quantity(x.film_area, "mm2", style),
                "rings": rings_of(x.cut, 0.05),
                "frames": rings_of(x.frames),
            }
            for x in s.sheets
        ],
    }


def _price(b: Build) -> dict[str, object] | None:
    p = b.price
    if p is None:
        return None
    lines = [{"name": x.name, "detail": x.detail, "amount": str(x.amount)} for x in p.lines]
    total = max(float(p.price), float(p.cost), 0.01)
    return {
        "currency": b.job.price.currency,
        "lines": lines,
        "cost": str(p.cost),
        "price": str(p.price),
        "profit": str(p.profit),
        "margin": float(p.margin),
        "markup": float(p.markup),
        "batch_cost": str(p.batch_cost),
        "batch_price": str(p.batch_price),
        "shares": [float(x.amount) / total for x in p.lines],
    }


def make_scene(
    b: Build, style: LengthStyle, step: str, fault: WimpleError | None, fault_step: str | None
) -> dict[str, object]:
    """The scene of one step. Only what that step and the object show is drawn out."""
    return {
        "document": b.job,
        "levels": {s: b.levels[s] for s in STEPS} | ({fault_step: "stop"} if fault_step else {}),
        "verdicts": [_verdict(v, style) for v in b.verdicts],
        "fault": (
            {
                **{name: fault.as_dict(style)[name] for name in ("code", "field", "message", "hint")},
                "places": list(fault.places),
            }
            if fault
            else None
        ),
        "fault_step": fault_step,
        "measure": _measure(b, style, step),
        "template": _template(b, step),
        "placed": _placed(b, style, step) if step in ("artwork", "unwrap") else [],
        "object": _object(b),
        "layers": _layers(b, style) if step == "layers" else None,
        "sheets": _sheets(b, style) if step == "sheets" else None,
        "layup": (
            None
            if b.layup is None or step != "layup"
            else {
                "order": b.layup.order,
                "tape": b.layup.tape,
                "cautions": [c.text for c in b.layup.cautions],
                "steps": [{"title": s.title, "text": s.words(style)} for s in b.layup.steps],
                "wash_from": b.layup.wash_from,
            }
        ),
        "price": _price(b) if step == "price" else None,
    }
