"""Files out, read back by programs that are not ours."""

from __future__ import annotations

import ctypes
import io
import json
import math
import re
import zipfile

import ezdxf
import numpy as np
import pypdfium2 as pdfium
import pytest
import resvg_py
import shapely
from ezdxf.addons.hpgl2.backend import Backend
from ezdxf.addons.hpgl2.interpreter import Interpreter
from ezdxf.addons.hpgl2.plotter import Plotter
from ezdxf.addons.hpgl2.tokenizer import hpgl2_commands
from PIL import Image
from samples import board, element, example, svg
from wimple_core.cuts import cuts_round, together
from wimple_core.cutting import contours_of, order_contours, ordered_paths, plotter_file
from wimple_core.export import all_files, zip_files
from wimple_core.export.curves import fit_ring
from wimple_core.export.job_sheet import job_sheet_pdf
from wimple_core.job import load_job
from wimple_core.pipeline import build_whole as build


@pytest.fixture(scope="module")
def files(perihelion):  # type: ignore[no-untyped-def]
    built, drawings = perihelion
    return built, {f.path: f.data for f in all_files(built, drawings)}


class _Cuts(Backend):
    """Keeps the lines ezdxf's HPGL/2 interpreter draws, in plotter units."""

    def __init__(self) -> None:
        self.lines: list[shapely.LineString] = []

    def draw_polyline(self, properties: object, points: object) -> None:
        self.lines.append(shapely.LineString([(p.x, p.y) for p in points]))  # type: ignore[attr-defined]

    def draw_paths(self, properties: object, paths: object, filled: bool) -> None:
        raise AssertionError("a cut file holds lines only")


def hpgl_lines(data: bytes) -> shapely.MultiLineString:
    """The cuts of a plotter file in mm, as ezdxf's HPGL/2 reader sees them (40 units to the mm). The escape says to
    that reader that HP-GL follows; cutters want none."""
    cuts = _Cuts()
    Interpreter(Plotter(cuts)).run(hpgl2_commands(b"\x1b%1B" + data))
    return shapely.transform(shapely.MultiLineString(cuts.lines), lambda p: p / 40)


def test_plotter_files_equal_the_layers(files) -> None:  # type: ignore[no-untyped-def]
    """Read back by ezdxf, every cut lies within 0.05 mm of the layer's contours and every contour is cut."""
    built, made = files
    x0, y0, _, _ = together(la.cuts for la in built.layers.layers).bounds
    for n, layer in enumerate(built.layers.layers, start=1):
        data = next(v for k, v in made.items() if k.startswith(f"layers/{n:02d}-") and k.endswith(".plt"))
        cuts = hpgl_lines(data)
        assert min(cuts.bounds) >= 0
        wanted = layer.cuts.transform(lambda p: p - (x0, y0)).outlines
        assert shapely.hausdorff_distance(cuts, wanted) < 0.05


def test_plotter_unit_is_a_fortieth_of_a_millimetre() -> None:
    """HP-GL: one unit is 0.025 mm. A 10 mm square at (5, 5) has corners at 200 and 600."""
    text = plotter_file(ordered_paths(cuts_round(shapely.box(5, 5, 15, 15)), 0))
    numbers = set(map(int, re.findall(r"\d+", text.split("PU", 1)[1].split("PU0,0")[0])))
    assert numbers == {200, 600}


def test_inner_contours_are_cut_first_and_nothing_is_left_out() -> None:
    ring = (
        shapely.Point(20, 20)
        .buffer(15)
        .difference(shapely.Point(20, 20).buffer(10))
        .union(shapely.Point(20, 20).buffer(4))
    )
    ordered = order_contours(contours_of(cuts_round(ring)))
    assert [c.depth for c in ordered] == [2, 1, 0]
    assert (
        len(
            order_contours(
                contours_of(cuts_round(shapely.union_all([shapely.box(i * 3, 0, i * 3 + 2, 2) for i in range(40)])))
            )
        )
        == 40
    )


def test_dxf_is_sound_and_in_millimetres(files) -> None:  # type: ignore[no-untyped-def]
    """ezdxf's audit finds nothing, $INSUNITS is 4 (mm), every contour is closed, the areas are the layer's."""
    built, made = files
    for n, layer in enumerate(built.layers.layers, start=1):
        data = next(v for k, v in made.items() if k.startswith(f"layers/{n:02d}-") and k.endswith(".dxf"))
        doc = ezdxf.read(io.StringIO(data.decode()))
        assert not doc.audit().errors and doc.header["$INSUNITS"] == 4
        polylines = list(doc.modelspace().query("LWPOLYLINE"))
        assert all(p.closed for p in polylines)
        area = 0.0
        rings = [shapely.Polygon(p.get_points("xy")) for p in polylines if p.dxf.layer != "marks"]
        for r in rings:
            inside = sum(o.contains(r) for o in rings if o is not r)
            area += r.area * (-1) ** inside
        assert area == pytest.approx(layer.area, rel=1e-6)


