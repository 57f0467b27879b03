"""Patches that are no disc, choosing one, and what is cut into the files."""

from __future__ import annotations

import json
import math
from typing import Any

import ezdxf
import numpy as np
import pytest
import trimesh
from rendering import cap_mesh
from samples import EXAMPLES, element, svg
from wimple_core.errors import BadDocument, BadReading, NotMade
from wimple_core.export import all_files
from wimple_core.job import load_job
from wimple_core.pipeline import build as build_so_far
from wimple_core.pipeline import build_whole as build
from wimple_core.pipeline import make_slow
from wimple_core.slow import Wanted
from wimple_core.surface.patch import check_disc


def mesh_job(mesh: trimesh.Trimesh, **wrap: Any) -> tuple[Any, dict[str, bytes]]:
    raw = {"blank": {"kind": "mesh", "file": "a.ply", "unit": "mm", "up": "z"}, "wrap": wrap}
    return load_job(raw), {"a.ply": mesh.export(file_type="ply")}


def cap() -> tuple[np.ndarray, np.ndarray]:
    mesh = cap_mesh(50, 40, 8, 24)
    return np.asarray(mesh.vertices), np.asarray(mesh.faces, dtype=np.int64)


def spoil(kind: str) -> tuple[np.ndarray, np.ndarray]:
    space, triangles = cap()
    if kind == "closed":
        ball = trimesh.creation.icosphere(2, 40)
        return np.asarray(ball.vertices), np.asarray(ball.faces, dtype=np.int64)
    if kind == "hole":
        return space, np.delete(triangles, 200, axis=0)
    if kind == "two shells":
        return np.vstack([space, space + (200, 0, 0)]), np.vstack([triangles, triangles + len(space)])
    if kind == "three at an edge":
        return np.vstack([space, [[0, 0, 90]]]), np.vstack(
            [triangles, [[triangles[0, 0], triangles[0, 1], len(space)]]]
        )
    raise AssertionError(kind)


@pytest.mark.parametrize(
    ("kind", "says"),
    [("closed", "closed"), ("hole", "hole"), ("two shells", "parts"), ("three at an edge", "more than two")],
)
def test_patches_that_are_no_disc(kind: str, says: str) -> None:
    """Named, with what to do, and with the place on the body where there is one."""
    with pytest.raises(BadReading) as bad:
        check_disc(*spoil(kind))
    assert says in bad.value.message and bad.value.hint
    assert kind == "closed" or bad.value.places


def test_flipped_triangles_and_slivers_are_mended_and_said() -> None:
    space, triangles = cap()
    turned = triangles.copy()
    turned[[5, 60, 100]] = turned[[5, 60, 100], ::-1]
    _, mended, notes = check_disc(space, turned)
    assert any("3 triangles turned" in n for n in notes)
    a = mended[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2)
    assert len(np.unique(a, axis=0)) == len(a), "every edge is walked once each way"
    thin = space.copy()
    edge = triangles[70]
    thin[edge[1]] = thin[edge[0]] + 1e-5 * (thin[edge[1]] - thin[edge[0]])
    _, _, notes = check_disc(thin, triangles)
    assert any("sliver" in n for n in notes)


def test_a_patch_grows_to_a_geodesic_radius_and_keeps_inside_a_loop() -> None:
    """On a closed ball a patch of geodesic radius r about the top is a cap of that arc; inside a loop only what
    faces the eye."""
    ball = trimesh.creation.icosphere(4, 60)
    job, files = mesh_job(ball, patch={"mode": "grow", "seed": [0, 120, 0], "radius_mm": 40})
    strain = build(job, files, "unwrap").template.strain  # type: ignore[union-attr]
    a = 40 / 60
    assert strain is not None
    true = 2 * math.pi * 60**2 * (1 - math.cos(a))
    assert (strain.weight / (strain.most * 0 + 1)).sum() == pytest.approx(true, rel=0.06)
    assert a / math.sin(a) * 0.97 < strain.length_ratio < a / math.sin(a) * 1.05
    job, files = mesh_job(ball, patch={"mode": "loop", "loop": [[-25, 40], [25, 40], [25, 80], [-25, 80]]})
    seen = build(job, files, "unwrap").template.strain  # type: ignore[union-attr]
    assert seen is not None and seen.space[:, 2].min() > 0
    for wrap, says in (
        ({"mode": "loop", "loop": [[500, 0], [510, 0], [510, 10]]}, "Nothing"),
        ({"mode": "loop", "loop": [[0, 0], [9, 9], [9, 0], [0, 9]]}, "crosses"),
        ({"mode": "whole"}, "closed"),
    ):
        job, files = mesh_job(ball, patch=wrap)
        with pytest.raises(BadReading, match=says):
            build(job, files, "unwrap")


class Made(dict[Wanted, bytes]):
    """A place where slow results are kept."""

    def has(self, kind: str, key: str) -> bool:
        return Wanted(kind, key) in self

    def get(self, kind: str, key: str) -> bytes | None:  # type: ignore[override]
        return dict.get(self, Wanted(kind, key))


