"""What all tests share."""

from __future__ import annotations

import logging
from collections.abc import Iterator

import pytest
from samples import drawing, example


@pytest.fixture(scope="session")
def perihelion():  # type: ignore[no-untyped-def]
    """The demo cup, built to its end."""
    from wimple_core.job import load_job
    from wimple_core.pipeline import build_whole as build

    drawings = {"moon-band.svg": drawing("moon-band.svg")}
    return build(load_job(example("perihelion-cup")), drawings), drawings


class _Raised(logging.Handler):
    def emit(self, record: logging.LogRecord) -> None:
        raise AssertionError(record.getMessage()) from (record.exc_info or (None, None))[1]


@pytest.fixture(autouse=True)
def faults_of_ours_fail(request: pytest.FixtureRequest) -> Iterator[None]:
    """The program goes on when a stage breaks, and writes it down; in tests of the core that is a failure."""
    if {"server", "web"} & set(request.path.parts):
        yield
        return
    handler, logger = _Raised(logging.ERROR), logging.getLogger("wimple")
    logger.addHandler(handler)
    yield
    logger.removeHandler(handler)
