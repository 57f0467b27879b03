"""Elements of a job: read from earlier versions, told by ids, placed more than once, pieces left out."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import shapely
from samples import EXAMPLES, board, element, svg
from wimple_core.built import Build
from wimple_core.errors import BadDrawing, WimpleError
from wimple_core.job import load_job
from wimple_core.job.upgrades import VERSION
from wimple_core.pipeline import build, build_whole

FIXTURES = Path(__file__).parents[1] / "fixtures" / "version-1"
PANEL = board(300, 200)
FACE = svg(
    '<circle cx="50" cy="50" r="40" fill="#d8a21b"/><circle cx="35" cy="40" r="6" fill="#101010"/>'
    '<circle cx="65" cy="40" r="6" fill="#101010"/><path d="M30 62h40v8h-40z" fill="#b3262e"/>'
)


def built(element: dict[str, Any], **more: Any) -> Build:
    return build(load_job({"blank": PANEL, "elements": [element], **more}), {"a.svg": FACE})


@pytest.mark.parametrize("path", sorted(FIXTURES.glob("*.json")), ids=lambda p: p.name.partition(".")[0])
def test_every_job_of_version_1_reads_as_the_same_job(path: Path) -> None:
    """What version 1 kept of a drawing is where version 2 keeps it, and the blank and all plans are as they were."""
    old = json.loads(path.read_text(encoding="utf-8"))
    job = load_job(old)
    assert job.version == VERSION
    new = json.loads(job.model_dump_json())
    now = load_job(json.loads((EXAMPLES / path.name).read_text(encoding="utf-8")))
    assert job == now
    for n, drawing in enumerate(old.get("drawings", [])):
        there = new["elements"][n]
        assert there["source"]["file"] == drawing["file"]
        for name, value in drawing.get("placement", {}).items():
            assert there["placements"][0][name] == value
    assert len(new["elements"]) == len(old.get("drawings", []))


@pytest.mark.parametrize("path", sorted((FIXTURES.parent / "version-2").glob("*.json")), ids=lambda p: p.name[:6])
def test_every_job_of_version_2_reads_as_the_same_job(path: Path) -> None:
    now = load_job(json.loads((EXAMPLES / path.name).read_text(encoding="utf-8")))
    assert load_job(json.loads(path.read_text(encoding="utf-8"))) == now and now.version == VERSION


def test_ids_are_given_once_and_kept() -> None:
    plain = {"source": {"kind": "file", "file": "a.svg"}}
    job = load_job({"blank": PANEL, "elements": [plain, {**plain, "id": "e1"}, plain]})
    ids = [e.id for e in job.elements]
    assert len(set(ids)) == 3 and ids[1] == "e1"
    assert [e.id for e in load_job(json.loads(job.model_dump_json())).elements] == ids
    with pytest.raises(WimpleError) as bad:
        load_job({"blank": PANEL, "elements": [{**plain, "id": "e1"}, {**plain, "id": "e1"}]})
    assert bad.value.faults[0].field == "elements"


def test_a_piece_left_out_shows_what_lies_beneath() -> None:
    """The disc without one eye is whole there: its area grows by the eye's, and no other piece changes its name."""
    whole = built(element("a.svg", {"width_mm": 80, "up_mm": 100}))
    assert whole.fit
    eyes = next(c for c in whole.fit.colours if c.colour == "#101010")
    assert len(eyes.names) == 2
    lost = eyes.names[0].partition("/")[2]
    one = {**element("a.svg", {"width_mm": 80, "up_mm": 100}), "edits": [{"kind": "leave_out", "pieces": [lost]}]}
    less = built(one).whole()
    assert less.fit
    seen = {c.colour: c for c in whole.fit.colours}
    now = {c.colour: c for c in less.fit.colours}
    assert now["#101010"].names == eyes.names[1:]
    eye = shapely.get_parts(seen["#101010"].seen)[0].area
    assert now["#d8a21b"].seen.area - seen["#d8a21b"].seen.area == pytest.approx(eye, rel=1e-6)
    assert now["#b3262e"].names == seen["#b3262e"].names and now["#d8a21b"].names == seen["#d8a21b"].names


