"""What a workshop has to choose from, over HTTP."""

from __future__ import annotations

from typing import Any, get_args

from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field
from wimple_core.job.blanks import Blank
from wimple_core.job.lettering import SHIPPED_FONTS
from wimple_core.job.limits import list_limits
from wimple_core.job.log import HandLog, How, Miss, Took
from wimple_core.job.makeable import MAKEABLE
from wimple_core.job.shipped import Cutter, Film, Tape
from wimple_core.job.stock import FilmColour
from wimple_core.job.tables import Tables
from wimple_core.measure import starting_blanks

from ..workshops.models import change_tables, workshop_of

router = Router(tags=["tables"])


class FontOut(Schema):
    """A font that letters can be set in, and what it is like."""

    id: str
    name: str
    character: str


class MeasureOut(Schema):
    """One measure of what is made: its path below the source, what it is called, and what it holds."""

    path: str
    title: str
    note: str
    kind: str
    choices: list[str]


class MakeOut(Schema):
    """Words, a shape or a recipe: `kind` and `form` tell it in a document, `measures` what can be set of it."""

    id: str
    words: str
    group: str
    kind: str
    form: str
    measures: list[MeasureOut]


class LogOut(Schema):
    """What the workshop wrote down of its hands, and what follows: how far it misses (mm, one standard deviation) by
    each way of laying, null where too few are written down, and minutes it takes to weed for one estimated."""

    misses: list[Miss]
    weeding: list[Took]
    accuracy: dict[How, float | None]
    pace: float


class TablesOut(Schema):
    """What the workshop has, and a blank of each kind to start from."""

    fonts: list[FontOut]
    makes: list[MakeOut]
    films: list[Film]
    cutters: list[Cutter]
    tapes: list[Tape]
    colours: list[FilmColour]
    """The colours of film at hand."""
    log: LogOut
    blanks: dict[str, Blank]
    limits: dict[str, tuple[int, int | None]]
    """The fewest and the most entries of each list of the document; those of a blank stand under its kind."""


def _makes() -> list[dict[str, Any]]:
    return [
        {
            "id": m.id,
            "words": m.words,
            "group": m.group,
            "kind": m.starts["kind"],
            "form": m.starts.get("form", {}).get("form", ""),
            "measures": [
                {"path": x.path, "title": x.title, "note": x.note, "kind": x.kind, "choices": list(x.choices)}
                for x in m.measures
            ],
        }
        for m in MAKEABLE
    ]


def _log_out(log: HandLog) -> dict[str, Any]:
    accuracy = {how: log.accuracy(how) for how in get_args(How)}
    return {"misses": log.misses, "weeding": log.weeding, "accuracy": accuracy, "pace": log.pace}


@router.get("/tables", response=TablesOut)
def tables(request: HttpRequest) -> dict[str, object]:
    """The workshop's films, tapes and cutters, what can be made, and a blank of each kind to start from."""
    mine = workshop_of(request).load_tables()
    return {
        "fonts": [{"id": i, "name": f.name, "character": f.character} for i, f in SHIPPED_FONTS.items()],
        "makes": _makes(),
        "films": mine.films,
        "cutters": mine.cutters,
        "tapes": mine.tapes,
        "colours": mine.colours,
        "log": _log_out(mine.log),
        "blanks": starting_blanks(),
        "limits": list_limits(),
    }


class ColoursIn(Schema):
    """All colours of film at hand."""

    colours: list[FilmColour] = Field(max_length=400)


def _keep(request: HttpRequest, **change: Any) -> Tables:
    """Write some of the workshop's tables anew. Raises BadDocument for what they cannot hold."""
    return change_tables(workshop_of(request).pk, lambda tables: change)


@router.put("/tables/colours", response=list[FilmColour])
def put_colours(request: HttpRequest, change: ColoursIn) -> tuple[FilmColour, ...]:
    """Write down which colours of film are at hand, instead of those there were. Raises BadDocument for one of a film
    there is none of."""
    return _keep(request, colours=[c.model_dump(mode="json") for c in change.colours]).colours


@router.put("/tables/log", response=LogOut)
def put_log(request: HttpRequest, log: HandLog) -> dict[str, Any]:
    """Write down by how much layers missed and how long weeding took, instead of what was written down."""
    return _log_out(_keep(request, log=log.model_dump(mode="json")).log)
