"""What a workshop wrote down of its own hands: by how much layers missed, how long weeding took."""

from __future__ import annotations

import math
from typing import Annotated, Literal

from pydantic import Field

from .fields import Length, Model

How = Literal["marks", "parchment", "eye"]
LEAST_MISSES = 5
"""From so many on the log is believed."""
PRIOR = 3
"""So many jobs are counted as having taken what they were estimated at, so that one odd one does not rule."""


class Miss(Model):
    """How far one film lay beside where it should, measured at a mark, and how it was laid."""

    how: How
    mm: Annotated[Length, Field(le=10)]


class Took(Model):
    """Minutes that weeding a job took, and those it was estimated at."""

    estimated: Annotated[Length, Field(le=10_000)]
    minutes: Annotated[Length, Field(le=10_000)]


class HandLog(Model):
    """All of that, the newest last."""

    misses: Annotated[tuple[Miss, ...], Field(max_length=500)] = ()
    weeding: Annotated[tuple[Took, ...], Field(max_length=500)] = ()

    def accuracy(self, how: How) -> float | None:
        """How far this hand misses each way (mm, one standard deviation): of distances `r` that are normal in x and in
        y it is `sqrt(mean(r^2) / 2)` (Rayleigh's, by greatest likelihood). None where too few were written down."""
        some = [m.mm for m in self.misses if m.how == how]
        if len(some) < LEAST_MISSES:
            return None
        return math.sqrt(sum(r * r for r in some) / len(some) / 2)

    @property
    def pace(self) -> float:
        """Minutes this workshop takes for one estimated: the mean of what its jobs took, PRIOR plain ones among
        them."""
        return (PRIOR + sum(t.minutes / t.estimated for t in self.weeding)) / (PRIOR + len(self.weeding))
