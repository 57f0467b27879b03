"""The whole street: verdicts, caching, sheets, batches, the command."""

from __future__ import annotations

import itertools
import json
from collections import Counter
from pathlib import Path

import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from samples import EXAMPLES, board, cup, drawing, element, example, svg
from wimple_core.built import STAGES
from wimple_core.cache import StageCache
from wimple_core.command import main
from wimple_core.errors import BadDocument, BadDrawing, WimpleError
from wimple_core.job import load_job
from wimple_core.pipeline import build_whole as build
from wimple_core.sheets import Load
from wimple_core.surface.frustum import undevelop

SQUARE = {
    "a.svg": svg('<rect width="100" height="100" fill="#1c3d7a"/><circle cx="50" cy="50" r="30" fill="#efe6c8"/>')
}


def job(**more: object):  # type: ignore[no-untyped-def]
    placement = more.pop("placement", {"width_mm": 40, "up_mm": 45})
    return load_job({**cup(), "elements": [element("a.svg", placement)], **more})


def test_every_step_has_a_verdict(perihelion) -> None:  # type: ignore[no-untyped-def]
    built, _ = perihelion
    assert all(built.levels.values())
    assert all(
        v.sentence(style) and "{" not in v.sentence(style)
        for v in built.verdicts
        for style in ("mm", "in_fraction", "in_decimal")
    )
    assert [la.name for la in built.layers.layers] == ["cream", "gold", "midnight"]
    assert [la.pieces for la in built.layers.layers] == [8, 21, 8]


@pytest.mark.parametrize(
    ("placement", "code", "level"),
    [
        ({"width_mm": 40, "up_mm": 45}, "artwork.keep_out", "ok"),
        ({"width_mm": 40, "up_mm": 10}, "artwork.keep_out", "stop"),
        ({"width_mm": 40, "up_mm": 90}, "artwork.keep_out", "stop"),
        ({"width_mm": 150, "up_mm": 45}, "artwork.keep_out", "stop"),
        ({"width_mm": 60, "up_mm": 45, "way": "flat"}, "artwork.sag", "look"),
        ({"width_mm": 40, "up_mm": 45, "repeat": 8}, "artwork.laps_itself", "stop"),
    ],
)
def test_verdicts_on_placement(placement: dict, code: str, level: str) -> None:
    found = [v for v in build(job(placement=placement), SQUARE, "artwork").verdicts if v.code == code]
    assert found and found[0].level == level


def test_a_remedy_remedies() -> None:
    """Applying a verdict's fix to its field makes the verdict ok."""
    for placement in (
        {"width_mm": 40, "up_mm": 10},
        {"width_mm": 150, "up_mm": 45},
        {"width_mm": 40, "up_mm": 45, "repeat": 8},
    ):
        d = dict(placement)
        bad = next(v for v in build(job(placement=d), SQUARE, "artwork").verdicts if v.level == "stop")
        d[bad.field.split(".")[-1]] = bad.fix
        after = build(job(placement=d), SQUARE, "artwork").verdicts
        assert not [v for v in after if v.code == bad.code and v.level == "stop"]
        if bad.code == "artwork.keep_out" and bad.field.endswith("up_mm"):
            # Moved just clear, not further than it must be.
            clear = next(v for v in after if v.code == "artwork.keep_out")
            assert 0.05 < clear.value < 0.3


def test_handle_keeps_the_decal_out() -> None:
    raw = {
        **cup(handle={"width_mm": 40}),
        "wrap": {"extent": "free"},
        "elements": [element("a.svg", {"width_mm": 40, "up_mm": 45, "centre_deg": -80})],
    }
    bad = next(v for v in build(load_job(raw), SQUARE, "artwork").verdicts if v.code == "artwork.keep_out")
    assert bad.level == "stop" and bad.field.endswith("centre_deg")
    raw["elements"][0]["placements"][0]["centre_deg"] = bad.fix
    assert (
        next(v for v in build(load_job(raw), SQUARE, "artwork").verdicts if v.code == "artwork.keep_out").level == "ok"
    )


