"""Any job a hand could type: it is built, or an error names the field; no figure is ever not a number."""

from __future__ import annotations

import json
import math
from typing import Any

import shapely
from hypothesis import HealthCheck, assume, given, settings
from hypothesis import strategies as st
from samples import element, svg
from wimple_core.errors import WimpleError
from wimple_core.export import all_files, make_report
from wimple_core.job import load_job
from wimple_core.layers.joints import join
from wimple_core.overlay import difference, union
from wimple_core.pipeline import build_whole as build

DRAWINGS = {
    "band.svg": svg(
        '<rect width="100" height="12" fill="#1c3d7a"/><circle cx="50" cy="6" r="4" fill="#efe6c8"/><circle cx="20"'
        ' cy="6" r=".4" fill="#b98a2f"/>'
    ),
    "tall.svg": svg(
        '<path d="M50 0L60 100H40z" fill="#c22a2a"/><path d="M20 50H80" stroke="#101010" stroke-width="3"'
        ' stroke-dasharray="7 3"/>'
    ),
    "rings.svg": svg(
        "".join(
            f'<circle cx="50" cy="50" r="{r}" fill="{c}"/>'
            for r, c in ((45, "#101010"), (35, "#ffffff"), (25, "#111111"), (15, "#2f8a4a"))
        )
    ),
}
sizes = st.one_of(st.floats(20, 600), st.sampled_from([0.01, 1, 205, 262.5, 5000]))
dimension = lambda *reads: st.builds(  # noqa: E731
    lambda r, i, v: {"reads": r, "instrument": i, "readings": v},
    st.sampled_from(reads),
    st.sampled_from(["tape", "calliper", "ruler"]),
    st.lists(sizes, min_size=1, max_size=3),
)
cups = st.fixed_dictionaries(
    {
        "kind": st.just("cup"),
        "upper": dimension("circumference", "diameter"),
        "lower": dimension("circumference", "diameter"),
        "side": dimension("slant", "upright"),
    },
    optional={
        "rim_mm": st.floats(0, 30),
        "foot_mm": st.floats(0, 30),
        "lip_band_mm": st.floats(0, 40),
        "base_band_mm": st.floats(0, 40),
        "capacity_ml": st.floats(1, 2000),
        "handle": st.one_of(st.none(), st.builds(lambda w: {"width_mm": w}, st.floats(1, 120))),
        "faces": st.sampled_from(["others", "holder"]),
        "wall": st.sampled_from(["single", "double"]),
        "wall_mm": st.floats(0, 20),
        "tape_thickness_mm": st.floats(0, 1),
    },
)
offsets = st.floats(-200, 400)
zones = st.lists(
    st.one_of(
        st.builds(lambda low, high: {"form": "band", "low_mm": low, "high_mm": high}, offsets, offsets),
        st.builds(
            lambda c, w, k: {"form": "sector", "centre_deg": c, "centre_mm": c, "width_mm": w, "kind": k},
            st.floats(-300, 300),
            st.floats(0.5, 200),
            st.sampled_from(["seam", "light"]),
        ),
        st.builds(
            lambda p: {"form": "polygon", "points": p}, st.lists(st.tuples(offsets, offsets), min_size=3, max_size=6)
        ),
    ),
    max_size=3,
)
panels = st.fixed_dictionaries(
    {
        "kind": st.just("panel"),
        "width": dimension("width", "diameter", "across_flats", "side"),
        "height": dimension("height"),
    },
    optional={
        "margin_mm": st.floats(0, 50),
        "shape": st.sampled_from(["rectangle", "rounded", "circle", "ellipse", "hexagon", "polygon"]),
        "corner": dimension("radius"),
        "sides": st.integers(3, 12),
        "zones": zones,
        "on_vehicle": st.booleans(),
    },
)
girths = dimension("circumference", "diameter")
turned = st.fixed_dictionaries(
    {},
    optional={
        "zones": zones,
        "handle": st.one_of(st.none(), st.builds(lambda w: {"free_width": w}, dimension("width"))),
        "faces": st.sampled_from(["others", "both"]),
        "decals": st.integers(1, 2),
        "level": st.one_of(
            st.none(),
            st.builds(
                lambda g, h: {"given": g, "height_mm": h, "volume_ml": h + 1},
                st.sampled_from(["height", "volume"]),
                st.floats(0, 200),
            ),
        ),
    },
)
stacks = st.builds(
    lambda b, s, more: {"kind": "stack", "base": b, "sections": s, **more},
    girths,
    st.lists(
        st.builds(lambda u, s: {"upper": u, "side": s}, girths, dimension("slant", "upright")), min_size=1, max_size=4
    ),
    turned,
)
revolutions = st.builds(
    lambda r, more: {
        "kind": "revolution",
        "rings": [{"height": {"reads": "upright", "readings": [7 + 25 * i]}, "girth": g} for i, g in enumerate(r)],
        **more,
    },
    st.lists(girths, min_size=3, max_size=7),
    turned,
)
domes = st.builds(lambda b, r, z: {"kind": "dome", "base": b, "rise": r, "zones": z}, girths, dimension("rise"), zones)
bent = st.builds(
    lambda w, h, p, b, z: {
        "kind": "curved_panel",
        "width": w,
        "height": h,
        "bend": b,
        "zones": z,
        "places": [{"chord": c, "rise": r} for c, r in p],
    },
    dimension("arc", "chord"),
    dimension("height", "arc"),
    st.lists(st.tuples(dimension("chord"), dimension("rise")), min_size=1, max_size=3),
    st.sampled_from(["across", "up"]),
    zones,
)
grids = st.builds(
    lambda z, r: {
        "kind": "rise_panel",
        "across_mm": [0, 90, 200, 330],
        "up_mm": [0, 70, 160],
        "zones": z,
        "rises": [r[:4], r[4:8], r[8:]],
    },
    zones,
    st.lists(st.one_of(st.none(), st.floats(-50, 80)), min_size=12, max_size=12),
)
inserts = st.builds(
    lambda d, c, h, t: {"kind": "insert", "inside": d, "clearance_mm": c, "hole": h, "tab": t},
    girths,
    st.floats(0, 20),
    st.sampled_from([None, {"form": "slot"}, {"form": "round"}]),
    st.sampled_from([None, {}]),
)
placements = st.fixed_dictionaries(
    {"width_mm": st.floats(1, 300), "up_mm": st.floats(-20, 150)},
    optional={
        "centre_deg": st.floats(-360, 360),
        "across_mm": st.floats(-200, 200),
        "turn_deg": st.floats(-360, 360),
        "repeat": st.integers(1, 9),
        "once_round_mm": st.floats(-20, 20),
        "way": st.sampled_from(["level", "even", "conformal", "flat", "suggested"]),
    },
)
jobs = st.fixed_dictionaries(
    {"blank": st.one_of(cups, panels, bent, inserts, stacks, revolutions, domes, grids)},
    optional={
        "quantity": st.integers(1, 60),
        "wrap": st.builds(
            lambda e, o, t, r, n, j: {
                "extent": e,
                "overlap_mm": o,
                "film_thickness_um": t,
                "relief": r,
                "gores": n,
                "joint_overlap_mm": j,
            },
            st.sampled_from(["full", "free"]),
            st.floats(-5, 8),
            st.floats(0, 300),
            st.sampled_from(["none", "slits", "gores"]),
            st.integers(0, 20),
            st.floats(0, 3),
        ),
        "elements": st.lists(
            st.builds(lambda f, p: element(f, p), st.sampled_from(sorted(DRAWINGS)), placements), max_size=2
        ),
        "layers": st.builds(
            lambda j, o, m, k, f: {
                "joint": j,
                "overlap_mm": o,
                "merge_near": m,
                "marks": {"kind": k},
                "default_film": f,
            },
            st.sampled_from(["auto", "stacked", "knocked_out", "butted"]),
            st.floats(0, 3),
            st.booleans(),
            st.sampled_from(["crosses", "squares", "strips", "corners", "none"]),
            st.sampled_from(["calendered-gloss", "glitter", "brushed", "heat-transfer"]),
        ),
        "sheets": st.builds(
            lambda c, w: {"cutter": c, "weed_box": w}, st.sampled_from(["desktop-mat", "roll-24"]), st.booleans()
        ),
        "price": st.builds(
            lambda p, v: {"price_from": p, "price": v},
            st.sampled_from(["margin", "markup", "price"]),
            st.sampled_from(["0", "3.5", "999"]),
        ),
    },
)


