"""Blanks of every kind: what is refused in words, what looks like a slip, what zones leave, and every example."""

from __future__ import annotations

import io
import json
import math
import struct
from typing import Any

import ezdxf
import numpy as np
import pytest
import shapely
import trimesh
from PIL import Image
from rendering import cap_mesh, jpeg, photograph
from samples import EXAMPLES, cup, dimension, element, laid, svg
from wimple_core.artwork import read_outline
from wimple_core.errors import BadDocument, BadReading, WimpleError
from wimple_core.export import all_files, make_report
from wimple_core.job import load_job
from wimple_core.measure import Measured, files_of, measure, sketch_of
from wimple_core.measure.compare import compare
from wimple_core.measure.mesh import MOST_TRIANGLES, load_mesh
from wimple_core.measure.silhouette import find_outline
from wimple_core.pipeline import build_whole as build
from wimple_core.views.solid import solid_of

NAMES = sorted(p.name.removesuffix(".wimple.json") for p in EXAMPLES.glob("*.wimple.json"))


def files_for(raw: dict[str, Any]) -> dict[str, bytes]:
    job = load_job(raw)
    names = list(job.drawings) + list(files_of(job.blank))
    return {n: (EXAMPLES / "drawings" / n).read_bytes() for n in names if (EXAMPLES / "drawings" / n).is_file()}


def of(kind: str, **fields: Any) -> Measured:
    return measure(load_job({"blank": {"kind": kind, **fields}}).blank)


def codes(m: Measured) -> dict[str, str]:
    return {v.code: v.level for v in m.verdicts}


@pytest.mark.parametrize("name", NAMES)
def test_every_example_is_measured_and_reported(name: str) -> None:
    """Readings, body, free areas and figures with their spread; a drawing and a solid to show; files that build
    again."""
    raw = json.loads((EXAMPLES / f"{name}.wimple.json").read_text(encoding="utf-8"))
    files = files_for(raw)
    job = load_job(raw)
    b = build(job, files)
    report = make_report(b).model_dump(mode="json")
    json.dumps(report, allow_nan=False)
    assert report["readings"] and all(r["error_mm"] > 0 for r in report["readings"])
    assert report["figures"] and all(f["error"] >= 0 for f in report["figures"])
    if job.blank.kind != "mesh":
        assert report["free_areas"][0]["area_mm2"] > 0 and report["free_areas"][0]["area_error_mm2"] > 0
        assert all(f["error"] > 0 and f["again_first"] for f in report["figures"])
    if job.blank.kind in ("cup", "stack", "revolution"):
        assert report["seam"]["gap_top_mm"] > 0 and report["seam"]["again_first"]
        assert len(report["seam"]["rings_mm"]) >= 2
    sketch, solid = sketch_of(b.measured), solid_of(b.measured)
    assert solid.size[1] > 0 and min(
        len(part) for part in (solid.line, solid.positions, [solid.plate]) if part is not None
    )
    if True:
        fields = {d.field.removeprefix("blank.") for d in sketch.dimensions} | {
            m.field.removeprefix("blank.") for m in sketch.marks
        }
        assert set(b.measured.readings) <= fields, "every reading has its place on the drawing"
    again = {f.path: f.data for f in all_files(b, files)}
    kept = {p.removeprefix("drawings/"): d for p, d in again.items() if p.startswith("drawings/")}
    assert (
        build(load_job(json.loads(again["job.wimple.json"])), kept, "measure").measured.consequences
        == b.measured.consequences
    )


def round_body(**fields: Any) -> dict[str, Any]:
    return {
        "rings": [
            {"height": dimension("upright", z), "girth": dimension("diameter", d, instrument="calliper")}
            for z, d in ((1, 70), (40, 84), (90, 76))
        ],
        **fields,
    }


GRID = {"across_mm": [0, 100, 200], "up_mm": [0, 80, 160], "rises": [[0, 5, 0], [4, 9, 4], [0, 5, 0]]}


