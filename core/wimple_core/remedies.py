"""Remedies: what would mend a verdict is put into the job and built before it is offered, and what comes of it is what
is told of it."""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from shapely.geometry.base import BaseGeometry

from .arrangement import EMPTY
from .built import STAGES, Build
from .errors import WimpleError
from .figures import LengthStyle, carried, worded
from .job import Job, load_job
from .layers import Films
from .layers.mending import LookChange, look_change
from .verdict import Step, Verdict, weight

MOST_TRIED = 24
"""So many of a job are tried, the gravest first."""
ROUNDS = 4
"""What still says what would mend it after it was mended is mended on, so many times."""
WORSE = 1.05
"""A count that grows by more is worse."""
HALF = 0.5
"""What leaves more than this share of many places as they were is not offered."""
Edits = Mapping[str, object]
Rebuild = Callable[[Job], Build]
_OF_ELEMENT = re.compile(r"elements\.\d+(\.placements\.\d+)?")


@dataclass(frozen=True, eq=False)
class Remedy:
    """What mends a verdict (`of`): the values by their paths that were tried together, what is `left` of it, what that
    `changed` of the look where films are mended, and what is worse afterwards than it was (`also`)."""

    of: Verdict
    edits: Edits
    left: Verdict | None = None
    changed: LookChange | None = None
    also: tuple[Verdict, ...] = ()

    def says(self, style: LengthStyle = "mm") -> str:
        """What it does, as it was measured."""
        said = [worded(text, style) for text in (*_placed(self.edits), *_looks(self.changed))]
        if self.left is not None and self.left.unit == "count":
            said.append(f"{self.left.value:.0f} of {self.of.value:.0f} stay")
        return ", ".join(said)


_PLACED = {"up_mm": "{} up", "width_mm": "{} wide", "across_mm": "{} across", "overlap_mm": "overlap {}"}


def _placed(edits: Edits) -> list[str]:
    """Lengths that are set, with what they are."""
    leaves = {path.rsplit(".", 1)[-1]: value for path, value in edits.items()}
    out = [
        _PLACED[n].format(carried(float(v))) for n, v in leaves.items() if n in _PLACED and isinstance(v, int | float)
    ]
    if leaves.get("once_round_mm") is not None:
        out.append("once round, its ends at the seam")
    if isinstance(turn := leaves.get("centre_deg"), int | float):
        round_ = math.remainder(turn, 360)
        side = "left" if round_ < 0 else "right"
        out.append(f"{carried(abs(round_), 'deg')} {side} of the front")
    return out


def _looks(change: LookChange | None) -> list[str]:
    if change is None:
        return []
    out = [f"{carried(change.area, 'mm²')} of the look change, edges move by {carried(change.shift)} at most"]
    for (before, after), what in ((change.pieces, "piece"), (change.holes, "hole")):
        if before != after:
            out.append(f"{before} {what}{'' if before == 1 else 's'} become {after}")
    return out


def wanted(b: Build, first: Step | None = None) -> list[Verdict]:
    """The verdicts of a job that say what might mend them, those of one step `first`, and the gravest before others."""
    some = [v for v in b.verdicts if v.level != "ok" and _options(v)]
    return sorted(some, key=lambda v: (v.step != first, -weight(v.level)))[:MOST_TRIED]


def with_edits(job: Job, edits: Edits) -> Job:
    """A job with values put in at their paths. Raises WimpleError for what it cannot be."""
    raw: Any = job.model_dump(mode="json", by_alias=True)
    for path, value in edits.items():
        at, (*way, last) = raw, path.split(".")
        for step in way:
            if isinstance(at, list):
                at = at[int(step)]
            else:
                at[step] = {} if at.get(step) is None else at[step]
                at = at[step]
        at[int(last) if isinstance(at, list) else last] = value
    return load_job(raw)


