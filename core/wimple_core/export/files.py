"""Every file of a job, by name, and the zip that holds them."""

from __future__ import annotations

import io
import re
import zipfile
from collections.abc import Callable, Mapping
from dataclasses import dataclass

import shapely

from ..artwork import clean_svg
from ..built import Build
from ..cutting import plotter_file
from ..units import LengthStyle
from .dxf import dxf_file
from .job_sheet import job_sheet_pdf
from .pdf import PAPERS, bounds_of, template_pdf
from .report import make_report
from .svg import layer_svg, sheet_svg, template_svg


@dataclass(frozen=True)
class ExportFile:
    """A file by its path in the zip."""

    path: str
    data: bytes


def file_name(text: str) -> str:
    """A name any file system takes."""
    return re.sub(r"[^a-z0-9]+", "-", text.lower()).strip("-") or "layer"


def _makers(b: Build, drawings: Mapping[str, bytes], style: LengthStyle) -> list[tuple[str, Callable[[], str | bytes]]]:
    assert b.template and b.layers and b.sheets
    job, template = b.job, b.template
    out: list[tuple[str, Callable[[], str | bytes]]] = []
    layers = b.layers.layers
    if layers:
        shared = bounds_of([layer.cut for layer in layers])
    for n, layer in enumerate(layers, start=1):
        name = f"layers/{n:02d}-{file_name(layer.name)}"
        moved = shapely.transform(layer.cut, lambda p: p - shared[:2])
        out.append((f"{name}.svg", lambda layer=layer: layer_svg(layer, shared)))
        out.append((f"{name}.dxf", lambda layer=layer: dxf_file({layer.name: layer.region, "marks": layer.marks})))
        out.append((f"{name}.plt", lambda moved=moved: plotter_file(moved, overcut=job.sheets.overcut_mm)))
    for n, sheet in enumerate(b.sheets.sheets, start=1):
        name = f"sheets/{n:02d}-{file_name(sheet.layer.name)}-x{sheet.times}"
        out.append((f"{name}.svg", lambda s=sheet: sheet_svg(s)))
        out.append((f"{name}.dxf", lambda s=sheet: dxf_file({"cut": s.cut, "frame": s.frames})))
        out.append((f"{name}.plt", lambda s=sheet: plotter_file(s.cut, s.frames, job.sheets.overcut_mm)))
    out.append(("template.svg", lambda: template_svg(template)))
    for paper in PAPERS:
        out.append((f"template-{paper.lower()}.pdf", lambda paper=paper: template_pdf(template, paper, job.title, style)))
    out.append(("job-sheet.pdf", lambda: job_sheet_pdf(b, style)))
    out.append(("job.wimple.json", lambda: job.model_dump_json(indent=2) + "\n"))
    out.append(("report.json", lambda: make_report(b).model_dump_json(indent=2) + "\n"))
    for drawing in dict.fromkeys(d.file for d in job.drawings):
        out.append((f"drawings/{drawing}", lambda d=drawing: clean_svg(drawings[d])))
    return out


def all_files(b: Build, drawings: Mapping[str, bytes], style: LengthStyle = "mm",
              progress: Callable[[int, int, str], None] = lambda done, total, name: None) -> list[ExportFile]:  # fmt: skip
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