def svg_area(data: bytes, name: str) -> float:
    """mm2 of a path, counted in resvg's pixels at 10 to the mm."""
    text = data.decode()
    w, h = (float(v) for v in re.search(r'width="([\d.]+)mm" height="([\d.]+)mm"', text).groups())  # type: ignore[union-attr]
    only = re.sub(rf'<path id="(?!{name}")[^>]*/>', "", text)
    png = bytes(
        resvg_py.svg_to_bytes(svg_string=only, width=round(w * 10), height=round(h * 10), background="#ffffff", dpi=96)
    )
    pixels = np.asarray(Image.open(io.BytesIO(png)).convert("L")).astype(float)
    shade = pixels.min()
    return float((255 - pixels).sum() / (255 - shade) / 100)


def test_layer_svgs_cover_the_layers_on_one_page(files) -> None:  # type: ignore[no-untyped-def]
    """Areas as resvg fills them; all layers share one page, so that they register; curves are cubics."""
    built, made = files
    pages = set()
    for n, layer in enumerate(built.layers.layers, start=1):
        data = next(v for k, v in made.items() if k.startswith(f"layers/{n:02d}-") and k.endswith(".svg"))
        pages.add(re.search(rb"viewBox=\"[^\"]+\"", data).group())  # type: ignore[union-attr]
        assert svg_area(data, "pieces") == pytest.approx(layer.area, rel=0.01)
        assert data.count(b"C") > 10 and len(data) < 60_000
    assert len(pages) == 1


def test_template_svg_measures_true() -> None:
    """The acceptance cup's outline in the SVG: radii 465.67 and 592.67 mm about the point of the sector and an opening
    angle of 25.78 degrees, to 0.02 mm, measured on the cubics of the file."""
    job = load_job(example("acceptance-cup"))
    text = next(f.data for f in all_files(build(job, {}), {}) if f.path == "template.svg").decode()
    d = re.search(r'id="outline"[^>]* d="([^"]+)"', text).group(1)  # type: ignore[union-attr]
    pieces = re.findall(r"([MLC])([^MLCZ]*)", d)
    at, points = np.zeros(2), []
    t = np.linspace(0, 1, 40)[:, None]
    for letter, numbers in pieces:
        p = np.array([float(v) for v in numbers.split()]).reshape(-1, 2)
        if letter == "C":
            points.append((1 - t) ** 3 * at + 3 * (1 - t) ** 2 * t * p[0] + 3 * (1 - t) * t**2 * p[1] + t**3 * p[2])
        else:
            points.append(p)
        at = p[-1]
    q = np.concatenate(points)
    # The point of the sector: on the middle line, 592.67 below the highest point of the outer arc.
    r1, r0 = 10.5 * 25.4 / 2 / math.pi, 8.25 * 25.4 / 2 / math.pi
    k = (r1 - r0) / 127
    apex = np.array([(q[:, 0].min() + q[:, 0].max()) / 2, q[:, 1].min() + r1 / k])
    radius = np.hypot(*(q - apex).T)
    outer, inner = radius > 0.5 * (r0 + r1) / k + 60, radius < 0.5 * (r0 + r1) / k - 60
    assert np.abs(radius[outer] - r1 / k).max() < 0.02 and np.abs(radius[inner] - r0 / k).max() < 0.02
    angle = np.arctan2(q[:, 0] - apex[0], apex[1] - q[:, 1])
    assert (angle.max() - angle.min()) * r1 / k == pytest.approx(10.5 * 25.4, abs=0.02)


@pytest.mark.parametrize(("paper", "size"), [("a4", {210, 297}), ("letter", {215.9, 279.4})])
def test_template_pdf_prints_one_to_one(files, paper: str, size: set[float]) -> None:  # type: ignore[no-untyped-def]
    """Page boxes and drawn lengths through pdfium: 72 points to the inch. The 100 mm and 4 in rules measure true."""
    _, made = files
    pdf = pdfium.PdfDocument(made[f"template-{paper}.pdf"])
    assert len(pdf) >= 1
    for page in pdf:
        assert {round(v / 72 * 25.4, 1) for v in page.get_size()} == size
        lengths = [
            length
            for obj in page.get_objects(max_depth=1)
            if obj.type == pdfium.raw.FPDF_PAGEOBJ_PATH
            for length in [first_leg(obj)]
        ]
        assert any(abs(x - 100) < 0.002 for x in lengths) and any(abs(x - 101.6) < 0.002 for x in lengths)