@pytest.mark.parametrize(
    ("kind", "fields", "field"),
    [
        (
            "revolution",
            round_body(
                rings=[{"height": dimension("upright", z), "girth": dimension("diameter", 80)} for z in (1, 40, 30)]
            ),
            "rings.2.height",
        ),
        (
            "revolution",
            round_body(
                rings=[
                    {"height": dimension("upright", z), "girth": dimension("diameter", d)}
                    for z, d in ((1, 80), (40, 2), (44, 80), (90, 80))
                ]
            ),
            "rings.",
        ),
        (
            "stack",
            {
                "base": dimension("circumference", 200),
                "sections": [{"upper": dimension("circumference", 500), "side": dimension("slant", 20)}],
            },
            "sections.0.side",
        ),
        ("dome", {"base": dimension("diameter", 100), "rise": dimension("rise", 51)}, "rise.readings.0"),
        (
            "curved_panel",
            {
                "width": dimension("arc", 600),
                "height": dimension("height", 300),
                "places": [{"chord": dimension("chord", 100), "rise": dimension("rise", 60)}],
            },
            "places.0.rise",
        ),
        (
            "curved_panel",
            {
                "width": dimension("chord", 600),
                "height": dimension("height", 300),
                "places": [{"chord": dimension("chord", 100), "rise": dimension("rise", 40)}],
            },
            "width",
        ),
        ("rise_panel", {**GRID, "rises": [[0, 5, 0], [4, None, 4], [0, 5, 0]]}, "rises.1.1.0"),
        ("rise_panel", {**GRID, "rises": [[0, 5, 0], [4, 9], [0, 5, 0]]}, "rises.1"),
        ("rise_panel", {**GRID, "rises": [[0, 5, 0], [4, 9, 4]]}, "rises"),
        ("rise_panel", {**GRID, "across_mm": [0, 200, 100]}, "across_mm.2"),
        (
            "panel",
            {
                "shape": "rounded",
                "width": dimension("width", 50),
                "height": dimension("height", 40),
                "corner": dimension("radius", 30),
            },
            "corner",
        ),
        ("panel", {"width": dimension("width", 50), "height": dimension("height", 40), "margin_mm": 20}, "margin_mm"),
        (
            "panel",
            {
                "width": dimension("width", 50),
                "height": dimension("height", 40),
                "zones": [{"form": "band", "low_mm": -1, "high_mm": 41}],
            },
            "zones.0",
        ),
        (
            "panel",
            {
                "width": dimension("width", 50),
                "height": dimension("height", 40),
                "zones": [{"form": "band", "low_mm": 9, "high_mm": 3}],
            },
            "zones.0.high_mm",
        ),
        (
            "panel",
            {
                "width": dimension("width", 50),
                "height": dimension("height", 40),
                "zones": [{"form": "polygon", "points": [[0, 0], [20, 20], [20, 0], [0, 20]]}],
            },
            "zones.0.points",
        ),
        ("insert", {"inside": dimension("diameter", 20), "clearance_mm": 11}, "clearance_mm"),
        ("insert", {"inside": dimension("diameter", 17), "hole": {"form": "slot"}}, "hole.width_mm"),
        ("insert", {"inside": dimension("diameter", 20), "tab": {"width_mm": 25}}, "tab.width_mm"),
        (
            "cup",
            cup(trials=[{"top_mm": -300, "bottom_mm": 0, "template_top_mm": 262, "template_bottom_mm": 205}])["blank"],
            "trials.0.top_mm",
        ),
        ("cup", cup(handle={"free_width": dimension("width", 300)})["blank"], "handle.free_width"),
        ("cup", cup(level={"given": "height", "height_mm": 200})["blank"], "level.height_mm"),
        ("cup", cup(level={"given": "volume", "volume_ml": 2000})["blank"], "level.volume_ml"),
        ("cup", cup(level={"given": "volume", "volume_ml": 200}, wall="double")["blank"], "level.given"),
    ],
)
def test_what_no_blank_can_be(kind: str, fields: dict[str, Any], field: str) -> None:
    with pytest.raises(BadReading) as bad:
        of(kind, **{k: v for k, v in fields.items() if k != "kind"})
    assert bad.value.field.startswith(f"blank.{field}") and bad.value.hint


