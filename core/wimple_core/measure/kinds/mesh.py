"""A body as a triangle mesh from a scan or a drawing."""

from __future__ import annotations

from typing import Any

from ...figures import LengthStyle, format_length
from ...job.panels import MeshBlank
from ...verdict import Verdict, grade
from ..consequences import Consequence
from ..drawing import DimensionLine, Sketch, Stroke, rings_of
from ..flat_bodies import MeshBody
from ..free import FreeArea
from ..measured import Given, Measured
from ..mesh import MM
from .checks import vehicle_verdicts
from .kind import Bring, Kind
from .starting import read


def mesh_sketch(blank: MeshBlank, body: MeshBody, style: LengthStyle) -> Sketch:
    w, h = body.width, body.height
    reads = blank.check.reads if blank.check else ""
    dims = (
        DimensionLine(
            "check" if reads == "width" else "", (-w / 2, 0.0), (w / 2, 0.0), format_length(w, style), (0, -1), 1.0
        ),
        DimensionLine(
            "check" if reads in ("height", "upright") else "",
            (w / 2, 0.0),
            (w / 2, h),
            format_length(h, style),
            (1, 0),
            1.0,
        ),
    )
    return Sketch("Front view", (Stroke("body", rings_of(body.front, 0.0)),), dims, reach=(-w / 2, 0.0, w / 2, h))


class Mesh(Kind[MeshBlank]):
    """A scanned body."""

    blank = MeshBlank
    wraps = ("patch.mode", "patch.line", "relief")
    file_field = "file"
    reliefs = ("none", "slits")
    patched = True

    def files(self, blank: MeshBlank) -> tuple[str, ...]:
        return (blank.file,)

    def given(self, blank: MeshBlank, bring: Bring) -> Given:
        return Given(mesh=bring.mesh(blank.file, blank.unit, blank.up))

    def measure(self, blank: MeshBlank, given: Given) -> Measured:
        assert given.mesh is not None
        body = given.mesh
        readings = self.readings(blank)
        left, low, right, high = (
            body.front.bounds if not body.front.is_empty else (-body.width / 2, 0, body.width / 2, body.height)
        )
        free = FreeArea(left, right, low, high, region=body.front)
        verdicts = [
            Verdict(
                "measure.mesh",
                "measure",
                "ok",
                len(body.triangles),
                None,
                "count",
                "The mesh has {value} triangles and is {w} wide, {h} high and {d} deep.",
                figures={"w": (body.size[0], "mm"), "h": (body.size[1], "mm"), "d": (body.size[2], "mm")},
            )
        ]
        if body.shells > 1:
            verdicts.append(
                Verdict(
                    "measure.mesh_shells",
                    "measure",
                    "look",
                    body.shells,
                    1,
                    "count",
                    "The mesh is in {value} parts that do not hang together.",
                    "Keep the one to be wrapped, or join them where it was made.",
                    field="file",
                )
            )
        if blank.check is not None:
            read = readings["check"]
            own = body.height if blank.check.reads in ("height", "upright") else body.width
            apart, spread = abs(own - read.mean), max(3 * read.error, 0.01 * read.mean)
            level = grade(apart, spread, 4 * spread)
            fixes: dict[str, object] = {}
            remedy = "Measure again, or check the mesh's unit."
            for unit, scale in MM.items():
                if level != "ok" and abs(own / MM[blank.unit] * scale - read.mean) < 0.03 * read.mean:
                    remedy, fixes = f"Its numbers look like {unit}.", {"unit": unit}
            verdicts.append(
                Verdict(
                    "measure.mesh_size",
                    "measure",
                    level,
                    apart,
                    spread,
                    "mm",
                    f"{'Height' if own == body.height else 'Width'}: {{mesh}} in the mesh, {{hand}} by hand, {{value}}"
                    " apart (limit {limit}).",
                    remedy,
                    {"mesh": (own, "mm"), "hand": (read.mean, "mm")},
                    field="check.readings.0",
                    fixes=fixes,
                )
            )
        sizes = tuple(
            Consequence(n, v, 0.0, u, ())
            for n, v, u in (
                ("width", body.width, "mm"),
                ("height", body.height, "mm"),
                ("depth", body.size[2], "mm"),
                ("area", body.area, "mm2"),
            )
        )
        return Measured(blank, body, readings, free, body.volume_ml, tuple(verdicts + vehicle_verdicts(blank)), sizes)

    def offers(self, blank: MeshBlank, measured: Measured) -> dict[str, Any]:
        wide, high = measured.body.extent
        x, low, up = round(wide / 4, 1), round(high / 4, 1), round(3 * high / 4, 1)
        return {"patch.loop": [[-x, low], [x, low], [x, up], [-x, up]], "check": read("width", "ruler", round(wide, 1))}

    def sketch(self, blank: MeshBlank, measured: Measured, style: LengthStyle) -> Sketch:
        assert isinstance(measured.body, MeshBody)
        return mesh_sketch(blank, measured.body, style)
