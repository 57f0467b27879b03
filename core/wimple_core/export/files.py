"""Every file of a job, by name, and the zip that holds them."""

from __future__ import annotations

import io
import re
import zipfile
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from functools import partial

import numpy as np

from ..arrays import Array
from ..artwork import clean_drawing, clean_svg
from ..built import Build
from ..cuts import Cuts, cuts_along, cuts_round, together
from ..cutting import ordered_paths, plotter_file
from ..figures import LengthStyle
from ..measure import files_of
from .body import body_stl, patch_obj
from .dxf import dxf_file, named_by_role
from .job_sheet import job_sheet_pdf
from .names import names_csv
from .printed import face_cuts, face_pdf
from .report import make_report
from .setting_plan import setting_plan_pdf
from .svg import layer_svg, load_svg, slits_svg, template_svg
from .template_sheets import template_pdf
from .tiles import PAPERS
from .weed_sheet import weed_sheet_pdf


@dataclass(frozen=True)
class ExportFile:
    """A file by its path in the zip."""

    path: str
    data: bytes


def file_name(text: str) -> str:
    """A name any file system takes."""
    return re.sub(r"[^a-z0-9]+", "-", text.lower()).strip("-") or "layer"


Maker = Callable[[], str | bytes]


Page = tuple[float, float, float, float]


def _layer_files(b: Build, slits: Cuts, shared: Page) -> list[tuple[str, Maker]]:
    """Each layer, and the slit plan, on the page that they share: what is there for a machine is what is cut, mirrored
    where it is cut so."""
    assert b.layers and b.sheets
    overcut, offset = b.job.sheets.overcut_mm, b.sheets.cutter.blade_offset_mm
    middle = shared[0] + shared[2]

    def over(points: Array) -> Array:
        """As it is seen from behind, on the same page."""
        return np.column_stack([middle - points[:, 0], points[:, 1]])

    out: list[tuple[str, Maker]] = []
    for n, layer in enumerate(b.layers.layers, start=1):
        name, turned = f"layers/{n:02d}-{file_name(layer.name)}", b.layers.cut_mirrored(layer)
        cut = replace(layer, cuts=layer.cuts.transform(over)) if turned else layer
        out.append((f"{name}.svg", partial(layer_svg, cut, shared, turned)))
        out.append((f"{name}.dxf", partial(dxf_file, named_by_role(cut.cuts, {"piece": layer.name, "mark": "marks"}))))
        out.append((f"{name}.plt", partial(_plotted, cut.cuts, shared, overcut, offset)))
    if len(slits):
        slits = slits.transform(over) if b.layers.through_glass else slits
        out.append(("layers/slits.svg", partial(slits_svg, slits, shared)))
        out.append(("layers/slits.dxf", partial(dxf_file, {"slits": slits})))
        out.append(("layers/slits.plt", partial(_plotted, slits, shared, overcut, offset)))
    return out