@pytest.mark.parametrize(
    ("blank", "field"),
    [
        ({"kind": "teapot"}, "blank"),
        ({"kind": "mesh", "file": "a.stl"}, "blank.unit"),
        ({"kind": "panel", "shape": "ellipse", "width": dimension("width", 5)}, "blank"),
        ({"kind": "panel", "shape": "circle", "width": dimension("width", 5)}, "blank"),
        (
            {
                "kind": "panel",
                "width": dimension("width", 5),
                "height": dimension("height", 5),
                "zones": [{"form": "blob"}],
            },
            "blank.zones.0",
        ),
        ({"kind": "rise_panel", "across_mm": [0, 1], "up_mm": [0, 1, 2], "rises": []}, "blank.across_mm"),
        ({"kind": "revolution", "rings": []}, "blank.rings"),
    ],
)
def test_documents_that_hold_no_blank(blank: dict[str, Any], field: str) -> None:
    with pytest.raises(BadDocument) as bad:
        load_job({"blank": blank})
    assert bad.value.field == field and bad.value.hint and bad.value.message


# Sense checks: what is typed, the code that must speak, and the reading that comes of applying its remedy.


def remedied(raw: dict[str, Any], code: str) -> Measured:
    """The blank once the verdict's remedy is applied, as the screen applies it."""
    m = measure(load_job(raw).blank)
    v = next(v for v in m.verdicts if v.code == code and (v.fix is not None or v.fixes))
    changes = dict(v.fixes) | ({v.field: v.fix} if v.fix is not None else {})
    for path, value in changes.items():
        at: Any = raw
        *way, last = path.split(".")
        for step in way:
            at = at[int(step)] if isinstance(at, list) else at[step]
        at[int(last) if isinstance(at, list) else last] = value
    return measure(load_job(raw).blank)


def test_one_reading_in_inches_among_millimetres() -> None:
    raw = cup()
    raw["blank"]["upper"]["readings"] = [262.4, 262.6, 10.33, 262.5]
    assert codes(measure(load_job(raw).blank))["measure.outlier"] == "stop"
    fixed = remedied(raw, "measure.outlier")
    assert "measure.outlier" not in codes(fixed) and fixed.readings["upper"].mean == pytest.approx(262.5, abs=0.1)


def test_a_reading_that_stands_apart_is_taken_out() -> None:
    raw = cup()
    raw["blank"]["lower"]["readings"] = [205.0, 205.3, 205.1, 211.0, 204.9]
    m = measure(load_job(raw).blank)
    assert m.readings["lower"].outlier == 3 and codes(m)["measure.outlier"] == "look"
    assert remedied(raw, "measure.outlier").readings["lower"].count == 4


@pytest.mark.parametrize(
    ("raw", "code"),
    [
        (cup(262.5, 205 / math.pi, 96), "measure.kind_of_reading"),  # a diameter typed as a circumference
        (cup(262.5 / 25.4, 205 / 25.4, 96 / 25.4, lip_band_mm=0, base_band_mm=0), "measure.inches"),
        (cup(262.5, 205, 96 / 25.4, lip_band_mm=0, base_band_mm=0) | {}, "measure.inches"),
    ],
)
def test_slips_offer_their_remedy(raw: dict[str, Any], code: str) -> None:
    if code == "measure.inches" and raw["blank"]["side"]["readings"] == [96 / 25.4]:
        raw["blank"]["side"]["reads"] = "upright"
    assert codes(measure(load_job(raw).blank))[code] == "stop"
    m = remedied(raw, code)
    assert code not in codes(m)
    assert m.body.radius_upper == pytest.approx(262.5 / 2 / math.pi, rel=0.01) and m.body.radius_lower == pytest.approx(
        205 / 2 / math.pi, rel=0.01
    )  # type: ignore[union-attr]
    assert m.body.slant == pytest.approx(96, rel=0.02)  # type: ignore[union-attr]


