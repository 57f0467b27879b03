"""What a load on a cutter is to have cut, kept as it was when it was loaded."""

from __future__ import annotations

import io
from dataclasses import dataclass

import numpy as np
from wimple_core.arrays import Array
from wimple_core.cutting import CutPlan
from wimple_core.cutting.frame import on_machine
from wimple_core.job.shipped import Cutter


@dataclass(frozen=True, eq=False)
class Passes:
    """For each pass its strokes, each (n, 2) mm: where the pivot runs and what the tip is to cut as the machine counts,
    and what it is to cut as the load lies."""

    pivots: list[list[Array]]
    targets: list[list[Array]]
    wanted: list[list[Array]]

    @classmethod
    def of(cls, plan: CutPlan, cutter: Cutter) -> Passes:
        reach = plan.load.reach
        pivots = [[on_machine(p.points, cutter, reach) for p in one.paths] for one in plan.passes]
        wanted = [[p.points if p.wanted is None else p.wanted for p in one.paths] for one in plan.passes]
        # A machine takes no negative places.
        least = min((float(p.min()) for one in pivots for p in one), default=0.0)
        shift = max(-least, 0.0)
        targets = [[on_machine(p, cutter, reach) + shift for p in one] for one in wanted]
        return cls([[p + shift for p in one] for one in pivots], targets, wanted)

    def as_bytes(self) -> bytes:
        """As it is kept."""
        out = io.BytesIO()
        parts = {}
        for kind, every in (("p", self.pivots), ("t", self.targets), ("w", self.wanted)):
            for n, one in enumerate(every):
                parts[f"{kind}{n}"] = np.concatenate(one) if one else np.empty((0, 2))
                parts[f"{kind}{n}-ends"] = np.cumsum([len(p) for p in one])
        np.savez_compressed(out, **parts)  # type: ignore[arg-type]
        return out.getvalue()

    @classmethod
    def from_bytes(cls, data: bytes) -> Passes:
        """What was kept."""
        with np.load(io.BytesIO(data)) as parts:
            count = sum(name.startswith("p") and not name.endswith("-ends") for name in parts.files)

            def read(kind: str) -> list[list[Array]]:
                return [np.split(parts[f"{kind}{n}"], parts[f"{kind}{n}-ends"][:-1]) for n in range(count)]

            return cls(read("p"), read("t"), read("w"))
