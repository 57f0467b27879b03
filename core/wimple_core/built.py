"""A job as far as it has walked down the street."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Literal

from .cache import Key
from .cutting import Cutting
from .errors import WimpleError
from .fit import Fit, Named, Separated
from .job import Job
from .job.document import Element
from .job.tables import SHIPPED, Tables
from .layers import Layers
from .layup import Layup
from .measure import Measured
from .pricing import Price
from .sheets import Loads
from .slow import Wanted
from .surface import Template
from .verdict import STEPS, Level, Step, Verdict, worst

Stage = Literal["measure", "unwrap", "names", "read", "artwork", "layers", "sheets", "cutting", "layup", "price"]
STAGES: tuple[Stage, ...] = (
    "measure",
    "unwrap",
    "names",
    "read",
    "artwork",
    "layers",
    "sheets",
    "cutting",
    "layup",
    "price",
)
STEP_OF: dict[Stage, Step] = {
    "measure": "measure",
    "unwrap": "unwrap",
    "names": "artwork",
    "read": "artwork",
    "artwork": "artwork",
    "layers": "layers",
    "sheets": "sheets",
    "cutting": "sheets",
    "layup": "layup",
    "price": "price",
}
"""At which step of the work a maker sees what a stage does."""


@dataclass(frozen=True)
class Stop:
    """Where the street ended, and why."""

    stage: Stage
    error: WimpleError

    @property
    def step(self) -> Step:
        return STEP_OF[self.stage]


@dataclass(frozen=True, eq=False)
class Build:
    """A job as far as it was built; what lies beyond `upto`, or beyond where it `stopped`, is None.

    `keys` tell for each stage what it was made of, `waiting` which slow results were not there yet.
    """

    job: Job
    tables: Tables = SHIPPED
    measured: Measured | None = None
    template: Template | None = None
    named: Named | None = None
    drawings: Mapping[str, Separated] | None = None
    fit: Fit | None = None
    layers: Layers | None = None
    sheets: Loads | None = None
    cutting: Cutting | None = None
    layup: Layup | None = None
    price: Price | None = None
    stopped: Stop | None = None
    keys: Mapping[Stage, Key] = field(default_factory=dict)
    waiting: tuple[Wanted, ...] = ()

    @property
    def elements(self) -> tuple[Element, ...]:
        """The elements as they lie on the blank: those of the line of its list that is shown."""
        return self.named.row.elements if self.named else self.job.elements

    @property
    def verdicts(self) -> tuple[Verdict, ...]:
        """All verdicts so far, in the order of the work."""
        stages = (
            self.measured,
            self.template,
            self.named,
            self.fit,
            self.layers,
            self.sheets,
            self.cutting,
            self.layup,
            self.price,
        )
        return tuple(v for stage in stages if stage is not None for v in stage.verdicts)

    @property
    def levels(self) -> dict[Step, Level | None]:
        """The worst verdict of each step; `stop` where the street ended."""
        found = {step: worst(v for v in self.verdicts if v.step == step) for step in STEPS}
        if self.stopped:
            found[self.stopped.step] = "stop"
        return found

    def whole(self) -> Build:
        """The same, if nothing stopped it. Raises what did."""
        if self.stopped:
            raise self.stopped.error
        return self

    @property
    def body(self) -> Measured:
        """What was measured. Raises what stopped it from being so."""
        if self.measured is None:
            self.whole()
        assert self.measured is not None
        return self.measured
