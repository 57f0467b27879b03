"""A placed drawing on what goes all round: laps, seam, what is read from the front, and the way it is laid."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from ..arrays import Array
from ..job.document import Placement
from ..measure.free import READABLE_HALF_ANGLE
from ..surface import Template
from ..surface.pieces import Pieces
from ..verdict import Verdict, plain
from .place import PlacedDrawing

MEETS_MM = 0.05
"""Ends that are no further apart meet: it is no more than a cut of the blade."""
LEAST_OVER_MM = 0.1
"""Less over a cut between gores is no more than a cut of the blade."""
LEAST_FREE = math.radians(0.3)
"""Between drawings closer than this there is no place for a seam."""


def round_verdicts(placement: Placement, d: PlacedDrawing, template: Template, once: bool) -> list[Verdict]:
    """Verdicts on a closed surface: laps over itself, and what is read from the front. `once` tells whether it may be
    told to go once round, as wide as that makes it."""
    surface = template.surface
    per, span, repeat = surface.scale_at(d.s_c), d.span_a[1] - d.span_a[0], placement.repeat
    room = 2 * math.pi / repeat
    out, field = [], f"{d.at}.width_mm"
    if placement.once_round_mm is None and span > room * (1 + 1e-9) and (span - room) * per > 0.05:
        what = "its own other end" if repeat == 1 else "its neighbours"
        out.append(
            Verdict(
                "artwork.laps_itself",
                "artwork",
                "stop",
                (span - room) * per,
                0.0,
                "mm",
                "“" + plain(d.name) + f"” runs {{value}} over {what}.",
                "Lay it once round, so that its ends meet." if repeat == 1 else "Make it smaller.",
                field=f"{d.at}.once_round_mm" if once else field,
                # Copies keep a little between them.
                fix=0.0 if once else math.floor(d.width * room / span * (1.0 if repeat == 1 else 0.93) * 100) / 100,
            )
        )
    readable = 2 * READABLE_HALF_ANGLE * per
    wide = span * per
    # From where its middle is seen straight on.
    away = abs(math.remainder(d.a_c, 2 * math.pi))
    seen = "from the front" if away <= READABLE_HALF_ANGLE else "from where it is looked at straight on"
    if span <= 2 * READABLE_HALF_ANGLE:
        out.append(
            Verdict(
                "artwork.readable",
                "artwork",
                "ok",
                wide,
                readable,
                "mm",
                f"All {{value}} of “{plain(d.name)}” are readable {seen}.",
            )
        )
    else:
        band = span > math.pi
        out.append(
            Verdict(
                "artwork.readable",
                "artwork",
                "ok" if band else "look",
                wide,
                readable,
                "mm",
                f"Of the {{value}} of “{plain(d.name)}” {{limit}} are readable {seen}.",
                "Narrow it to {limit} if it is to be read at a glance.",
                field=field,
                fix=None if band else math.floor(d.width * readable / wide * 10) / 10,
            )
        )
    return out


def free_angles(round_it: Sequence[tuple[PlacedDrawing, int]]) -> Array:
    """Angles (m,) rad halfway between drawings of which so many copies each lie round a body: nothing lies there, but
    for what goes all round."""
    turn = 2 * math.pi
    some = [(*d.span_a, n) for d, n in round_it if (d.span_a[1] - d.span_a[0]) * n < turn - 1e-6]
    if not some:
        return np.empty(0)
    starts = np.concatenate([left + turn * np.arange(n) / n for left, _, n in some]) % turn
    spans = np.concatenate([np.full(n, right - left) for left, right, n in some])
    order = np.argsort(starts)
    starts, ends = starts[order], (starts + spans)[order]
    # So far is all taken, by what goes on beyond a whole turn as well.
    taken = np.maximum(np.maximum.accumulate(ends), ends.max() - turn)
    free = np.append(starts[1:], starts[0] + turn) - taken
    found: Array = (taken + free / 2)[free > LEAST_FREE]
    return found


def seam_verdicts(
    placement: Placement, d: PlacedDrawing, template: Template, every: Sequence[tuple[PlacedDrawing, int]]
) -> list[Verdict]:
    """What the seam parts of a drawing, and the nearest place to move it to where it parts nothing of `every` drawing
    there is, each with how many copies of it go round."""
    seam, scale = math.degrees(template.right), template.surface.scale_at(d.s_c)
    name, repeat = plain(d.name), placement.repeat
    span = d.span_a[1] - d.span_a[0]
    room = 2 * math.pi / repeat - span
    what = f"“{name}” lies" if repeat == 1 else f"A copy of “{name}” lies"
    if placement.once_round_mm is not None:
        over = -room * scale
        how = "meet" if abs(over) <= MEETS_MM else "overlap by {value}" if over > 0 else "leave a gap of {value}"
        return [
            Verdict(
                "artwork.seam",
                "artwork",
                "ok" if abs(over - placement.once_round_mm) <= MEETS_MM else "look",
                abs(over),
                None,
                "mm",
                f"“{name}” goes once round: its ends {how} at the seam.",
                "Lay it level, or type its width.",
                field=f"{d.at}.once_round_mm",
            )
        ]
    meets = room * d.width / max(span, 1e-9) <= MEETS_MM
    if not d.parted and not meets:
        return []
    if meets:
        return [
            Verdict(
                "artwork.seam",
                "artwork",
                "ok",
                len(d.parted),
                None,
                "count",
                f"“{name}” goes all round: "
                + ("the seam parts it, and both ends meet there." if d.parted else "both ends meet at the seam."),
                field="/wrap.seam_deg",
            )
        ]
    # Halfway between two drawings on the turn: nearest to where the seam is now.
    edges = np.degrees(free_angles(every)).tolist()
    best = min(edges, key=lambda e: abs((e - seam + 180) % 360 - 180), default=None)
    return [
        Verdict(
            "artwork.seam",
            "artwork",
            "look",
            len(d.parted),
            0,
            "count",
            f"{what} over the seam, and is parted there.",
            "Leave a place free for the seam: something lies wherever it is put."
            if best is None
            else "Move the seam to {to}, where nothing lies.",
            {} if best is None else {"to": (best % 360, "deg")},
            field="/wrap.seam_deg",
            fix=None if best is None else round(best % 360, 1),
        )
    ]


def gore_verdicts(placement: Placement, d: PlacedDrawing, template: Template) -> list[Verdict]:
    """What the cuts between gores part of a drawing; the seam, which is one of them, has its own verdict."""
    cuts = template.surface.cuts if isinstance(template.surface, Pieces) else ()
    if not cuts:
        return []
    (left, right), turn = d.span_a, 2 * math.pi
    spare = LEAST_OVER_MM / template.surface.scale_at(d.s_c)
    over = 0
    for n in range(placement.repeat):
        from_left = (np.array(cuts) - left - turn * n / placement.repeat) % turn
        over += int(np.count_nonzero((from_left > spare) & (from_left < right - left - spare)))
    if not over:
        return []
    wide = (template.right - template.left) / (len(cuts) + 1)
    middles = template.left + (np.arange(len(cuts) + 1) + 0.5) * wide
    fits = placement.repeat == 1 and right - left <= wide
    # Its middle is not always the middle of what it covers.
    off = (left + right) / 2 - d.a_c
    to = float(middles[np.argmin(np.abs((middles - off - d.a_c + math.pi) % turn - math.pi))]) - off
    return [
        Verdict(
            "artwork.gores",
            "artwork",
            "look",
            over,
            0,
            "count",
            f"“{plain(d.name)}” lies over {{value}} of the cuts between gores: it is cut there, and the parts are laid"
            " edge to edge.",
            "Turn it to the middle of a gore." if fits else "Make it narrower than a gore, or expect a joint at each.",
            field=f"{d.at}.centre_deg",
            fix=round((math.degrees(to) + 180) % 360 - 180, 1) if fits else None,
        )
    ]


def way_verdict(d: PlacedDrawing) -> Verdict:
    f = next(w for w in d.ways if w.way == d.way)
    field = f"{d.at}.way"
    if d.way == "flat":
        bad = f.sag > 0.5 and d.suggested != "flat"
        return Verdict(
            "artwork.sag",
            "artwork",
            "look" if bad else "ok",
            f.sag,
            0.5,
            "mm",
            f"“{plain(d.name)}” is laid flat: its horizontals sag {{value}} at the ends"
            + (" (limit {limit})." if bad else "."),
            f"Lay it {d.suggested}.",
            field=field,
            fix=d.suggested,
        )
    if d.way == "even":
        return Verdict(
            "artwork.lean",
            "artwork",
            "look" if math.degrees(f.lean) > 5 else "ok",
            math.degrees(f.lean),
            5.0,
            "deg",
            f"“{plain(d.name)}” is laid even: its verticals lean {{value}} at the ends.",
            f"Lay it {d.suggested}.",
            field=field,
            fix=d.suggested,
        )
    what = "width" if d.way == "level" else "size"
    return Verdict(
        f"artwork.{what}_change",
        "artwork",
        "look" if f.width_change_percent > 12 else "ok",
        f.width_change_percent,
        12.0,
        "%",
        f"“{plain(d.name)}” is laid {d.way}: its {what} changes by ± {{value}} between its middle and its edges,"
        " {mm} at most.",
        "Expected on a strong taper: look at it on the object.",
        {"mm": (f.width_change, "mm")},
        field=field,
    )
