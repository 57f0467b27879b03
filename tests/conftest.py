"""What all tests share."""

from __future__ import annotations

import pytest
from samples import drawing, example


@pytest.fixture(scope="session")
def perihelion():  # type: ignore[no-untyped-def]
    """The demo cup, built to its end."""
    from wimple_core.job import load_job
    from wimple_core.pipeline import build_whole as build

    drawings = {"moon-band.svg": drawing("moon-band.svg")}
    return build(load_job(example("perihelion-cup")), drawings), drawings