def test_a_piece_that_is_not_there_is_said() -> None:
    """It is named at its edit, and the rest of the edit is done; a drawing all left out is refused there."""
    whole = built(element("a.svg", {"width_mm": 80, "up_mm": 100})).whole()
    names = [n.partition("/")[2] for c in whole.fit.colours for n in c.names]  # type: ignore[union-attr]
    one = {**element("a.svg", {"width_mm": 80, "up_mm": 100}), "edits": [{"kind": "leave_out", "pieces": ["99"]}]}
    (lost,) = [v for v in built(one).whole().verdicts if v.code == "artwork.lost_piece"]
    assert lost.field == "elements.0.edits.0" and lost.level == "look" and "99" in lost.sentence()
    one["edits"] = [{"kind": "leave_out", "pieces": names}]
    while True:
        # What lies beneath comes to light, and has names of its own.
        try:
            now = built(one).whole()
        except BadDrawing as bad:
            assert bad.faults[0].field == f"elements.0.edits.{len(one['edits']) - 1}"
            return
        left = [n.partition("/")[2] for c in now.fit.colours for n in c.names]  # type: ignore[union-attr]
        one["edits"].append({"kind": "leave_out", "pieces": left})


def test_an_element_placed_twice_is_there_twice_under_names_of_its_own() -> None:
    places = [{"width_mm": 60, "up_mm": 100, "across_mm": x} for x in (-80, 80)]
    b = built({**element("a.svg", places[0]), "placements": places}).whole()
    assert b.fit and b.layers and b.sheets
    assert [d.at for d in b.fit.drawings] == ["placements.0", "placements.1"]
    for c in b.fit.colours:
        assert len(set(c.names)) == len(c.names)
        half = shapely.box(-150, 0, 0, 200)
        assert c.seen.intersection(half).area == pytest.approx(c.seen.area / 2, rel=1e-6)
    ids = {i for layer in b.layers.layers for i in layer.cuts.ids}
    assert len(ids) == 8 and ids == {i for load in b.sheets.loads for i in load.cuts.ids}


@pytest.mark.parametrize("change", [{"width_mm": 81.7}, {"width_mm": 20}, {"turn_deg": 37}, {"across_mm": 20}])
def test_pieces_keep_their_names_wherever_they_lie(change: dict[str, float]) -> None:
    def names(placement: dict[str, Any]) -> dict[str, set[str]]:
        fit = built(element("a.svg", placement)).whole().fit
        assert fit
        return {c.colour: set(c.names) for c in fit.colours}

    assert names({"width_mm": 80, "up_mm": 100}) == names({"width_mm": 80, "up_mm": 100, **change})


def test_a_drawing_that_moves_as_one_is_the_same_as_laid_anew() -> None:
    """Layers that were moved rigidly are those that would be made where they lie, on a mug and on a door."""
    from wimple_core.cache import StageCache
    from wimple_core.views.scene import SceneWriter

    for name in ("star-atlas-mug", "comet-door"):
        raw = json.loads((EXAMPLES / f"{name}.wimple.json").read_text(encoding="utf-8"))
        files = {p.name: p.read_bytes() for p in (EXAMPLES / "drawings").iterdir()}
        place, cache = raw["elements"][0]["placements"][0], StageCache()
        build_whole(load_job(raw), files, cache=cache)
        place["up_mm"] += 3.25
        place["across_mm" if "door" in name else "centre_deg"] = 21.0
        moved, anew = (build_whole(load_job(raw), files, cache=c) for c in (cache, StageCache()))
        assert moved.layers and anew.layers and moved.fit and moved.fit.still
        for a, b in zip(moved.layers.layers, anew.layers.layers, strict=True):
            assert (a.pieces, a.weeded, a.cuts.ids) == (b.pieces, b.weeded, b.cuts.ids)
            assert a.region.symmetric_difference(b.region).area < 1e-6
            assert a.seen.symmetric_difference(b.seen).area < 1e-6
            assert np.allclose(a.inspection.thin, b.inspection.thin) and np.allclose(
                a.inspection.dots, b.inspection.dots
            )
        assert [v.sentence() for v in moved.verdicts] == [v.sentence() for v in anew.verdicts]
        # What a screen is sent: contours that stay as they are, and where they lie.
        still, there = (
            json.loads(SceneWriter(m, "mm", "artwork", StageCache()).json())["parts"] for m in (moved, anew)
        )
        assert still["paints"]["digest"] == there["paints"]["digest"]
        lies, surface = still["lies"]["data"], moved.template.surface  # type: ignore[union-attr]
        drawn = [r for w in still["worn"]["data"] for r in w["rings"]]
        low = min(min(r[1::2]) for r in drawn) + lies["ds"]
        left = min(min(r[::2]) for r in drawn) + lies["da"]
        regions = shapely.get_coordinates([la.seen for la in moved.layers.layers])
        a, s = surface.wrap(regions[:, 0], regions[:, 1])
        # It is thinned to 0.04 mm for the object.
        assert (left, low) == pytest.approx((a.min(), s.min()), abs=0.041)
