"""What all bodies turned on an axis share: how their readings become figures, and what those are judged by."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from typing import Any, ClassVar, TypeVar

import numpy as np

from ...errors import BadReading
from ...job.turned import RoundBase
from ...verdict import Verdict, grade
from ..bodies import RoundBody
from ..body import Profile
from ..capacity import capacity_verdict, find_level, outside_volume_ml
from ..consequences import Consequence, propagate
from ..free import FreeArea
from ..free_area import blocked_widths, free_area_of_round
from ..measured import Given, Measured, PhotoCheck, PhotoFound, Readings
from ..outliers import cross_checks, out_of_round, outliers, spoken
from ..photo import PHOTO_ERROR_MM, profile_from
from ..readings import Reading, dimensions_of
from ..slips import capacity_remedies, looks_like
from ..taper import off_level
from ..turned import radius_from
from .checks import second_ways
from .kind import Bring, Kind
from .starting import read

SEAM_LIMIT_MM = 0.5
"""A seam that gapes or overlaps by more is seen (common practice, no source)."""
DRIFT_LIMIT_MM = 0.5
MOST_TO_ASK_FOR = 5
"""Where more readings than this were needed, the readings disagree rather than scatter."""
B = TypeVar("B", bound=RoundBase)


def seam_verdict(where: str, code: str, path: str, reading: Reading, error: float, trial: bool = False) -> Verdict:
    """How sure the seam is at one way round; `error` mm of the way round."""
    level = grade(round(error, 9), SEAM_LIMIT_MM, 6 * SEAM_LIMIT_MM)
    times = max(1, math.ceil((error / SEAM_LIMIT_MM) ** 2 * reading.count) - reading.count)
    name = where[0].upper() + where[1:]
    if trial:
        return Verdict(
            code,
            "measure",
            level,
            error,
            SEAM_LIMIT_MM,
            "mm",
            f"{name}: set by the trial fit, the seam is sure to ± {{value}}.",
            "Read the gap again.",
            field=path,
        )
    if level == "ok":
        say = f"{name}: the readings agree, and the seam is sure to ± {{value}}."
        if reading.count == 1:
            say = f"{name}: by one reading the seam is sure to ± {{value}}."
    remedy = f"Measure the {where} {times} more time{'s' if times > 1 else ''}."
    if reading.count > 1 and times > MOST_TO_ASK_FOR:
        remedy = f"The readings disagree: look for the one that is off, or measure the {where} anew."
    if level != "ok":
        said = "one reading" if reading.count == 1 else f"{reading.count} readings"
        say = f"{name}: by {said} the seam is sure only to ± {{value}}, and may miss by {{limit}}."
    return Verdict(
        code, "measure", level, error, SEAM_LIMIT_MM, "mm", say, remedy, field=f"{path}.readings.{reading.count}"
    )


def again_first(consequences: tuple[Consequence, ...]) -> Verdict | None:
    """Which reading to take again first: the one that spreads the worst seam figure most."""
    seams = [c for c in consequences if c.name.startswith(("seam", "edge_drift")) and c.shares]
    if not seams:
        return None
    worst = max(seams, key=lambda c: c.error)
    path, share = worst.shares[0]
    how = "nearly all" if share > 0.95 else "{value}"
    say = f"To make the seam surer, take {spoken(path)} again first: {how} of what is unsure comes from it."
    return Verdict("measure.again_first", "measure", "ok", 100 * share, None, "%", say, field=path)


ROUND_WRAPS = ("extent", "overlap_mm", "seam_deg")


class TurnedKind(Kind[B]):
    """A kind of blank that is turned on an axis."""

    file_field = "photo.file"
    one_side: ClassVar[bool] = False
    """Is there one distance along the side?"""

    def files(self, blank: B) -> tuple[str, ...]:
        return () if blank.photo is None else (blank.photo.file,)

    def given(self, blank: B, bring: Bring) -> Given:
        return Given(photo=None if blank.photo is None else bring.photo(blank.photo.file))

    def body(self, blank: B, readings: Readings) -> RoundBody:
        """Its body. Raises BadReading where none can be so."""
        raise NotImplementedError

    def rings(self, blank: B) -> list[str]:
        """The ways round, from the foot up, by their path."""
        raise NotImplementedError

    def again_and_again(self, blank: B, readings: Readings) -> Callable[[Readings], RoundBody]:
        """The body from readings, over and over."""
        return lambda r: self.body(blank, r)

    def ring_figures(self, body: RoundBody) -> dict[str, float]:
        """The ways round and the sizes that a maker compares."""
        assert isinstance(body, Profile)
        radii = body.radii_at(body.joints)
        return {
            "seam_top": 2 * math.pi * float(radii[-1]),
            "seam_bottom": 2 * math.pi * float(radii[0]),
            "side": body.length,
            "height": body.upright,
            **{f"seam_{i}": 2 * math.pi * float(radii[i]) for i in range(1, len(radii) - 1)},
        }

    def drift_names(self, body: RoundBody) -> list[str]:
        """What the drift of each straight part is called."""
        return [f"edge_drift_{i}" for i in range(len(body.sections))]

    def seam_verdicts(self, blank: B, readings: Readings, errors: Mapping[str, float]) -> list[Verdict]:
        """How sure the seam is, by its least sure way round."""
        rings = self.rings(blank)
        names = ["seam_bottom", *(f"seam_{i}" for i in range(1, len(rings) - 1)), "seam_top"]
        worst = max(range(len(rings)), key=lambda i: errors[names[i]])
        path = rings[worst]
        where = spoken(path).removeprefix("the ")
        return [seam_verdict(where, "measure.seam", path, readings[path], errors[names[worst]])]

    def side_field(self, blank: B) -> str:
        """Where the first distance along the side is typed."""
        return "sections.0.side.readings.0"

    def photo_places(self, blank: B, body: RoundBody) -> list[tuple[str, float, float, float]]:
        """Where the photograph is held against a reading: its path, height above the bench, radius and its error."""
        assert isinstance(body, Profile)
        z, radii = body.heights_at(body.joints), body.radii_at(body.joints)
        return [
            (path, float(z[i]) + body.foot, float(radii[i]), float(body.errors[i]))
            for i, path in enumerate(self.rings(blank))
        ]

    def own_verdicts(self, blank: B, body: RoundBody) -> list[Verdict]:
        """What else is judged of this kind."""
        return []

    def tried(self, blank: B) -> bool:
        """Has a trial fit said how large it is?"""
        return False

    def figures(
        self, blank: B, free: FreeArea, nominal: RoundBody, readings: Readings
    ) -> Callable[[Readings], dict[str, float]]:
        """A function from readings to what a maker cares about on a round body."""
        s, blocked = blocked_widths(free, nominal)
        cut = nominal.length - free.high
        share = (s - free.low) / (free.high - free.low)
        fixed_high = "handle.free_height" in readings
        build = self.again_and_again(blank, readings)

        def figures(r: Readings) -> dict[str, float]:
            body = build(r)
            high = free.low + r["handle.free_height"].mean if fixed_high else body.length - cut
            places = free.low + share * (high - free.low)
            taken = blocked
            if "handle.free_width" in r:
                middle = 2 * math.pi * body.radius_at((free.low + high) / 2)
                taken = blocked + (middle - r["handle.free_width"].mean) - free.handle_width
            open_width = 2 * math.pi * body.radii_at(places) - taken
            out = {"free_area": float(np.trapezoid(open_width, places))}
            out |= self.ring_figures(body)
            out |= {
                name: off_level(nominal.widest, was.k, math.pi) * part.k
                for name, part, was in zip(self.drift_names(body), body.sections, nominal.sections, strict=True)
            }
            return out

        return figures

    def photo(self, blank: B, body: RoundBody, given: Given) -> tuple[PhotoFound | None, list[Verdict]]:
        if blank.photo is None or given.photo is None:
            return None, []
        profile = profile_from(given.photo, blank.photo)
        checks, verdicts = [], []
        for path, z_at, radius, error in self.photo_places(blank, body):
            if z_at > profile.z[-1] + 6:
                continue
            seen = profile.radius_at(z_at)
            checks.append(PhotoCheck(path, z_at, seen, radius, 2 * math.hypot(error, PHOTO_ERROR_MM)))
        if checks:
            worst = max(checks, key=lambda c: abs(c.by_photo - c.by_hand) / c.spread)
            apart = abs(worst.by_photo - worst.by_hand)
            level = grade(apart, worst.spread, 3 * worst.spread)
            names = {"photo": (2 * worst.by_photo, "mm"), "hand": (2 * worst.by_hand, "mm")}
            path = worst.name
            say = (
                "Photograph and readings agree within {value} in radius."
                if level == "ok"
                else (
                    f"{spoken(path).capitalize()}: {{photo}} across by the photograph, {{hand}} by hand; the radius is"
                    " {value} apart (spread {limit})."
                )
            )
            verdicts.append(
                Verdict(
                    "measure.photo",
                    "measure",
                    level,
                    apart,
                    worst.spread,
                    "mm",
                    say,
                    "Take that reading again; then check the known length and the distance of the lens.",
                    names,
                    field=f"{path}.readings.0",
                )
            )
        return PhotoFound(profile, tuple(checks), given.photo), verdicts

    def offers(self, blank: B, measured: Measured) -> dict[str, Any]:
        free, body = measured.free, measured.body
        assert isinstance(body, RoundBody)
        beside = (free.right - free.left) * body.radius_at(free.high)
        return {
            "handle.free_width": read("width", "tape", round(beside, 1)),
            "handle.free_height": read("height", "ruler", round(free.high - free.low, 1)),
            # A handle hides the edge on its side.
            "photo.side": "both" if free.handle is None else "left" if free.handle > 0 else "right",
        }

    def _free(self, blank: B, body: RoundBody, readings: Readings, slips: list[Verdict]) -> FreeArea:
        """Its free area. Where the bands leave none because all of it was typed in inches, that is what is said."""
        try:
            return free_area_of_round(blank, body, dict(readings))
        except BadReading:
            for slip in slips:
                if slip.code == "measure.inches":
                    hint = "Type each with its unit, such as 10 1/4 in."
                    raise BadReading(slip.carried(), field=slip.field, hint=hint) from None
            raise

    def measure(self, blank: B, given: Given) -> Measured:
        readings = self.readings(blank)
        dimensions = dict(dimensions_of(blank))
        body = self.body(blank, readings)
        rings = self.rings(blank)
        radii = {p: radius_from(dimensions[p], readings[p], blank.tape_thickness_mm, p)[0] for p in rings}
        slips = [] if self.tried(blank) else looks_like(blank, readings, radii, self.one_side)
        free = self._free(blank, body, readings, slips)
        consequences = propagate(self.figures(blank, free, body, readings), readings, {"free_area": "mm2"})
        errors = {c.name: c.error for c in consequences}
        verdicts = self.seam_verdicts(blank, readings, errors)
        drifts = [errors[n] for n in errors if n.startswith("edge_drift")]
        if drifts:
            drift = max(drifts)
            verdicts.append(
                Verdict(
                    "measure.edge_drift",
                    "measure",
                    grade(drift, DRIFT_LIMIT_MM, 6 * DRIFT_LIMIT_MM),
                    drift,
                    DRIFT_LIMIT_MM,
                    "mm",
                    "The ends of a template laid from the front stand level to ± {value}.",
                    "Readings further apart along the side, or more of them, bring it down.",
                    field=self.side_field(blank),
                )
            )
        capacity = capacity_verdict(blank, body, {dimensions[p].reads for p in rings}, capacity_remedies(blank))
        if capacity:
            verdicts.append(capacity)
        verdicts += self.own_verdicts(blank, body)
        items = list(dimensions.items())
        verdicts += outliers(items, readings)
        verdicts += cross_checks(items, readings, second_ways(self, blank, readings, dimensions))
        verdicts += out_of_round(items)
        verdicts += slips
        photo, photo_verdicts = self.photo(blank, body, given)
        verdicts += photo_verdicts
        again = again_first(consequences)
        if again:
            verdicts.append(again)
        return Measured(
            blank,
            body,
            readings,
            free,
            outside_volume_ml(body, *blank.beyond),
            tuple(verdicts),
            consequences,
            find_level(blank, body),
            photo,
        )
