"""What a step of a job shows, in parts: each is made once, has a digest, and is sent only to who has it not."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Container, Iterable, Mapping
from dataclasses import dataclass
from typing import Any, Generic, TypeVar

from pydantic import BaseModel, TypeAdapter

from ..built import STEP_OF, Build, Stage
from ..cache import Caching, Key
from ..figures import LengthStyle
from ..job import Job
from ..remedies import Remedy
from ..verdict import Step
from .bill import BillView, bill_view
from .drawn import View
from .finishing import LayupView, PriceView, layup_view, price_view
from .judged import (
    FaultView,
    LevelName,
    RemedyView,
    StopView,
    VerdictView,
    fault_view,
    remedy_view,
    stop_view,
    verdict_view,
)
from .layers import LayersView, MendingView, layers_view, mending_view
from .loads import LoadsView, WaysView, loads_view, ways_view
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
    mending: Part[list[MendingView]] | None = None
    sheets: Part[LoadsView] | None = None
    ways: Part[WaysView] | None = None
    layup: Part[LayupView] | None = None
    price: Part[PriceView] | None = None
    rows: Part[list[RowView]] | None = None
    verdicts: Part[list[VerdictView]] | None = None


class DoingView(View):
    """A build under way: which step it is at, and how much of the way it has come (0 to 1)."""

    doing: Step
    share: float


class LaterView(View):
    """What was looked at once the open step was shown: all that is to be said of a step so far, in place of what was
    said of it before, the worst of each step that was looked at, and of which steps nothing more is to come. `fault` is
    what it broke on, `parts` are those of the open step that came with it."""

    later: Step
    levels: dict[str, LevelName | None]
    told: list[Step]
    verdicts: list[VerdictView]
    fault: FaultView | None
    parts: Parts


class RemediesView(View):
    """What mends the verdicts, as far as it was tried: all of it so far, or all there is (`whole`)."""

    remedies: list[RemedyView]
    whole: bool


class RestedView(View):
    """The last line where what is left to look at was not looked at to its end: others have to go first. It may be
    asked for again after so many seconds."""

    again_after: float


class Scene(View):
    """A job as built for its open step: `stopped` says where and why it ended, if it did; `waiting` which slow results
    are not there; `levels` the worst of each step that was looked at, `told` the steps of which nothing more is to be
    said.

    `whole` is false where the build is still under way and this is what there is of it.
    """

    document: Job
    whole: bool
    levels: dict[str, LevelName | None]
    told: list[Step]
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
    if t is not None and b.fit is not None and b.films is not None:
        films, laid, pile = b.films, b.fit, b.layers if step == "layers" else None
        out["lies"] = ("artwork", lambda: lies_view(laid, t))
        worn: Key = b.keys["films"] if pile is None else (*b.keys["films"], *b.keys["layers"])
        out["worn"] = (worn, lambda: worn_view(films, laid, t, pile))
    return out | _later_makers(b, style, step)


def _later_makers(b: Build, style: LengthStyle, step: Step) -> dict[str, tuple[Source, Maker]]:
    """The same of what comes after the artwork."""
    out: dict[str, tuple[Source, Maker]] = {}
    if step == "layers" and b.layers is not None:
        layers = b.layers
        out["layers"] = ("layers", lambda: layers_view(layers, b.job.layers, style))
        if "mends" in b.keys:
            out["mending"] = ("mends", lambda: mending_view(layers, style))
    if step == "sheets" and b.sheets is not None and b.cutting is not None:
        sheets, cutting = b.sheets, b.cutting
        out["sheets"] = ("cutting", lambda: loads_view(sheets, cutting, b.tables.stock, style, b.job.names is not None))
        if "ways" in b.keys:
            out["ways"] = ("ways", lambda: ways_view(sheets, style))
    if step == "layup" and b.layup is not None:
        layup, pile, currency = b.layup, b.layers, b.job.price.currency
        assert pile is not None
        out["layup"] = ((*b.keys["layup"], currency), lambda: layup_view(layup, pile, currency, style))
    if step == "price" and b.price is not None:
        price, rows = b.price, b.named.rows if b.named is not None else ()
        named_by = tuple(r.name for r in rows)
        key = (*b.keys["price"], b.job.price.currency, named_by)
        out["price"] = (key, lambda: price_view(price, b.job, rows))
    return out


def _made(b: Build, style: LengthStyle, step: Step, cache: Caching) -> dict[str, _Made]:
    out: dict[str, _Made] = {}
    for name, (source, make) in _makers(b, style, step).items():
        of_step = step if name == "placed" else ""
        key = b.keys[source] if isinstance(source, str) else source
        made = cache.get(("view", name, style, of_step, key), lambda make=make: _written(make()))  # type: ignore[misc]
        if made is not None:
            out[name] = made
    return out


def _parts(b: Build, style: LengthStyle, step: Step, cache: Caching) -> dict[str, _Made]:
    out = _made(b, style, step, cache)
    for name, value in (
        ("rows", rows_beside(b, step, style)),
        ("verdicts", [verdict_view(v, style) for v in b.verdicts]),
    ):
        found = _written(value)
        if found is not None:
            out[name] = found
    return out


def _levels(b: Build) -> dict[Step, LevelName | None]:
    """The worst of each step that was looked at, as far as it was."""
    return {step: level for step, level in b.levels.items() if level is not None or step in b.told}


class SceneWriter:
    """Writes the scene of one step as JSON (`Scene`), without the parts whose digests are in `have`: those that whoever
    asks said they have, and those that were written before.

    Raises what stopped the job from even being measured.
    """

    def __init__(self, b: Build, style: LengthStyle, step: Step, cache: Caching, have: Iterable[str] = ()) -> None:
        b.body  # noqa: B018
        self.parts = _parts(b, style, step, cache)
        self.have = set(have)
        self._style, self._step = style, step
        self._document = b.job.model_dump_json().encode()
        head = {
            "levels": _levels(b),
            "told": b.told,
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
        return b'{"document":%s,"whole":%s,%s,"parts":{%s}}' % (
            self._document,
            b"true" if whole else b"false",
            self._head,
            self._written(self.parts, leave),
        )

    def later(self, b: Build, stage: Stage, cache: Caching) -> bytes:
        """What came of a later stage, as JSON (`LaterView`): with the parts that the open step shows of it."""
        step, fault = STEP_OF[stage], b.broke.get(stage)
        head = {
            "later": step,
            "levels": _levels(b),
            "told": b.told,
            "verdicts": [verdict_view(v, self._style) for v in b.verdicts if v.step == step],
            "fault": fault_view(fault, self._style) if fault else None,
        }
        found = _made(b, self._style, self._step, cache)
        new = {name: p for name, p in found.items() if p.digest not in self.have}
        return b'{%s,"parts":{%s}}' % (_JSON.dump_json(head)[1:-1], self._written(new))

    def remedies(self, found: Iterable[Remedy], whole: bool) -> bytes:
        """What mends the verdicts, as JSON (`RemediesView`)."""
        said = [remedy_view(r, self._style) for r in found]
        return RemediesView(remedies=said, whole=whole).model_dump_json().encode()

    def _written(self, parts: Mapping[str, _Made], leave: Container[str] = ()) -> bytes:
        out = []
        for name, p in parts.items():
            if name not in leave:
                data = b"null" if p.digest in self.have else p.data
                out.append(b'"%s":{"digest":"%s","data":%s}' % (name.encode(), p.digest.encode(), data))
                self.have.add(p.digest)
        return b",".join(out)