def test_capacity_offers_its_remedy() -> None:
    raw = cup(262.5 / math.pi, 205.0 / math.pi, 96.0, capacity_ml=350)
    assert remedied(raw, "measure.capacity").body.radius_upper == pytest.approx(262.5 / 2 / math.pi)  # type: ignore[union-attr]


def test_round_and_across_held_against_each_other() -> None:
    raw = cup()
    raw["blank"]["upper"]["check"] = dimension("diameter", 83.4, instrument="calliper")
    assert codes(measure(load_job(raw).blank))["measure.cross_check"] == "ok"
    raw["blank"]["upper"]["check"]["readings"] = [86.0]
    assert codes(measure(load_job(raw).blank))["measure.cross_check"] == "stop"
    raw["blank"]["upper"] = dimension("circumference", 83.4, check=dimension("diameter", 262.5))
    assert remedied(raw, "measure.cross_check").body.radius_upper == pytest.approx(262.5 / 2 / math.pi, rel=0.01)  # type: ignore[union-attr]


def test_slant_and_upright_exchanged() -> None:
    raw = cup(300, 180, 96)
    upright = math.sqrt(96**2 - (120 / 2 / math.pi) ** 2)
    raw["blank"]["side"] = dimension(
        "slant", upright, instrument="calliper", check=dimension("upright", 96, instrument="calliper")
    )
    assert remedied(raw, "measure.cross_check").body.slant == pytest.approx(96, abs=0.01)  # type: ignore[union-attr]


def test_out_of_round_and_vehicle_and_neighbours() -> None:
    raw = cup()
    raw["blank"]["upper"] = dimension("diameter", 82.0, 84.5, instrument="calliper")
    assert codes(measure(load_job(raw).blank))["measure.out_of_round"] == "look"
    sizes = {"width": dimension("width", 500), "height": dimension("height", 300)}
    assert codes(of("panel", **sizes, on_vehicle=True))["measure.vehicle"] == "look"
    assert (
        codes(
            of("panel", **sizes, on_vehicle=True, zones=[{"form": "band", "kind": "plate", "low_mm": 0, "high_mm": 20}])
        )["measure.vehicle"]
        == "ok"
    )
    x = list(range(0, 500, 100))
    rises = [[[20 - (a - 200) ** 2 / 3000 - (b - 200) ** 2 / 4000] for a in x] for b in x]
    fair = {"across_mm": x, "up_mm": x, "rises": rises}
    assert "measure.rise_apart" not in codes(of("rise_panel", **fair))
    rises[2][3] = [rises[2][3][0] + 20]
    m = of("rise_panel", **fair)
    assert next(v for v in m.verdicts if v.code == "measure.rise_apart").field == "blank.rises.2.3.0"


# Zones and faces.


def test_zones_leave_what_they_must() -> None:
    """A seam 6 mm wide round the back and a 20 by 10 mm label: the free area is short of just those, on the body."""
    whole = measure(load_job(cup()).blank)
    zones = [
        {"form": "sector", "kind": "seam", "centre_deg": 180, "width_mm": 6},
        {"form": "polygon", "kind": "label", "points": [[-10, 30], [10, 30], [10, 40], [-10, 40]]},
    ]
    left = measure(load_job(cup(zones=zones)).blank)
    tall = whole.free.high - whole.free.low
    area = lambda m: sum(p.area for p in m.free.parts)  # noqa: E731
    assert area(whole) - area(left) == pytest.approx(6 * tall + 20 * 10, rel=2e-3)
    assert [z.name for z in left.free.zones] == ["moulded seam", "warning label"]
    assert (
        shapely.box(*left.free.parts[0].box).intersection(shapely.union_all([z.region for z in left.free.zones])).area
        < 1e-3
    )
    assert left.consequence("free_area").value == pytest.approx(area(left), rel=2e-3)  # type: ignore[union-attr]


