"""What all sources of an element have in common, whatever it is made from."""

from __future__ import annotations

from typing import Annotated, ClassVar

from pydantic import BaseModel, Field

from .fields import Model


def _lengths(model: BaseModel, before: str) -> dict[str, float]:
    """All lengths (mm) of a model and of the models in it, by their paths."""
    out: dict[str, float] = {}
    for name in type(model).model_fields:
        value = getattr(model, name)
        if isinstance(value, BaseModel):
            out |= _lengths(value, f"{before}{name}.")
        elif name.endswith("_mm") and isinstance(value, (int, float)) and value:
            out[f"{before}{name}"] = float(value)
    return out


class SourceBase(Model):
    """What an element is made from. One with lengths of its own is as large as they say, whatever the width of its
    placement."""

    is_letters: ClassVar[bool] = False
    """Are its pieces letters?"""
    of_blank: ClassVar[bool] = False
    """Is it drawn by the blank's own measures, where the blank has those it asks for?"""
    given: ClassVar[tuple[str, ...]] = ()
    """Its fields that are not looked at where the blank's measures say it."""

    @property
    def name(self) -> str:
        """What a maker calls it."""
        raise NotImplementedError

    @property
    def files(self) -> tuple[str, ...]:
        """The files it is made from."""
        return ()

    @property
    def sizes(self) -> dict[str, float]:
        """The lengths, by their paths, that all grow where it is made larger; empty where the width of its placement
        says how large it is."""
        return _lengths(self, "")


FONT_FILES = (".ttf", ".otf", ".woff", ".woff2")
FontName = Annotated[
    str, Field(min_length=1, max_length=160, pattern=r"^[^./\\\x00-\x1f][^/\\\x00-\x1f]*$", title="Font")
]
"""A shipped font by its id, or a font's file, which travels beside the document."""


def is_font_file(font: str) -> bool:
    """Is this a font of the workshop's own, in a file?"""
    return font.lower().endswith(FONT_FILES)


class Lettered(SourceBase):
    """What words are part of, set in one font."""

    is_letters = True
    font: FontName

    @property
    def files(self) -> tuple[str, ...]:
        """The file of its font, if that is not shipped."""
        return (self.font,) if is_font_file(self.font) else ()


def called(text: str) -> str:
    """The first words of a text, as a name."""
    first = text.split("\n")[0]
    return first if len(first) <= 30 else f"{first[:29]}…"
