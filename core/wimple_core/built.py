"""A job as far as it has walked down the street."""

from __future__ import annotations

from dataclasses import dataclass

from .fit import Fit
from .job import Job
from .layers import Layers
from .layup import Layup
from .measure import Measured
from .pricing import Price
from .sheets import Sheets
from .surface import Template
from .verdict import STEPS, Level, Step, Verdict, worst


@dataclass(frozen=True)
class Build:
    """A job as far as it was built; stages beyond `upto` are None."""

    job: Job
    measured: Measured
    template: Template | None = None
    fit: Fit | None = None
    layers: Layers | None = None
    sheets: Sheets | None = None
    layup: Layup | None = None
    price: Price | None = None

    @property
    def verdicts(self) -> tuple[Verdict, ...]:
        """All verdicts so far, in the order of the work."""
        stages = (self.measured, self.template, self.fit, self.layers, self.sheets, self.layup, self.price)
        return tuple(v for stage in stages if stage is not None for v in stage.verdicts)

    @property
    def levels(self) -> dict[Step, Level | None]:
        """The worst verdict of each step."""
        return {step: worst(v for v in self.verdicts if v.step == step) for step in STEPS}
