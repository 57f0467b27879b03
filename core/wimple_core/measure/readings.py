"""Repeated readings of one dimension: mean, spread, and the one that stands apart."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from scipy.special import stdtrit

from ..job.dimension import Check, Dimension
from ..job.fields import Model
from ..job.tables import SPREAD_OF_ONE_READING

OUTLIER_SIGNIFICANCE = 0.05
SHARE_OF_INSTRUMENT = 10
"""Readings that agree to the last figure still carry a tenth of the instrument's own spread."""


@dataclass(frozen=True)
class Reading:
    """A dimension as read: `mean` mm, `deviation` (sample standard deviation; None for one reading) mm,
    `error` (standard error of the mean) mm, `count`, and the place of the reading that stands apart (None where none
    does).
    """

    mean: float
    deviation: float | None
    error: float
    count: int
    outlier: int | None = None
    reads: str = ""
    instrument: str = ""


def grubbs_limit(count: int, significance: float = OUTLIER_SIGNIFICANCE, sides: int = 2) -> float:
    """Critical value of Grubbs' statistic `max |x - mean| / s` for `count` readings.

    `(n - 1) / sqrt(n) sqrt(t^2 / (n - 2 + t^2))` with t of Student's distribution at significance / (sides n), n - 2
    degrees
    of freedom (NIST/SEMATECH e-Handbook of Statistical Methods, 1.3.5.17.1).
    """
    t = -float(stdtrit(count - 2, significance / (sides * count)))
    return (count - 1) / math.sqrt(count) * math.sqrt(t * t / (count - 2 + t * t))


def outlier_of(x: np.ndarray, one_reading_error: float) -> int | None:
    """The place of the reading that stands apart by Grubbs' test and by more than three of the instrument's spreads."""
    if x.size < 3:
        return None
    shifted = x - x[0]
    apart = np.abs(shifted - shifted.mean())
    at = int(np.argmax(apart))
    deviation = float(np.std(shifted, ddof=1))
    others = np.delete(shifted, at)
    if abs(float(shifted[at] - others.mean())) <= 3 * one_reading_error or deviation == 0:
        return None
    return at if apart[at] / deviation > grubbs_limit(int(x.size)) else None


def summarise(values: tuple[float, ...], one_reading_error: float) -> Reading:
    """Mean, sample standard deviation and standard error of repeated readings.

    Readings that agree to the last figure say only that the marks are coarser than their spread: the error is never
    taken below a tenth of `one_reading_error`.

    A single reading takes `one_reading_error` (JCGM 100:2008, type B); several give their own (type A, 4.2).

    >>> summarise((262.4, 262.6, 262.5), 0.5).count
    3
    """
    x = np.asarray(values, dtype=np.float64)
    if x.size == 1:
        return Reading(float(x[0]), None, one_reading_error, 1)
    shifted = x - x[0]
    deviation = float(np.std(shifted, ddof=1))
    error = max(deviation / float(np.sqrt(x.size)), one_reading_error / SHARE_OF_INSTRUMENT)
    return Reading(float(x[0] + shifted.mean()), deviation, error, int(x.size), outlier_of(x, one_reading_error))


def read_dimension(dimension: Dimension | Check) -> Reading:
    """Mean and spread of one dimension of the document."""
    r = summarise(dimension.readings, SPREAD_OF_ONE_READING[dimension.instrument])
    return Reading(r.mean, r.deviation, r.error, r.count, r.outlier, dimension.reads, dimension.instrument)


def dimensions_of(part: Model, path: str = "") -> Iterator[tuple[str, Dimension]]:
    """Every dimension of a blank with its path in it: `upper`, `sections.0.side`, `handle.free_width`."""
    for name in type(part).model_fields:
        value = getattr(part, name)
        here = f"{path}{name}"
        if isinstance(value, Dimension):
            yield here, value
        elif isinstance(value, Model):
            yield from dimensions_of(value, f"{here}.")
        elif isinstance(value, tuple):
            for i, item in enumerate(value):
                if isinstance(item, Model):
                    yield from dimensions_of(item, f"{here}.{i}.")
