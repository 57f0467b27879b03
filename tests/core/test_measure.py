"""Measuring: plausibility, zones, and readings no cup can have."""

from __future__ import annotations

import math

import pytest
from samples import cup, laid
from wimple_core.errors import BadReading
from wimple_core.job import load_job
from wimple_core.measure import measure
from wimple_core.measure.capacity import level_volume_ml


def verdict(raw: dict, code: str):  # type: ignore[no-untyped-def]
    return next(v for v in measure(load_job(raw).blank).verdicts if v.code == code)


@pytest.mark.parametrize(
    ("raw", "field"),
    [
        (cup(1.0, 205.0, tape_thickness_mm=0.2), "blank.upper.readings.0"),  # a top smaller than the tape is thick
        (cup(600.0, 100.0, 20.0), "blank.side.readings.0"),  # a step no side of 20 mm can span
        (cup(lip_band_mm=60, base_band_mm=60), "blank.lip_band_mm"),  # zones that leave nothing
        (cup(handle={"width_mm": 240}), "blank.handle.width_mm"),
        (cup(262.5, 205.0, 9000.0), "blank.side.readings.0"),
    ],
)
def test_readings_no_cup_can_have(raw: dict, field: str) -> None:
    with pytest.raises(BadReading) as bad:
        measure(load_job(raw).blank)
    assert bad.value.field == field and bad.value.hint


def test_capacity_names_the_slip() -> None:
    """A cup of 83 by 65 mm across: its diameters typed as circumferences, and its inches typed as millimetres."""
    good = cup(262.5, 205.0, 96.0, capacity_ml=350)
    assert verdict(good, "measure.capacity").level == "ok"
    slip = verdict(cup(262.5 / math.pi, 205.0 / math.pi, 96.0, capacity_ml=350), "measure.capacity")
    assert slip.level == "stop" and "diameters" in slip.remedy
    inches = verdict(
        cup(262.5 / 25.4, 205.0 / 25.4, 96.0 / 25.4, capacity_ml=350, lip_band_mm=0, base_band_mm=0), "measure.capacity"
    )
    assert inches.level == "stop" and "inches" in inches.remedy
    assert verdict(cup(capacity_ml=2000), "measure.capacity").level == "stop"


def test_more_readings_make_the_seam_surer() -> None:
    one = verdict(cup(), "measure.seam_top")
    raw = cup()
    raw["blank"]["upper"]["readings"] = [262.4, 262.6, 262.5]
    three = verdict(raw, "measure.seam_top")
    assert three.value < one.value == pytest.approx(0.5, rel=2e-4)
    raw["blank"]["upper"]["readings"] = [255.0, 262.0, 269.0]
    assert verdict(raw, "measure.seam_top").level == "stop"


@pytest.mark.parametrize(
    ("faces", "hand", "right"),
    [("others", "right", False), ("holder", "right", True), ("others", "left", True), ("holder", "left", False)],
)
def test_handle_and_face(faces: str, hand: str, right: bool) -> None:
    """A right-handed owner's handle is seen on the left by those who face them."""
    free = measure(load_job(cup(handle={"width_mm": 40}, faces=faces, hand=hand)).blank).free
    assert free.handle is not None and (free.handle > 0) is right
    assert free.left < 0 < free.right and free.right - free.left < 2 * math.pi
    assert not free.left < free.handle < free.right


def test_full_wrap_runs_into_a_handle() -> None:
    job = load_job(cup(handle={"width_mm": 40}))
    t = laid(job.wrap, measure(job.blank))
    assert next(v for v in t.verdicts if v.code == "unwrap.handle").fix == "free"


@pytest.mark.parametrize("overlap", [90, -90])
def test_absurd_overlap(overlap: float) -> None:
    job = load_job({**cup(), "wrap": {"overlap_mm": overlap}})
    with pytest.raises(BadReading) as bad:
        laid(job.wrap, measure(job.blank))
    assert bad.value.field == "wrap.overlap_mm"


def test_level_volume_grows_with_height() -> None:
    body = measure(load_job(cup()).blank).body
    volumes = [level_volume_ml(body, h, 1.0) for h in (10, 30, 60, 90)]  # type: ignore[arg-type]
    assert volumes == sorted(volumes) and volumes[0] > 0
