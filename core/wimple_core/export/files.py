"""Every file of a job, by name, and the zip that holds them."""

from __future__ import annotations

import io
import re
import zipfile
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import partial

import shapely
from shapely.geometry.base import BaseGeometry

from ..artwork import clean_svg
from ..built import Build
from ..cutting import plotter_file, plotter_lines
from ..figures import LengthStyle
from ..job.files import files_of
from .body import body_stl, patch_obj
from .dxf import dxf_file
from .job_sheet import job_sheet_pdf
from .pdf import PAPERS, bounds_of, template_pdf
from .report import make_report
from .svg import layer_svg, sheet_svg, slits_svg, template_svg


@dataclass(frozen=True)
class ExportFile:
    """A file by its path in the zip."""

    path: str
    data: bytes


def file_name(text: str) -> str:
    """A name any file system takes."""
    return re.sub(r"[^a-z0-9]+", "-", text.lower()).strip("-") or "layer"


Maker = Callable[[], str | bytes]


def _makers(b: Build, drawings: Mapping[str, bytes], style: LengthStyle) -> list[tuple[str, Maker]]:
    job = b.job
    assert b.template and b.layers and b.sheets
    template, overcut = b.template, b.job.sheets.overcut_mm
    layers = b.layers.layers
    whole = [layer.cut for layer in layers] + ([template.outline] if template.slits else [])
    shared = bounds_of(whole) if whole else (0.0, 0.0, 1.0, 1.0)
    out: list[tuple[str, Maker]] = []
    for n, layer in enumerate(layers, start=1):
        name = f"layers/{n:02d}-{file_name(layer.name)}"
        out.append((f"{name}.svg", partial(layer_svg, layer, shared)))
        out.append((f"{name}.dxf", partial(dxf_file, {layer.name: layer.region, "marks": layer.marks})))
        out.append((f"{name}.plt", partial(plotter_file, _moved(layer.cut, shared), overcut=overcut)))
    if template.slits:
        ends = [(s.start, s.end) for s in template.slits]
        out.append(("layers/slits.svg", partial(slits_svg, template.slits, shared)))
        out.append(("layers/slits.dxf", partial(dxf_file, {}, {"slits": ends})))
        out.append(("layers/slits.plt", partial(plotter_lines, ends, shared[:2])))
    for n, sheet in enumerate(b.sheets.sheets, start=1):
        name = f"sheets/{n:02d}-{file_name(sheet.layer.name)}-x{sheet.times}"
        out.append((f"{name}.svg", partial(sheet_svg, sheet)))
        out.append((f"{name}.dxf", partial(dxf_file, {"cut": sheet.cut, "frame": sheet.frames})))
        out.append((f"{name}.plt", partial(plotter_file, sheet.cut, sheet.frames, overcut)))
    out.append(("template.svg", partial(template_svg, template)))
    lines = {"slits": [(s.start, s.end) for s in template.slits]} if template.slits else None
    out.append(("template.dxf", partial(dxf_file, {"outline": template.outline, "free": template.free}, lines)))
    out.append(("body.stl", partial(body_stl, b)))
    if template.strain is not None:
        out.append(("patch.obj", partial(patch_obj, template.strain)))
    for paper in PAPERS:
        out.append((f"template-{paper.lower()}.pdf", partial(template_pdf, template, paper, job.title, style)))
    out.append(("job-sheet.pdf", partial(job_sheet_pdf, b, style)))
    out.append(("job.wimple.json", lambda: job.model_dump_json(indent=2) + "\n"))
    out.append(("report.json", lambda: make_report(b).model_dump_json(indent=2) + "\n"))
    return out + _kept(b, drawings)


def _kept(b: Build, drawings: Mapping[str, bytes]) -> list[tuple[str, Maker]]:
    """The drawings and the blank's own files, so that the zip builds again by itself."""
    out: list[tuple[str, Maker]] = [
        (f"drawings/{name}", partial(clean_svg, drawings[name]))
        for name in dict.fromkeys(d.file for d in b.job.drawings)
    ]
    taken = {d.file for d in b.job.drawings}
    for name in files_of(b.job.blank):
        if name in drawings and name not in taken:
            out.append(
                (f"drawings/{name}", partial(clean_svg if name.lower().endswith(".svg") else bytes, drawings[name]))
            )
    return out


def _moved(region: BaseGeometry, bounds: tuple[float, float, float, float]) -> BaseGeometry:
    """The region with the lower left corner of `bounds` at the origin."""
    return shapely.transform(region, lambda p: p - bounds[:2])


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
