"""What all sources of an element have in common, whatever it is made from."""

from __future__ import annotations

from typing import ClassVar

from pydantic import BaseModel

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


def called(text: str) -> str:
    """The first words of a text, as a name."""
    first = text.split("\n")[0]
    return first if len(first) <= 30 else f"{first[:29]}…"