def _makers(b: Build, drawings: Mapping[str, bytes], style: LengthStyle) -> list[tuple[str, Maker]]:
    job = b.job
    assert b.template and b.layers and b.sheets and b.cutting
    template, overcut = b.template, b.job.sheets.overcut_mm
    layers = b.layers.layers
    slits = cuts_along(template.slit_lines, "slit")
    # Slits are shown within what they are cut into.
    around = [cuts_round(template.outline, "guide")] if len(slits) else []
    shared = together([*(layer.cuts for layer in layers), *around]).bounds if layers or around else (0, 0, 1, 1)
    offset = b.sheets.cutter.blade_offset_mm
    out = _layer_files(b, slits, shared)
    for n, plan in enumerate(b.cutting.plans, start=1):
        load = plan.load
        name = f"sheets/{n:02d}-{file_name(load.name)}-x{load.times}"
        out.append((f"{name}.svg", partial(load_svg, load)))
        out.append((f"{name}.dxf", partial(dxf_file, named_by_role(load.cuts, {"piece": "cut", "mark": "cut"}))))
        there = (b.sheets.cutter, load.reach)
        if len(plan.passes) == 1:
            out.append((f"{name}.plt", partial(plotter_file, plan.paths, (), *there)))
        for k, one in enumerate(plan.passes, start=1) if len(plan.passes) > 1 else ():
            # Cut one after the other without unloading, each with its own setting.
            out.append((f"{name}-pass-{k}-{one.film.id}.plt", partial(plotter_file, one.paths, plan.paths, *there)))
    for n, face in enumerate((page.face for page in b.sheets.pages if page.face), start=1):
        name = f"printed/{n:02d}-{file_name(face.name)}"
        contour, bare = face_cuts(face), face_cuts(face, marks=False)
        out.append((f"{name}.pdf", partial(face_pdf, face, job.title)))
        out.append((f"{name}-cut.svg", partial(slits_svg, contour, (0.0, 0.0, *face.size))))
        out.append((f"{name}-cut.dxf", partial(dxf_file, named_by_role(contour, {"piece": "cut"}))))
        out.append((f"{name}-cut.plt", partial(_plotted, bare, (0.0, 0.0, *face.size), overcut, offset)))
    out.append(("template.svg", partial(template_svg, template)))
    lines = {"outline": cuts_round(template.outline), "free": cuts_round(template.free), "slits": slits}
    out.append(("template.dxf", partial(dxf_file, lines)))
    out.append(("body.stl", partial(body_stl, b.body)))
    if template.strain is not None:
        out.append(("patch.obj", partial(patch_obj, template.strain)))
    for paper in PAPERS:
        out.append((f"template-{paper.lower()}.pdf", partial(template_pdf, template, paper, job.title, style)))
    if b.named is not None and job.names is not None:
        out.append(("names.csv", partial(names_csv, job.names, b.named)))
    out.append(("job-sheet.pdf", partial(job_sheet_pdf, b, style)))
    if any(i.item.loose for load in b.sheets.loads for i in load.items):
        for paper in PAPERS:
            out.append((f"setting-plan-{paper.lower()}.pdf", partial(setting_plan_pdf, b, paper, style)))
    if layers:
        out.append(("weed-sheet.pdf", partial(weed_sheet_pdf, b, style)))
    out.append(("job.wimple.json", lambda: job.model_dump_json(indent=2) + "\n"))
    out.append(("report.json", lambda: make_report(b).model_dump_json(indent=2) + "\n"))
    return out + _kept(b, drawings)


def _kept(b: Build, drawings: Mapping[str, bytes]) -> list[tuple[str, Maker]]:
    """The drawings and the blank's own files, so that the zip builds again by itself."""
    out: list[tuple[str, Maker]] = [
        (f"drawings/{name}", partial(clean_drawing, drawings[name])) for name in b.job.drawings
    ]
    out += [(f"drawings/{name}", partial(bytes, drawings[name])) for name in b.job.pictures if name in drawings]
    taken = {*b.job.drawings, *b.job.pictures}
    for name in files_of(b.job.blank):
        if name in drawings and name not in taken:
            out.append(
                (f"drawings/{name}", partial(clean_svg if name.lower().endswith(".svg") else bytes, drawings[name]))
            )
    return out


def _plotted(cuts: Cuts, page: Page, overcut: float, offset: float) -> str:
    """HP-GL for some cuts, the lower left corner of their page at the origin."""
    return plotter_file(ordered_paths(cuts.transform(lambda p: p - page[:2]), overcut, offset))


def all_files(
    b: Build,
    drawings: Mapping[str, bytes],
    style: LengthStyle = "mm",
    progress: Callable[[int, int, str], None] = lambda done, total, name: None,
) -> list[ExportFile]:
    """All files of a job built to its end. `progress` hears of each before it is made, and may raise to stop."""
    makers = _makers(b, drawings, style)
    files = []
    for n, (path, make) in enumerate(makers):
        progress(n, len(makers), path)
        data = make()
        files.append(ExportFile(path, data.encode("utf-8") if isinstance(data, str) else data))
    progress(len(makers), len(makers), "")
    return files


def zip_files(files: list[ExportFile]) -> bytes:
    """One zip of all files."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED, compresslevel=6) as archive:
        for f in files:
            archive.writestr(zipfile.ZipInfo(f.path, (2026, 1, 1, 0, 0, 0)), f.data, zipfile.ZIP_DEFLATED)
    return out.getvalue()
