"""Arrays by what they hold."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
"""Numbers: lengths mm, angles rad, unless it is said otherwise."""
Whole = NDArray[np.int64]
"""Whole numbers: counts and places in other arrays."""
