"""From the load's frame to a machine's: where its origin stands, how its axes run."""

from __future__ import annotations

import numpy as np

from ..arrays import Array
from ..job.shipped import Cutter


def on_machine(points: Array, cutter: Cutter, length: float) -> Array:
    """Places (n, 2), mm from the lower left of the safe area with y along the feed, as the machine counts them.
    `length` is how far the load reaches along it: the safe area of a mat, the load itself on a roll."""
    x, y = points[:, 0], points[:, 1]
    if cutter.origin.endswith("right"):
        x = cutter.safe_width_mm - x
    if cutter.origin.startswith("upper"):
        y = length - y
    return np.column_stack([y, x] if cutter.x_along_feed else [x, y])