def no_nan(value: Any) -> None:
    """Raises where a number is not one."""
    json.dumps(value, allow_nan=False)


@settings(max_examples=150, deadline=None, suppress_health_check=list(HealthCheck))
@given(jobs)
def test_built_or_refused_in_words(raw: dict[str, Any]) -> None:
    try:
        b = build(load_job(raw), DRAWINGS)
    except WimpleError as bad:
        assert bad.message and bad.hint and bad.field, (bad.code, bad.message)
        inches = bad.as_dict("in_fraction")
        assert " mm" not in f"{inches['message']} {inches['hint']}", inches
        return
    no_nan(make_report(b).model_dump(mode="json"))
    for v in b.verdicts:
        assert math.isfinite(v.value) and "{" not in v.sentence("in_fraction") and v.sentence()
        assert v.level == "ok" or v.remedy or v.fix is not None
    assert b.template is not None and b.template.outline.is_valid and b.template.outline.area > 0
    assert b.layers is not None and b.sheets is not None
    for la in b.layers.layers:
        assert la.region.is_valid and la.area > 0 and la.weeded >= 1
    assert sum(len(s.items) * s.times for s in b.sheets.loads) == len(b.layers.layers) * b.job.quantity


@settings(max_examples=12, deadline=None, suppress_health_check=list(HealthCheck))
@given(jobs)
def test_whatever_is_built_makes_its_files(raw: dict[str, Any]) -> None:
    try:
        b = build(load_job(raw), DRAWINGS)
    except WimpleError:
        assume(False)
        return
    files = {f.path: f.data for f in all_files(b, DRAWINGS)}
    assert load_job(json.loads(files["job.wimple.json"])) == b.job
    assert all(files.values())


