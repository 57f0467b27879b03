"""Advice on settings against simulated shops: what is stated as a chance comes true as often, and the simulated
cutter cuts with what is advised for it."""

from __future__ import annotations

import datetime as dt
import math

import numpy as np
import pytest
from wimple_core.cutting.advice import SMALL_MM, advise, believe, from_test, is_muddled
from wimple_core.cutting.simulated.machine import PER_UM, WORN_M
from wimple_core.cutting.trial_cut import FIGURE_MM, figure, forces_round, trial_strokes
from wimple_core.job.cut_log import Blade, CutEntry, Setting
from wimple_core.job.shipped import CUTTERS, FILMS, MachineScale

FILM = FILMS["calendered-gloss"]
CUTTER = CUTTERS["desktop-mat"]
WHEN = dt.datetime(2026, 11, 1, tzinfo=dt.UTC)
HALF_A_LINER_UM = 75.0


def entry(force: float, corner: str | None, blade_m: float = 0.0, **more: object) -> CutEntry:
    return CutEntry.model_validate(
        {
            "at": WHEN,
            "cutter": CUTTER.id,
            "blade_m": blade_m,
            "film": FILM.id,
            "film_um": FILM.thickness_um,
            "setting": {"force_gf": force, "speed_mm_s": 100},
            "corner": corner,
            **more,
        }
    )


class Shop:
    """A machine nobody knows: how deep (um) it cuts with a force, a blade, and a hand's luck. Written down without the
    code that is looked at: `depth = force / 87.5 gf x 100.7 um x k x 2^(-m / w) x luck`."""

    def __init__(self, rng: np.random.Generator) -> None:
        self.rng = rng
        self.k = math.exp(float(rng.normal(0, 0.35)))
        self.worn = float(rng.choice([300, 500, 800, 1200, 2000, 4000], p=[0.1, 0.2, 0.25, 0.2, 0.15, 0.1]))
        self.luck = float(rng.choice([0.04, 0.08, 0.14, 0.22], p=[0.25, 0.35, 0.25, 0.15]))

    def cut(self, force: float, metres: float) -> str:
        depth = force / 87.5 * math.sqrt(70 * 145) * self.k * 2 ** (-metres / self.worn)
        depth *= math.exp(float(self.rng.normal(0, self.luck)))
        return "not_through" if depth < 70 else "right" if depth <= 70 + HALF_A_LINER_UM else "into_liner"


def test_what_is_stated_as_eighty_in_a_hundred_comes_true_as_often() -> None:
    rng = np.random.default_rng(7)
    stated: list[float] = []
    came: list[bool] = []
    for _ in range(450):
        shop, log, metres = Shop(rng), list[CutEntry](), float(rng.uniform(0, 400))
        for _ in range(int(rng.integers(0, 9))):
            metres += float(rng.uniform(2, 40))
            force = float(rng.uniform(45, 160))
            log.append(entry(force, shop.cut(force, metres), metres))
        believed = believe(log, FILM)
        for force in (believed.best(metres)[0], *rng.uniform(55, 150, 12)):
            chance = believed.chances(float(force), metres)
            assert sum(chance) == pytest.approx(1)
            stated.append(chance[1])
            came.append(shop.cut(float(force), metres) == "right")
    said, right = np.array(stated), np.array(came)
    for low, high in ((0.75, 0.85), (0.45, 0.55), (0.15, 0.25)):
        some = (said >= low) & (said < high)
        assert some.sum() > 150 and low - 0.01 < right[some].mean() < high + 0.01, (low, some.sum(), right[some].mean())


def test_a_log_brings_the_force_to_where_it_cuts() -> None:
    nothing = advise([], FILM, CUTTER)
    assert not nothing.known and "Nothing was cut of it yet" in nothing.words()
    assert nothing.force_gf == pytest.approx(1.25 * 70, rel=0.06)
    # Twice as thick, and harder by four tenths.
    assert advise([], FILMS["glitter"], CUTTER).force_gf == pytest.approx(1.4 * 1.25 * 140, rel=0.06)
    # A machine that takes half as much again: it hangs on at 90 and is right at 130.
    log = [entry(90, "not_through"), entry(100, "not_through"), *[entry(130, "right")] * 5, entry(190, "into_liner")]
    found = advise(log, FILM, CUTTER)
    assert found.force_gf is not None and 115 < found.force_gf < 160 and found.chance is not None
    assert found.chance > 0.9 and found.known and "clean near this setting, of 8 in the log" in found.words()
    # A blade that has cut 900 m since wants more.
    blade = Blade(id="b3", name="blade 3", cutter=CUTTER.id, before_m=900)
    worn = advise(log, FILM, CUTTER, blade)
    assert worn.force_gf > 1.15 * found.force_gf and "The blade has 900 m" in worn.words()  # type: ignore[operator]
    # Other machines' cuts tell nothing.
    assert advise([e.model_copy(update={"cutter": "x"}) for e in log], FILM, CUTTER) == nothing


def test_small_lettering_is_cut_lighter_and_slower() -> None:
    log = [entry(force, "right") for force in (80, 90, 100) for _ in range(4)]
    usual, small = advise(log, FILM, CUTTER), advise(log, FILM, CUTTER, smallest_mm=SMALL_MM - 0.5)
    assert small.small and small.force_gf < usual.force_gf and small.speed_mm_s < usual.speed_mm_s  # type: ignore[operator]
    assert advise(log, FILM, CUTTER, smallest_mm=SMALL_MM + 0.5).force_gf == usual.force_gf