def test_free_width_beside_a_handle() -> None:
    """The mug of the trade: 3 by 4 in free beside the handle (common practice, no source), read as it is done by
    hand."""
    raw = cup(
        260,
        260,
        110,
        handle={"free_width": dimension("width", "4 in"), "free_height": dimension("height", "3 in")},
        lip_band_mm=12,
        base_band_mm=6,
    )
    m = measure(load_job(raw).blank)
    around = 2 * math.pi * m.body.radius_upper  # type: ignore[union-attr]
    assert m.free.handle_width == pytest.approx(around - 101.6) and m.free.high - m.free.low == pytest.approx(76.2)
    assert m.free.parts[0].width == pytest.approx(101.6) and m.free.parts[0].readable == pytest.approx(around / 3)
    free = m.consequence("free_area")
    assert free is not None and {n for n, _ in free.shares} == {"handle.free_width", "handle.free_height"}


@pytest.mark.parametrize(("decals", "centres"), [(1, [0]), (2, [0, math.pi])])
def test_both_sides(decals: int, centres: list[float]) -> None:
    m = measure(load_job(cup(handle={"width_mm": 40}, faces="both", decals=decals)).blank)
    assert [f.centre for f in m.free.faces] == pytest.approx(
        centres, abs=0.06
    )  # the handle's strip reaches a little into the view
    for f in m.free.faces:
        assert f.width <= 2 * math.pi / 3 * m.body.radius_upper and f.height > 50  # type: ignore[union-attr]
    assert abs(m.free.handle or 0) == pytest.approx(math.pi if decals == 1 else math.pi / 2)


def test_a_drawing_over_a_zone_is_stopped() -> None:
    raw = cup(zones=[{"form": "sector", "kind": "label", "name": "care label", "centre_deg": 20, "width_mm": 12}])
    raw["elements"] = [element("a.svg", {"width_mm": 40, "up_mm": 45})]
    square = svg('<rect width="40" height="20" fill="#c00"/>')
    fit = build(load_job(raw), {"a.svg": square}, "artwork").fit
    assert fit is not None
    hit = next(v for v in fit.verdicts if v.code == "artwork.zone")
    assert hit.level == "stop" and "care label" in hit.sentence() and hit.places and 200 < hit.value < 260
    raw["blank"]["zones"][0]["centre_deg"] = 180
    assert not any(v.code == "artwork.zone" for v in build(load_job(raw), {"a.svg": square}, "artwork").fit.verdicts)  # type: ignore[union-attr]


def test_the_zones_lie_flat_where_they_are() -> None:
    """On the template a zone keeps its area, and every panel's template is the panel."""
    job = load_job(cup(zones=[{"form": "sector", "centre_deg": 40, "width_mm": 10, "low_mm": 20, "high_mm": 60}]))
    template = laid(job.wrap, measure(job.blank))
    assert template.zones[0].region.area == pytest.approx(10 * 40, rel=3e-3)
    assert template.free.intersection(template.zones[0].region).area < 0.01
    hexagon = load_job({"blank": {"kind": "panel", "shape": "hexagon", "width": dimension("across_flats", 100)}})
    assert laid(hexagon.wrap, measure(hexagon.blank)).outline.area == pytest.approx(100**2 * math.sqrt(3) / 2)


def test_compare_two_measurements() -> None:
    """The same cup measured again with an hour's scatter is the same; one 3 mm larger round the top is not."""
    first = measure(load_job(cup()).blank)
    assert compare(first, measure(load_job(cup(262.9, 204.8, 96.2)).blank), True).level == "ok"
    other = compare(first, measure(load_job(cup(266.0)).blank), True)
    assert other.level == "stop" and "round the top" in other.sentence
    assert not compare(first, of("dome", base=dimension("diameter", 100), rise=dimension("rise", 20)), False).same_kind


