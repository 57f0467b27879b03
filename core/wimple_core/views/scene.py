"""What a step of a job shows, in parts: each is made once, has a digest, and is sent only to who has it not."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Container, Iterable
from dataclasses import dataclass
from typing import Any, Generic, TypeVar

from pydantic import BaseModel, TypeAdapter

from ..built import Build, Stage
from ..cache import Key, StageCache
from ..figures import LengthStyle
from ..job import Job
from ..verdict import STEPS, Step
from .bill import BillView, bill_view
from .drawn import View
from .finishing import LayupView, PriceView, layup_view, price_view
from .judged import LevelName, StopView, VerdictView, stop_view, verdict_view
from .layers import LayersView, layers_view
from .loads import LoadsView, loads_view
from .measured import MeasuredView, measured_view
from .names import NamesView, names_view
from .placed import PiecesView, PlacedView, gone_view, paints_view, placed_view
from .rows import RowView, rows_beside
from .sketch import SketchView, sketch_view
from .skin import SkinView, skin_view
from .solid import SolidView, solid_view
from .strain_map import StrainAreaView, strain_view
from .template import TemplateView, template_view
from .wearing import LiesView, WornView, lies_view, worn_view

T = TypeVar("T")


class Part(View, Generic[T]):
    """One part under its digest; `data` is null where whoever asked said that they have it."""

    digest: str
    data: T | None = None


class WaitingView(View):
    """A slow result that is waited for: its kind, and the key it will be kept under."""

    kind: str
    key: str


class Parts(View):
    """The parts of a scene; null where the step does not show them, or the street did not come so far."""

    measure: Part[MeasuredView] | None = None
    sketch: Part[SketchView] | None = None
    solid: Part[SolidView] | None = None
    skin: Part[SkinView] | None = None
    template: Part[TemplateView] | None = None
    strain: Part[list[StrainAreaView]] | None = None
    placed: Part[list[PlacedView]] | None = None
    paints: Part[list[list[PiecesView]]] | None = None
    gone: Part[list[list[PiecesView]]] | None = None
    bill: Part[list[BillView]] | None = None
    names: Part[NamesView] | None = None
    worn: Part[list[WornView]] | None = None
    lies: Part[LiesView] | None = None
    layers: Part[LayersView] | None = None
    sheets: Part[LoadsView] | None = None
    layup: Part[LayupView] | None = None
    price: Part[PriceView] | None = None
    rows: Part[list[RowView]] | None = None
    verdicts: Part[list[VerdictView]] | None = None


class DoingView(View):
    """A build under way: which step it is at, and how much of the way it has come (0 to 1)."""

    doing: Step
    share: float


class Scene(View):
    """A job as built: `stopped` says where and why it ended, if it did; `waiting` which slow results are not there.

    `whole` is false where the build is still under way and this is what there is of it.
    """

    document: Job
    whole: bool
    levels: dict[str, LevelName | None]
    stopped: StopView | None
    waiting: list[WaitingView]
    parts: Parts


@dataclass(frozen=True)
class _Made:
    digest: str
    data: bytes


Maker = Callable[[], object]
Source = Stage | Key
"""Of what a part is made: the stage, or what tells it more closely."""
LARGE_BYTES = 200_000
_JSON: TypeAdapter[Any] = TypeAdapter(Any)


def _written(value: object) -> _Made | None:
    if value is None:
        return None
    data = value.model_dump_json().encode() if isinstance(value, BaseModel) else _JSON.dump_json(value)
    return _Made(hashlib.sha256(data).hexdigest()[:20], data)


def _makers(b: Build, style: LengthStyle, step: Step) -> dict[str, tuple[Source, Maker]]:
    """What the step shows of what was built: for each part the stage it is made of, and how."""
    m, t = b.body, b.template
    free: Stage = "unwrap" if t else "measure"
    out: dict[str, tuple[Source, Maker]] = {
        "measure": (free, lambda: measured_view(m, t.limits if t else m.free, style)),
        "solid": ("measure", lambda: solid_view(m)),
        "skin": (free, lambda: skin_view(m, t)),
    }
    if step == "measure":
        out["sketch"] = ("measure", lambda: sketch_view(m, style))
    if t is not None:
        out["template"] = ("unwrap", lambda: template_view(t, m))
        if step in ("unwrap", "artwork") and t.strain is not None:
            out["strain"] = ("unwrap", lambda: strain_view(t))
    if t is not None and b.fit is not None:
        fit = b.fit
        if step in ("artwork", "unwrap"):
            out["placed"] = (
                "artwork",
                lambda: placed_view(fit, b.elements, b.drawings or {}, t, style, b.named.row.bases if b.named else {}),
            )
        if step == "artwork":
            still = tuple(d.still.key if d.still else b.keys["artwork"] for d in fit.drawings)
            out["paints"] = (still, lambda: paints_view(fit))
    if b.named is not None and step == "artwork":
        named = b.named
        out["names"] = ("names", lambda: names_view(b.job, named, style))
    if b.drawings is not None and step == "artwork":
        drawings, elements = b.drawings, b.elements
        sizes = tuple(e.placements[0].width_mm for e in elements)
        out["bill"] = ((*b.keys["read"], *sizes), lambda: bill_view(elements, drawings, style))
        if b.fit is not None and t is not None:
            laid = b.fit
            out["gone"] = ("artwork", lambda: gone_view(laid, elements, drawings, t))
    if t is not None and b.fit is not None and b.layers is not None:
        layers, laid = b.layers, b.fit
        out["lies"] = ("artwork", lambda: lies_view(laid, t))
        rigid = laid.still is not None and not len(t.slit_lines)
        worn: Source = (
            ("worn", t.surface, *laid.still.key, b.job.layers, b.tables.films) if rigid and laid.still else "layers"
        )
        out["worn"] = (worn, lambda: worn_view(layers, laid, t, step == "layers"))
        if step == "layers":
            out["layers"] = ("layers", lambda: layers_view(layers, b.job.layers, style))
    if step == "sheets" and b.sheets is not None and b.cutting is not None:
        sheets, cutting = b.sheets, b.cutting
        out["sheets"] = ("cutting", lambda: loads_view(sheets, cutting, b.tables.stock, style))
    if step == "layup" and b.layup is not None:
        layup, pile, currency = b.layup, b.layers, b.job.price.currency
        assert pile is not None
        out["layup"] = ((*b.keys["layup"], currency), lambda: layup_view(layup, pile, currency, style))
    if step == "price" and b.price is not None:
        price = b.price
        out["price"] = ("price", lambda: price_view(price, b.job.price.currency))
    return out


def _parts(b: Build, style: LengthStyle, step: Step, cache: StageCache) -> dict[str, _Made]:
    out: dict[str, _Made] = {}
    for name, (source, make) in _makers(b, style, step).items():
        of_step = step if name == "placed" or (name == "worn" and step == "layers") else ""
        key = b.keys[source] if isinstance(source, str) else source
        made = cache.get(("view", name, style, of_step, key), lambda make=make: _written(make()))  # type: ignore[misc]
        if made is not None:
            out[name] = made
    for name, value in (
        ("rows", rows_beside(b, step, style)),
        ("verdicts", [verdict_view(v, style) for v in b.verdicts]),
    ):
        found = _written(value)
        if found is not None:
            out[name] = found
    return out


class SceneWriter:
    """Writes the scene of one step as JSON (`Scene`), without the parts whose digests are in `have`: those that whoever
    asks said they have, and those that were written before.

    Raises what stopped the job from even being measured.
    """

    def __init__(self, b: Build, style: LengthStyle, step: Step, cache: StageCache, have: Iterable[str] = ()) -> None:
        b.body  # noqa: B018
        self.parts = _parts(b, style, step, cache)
        self.have = set(have)
        self._document = b.job.model_dump_json().encode()
        head = {
            "levels": {s: b.levels[s] for s in STEPS},
            "stopped": stop_view(b, style),
            "waiting": [WaitingView(kind=w.kind, key=w.key) for w in b.waiting],
        }
        self._head = _JSON.dump_json(head)[1:-1]

    @property
    def large(self) -> list[str]:
        """The parts that will be written and are so large that they take a while to be sent and read."""
        return [n for n, p in self.parts.items() if p.digest not in self.have and len(p.data) > LARGE_BYTES]

    def json(self, whole: bool = True, leave: Container[str] = ()) -> bytes:
        """The scene but for the parts of `leave`; `whole` tells whether it is all that was asked for."""
        parts = []
        for name, p in self.parts.items():
            if name not in leave:
                data = b"null" if p.digest in self.have else p.data
                parts.append(b'"%s":{"digest":"%s","data":%s}' % (name.encode(), p.digest.encode(), data))
                self.have.add(p.digest)
        return b'{"document":%s,"whole":%s,%s,"parts":{%s}}' % (
            self._document,
            b"true" if whole else b"false",
            self._head,
            b",".join(parts),
        )