@settings(max_examples=25, deadline=None)
@given(
    centre=st.floats(-170, 170),
    up=st.floats(25, 70),
    turn=st.floats(-180, 180),
    way=st.sampled_from(["level", "even", "conformal", "flat"]),
)
def test_artwork_sits_where_it_was_put(centre: float, up: float, turn: float, way: str) -> None:
    """A disc's middle lands on the asked place, whatever the way and turn."""
    disc = {"a.svg": svg('<circle cx="50" cy="50" r="40"/>')}
    b = build(
        job(placement={"width_mm": 6, "up_mm": up, "centre_deg": centre, "turn_deg": turn, "way": way}), disc, "artwork"
    )
    c = b.fit.colours[0].seen.centroid  # type: ignore[union-attr]
    surface = b.template.surface  # type: ignore[union-attr]
    phi, s = undevelop(shapely.get_x(c), shapely.get_y(c), surface.r0, surface.k)  # type: ignore[union-attr]
    assert phi * 57.29577951 == pytest.approx(centre, abs=0.05) and s == pytest.approx(up, abs=0.05)


def test_repeats_are_alike_and_evenly_round() -> None:
    b = build(job(placement={"width_mm": 12, "up_mm": 45, "repeat": 5}), SQUARE, "artwork")
    parts = [g for c in b.fit.colours for g in shapely.get_parts(c.painted) if c.colour == "#1c3d7a"]  # type: ignore[union-attr]
    assert len(parts) == 5
    assert max(p.area for p in parts) == pytest.approx(min(p.area for p in parts), rel=1e-6)


def test_change_is_computed_from_the_first_stage_that_sees_it() -> None:
    cache = StageCache()
    first = build(job(), SQUARE, cache=cache)
    second = build(job(price={"labour_minutes": 20}), SQUARE, cache=cache)
    assert second.layers is first.layers and second.sheets is first.sheets and second.price is not first.price
    third = build(job(placement={"width_mm": 41, "up_mm": 45}), SQUARE, cache=cache)
    assert third.template is first.template and third.fit is not first.fit


def test_same_job_with_and_without_cache() -> None:
    cache = StageCache()
    build(job(), SQUARE, cache=cache)
    moved = job(placement={"width_mm": 40, "up_mm": 50})
    a, b = build(moved, SQUARE, cache=cache), build(moved, SQUARE)
    assert [v.sentence() for v in a.verdicts] == [v.sentence() for v in b.verdicts]


def test_too_wide_for_the_mat_says_by_how_much() -> None:
    raw = {
        "blank": {
            "kind": "panel",
            "width": {"reads": "width", "readings": [800]},
            "height": {"reads": "height", "readings": [600]},
        },
        "elements": [element("a.svg", {"width_mm": 400, "up_mm": 300})],
    }
    b = build(load_job(raw), SQUARE)
    bad = next(v for v in b.verdicts if v.code == "sheets.fits" and v.level == "stop")
    sheet = b.sheets.loads[0]  # type: ignore[union-attr]
    assert bad.value == pytest.approx(max(sheet.width, sheet.height) - 279.4) and bad.fix == "roll-24"
    raw["sheets"] = {"cutter": bad.fix}
    assert all(s.fits for s in build(load_job(raw), SQUARE).sheets.loads)  # type: ignore[union-attr]


def work_of(load: Load):  # type: ignore[no-untyped-def]
    """The pieces and marks on a load."""
    return load.cuts.only("piece", "hole", "mark").region


def test_batches_are_counted() -> None:
    """All sets of all loads together are the batch, and none of a load overlap."""
    for quantity in (1, 5, 12, 23):
        for mats, lay in itertools.product(("one_film", "shared"), ("least", "boxes")):
            sheets = build(job(quantity=quantity, sheets={"mats": mats, "lay": lay}), SQUARE).sheets
            assert sheets
            sets: Counter[str] = Counter()
            for s in sheets.loads:
                for i in s.items:
                    sets[i.item.film_colour] += s.times
                assert work_of(s).area == pytest.approx(shapely.union_all(shapely.get_parts(work_of(s))).area, rel=1e-9)
                assert s.cuts.only("frame").region.buffer(1e-6).contains(work_of(s))
            assert sets == {"#1c3d7a": quantity, "#efe6c8": quantity}


def test_no_marks_no_box_no_drawing() -> None:
    b = build(job(layers={"marks": {"kind": "none"}}, sheets={"weed_box": False}), SQUARE)
    assert any(v.code == "layers.marks" for v in b.verdicts)
    assert build(load_job(cup()), {}).price.cost > 0  # type: ignore[union-attr]


def test_near_colours_merge_and_thin_parts_are_found() -> None:
    d = {
        "a.svg": svg(
            '<rect width="100" height="40" fill="#101010"/><rect y="60" width="100" height="40" fill="#111111"/><rect'
            ' y="49" width="100" height="1" fill="#111111"/><circle cx="50" cy="55" r="1.5" fill="#111111"/>'
        )
    }
    b = build(job(layers={"merge_near": True}), d, "layers")
    (layer,) = b.layers.layers  # type: ignore[union-attr]
    assert len(layer.inspection.thin) == 1 and len(layer.inspection.dots) == 1
    assert len(build(job(), d, "layers").layers.layers) == 2  # type: ignore[union-attr]