def test_blades_that_went_dull_are_told() -> None:
    blades = [
        Blade(id=f"b{n}", name=f"blade {n}", cutter=CUTTER.id, before_m=m, worn_out=True)
        for n, m in enumerate((640, 700, 910))
    ]
    assert "2 of 3 blades went dull by 700 m" in advise([entry(90, "right")], FILM, CUTTER, None, blades).words()


def test_the_simulated_cutter_cuts_right_with_what_is_advised() -> None:
    """Its own model: a gf for each 0.9 um, half its edge gone after 900 m."""
    rng = np.random.default_rng(3)
    log: list[CutEntry] = []
    right = 0
    for n in range(40):
        metres = 12.0 * n
        force = advise(log, FILM, CUTTER, Blade(id="b", name="b", cutter=CUTTER.id, before_m=metres)).force_gf or 0.0
        depth = force * 0.5 ** (metres / WORN_M) / PER_UM * math.exp(float(rng.normal(0, 0.05)))
        corner = "not_through" if depth < 70 else "right" if depth <= 145 else "into_liner"
        right += corner == "right"
        log.append(entry(force, corner, metres))
    assert right >= 38


def test_a_test_cut_tells_a_force_and_its_margin() -> None:
    """Worked by hand: of 70 to 110 by tens, 80 to 100 are right: 90, and it may miss by 15."""
    corners = ["not_through", "right", "right", "right", "into_liner"]
    assert from_test([70, 80, 90, 100, 110], corners) == (90, 15)
    # Further apart on one side, it may miss by as much as on the nearer one.
    assert from_test([70, 80, 90, 100, 130], corners) == (90, 15) == from_test([40, 80, 90, 100, 110], corners)
    assert from_test([70, 80, 90], ["not_through"] * 3) is None
    assert from_test([70, 80, 90], ["not_through", "not_through", "right"]) == (90, 0)
    # More force that went less deep: the middle of the right ones may be one that cut the liner.
    row = ["not_through", "right", "into_liner", "right", "into_liner"]
    assert from_test([70, 80, 90, 100, 110], row) is None and is_muddled([70, 80, 90, 100, 110], row)
    assert not is_muddled([110, 70, 80], ["into_liner", "not_through", "right"])
    assert forces_round(100) == [76, 88, 100, 112, 124] and max(forces_round(100, 110)) == 110
    shape = figure((30, 0))
    assert shape.is_valid and shape.bounds[0] >= 30 and shape.bounds[2] <= 30 + FIGURE_MM
    rows = trial_strokes(3, 0.5, 0.25)
    assert len(rows) == 3 and all(len(r) == len(rows[0]) for r in rows)


def test_a_scale_stands_only_with_its_machine() -> None:
    scaled = CUTTER.model_copy(update={"scale": MachineScale(name="wheel", least=0, most=20)})
    assert advise([], FILM, scaled).force_gf is None and advise([], FILM, scaled).chance is None
    assert Setting(on_scale=7).of(scaled).words(scaled) == f"wheel 7 on {CUTTER.name}"
    with pytest.raises(ValueError, match="goes from 0 to 20, not to 21"):
        Setting(on_scale=21).of(scaled)
    with pytest.raises(ValueError, match="no scale of its own"):
        Setting(on_scale=7).of(CUTTER)
    with pytest.raises(ValueError, match="at most, not 900"):
        Setting(force_gf=900).of(CUTTER.model_copy(update={"most_force_gf": 400}))


def test_two_passes_are_another_setting_than_one() -> None:
    """Forty-five gf twice come out right: that is advised twice, and tells nothing of once."""
    twice = {"setting": {"force_gf": 45, "speed_mm_s": 100, "passes": 2}}
    log = [entry(45, "right", 10.0 * n, **twice) for n in range(8)]
    bare, once = advise([], FILM, CUTTER), advise(log, FILM, CUTTER)
    assert (once.force_gf, once.cuts, once.elsewise) == (bare.force_gf, 0, 8) and not once.known
    assert "8 more were cut in other passes" in once.words()
    advised = advise(log, FILM, CUTTER, passes=2)
    assert (advised.passes, advised.cuts, advised.elsewise) == (2, 8, 0) and advised.force_gf < bare.force_gf
    assert advised.right == advised.near > 0
    mixed = [entry(90, "right", 10.0 * n) for n in range(9)]
    assert advise(mixed + log, FILM, CUTTER).force_gf == advise(mixed, FILM, CUTTER).force_gf


def test_where_hands_stray_more_than_is_believed_the_log_says_how_often_it_came_true() -> None:
    """A machine whose depth strays by 0.35: what is stated comes within a tenth of what comes true."""
    rng, stated, came = np.random.default_rng(11), list[float](), list[bool]()
    for _ in range(12):
        shop, log = Shop(rng), list[CutEntry]()
        shop.luck = 0.35
        for n in range(40):
            said = advise(log, FILM, CUTTER, Blade(id="b", name="b", cutter=CUTTER.id, before_m=4.0 * n))
            corner = shop.cut(said.force_gf or 0.0, 4.0 * n)
            if n >= 25:
                stated.append(said.chance or 0.0)
                came.append(corner == "right")
            log.append(entry(said.force_gf or 0.0, corner, 4.0 * n))
    assert abs(float(np.mean(stated)) - float(np.mean(came))) < 0.1
    assert "were foretold to come out right" in said.words()
