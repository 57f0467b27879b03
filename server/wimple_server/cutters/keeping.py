"""Loads marked as cut: their film comes off the stock, and goes back on where the mark is taken away."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from django.db import transaction
from wimple_core.errors import BadDocument
from wimple_core.job.stock import StockPiece
from wimple_core.job.tables import Tables
from wimple_core.sheets import Load, Loads
from wimple_core.sheets.allot import Change, Stock, undone, when_cut

from ..jobs.models import Job
from ..workshops.models import change_tables
from .models import CutLoad

Pieces = Mapping[str, StockPiece | None]


def _written(pieces: Pieces) -> dict[str, Any]:
    return {id: p.model_dump(mode="json") if p else None for id, p in pieces.items()}


def _read(raw: Mapping[str, Any]) -> dict[str, StockPiece | None]:
    return {id: StockPiece.model_validate(p) if p else None for id, p in raw.items()}


def _without(stock: tuple[StockPiece, ...], cuts: Sequence[CutLoad]) -> tuple[StockPiece, ...]:
    """The stock as if those loads, the oldest first, had not been cut."""
    for cut in reversed(cuts):
        stock = undone(stock, _read(cut.before), _read(cut.after))
    return stock


def tables_of(job: Job) -> Tables:
    """The workshop's tables as a job is planned on them: the film its own loads took when they were cut is there
    still, so that a load stays as it is while the next one is cut."""
    tables = job.workshop.load_tables()
    if not tables.stock:
        return tables
    cuts = list(job.cut_loads.order_by("pk"))
    return tables.model_copy(update={"stock": _without(tables.stock, cuts)}) if cuts else tables


def load_of(loads: Loads | None, digest: str) -> Load:
    """The load of that digest. Raises BadDocument where the job has none."""
    found = next((x for x in loads.every if x.digest == digest), None) if loads else None
    if found is None:
        raise BadDocument(
            "This job has no such load: it was changed since.",
            field="load",
            hint="Look at its loads again, and mark the one that was cut.",
        )
    return found


def change_by(job: Job, load: Load, usual_width: float) -> Change:
    """What cutting a load once does to the stock as it is: nothing where it was printed, its film is off the stock."""
    if load.face is not None:
        return Change({}, {}, (), ())
    return when_cut(load, Stock(job.workshop.load_tables()), usual_width)


def mark_cut(job: Job, loads: Loads, digest: str, by: str, keep: Sequence[bool] = ()) -> CutLoad:
    """Mark a load as cut once: its film is taken off the stock, and the remnants left over are kept, but for those of
    which `keep` says otherwise. Raises BadDocument for a load there is none of, one that is cut as often as it is
    wanted, and where the film is not there."""
    load = load_of(loads, digest)
    before: dict[str, StockPiece | None] = {}
    after: dict[str, StockPiece | None] = {}

    def cut(tables: Tables) -> dict[str, Any]:
        if job.cut_loads.filter(load=digest).count() >= load.times:
            times = "once" if load.times == 1 else f"{load.times} times"
            raise BadDocument(
                f"{load.name} is wanted {times}, and was cut so often.",
                field="load",
                hint="Take a mark away first, or raise the quantity.",
            )
        if load.face is not None:
            return {}
        change = when_cut(load, Stock(tables), loads.cutter.width_mm)
        if change.missing:
            raise BadDocument(
                f"There is not as much of {change.missing[0].name} in stock as this load takes.",
                field="load",
                hint="Write down in Stock what there is, then mark it.",
            )
        thrown = {p.id for p, kept in zip(change.remnants, keep, strict=False) if not kept}
        before.update({id: p for id, p in change.before.items() if id not in thrown})
        after.update({id: p for id, p in change.after.items() if id not in thrown})
        return _stock(({p.id: p for p in tables.stock} | after).values())

    with transaction.atomic():
        change_tables(job.workshop_id, cut)
        return CutLoad.objects.create(
            workshop=job.workshop,
            job=job,
            load=digest,
            name=load.name[:400],
            before=_written(before),
            after=_written(after),
            by=by,
        )


def _stock(pieces: Iterable[StockPiece | None]) -> dict[str, Any]:
    return {"stock": [p.model_dump(mode="json") for p in pieces if p is not None]}


def take_back(cut: CutLoad) -> None:
    """Take a mark away: the film of that load is in stock again."""
    with transaction.atomic():
        change_tables(cut.workshop_id, lambda was: _stock(undone(was.stock, _read(cut.before), _read(cut.after))))
        cut.delete()