@pytest.mark.parametrize(
    ("more", "field", "kind"),
    [
        ({"layers": {"default_film": "gold leaf"}}, "layers.default_film", BadDocument),
        ({"layers": {"films": [{"colour": "#1c3d7a", "film": "paper"}]}}, "layers.films.0.film", BadDocument),
        ({"sheets": {"cutter": "scissors"}}, "sheets.cutter", BadDocument),
        ({"elements": [element("b.svg")]}, "elements.0.source.file", BadDrawing),
    ],
)
def test_what_the_street_cannot_find(more: dict, field: str, kind: type[WimpleError]) -> None:
    raw = {**cup(), "elements": [element("a.svg", {"width_mm": 40, "up_mm": 45})], **more}
    with pytest.raises(kind) as bad:
        build(load_job(raw), SQUARE)
    assert bad.value.field == field and bad.value.hint


def test_beyond_the_tip_of_the_cone() -> None:
    raw = {
        **cup(200, 20, 90, lip_band_mm=0, base_band_mm=0),
        "elements": [element("a.svg", {"width_mm": 100, "up_mm": -20, "way": "level"})],
    }
    with pytest.raises(WimpleError):
        build(load_job(raw), SQUARE)


def test_command_makes_the_files(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert main([str(EXAMPLES / "star-atlas-mug.wimple.json"), "--out", str(tmp_path)]) == 0
    report = json.loads((tmp_path / "report.json").read_text())
    assert len(report["layers"]) == 2 and (tmp_path / "template-letter.pdf").read_bytes()[:5] == b"%PDF-"
    again = tmp_path / "again"
    assert main([str(tmp_path / "job.wimple.json"), "--out", str(again)]) == 0
    other = json.loads((again / "report.json").read_text())
    # What it took differs from one run to the next, and nothing else does.
    took = {t["stage"]: t["ms"] for t in report.pop("took")}
    assert other.pop("took") and other == report
    assert list(took) == list(STAGES) and all(ms >= 0 for ms in took.values()) and took["layers"] > took["price"]


def test_command_takes_a_drawing_on_a_panel(tmp_path: Path) -> None:
    art = tmp_path / "moon.svg"
    art.write_bytes(drawing("moon-band.svg"))
    assert main(["--artwork", str(art), "--panel", "300x200", "--width", "120", "--out", str(tmp_path / "out")]) == 0
    report = json.loads((tmp_path / "out" / "report.json").read_text())
    assert report["body"]["width_mm"] == 300 and report["elements"][0]["width_mm"] == 120


@pytest.mark.parametrize(
    "words",
    [
        ["nowhere.json"],
        ["--artwork", "nowhere.svg", "--panel", "300x200", "--width", "120"],
        ["--artwork", "x.svg", "--panel", "300", "--width", "120"],
        ["--artwork", "x.svg", "--panel", "300x200", "--width", "wide"],
    ],
)
def test_command_says_what_is_wrong(words: list[str], tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert main([*words, "--out", str(tmp_path)]) == 1
    assert capsys.readouterr().err.startswith("wimple: ")


def test_command_says_where_it_cannot_write(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    (tmp_path / "taken").write_text("a file")
    assert main([str(EXAMPLES / "acceptance-cup.wimple.json"), "--out", str(tmp_path / "taken")]) == 1
    assert "cannot be written" in capsys.readouterr().err


def test_demo_jobs_have_no_stop() -> None:
    for name in ("perihelion-cup", "star-atlas-mug", "comet-door"):
        raw = example(name)
        files = {name: drawing(name) for name in load_job(raw).drawings}
        assert "stop" not in build(load_job(raw), files).levels.values()


@pytest.mark.parametrize(("margin", "said"), [(12, "into the margin"), (0, "over the edge")])
@pytest.mark.parametrize("up", [20, 180])
def test_what_runs_over_a_panel_is_said_by_what_is_there(margin: float, said: str, up: float) -> None:
    raw = {
        "blank": {**board(300, 200), "margin_mm": margin},
        "elements": [element("a.svg", {"width_mm": 60, "up_mm": up})],
    }
    bad = next(v for v in build(load_job(raw), SQUARE, "artwork").verdicts if v.level == "stop")
    assert bad.code == "artwork.keep_out" and said in bad.reason