def test_a_large_patch_waits_for_its_task() -> None:
    ball = cap_mesh(100, 50, 60, 80)
    job, files = mesh_job(ball)
    with pytest.raises(NotMade, match="takes a while"):
        build(job, files, "unwrap", at_once=False)
    waits = build_so_far(job, files, "price", at_once=False)
    assert waits.measured and waits.template is None and waits.stopped and waits.stopped.step == "unwrap"
    (wanted,) = waits.waiting
    heard: list[float] = []
    kept = Made()
    kept[wanted] = make_slow(job, files, wanted, lambda what, share: heard.append(share))
    assert heard[0] == 0 and heard[-1] == 1 and heard == sorted(heard)
    made = build(job, files, "unwrap", at_once=False, kept=kept)
    assert made.template is not None and not made.waiting
    with pytest.raises(BadDocument):
        make_slow(job, files, Wanted("patch", "another"), lambda what, share: None)

    def stop(what: str, share: float) -> None:
        if share > 0.2:
            raise KeyboardInterrupt

    with pytest.raises(KeyboardInterrupt):
        make_slow(job, files, wanted, stop)


@pytest.mark.parametrize("film", ["calendered-gloss", "heat-transfer", "cast"])
def test_what_the_film_takes_is_judged(film: str) -> None:
    raw = json.loads((EXAMPLES / "telescope-dome.wimple.json").read_text(encoding="utf-8"))
    raw |= {"elements": [], "wrap": {}, "layers": {"default_film": film}}
    t = build(load_job(raw), {}, "unwrap").template
    assert t is not None
    v = next(v for v in t.verdicts if v.code == "unwrap.strain")
    if film == "calendered-gloss":
        assert (
            v.level == "stop"
            and "safe" in v.sentence()
            and "cast" in v.sentence()
            and v.fixes == {"wrap.relief": "slits"}
            and v.places
        )
    elif film == "heat-transfer":
        assert v.level == "look" and "is not known" in v.sentence() and t.strain is not None and t.strain.limit is None
    else:
        assert v.level == "ok"


def test_slits_templates_and_bodies_are_in_the_files() -> None:
    """The slit plan as its own layer in SVG, DXF and HP-GL; the body as STL; the patch with its places on the
    template as OBJ."""
    raw = json.loads((EXAMPLES / "telescope-dome.wimple.json").read_text(encoding="utf-8"))
    files = {p.name: p.read_bytes() for p in (EXAMPLES / "drawings").iterdir()}
    b = build(load_job(raw), files)
    assert b.template is not None and b.template.slits
    made = {f.path: f.data for f in all_files(b, files)}
    import io

    document = ezdxf.read(io.StringIO(made["layers/slits.dxf"].decode()))
    lines = document.modelspace().query("LINE[layer=='slits']")
    assert len(lines) == len(b.template.slits) and document.header["$INSUNITS"] == 4
    assert made["layers/slits.svg"].count(b"M") >= len(lines) and b'id="slits"' in made["template.svg"]
    assert made["layers/slits.plt"].count(b"PD") == len(lines)
    assert {"outline", "free", "slits"} <= {
        la.dxf.name for la in ezdxf.read(io.StringIO(made["template.dxf"].decode())).layers
    }
    body = trimesh.load(io.BytesIO(made["body.stl"]), file_type="stl")
    assert body.extents[0] == pytest.approx(154, abs=0.5)
    obj = made["patch.obj"].decode().splitlines()
    vt = np.array([[float(c) for c in line.split()[1:]] for line in obj if line.startswith("vt ")])
    assert vt == pytest.approx(b.template.strain.flat, abs=1e-6)  # type: ignore[union-attr]


@pytest.mark.parametrize(
    "name", ["acceptance-cup", "lid-insert", "hexagon-board", "bent-flap", "two-section-bottle", "door-panel"]
)
def test_every_body_goes_out_as_a_mesh(name: str) -> None:
    import io

    raw = json.loads((EXAMPLES / f"{name}.wimple.json").read_text(encoding="utf-8"))
    files = {p.name: p.read_bytes() for p in (EXAMPLES / "drawings").iterdir()}
    made = {f.path: f.data for f in all_files(build(load_job(raw), files), files)}
    mesh = trimesh.load(io.BytesIO(made["body.stl"]), file_type="stl")
    assert mesh.area > 0 and len(mesh.faces) > 10
    if name in ("acceptance-cup", "lid-insert", "hexagon-board"):
        assert mesh.is_watertight and mesh.volume > 0


def test_artwork_on_a_belly_is_judged_under_itself() -> None:
    """A small decal on a belly is fine where a full band is not; a large one is offered its safe size."""
    raw = json.loads((EXAMPLES / "bellied-mug.wimple.json").read_text(encoding="utf-8"))
    raw |= {"layers": {}, "wrap": {"extent": "free"}}
    files = {
        "bellied-mug.jpg": (EXAMPLES / "drawings" / "bellied-mug.jpg").read_bytes(),
        "a.svg": svg('<rect width="40" height="40" fill="#b3261e"/>'),
    }
    found = {}
    for width in (4, 60):
        raw["elements"] = [element("a.svg", {"width_mm": width, "up_mm": 20, "centre_deg": 0})]
        fit = build(load_job(raw), files, "artwork").fit
        assert fit is not None
        found[width] = next(v for v in fit.verdicts if v.code == "artwork.strain")
    assert (
        found[4].value < found[60].value
        and found[60].level == "stop"
        and isinstance(found[60].fix, float)
        and found[60].fix < 60
    )