def tried(of: Verdict, before: Build, rebuild: Rebuild) -> Remedy | None:
    """Try what a verdict says would mend it, one way after the other, each as far as it has to be gone on with; None
    where none helps, or each would stop something else. `rebuild` builds a job as far as `before` goes."""
    partly: Remedy | None = None
    for option in _options(of):
        edits: dict[str, object] = dict(option)
        for _ in range(ROUNDS):
            try:
                after = rebuild(with_edits(before.job, edits))
            except WimpleError:
                break
            also = _worse(before, after, of)
            if also is None or (also and max(weight(v.level) for v in also) == weight("stop")):
                break
            left = _alike(of, after)
            remedy = Remedy(
                of, dict(edits), max(left, key=_grave, default=None), _look(before, after, edits), tuple(also)
            )
            if not left:
                return remedy
            if partly is None and _helped(of, before, left):
                partly = remedy
            more: dict[str, object] = {}
            for v in left:
                more |= next(iter(_options(v)), {})
            if all(edits.get(path) == value for path, value in more.items()):
                break
            edits |= more
    return partly


def _options(v: Verdict) -> list[Edits]:
    """The ways of mending that a verdict tells, one after the other."""
    own = dict(v.fixes) | ({v.field: v.fix} if v.fix is not None else {})
    return [option for option in (own, *v.others) if option]


def _key(v: Verdict) -> tuple[str, ...]:
    """What tells what is judged: what of, and by what."""
    at = _OF_ELEMENT.match(v.field)
    where = at.group(0) if at else v.field if v.field.startswith("blank.") else ""
    return v.code, v.subject, where


def _grave(v: Verdict) -> tuple[int, float]:
    return weight(v.level), v.value if v.unit == "count" else abs(v.value - (v.limit or 0.0))


def _all_alike(b: Build, key: tuple[str, ...]) -> list[Verdict]:
    return [v for v in b.verdicts if _key(v) == key and v.level != "ok"]


def _alike(of: Verdict, b: Build) -> list[Verdict]:
    return _all_alike(b, _key(of))


def _helped(of: Verdict, before: Build, left: Sequence[Verdict]) -> bool:
    """Is less left of what is judged: nothing so grave, or of many places few?"""
    was = _alike(of, before)
    if max(weight(v.level) for v in left) < max((weight(v.level) for v in was), default=0):
        return True
    return of.unit == "count" and _places(left) <= HALF * _places(was)


def _places(some: Iterable[Verdict]) -> float:
    return sum(v.value for v in some)


def _worse(before: Build, after: Build, of: Verdict) -> list[Verdict] | None:
    """What is worse than it was, `of` itself apart; None where it does not even come as far as before."""
    if after.stopped and (not before.stopped or _at(after) < _at(before)):
        return None
    if len(after.waiting) > len(before.waiting):
        return None
    reached = {v.step for v in before.verdicts} if before.stopped else None
    was: dict[tuple[str, ...], list[Verdict]] = {}
    now: dict[tuple[str, ...], list[Verdict]] = {}
    for b, found in ((before, was), (after, now)):
        for v in b.verdicts:
            if v.level != "ok":
                found.setdefault(_key(v), []).append(v)
    out = []
    for key, some in now.items():
        if key == _key(of) or (reached is not None and some[0].step not in reached):
            continue
        old = was.get(key, [])
        graver = max(weight(v.level) for v in some) > max((weight(v.level) for v in old), default=0)
        more = some[0].unit == "count" and _places(some) > WORSE * _places(old)
        if graver or more:
            out.append(max(some, key=_grave))
    return out


def _at(b: Build) -> int:
    return STAGES.index(b.stopped.stage) if b.stopped else len(STAGES)


def _look(before: Build, after: Build, edits: Edits) -> LookChange | None:
    """What mending films changes of the look."""
    if not any(path.startswith("layers.mend") for path in edits) or before.films is None or after.films is None:
        return None
    was, now = _by_number(before.films), _by_number(after.films)
    nothing = (EMPTY, EMPTY)
    every = sorted({*was, *now})
    return look_change([was.get(n, nothing) for n in every], [now.get(n, nothing) for n in every])


def _by_number(films: Films) -> dict[int, tuple[BaseGeometry, BaseGeometry]]:
    return {f.number: (f.region, f.seen) for f in films.each}