# Outlines, meshes and photographs that cannot be used.


def dxf(draw: Any) -> bytes:
    document = ezdxf.new()
    draw(document.modelspace())
    out = io.StringIO()
    document.write(out)
    return out.getvalue().encode()


def test_outlines_of_dxf_and_svg() -> None:
    def rounded_with_hole(space: Any) -> None:
        space.add_line((0, 0), (80, 0))
        space.add_arc((80, 20), 20, -90, 90)
        space.add_line((80, 40), (0, 40))
        space.add_line((0, 40), (0, 0))
        space.add_circle((40, 20), 5)

    area = 80 * 40 + math.pi * 400 / 2 - math.pi * 25
    assert read_outline(dxf(rounded_with_hole), "a.dxf").area == pytest.approx(area, rel=1e-3)
    assert read_outline(svg('<rect x="5" y="5" width="60" height="30"/>'), "a.svg").area == pytest.approx(
        1800, rel=1e-6
    )
    line = svg('<rect x="5" y="5" width="60" height="30" fill="none" stroke="#000" stroke-width="2"/>')
    assert read_outline(line, "a.svg").area == pytest.approx(1800, rel=1e-3)


@pytest.mark.parametrize(
    ("data", "name"),
    [
        (b"hello", "a.dxf"),
        (b"", "a.dxf"),
        (dxf(lambda s: s.add_text("x")), "a.dxf"),
        (dxf(lambda s: s.add_line((0, 0), (1, 1))), "a.dxf"),
        (b"<svg/>", "a.svg"),
        (svg('<path d="M0 0L10 10" stroke="none"/>'), "a.svg"),
        (b"x", "a.bmp"),
    ],
)
def test_outlines_that_are_none(data: bytes, name: str) -> None:
    with pytest.raises(WimpleError) as bad:
        read_outline(data, name)
    assert bad.value.hint and not bad.value.field


def exported(kind: str) -> bytes:
    data = cap_mesh(50, 60, 8, 24).export(file_type=kind)
    return data if isinstance(data, bytes) else data.encode()


@pytest.mark.parametrize("kind", ["stl", "obj", "ply"])
def test_meshes_are_read_whole_and_refused_cut_short(kind: str) -> None:
    data = exported(kind)
    mesh = load_mesh(data, f"a.{kind}")
    assert mesh.area == pytest.approx(2 * math.pi * 50**2 * (1 - math.cos(math.pi / 3)), rel=0.02)
    if kind != "obj":
        for share in (0.2, 0.6, 0.97):
            with pytest.raises(BadReading):
                load_mesh(data[: int(len(data) * share)], f"a.{kind}")


@pytest.mark.parametrize(
    ("data", "name", "says"),
    [
        (b"", "a.stl", "empty"),
        (b"\x00" * 80 + struct.pack("<I", 1_000_000) + b"\x00" * 50_000_000, "a.stl", "1,000,000"),
        (b"\x00" * 80 + struct.pack("<I", 400) + b"\x00" * 50 * 12, "a.stl", "cut short"),
        (b"v 0 0 0\nv 1 0 0\nv 0 1 0\n", "a.obj", "no triangles"),
        (b"v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 9\n", "a.obj", "cut short"),
        (
            (
                b"ply\nformat ascii 1.0\nelement vertex 2\nproperty float x\nproperty float y\nproperty float"
                b" z\nend_header\n0 0 0\n1 1 1\n"
            ),
            "a.ply",
            "no triangles",
        ),
        (b"%PDF-1.4", "a.stl", "cannot be read"),
        (b"solid x\nfacet normal 0 0 1\nouter loop\nvertex 0 0 0\n", "a.stl", "cut short"),
        (b"x", "a.3ds", "not a mesh"),
        (exported("obj").replace(b"v 0.00000000", b"v nan", 1), "a.obj", "not numbers"),
    ],
)
def test_meshes_that_are_no_surface(data: bytes, name: str, says: str) -> None:
    with pytest.raises(BadReading) as bad:
        load_mesh(data, name)
    assert bad.value.hint and not bad.value.field
    assert says in bad.value.message or (
        says in ("cannot be read", "not numbers", "cut short") and "cut short" in bad.value.message
    ), bad.value.message
    assert MOST_TRIANGLES < 1_000_000


