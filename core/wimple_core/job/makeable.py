"""What an element can be made of without a file: what it is called, what it begins as, and the measures it has."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Literal, get_args, get_origin

from pydantic import BaseModel
from pydantic.fields import FieldInfo

from .lettering import Lettering
from .recipes import RECIPES
from .shapes import FORMS, Disc, Shape
from .source import SourceBase

MeasureKind = Literal["length", "angle", "count", "number", "flag", "colour", "font", "words", "choice"]


@dataclass(frozen=True)
class Measure:
    """One measure of what is made: its path below the source, what a maker calls it, and what it holds."""

    path: str
    title: str
    note: str
    kind: MeasureKind
    choices: tuple[str, ...] = ()


@dataclass(frozen=True)
class Makeable:
    """Something that can be made: `starts` is the source it begins as; words are laid by fields of their own and have
    no measures here."""

    id: str
    words: str
    group: Literal["words", "shape", "recipe"]
    starts: dict[str, Any]
    measures: tuple[Measure, ...]
    knocks_out: bool = False
    """Is it cut out of what lies beneath it?"""


def _kind(name: str, info: FieldInfo) -> tuple[MeasureKind, tuple[str, ...]]:
    if get_origin(info.annotation) is Literal:
        return "choice", tuple(str(c) for c in get_args(info.annotation))
    if info.annotation is bool:
        return "flag", ()
    if name == "font":
        return "font", ()
    if name.endswith("colour"):
        return "colour", ()
    if info.annotation is str:
        return "words", ()
    if name.endswith("_mm"):
        return "length", ()
    if name.endswith("_deg"):
        return "angle", ()
    return ("count" if info.annotation is int else "number"), ()


def measures_of(model: type[BaseModel], below: str = "") -> tuple[Measure, ...]:
    """The measures of a model, those of its fields that have a title."""
    out = []
    for name, info in model.model_fields.items():
        if info.title:
            kind, choices = _kind(name, info)
            out.append(Measure(f"{below}{name}", info.title, info.description or "", kind, choices))
    return tuple(out)


def _starts(source: SourceBase) -> dict[str, Any]:
    return source.model_dump(mode="json")


COLOUR = Measure("colour", "Colour", "", "colour")
MAKEABLE: tuple[Makeable, ...] = (
    Makeable("words", "words", "words", _starts(Lettering(text="Words")), ()),
    *(
        Makeable(kind.model_fields["kind"].default, words, "recipe", _starts(kind()), measures_of(kind))
        for kind, words in RECIPES.items()
    ),
    *(
        Makeable(
            form.model_fields["form"].default,
            form.words,
            "shape",
            _starts(Shape(form=form())),  # type: ignore[arg-type]
            (*measures_of(form, "form."), COLOUR),
        )
        for form in FORMS
    ),
    Makeable(
        "hole", "hole", "shape", _starts(Shape(form=Disc(across_mm=10.0))), measures_of(Disc, "form."), knocks_out=True
    ),
)
"""In the order in which they are offered."""


def measures_for(source: SourceBase) -> tuple[Measure, ...]:
    """The measures that a source made without a file has."""
    form = getattr(source, "form", None)
    kind = form.form if form is not None else source.kind  # type: ignore[attr-defined]
    return next((m.measures for m in MAKEABLE if m.id == kind), ())
