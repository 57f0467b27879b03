"""Repeated readings of one dimension: mean and spread."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..job.document import Dimension
from ..job.tables import SPREAD_OF_ONE_READING


@dataclass(frozen=True)
class Reading:
    """A dimension as read: `mean` mm, `deviation` (sample standard deviation; None for one reading) mm,
    `error` (standard error of the mean) mm, `count`."""

    mean: float
    deviation: float | None
    error: float
    count: int


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
    error = max(deviation / float(np.sqrt(x.size)), one_reading_error / 10)
    return Reading(float(x[0] + shifted.mean()), deviation, error, int(x.size))


def read_dimension(dimension: Dimension) -> Reading:
    """Mean and spread of one dimension of the document."""
    return summarise(dimension.readings, SPREAD_OF_ONE_READING[dimension.instrument])