def first_leg(obj: pdfium.PdfObject) -> float:
    """Length in mm of the first line of a path."""
    at = []
    for i in range(min(2, pdfium.raw.FPDFPath_CountSegments(obj.raw))):
        x, y = ctypes.c_float(), ctypes.c_float()
        pdfium.raw.FPDFPathSegment_GetPoint(pdfium.raw.FPDFPath_GetPathSegment(obj.raw, i), x, y)
        at.append((x.value, y.value))
    return math.dist(*at) / 72 * 25.4 if len(at) == 2 else 0.0


def test_zip_holds_every_file_and_the_job_comes_back(files) -> None:  # type: ignore[no-untyped-def]
    built, made = files
    from wimple_core.export import ExportFile

    archive = zipfile.ZipFile(io.BytesIO(zip_files([ExportFile(k, v) for k, v in made.items()])))
    assert archive.testzip() is None and set(archive.namelist()) == set(made)
    assert load_job(json.loads(archive.read("job.wimple.json"))) == built.job
    report = json.loads(archive.read("report.json"))
    assert {"colour", "film", "pieces", "weeded", "area_mm2"} <= set(report["layers"][0])
    assert {"code", "level", "value", "limit", "unit"} <= set(report["verdicts"][0])
    assert report["body"]["k"] == built.measured.body.k


PANEL = board(300, 300)
STROKES = (
    '<path d="M10 50C30 0 70 100 90 50" fill="none" stroke="#1c3d7a" stroke-width="8"/>'
    '<circle cx="30" cy="80" r="12" fill="none" stroke="#1c3d7a" stroke-width="5"/>'
    '<path d="M60 20q15 -15 30 0t-10 30" fill="none" stroke="#b98a2f" stroke-width="4" stroke-linecap="round"/>'
    '<circle cx="75" cy="80" r="14" fill="#c22a2a"/>'
)


@pytest.mark.parametrize("width", [20, 60, 200])
def test_strokes_offsets_and_overlaps_leave_as_curves(width: float) -> None:
    """Of smooth strokes and discs, and of the overlap behind them, nearly nothing leaves as straight lines: as few
    cubics as a hand would draw, within 0.02 mm of what was computed (by the distance between both)."""
    raw = {
        "blank": PANEL,
        "elements": [element("a.svg", {"width_mm": width, "up_mm": 150})],
        "layers": {"joint": "knocked_out"},
    }
    drawing = svg(f'<rect width="100" height="100" fill="#efe6c8"/>{STROKES}')
    layers = build(load_job(raw), {"a.svg": drawing}, "layers").layers
    lines = cubics = 0
    for layer in layers.layers:  # type: ignore[union-attr]
        for ring in shapely.get_rings(shapely.get_parts(layer.region)):
            points = shapely.get_coordinates(ring)[:-1]
            segments = fit_ring(points)
            lines += sum(len(s) == 2 for s in segments)
            cubics += sum(len(s) == 4 for s in segments)
            t = np.linspace(0, 1, 40)[:, None]
            weight = [(1 - t) ** 3, 3 * (1 - t) ** 2 * t, 3 * (1 - t) * t**2, t**3]
            drawn = [s if len(s) == 2 else sum(w * p for w, p in zip(weight, s, strict=True)) for s in segments]
            assert shapely.LineString(np.concatenate(drawn)).hausdorff_distance(ring) < 0.02 + 1e-6
    assert lines <= 48 and cubics <= 160, (lines, cubics)


def test_letters_of_every_maker_on_paper() -> None:
    """Polish, Turkish, Vietnamese, Greek and Cyrillic letters come out as themselves (read back by pdfium); more layers
    and verdicts than one page holds go on the next."""
    names = "Żółw łabędź Ğüneş Ngũ Δέλτα Созвездие Øresund"
    squares = "".join(
        f'<rect x="{i % 8 * 12}" y="{i // 8 * 12}" width="0.6" height="9"'
        f' fill="#{i:02x}{255 - 3 * i:02x}{(i * 37) % 256:02x}"/>'
        for i in range(60)
    )
    raw = {
        "title": names,
        "customer": names,
        "blank": PANEL,
        "elements": [element("a.svg", {"width_mm": 90, "up_mm": 150})],
    }
    built = build(load_job(raw), {"a.svg": svg(squares)})
    document = pdfium.PdfDocument(job_sheet_pdf(built))
    text = "\n".join(page.get_textpage().get_text_range() for page in document)
    for word in names.split():
        assert word in text, word
    assert len(document) > 1 and "page 2" in text
    plain = " ".join(text.split())
    for layer in built.layers.layers:  # type: ignore[union-attr]
        assert layer.name in plain
    for v in built.verdicts:
        if v.level != "ok":
            assert v.sentence()[:30] in plain
    assert f"price {built.price.price}" in plain  # type: ignore[union-attr]
    for page in document:
        for item in page.get_objects():
            left, low, right, high = item.get_bounds()
            assert left > 20 and right < 595 - 20 and low > 15 and high < 842 - 10
