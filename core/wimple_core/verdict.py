"""Judgement as data: what was measured, what the limit is, why it matters and what to do."""

from __future__ import annotations

import dataclasses
import unicodedata
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Literal

from .figures import LengthStyle, carried, worded

Level = Literal["ok", "look", "stop"]
Step = Literal["measure", "unwrap", "artwork", "layers", "sheets", "layup", "price"]
STEPS: tuple[Step, ...] = ("measure", "unwrap", "artwork", "layers", "sheets", "layup", "price")
_WEIGHT: dict[Level, int] = {"ok": 0, "look": 1, "stop": 2}

Figure = tuple[float, str]
"""A number with its unit: mm, ml, mm2, %, deg, ratio, count, or anything else printed as it is."""


@dataclass(frozen=True)
class Verdict:
    """One judgement.

    `reason` and `remedy` are sentences in which `{value}`, `{limit}` and the names in `figures` stand for figures;
    they are written out in the workshop's own units by `sentence`. `field` is the path in the job document that
    mends it; `fix` the value that might, or `fixes` the values by their paths where it takes more, and `others` what
    else might, each in the same way: they are offered once they were tried (`remedies`). `places` are points on the
    template in mm, to be shown on the drawing.
    """

    code: str
    step: Step
    level: Level
    value: float
    limit: float | None
    unit: str
    reason: str
    remedy: str = ""
    figures: Mapping[str, Figure] = dataclasses.field(default_factory=dict)
    field: str = ""
    fix: float | str | bool | None = None
    fixes: Mapping[str, object] = dataclasses.field(default_factory=dict)
    others: tuple[Mapping[str, object], ...] = ()
    places: tuple[tuple[float, float], ...] = ()
    subject: str = ""
    """What it is about, by the name a maker gave it: a drawing, a layer, a zone; empty for the job as a whole."""

    def within(self, path: str, subject: str = "") -> Verdict:
        """The same as seen from further out: its fields below `path`, but for those of the whole job, which have a
        stroke before them; its subject, where it had none."""

        def below(field: str) -> str:
            return field[1:] if field.startswith("/") else f"{path}.{field}" if field else field

        return dataclasses.replace(
            self,
            field=below(self.field),
            fixes={below(name): value for name, value in self.fixes.items()},
            others=tuple({below(name): value for name, value in other.items()} for other in self.others),
            subject=self.subject or subject,
        )

    def carried(self) -> str:
        """The verdict in words whose figures are still to be written out (`figures.worded`)."""
        words = {name: carried(v, u) for name, (v, u) in self.figures.items()}
        words["value"] = carried(self.value, self.unit)
        words["limit"] = "" if self.limit is None else carried(self.limit, self.unit)
        text = self.reason.format_map(words)
        return f"{text} {self.remedy.format_map(words)}".strip() if self.level != "ok" else text

    def sentence(self, style: LengthStyle = "mm") -> str:
        """The verdict in words, its figures in the workshop's units."""
        return worded(self.carried(), style)


def grade(value: float, look: float, stop: float = float("inf")) -> Level:
    """Level of a value that gets worse as it grows: above `look`, above `stop`."""
    return "stop" if value > stop else "look" if value > look else "ok"


def weight(level: Level) -> int:
    """How bad a level is: the more, the worse."""
    return _WEIGHT[level]


def worst(verdicts: Iterable[Verdict]) -> Level | None:
    """The worst level among the verdicts, or None where there are none."""
    levels = [v.level for v in verdicts]
    if not levels:
        return None
    return max(levels, key=lambda level: _WEIGHT[level])


def plain(text: str) -> str:
    """A name inside a sentence that is filled in later: braces doubled, and one that runs from right to left kept apart
    from what stands beside it (Unicode's isolates)."""
    apart = any(unicodedata.bidirectional(c) in ("R", "AL") for c in text)
    doubled = text.replace("{", "{{").replace("}", "}}")
    return f"\u2068{doubled}\u2069" if apart else doubled