def test_a_mesh_stands_upright_in_its_unit() -> None:
    tall = trimesh.creation.cylinder(radius=4, height=12, sections=64)  # z up, centimetres
    job = load_job(
        {
            "blank": {
                "kind": "mesh",
                "file": "a.stl",
                "unit": "cm",
                "check": dimension("height", 120.3, instrument="ruler"),
            }
        }
    )
    files = {"a.stl": tall.export(file_type="stl")}
    m = build(job, files, "measure").measured
    assert (
        m.body.width == pytest.approx(80, rel=2e-3)
        and m.body.height == pytest.approx(120)
        and codes(m)["measure.mesh_size"] == "ok"
    )  # type: ignore[union-attr]
    assert m.volume_ml == pytest.approx(math.pi * 16 * 12, rel=5e-3)
    wrong = load_job({"blank": {"kind": "mesh", "file": "a.stl", "unit": "mm", "check": dimension("height", 120.3)}})
    verdict = next(v for v in build(wrong, files, "measure").measured.verdicts if v.code == "measure.mesh_size")
    assert verdict.level == "stop" and verdict.fixes == {"blank.unit": "cm"}
    with pytest.raises(BadReading, match="not there"):
        build(job, {}, "measure")


def png(picture: np.ndarray) -> bytes:
    out = io.BytesIO()
    Image.fromarray(picture).save(out, "PNG")
    return out.getvalue()


def test_photographs_that_cannot_be_used() -> None:
    plain = np.full((600, 800, 3), 200, np.uint8)
    noisy = np.random.default_rng(0).integers(0, 255, (600, 800, 3)).astype(np.uint8)
    good = jpeg(photograph(lambda z: np.full_like(np.asarray(z, float), 40.0), 90.0, size=(800, 600))[0])
    huge = io.BytesIO()
    Image.new("1", (9000, 9000)).save(huge, "PNG")
    for data, says in (
        (b"no picture", "not a picture"),
        (png(plain), "stands out"),
        (png(noisy), "stands out"),
        (good[: len(good) // 3], "cut short"),
        (huge.getvalue(), "megapixels"),
        (png(plain[:100, :100]), "pixels"),
        (b"", "not a picture"),
    ):
        with pytest.raises(BadReading) as bad:
            find_outline(data)
        assert says in bad.value.message or (says == "stands out" and "ground" in bad.value.message), bad.value.message
        assert bad.value.hint and not bad.value.field


def test_a_photograph_checks_the_readings() -> None:
    raw = json.loads((EXAMPLES / "bellied-mug.wimple.json").read_text(encoding="utf-8"))
    files = files_for(raw)
    m = build(load_job(raw), files, "measure").measured
    assert codes(m)["measure.photo"] == "ok" and m.photo is not None
    assert max(abs(c.by_photo - c.by_hand) for c in m.photo.checks) < 0.5
    raw["blank"]["rings"][2]["girth"]["readings"] = [88.0]
    wrong = next(v for v in build(load_job(raw), files, "measure").measured.verdicts if v.code == "measure.photo")
    assert wrong.level == "stop" and wrong.field == "blank.rings.2.girth.readings.0"
    raw["blank"]["photo"]["known"] = [[1, 1], [2, 2]]
    with pytest.raises(BadReading) as bad:
        build(load_job(raw), files, "measure")
    assert bad.value.field == "blank.photo.known"