@settings(max_examples=40, deadline=None, suppress_health_check=list(HealthCheck))
@given(placements, st.sampled_from(sorted(DRAWINGS)), st.sampled_from(["stacked", "knocked_out"]), st.floats(0.05, 2))
def test_layers_laid_up_show_the_artwork(placement: dict[str, Any], file: str, joint: Any, overlap: float) -> None:
    raw = {
        "blank": {
            "kind": "cup",
            "upper": {"reads": "circumference", "readings": [280]},
            "lower": {"reads": "circumference", "readings": [210]},
            "side": {"reads": "slant", "readings": [110]},
        },
        "elements": [element(file, {**placement, "up_mm": 55, "repeat": 1})],
    }
    try:
        fit = build(load_job(raw), DRAWINGS, "artwork").fit
    except WimpleError:
        assume(False)
        return
    assert fit is not None
    above = shapely.Polygon()
    for c, region in reversed(list(zip(fit.colours, join(fit.colours, lambda a, b: joint, overlap), strict=True))):
        apart = union([difference(difference(region, above), c.seen), difference(c.seen, region)])
        assert apart.area < 2e-5 * (1 + c.seen.length)
        above = union([above, c.seen])


@settings(max_examples=120, deadline=None, suppress_health_check=list(HealthCheck))
@given(st.one_of(stacks, revolutions, domes, grids, st.builds(lambda c, more: {**c, **more}, cups, turned)))
def test_measured_or_refused_in_words(blank: dict[str, Any]) -> None:
    try:
        b = build(load_job({"blank": blank}), {}, "measure")
    except WimpleError as bad:
        assert bad.message and bad.hint and bad.field.startswith("blank"), (bad.code, bad.message)
        return
    no_nan(make_report(b).model_dump(mode="json"))
    for v in b.verdicts:
        assert math.isfinite(v.value) and "{" not in v.sentence("in_fraction")
    whole = b.measured.free.region
    for part in b.measured.free.parts:
        assert part.area > 0 and part.width > 0 and part.height > 0
        assert shapely.box(*part.box).difference(whole).area < 1e-3 * max(whole.area, 1e-9)
