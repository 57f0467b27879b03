"""A job as far as it has walked down the street."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Literal, get_args

from .cache import Key
from .cutting import Cutting
from .errors import WimpleError
from .fit import Fit, Named, Separated
from .job import Job
from .job.document import Element
from .job.tables import SHIPPED, Tables
from .layers import Films, Layers
from .layup import Layup
from .measure import Measured
from .pricing import Price
from .sheets import Loads
from .slow import Wanted
from .surface import Template
from .verdict import STEPS, Level, Step, Verdict, worst

Stage = Literal[
    "measure",
    "unwrap",
    "names",
    "read",
    "artwork",
    "films",
    "layers",
    "mends",
    "sheets",
    "ways",
    "cutting",
    "layup",
    "price",
]
STEP_OF: dict[Stage, Step] = {
    "measure": "measure",
    "unwrap": "unwrap",
    "names": "artwork",
    "read": "artwork",
    "artwork": "artwork",
    "films": "layers",
    "layers": "layers",
    "mends": "layers",
    "sheets": "sheets",
    "ways": "sheets",
    "cutting": "sheets",
    "layup": "layup",
    "price": "price",
}
"""At which step of the work a maker sees what a stage does."""
STAGES: tuple[Stage, ...] = get_args(Stage)
NEEDS: dict[Stage, Stage] = {
    "unwrap": "measure",
    "names": "unwrap",
    "read": "names",
    "artwork": "read",
    "films": "artwork",
    "layers": "films",
    "mends": "layers",
    "sheets": "layers",
    "ways": "sheets",
    "cutting": "sheets",
    "layup": "sheets",
    "price": "layup",
}
"""For each stage the last one that it reads from."""
ALTERNATIVES: tuple[Stage, ...] = ("ways",)
"""What else could be done: nothing later reads it."""
REMEDIES: tuple[Stage, ...] = ("mends",)
"""What would mend a verdict, and what that changes: nothing later reads it either."""


def stages_upto(step: Step) -> tuple[Stage, ...]:
    """The stages of all steps of the work up to one, in their order."""
    return tuple(stage for stage in STAGES if STEPS.index(STEP_OF[stage]) <= STEPS.index(step))


def stages_shown(step: Step) -> tuple[Stage, ...]:
    """The stages that an open step shows: itself, what it reads, and what its drawing and its object need (what is free
    is the template's to say, and the object wears the films); no alternatives and no remedies, and the order of the
    cuts only where it is drawn."""
    later = (*ALTERNATIVES, *REMEDIES, *(() if step == "sheets" else ("cutting",)))
    worn = ("films",) if step == "artwork" else ()
    drawn: dict[Step, Step] = {"measure": "unwrap", "unwrap": "artwork"}
    return tuple(stage for stage in (*stages_upto(drawn.get(step, step)), *worn) if stage not in later)


def stages_after(step: Step) -> tuple[Stage, ...]:
    """What is left to do once an open step is shown: later steps in their order, then alternatives, then remedies."""
    last = (*ALTERNATIVES, *REMEDIES)
    shown = stages_shown(step)
    return tuple(stage for stage in (*(s for s in STAGES if s not in last), *last) if stage not in shown)


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

    `keys` tell for each stage what it was made of, `took` how many seconds it took (next to none where it was kept from
    before), `waiting` which slow results were not there yet. Where films move as one and rigidly they stand in `films`
    as they lie still. `broke` says which stages that nothing later needs could not be made.
    """

    job: Job
    tables: Tables = SHIPPED
    measured: Measured | None = None
    template: Template | None = None
    named: Named | None = None
    drawings: Mapping[str, Separated] | None = None
    fit: Fit | None = None
    films: Films | None = None
    layers: Layers | None = None
    sheets: Loads | None = None
    cutting: Cutting | None = None
    layup: Layup | None = None
    price: Price | None = None
    stopped: Stop | None = None
    keys: Mapping[Stage, Key] = field(default_factory=dict)
    waiting: tuple[Wanted, ...] = ()
    took: Mapping[Stage, float] = field(default_factory=dict)
    broke: Mapping[Stage, WimpleError] = field(default_factory=dict)

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
    def stops(self) -> tuple[Stop, ...]:
        """Where it ended, and what else broke on the way, alternatives and remedies apart."""
        broke = [Stop(s, bad) for s, bad in self.broke.items() if s not in (*ALTERNATIVES, *REMEDIES)]
        return (*((self.stopped,) if self.stopped else ()), *broke)

    @property
    def levels(self) -> dict[Step, Level | None]:
        """The worst verdict of each step; `stop` where something could not be made."""
        found = {step: worst(v for v in self.verdicts if v.step == step) for step in STEPS}
        return found | {stop.step: "stop" for stop in self.stops}

    def judged(self, stage: Stage) -> bool:
        """Is all said that a stage has to say: was it made, or can it not be, because it or what it needs broke?"""
        if stage in self.keys or stage in self.broke:
            return True
        if self.stopped and STAGES.index(stage) >= STAGES.index(self.stopped.stage):
            return True
        return stage in NEEDS and NEEDS[stage] not in self.keys and self.judged(NEEDS[stage])

    @property
    def told(self) -> tuple[Step, ...]:
        """The steps of whose verdicts none is still to come; what would mend them may be."""
        left = [stage for stage in STAGES if stage not in REMEDIES and not self.judged(stage)]
        return tuple(step for step in STEPS if step not in {STEP_OF[stage] for stage in left})

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
