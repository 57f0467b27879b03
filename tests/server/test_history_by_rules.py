"""A job's history against a plain list: whatever is saved, undone, redone, brought back, in any order, by whoever comes
late, every revision is there as it was made."""

from __future__ import annotations

import pytest
from django.http import Http404
from hypothesis import HealthCheck, settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, rule, run_state_machine_as_test
from samples import cup
from wimple_core.job import load_job
from wimple_server.errors import Conflict
from wimple_server.jobs import history
from wimple_server.jobs.models import Job
from wimple_server.workshops.models import Workshop

titles = st.sampled_from(["a", "b", "c", "d"])
people = st.sampled_from(["Ada", "Bo"])


class Histories(RuleBasedStateMachine):
    """The model: every revision's title and maker, the line of undo, and where on it the job stands."""

    @initialize()
    def start(self) -> None:
        workshop, _ = Workshop.objects.get_or_create(name="Hill")
        self.job = Job.start(workshop, load_job({**cup(), "title": "a"}), "Ada")
        self.revisions = [("a", "Ada")]
        self.line, self.at = ["a"], 0

    @property
    def newest(self) -> int:
        return len(self.revisions)

    def _put(self, title: str, by: str) -> None:
        if title != self.line[self.at]:
            self.line = [*self.line[: self.at + 1], title]
            self.at += 1
            self.revisions.append((title, by))

    @rule(title=titles, by=people)
    def save(self, title: str, by: str) -> None:
        history.save(self.job, self.newest, load_job({**cup(), "title": title}), by)
        self._put(title, by)

    @rule(back=st.booleans(), by=people)
    def step(self, back: bool, by: str) -> None:
        history.step(self.job, self.newest, back, by)
        to = self.at + (-1 if back else 1)
        if 0 <= to < len(self.line):
            self.at = to
            self.revisions.append((self.line[to], by))

    @rule(to=st.integers(0, 40), by=people)
    def restore(self, to: int, by: str) -> None:
        if 1 <= to <= self.newest:
            history.restore(self.job, self.newest, to, by)
            self._put(self.revisions[to - 1][0], by)
        else:
            with pytest.raises(Http404):
                history.restore(self.job, self.newest, to, by)

    @rule(title=titles, late=st.integers(1, 5), what=st.integers(0, 2))
    def come_late(self, title: str, late: int, what: int) -> None:
        old = self.newest - late
        with pytest.raises(Conflict) as refused:
            if what == 0:
                history.save(self.job, old, load_job({**cup(), "title": title}), "Late")
            elif what == 1:
                history.step(self.job, old, True, "Late")
            else:
                history.restore(self.job, old, 1, "Late")
        assert refused.value.revision == self.newest

    @invariant()
    def nothing_is_lost(self) -> None:
        job = Job.objects.get(pk=self.job.pk)
        kept = job.states.order_by("revision").values_list("document__title", "by")
        assert list(kept) == self.revisions and job.revision == self.newest
        assert job.document["title"] == self.line[self.at]
        assert (job.can_undo, job.can_redo) == (self.at > 0, self.at < len(self.line) - 1)


def test_no_order_of_changes_loses_anything(db: None) -> None:
    run_state_machine_as_test(
        Histories,
        settings=settings(
            max_examples=25,
            stateful_step_count=25,
            deadline=None,
            database=None,
            suppress_health_check=list(HealthCheck),
        ),
    )
