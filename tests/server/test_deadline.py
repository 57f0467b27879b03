"""A build that takes too long is ended, said, and nothing else suffers."""

from __future__ import annotations

import time
from typing import Any

import pytest
from wimple_core import pipeline
from wimple_server.deadline import TooLong, no_longer_than
from wimple_server.jobs import building
from wimple_server.jobs.models import Job
from wimple_server.reading import APART

pytestmark = pytest.mark.django_db


def test_work_is_ended_when_its_time_is_up_and_not_after() -> None:
    began = time.monotonic()
    with pytest.raises(TooLong), no_longer_than(0.2):
        while True:
            pass
    assert 0.1 < time.monotonic() - began < 5
    for _ in range(200):
        try:
            with no_longer_than(0.0005):
                sum(range(2000))
        except TooLong:
            continue
    with no_longer_than(0.05):
        pass
    time.sleep(0.2)


def test_a_build_that_takes_too_long_says_so(
    api: Any, job: Job, monkeypatch: pytest.MonkeyPatch, settings: Any
) -> None:
    """What was built before the slow stage is shown, with the step that took too long."""
    APART.warm()
    settings.BUILD_CLOCK_S = 1.5
    monkeypatch.setattr(building, "CACHE", building.StageCache())

    def slow(*args: object, **more: object) -> None:
        while True:
            pass

    monkeypatch.setattr(pipeline, "make_films", slow)
    began = time.monotonic()
    scene = api.scene(job.pk, job.document, "artwork")
    assert time.monotonic() - began < 10
    assert scene["stopped"]["step"] == "layers" and scene["parts"]["placed"]["data"]
    assert "takes more than 2 s" in str(scene["stopped"])
