"""Path data and basic shapes flattened to points, whole paths at a time.

A cubic's chord leaves it by at most `|B''| / (8 n^2)` with n equal steps, and `|B''|` is at most 6 times the larger
second difference of its control points; an arc's by `r (1 - cos(step / 2))`.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np
from fontTools.svgLib.path.arc import EllipticalArc
from fontTools.svgLib.path.parser import parse_path

from ...arrays import Array

LARGEST_STEP = math.pi / 18
"""An arc is never drawn with steps of more than 10 degrees, so that curves can be told from corners on the way out."""


@dataclass
class _Recorder:
    """A pen that keeps what is drawn: one row of eight numbers a line or cubic, arcs apart."""

    rows: list[tuple[float, ...]] = field(default_factory=list)
    arcs: dict[int, tuple[float, ...]] = field(default_factory=dict)
    starts: list[int] = field(default_factory=list)
    closed: list[bool] = field(default_factory=list)
    at: tuple[float, float] = (0.0, 0.0)

    def moveTo(self, p: tuple[float, float]) -> None:
        self.starts.append(len(self.rows))
        self.closed.append(False)
        self.at = p
        self.rows.append((*p, *p, *p, *p))

    def lineTo(self, p: tuple[float, float]) -> None:
        a = self.at
        self.rows.append((*a, *a, *p, *p))
        self.at = p

    def curveTo(self, b: tuple[float, float], c: tuple[float, float], d: tuple[float, float]) -> None:
        self.rows.append((*self.at, *b, *c, *d))
        self.at = d

    def qCurveTo(self, q: tuple[float, float], d: tuple[float, float]) -> None:
        a = self.at
        b = (a[0] + 2 / 3 * (q[0] - a[0]), a[1] + 2 / 3 * (q[1] - a[1]))
        c = (d[0] + 2 / 3 * (q[0] - d[0]), d[1] + 2 / 3 * (q[1] - d[1]))
        self.curveTo(b, c, d)

    def arc(
        self, cx: float, cy: float, rx: float, ry: float, turn: float, a0: float, da: float, end: tuple[float, float]
    ) -> None:
        self.arcs[len(self.rows)] = (cx, cy, rx, ry, turn, a0, da)
        self.rows.append((*self.at, *self.at, *end, *end))
        self.at = end

    def closePath(self) -> None:
        if self.closed:
            self.closed[-1] = True

    def endPath(self) -> None:
        pass


class _ExactArc(EllipticalArc):  # type: ignore[misc]
    """An arc handed to the recorder as what it is, where fontTools would draw it as cubics."""

    def draw(self, pen: _Recorder) -> None:
        end = (self.target_point.real, self.target_point.imag)
        if self.rx == 0 or self.ry == 0 or not self._parametrize():
            pen.lineTo(end)
            return
        # fontTools keeps the centre in the frame in which the ellipse is the unit circle.
        x, y = self.center_point.real * self.rx, self.center_point.imag * self.ry
        c, s = math.cos(self.angle), math.sin(self.angle)
        # A circle has no axes: its angles count from the drawing's own, so that all its arcs are cut alike.
        round_ = abs(self.rx - self.ry) <= 1e-9 * self.rx
        tilt, start = (0.0, self.theta1 + self.angle) if round_ else (self.angle, self.theta1)
        pen.arc(c * x - s * y, s * x + c * y, self.rx, self.ry, tilt, start, self.theta_arc, end)


Seen = Callable[[Array], bool]
"""Tells whether anything between places (n, 2), in user units, may be seen; may raise where they are out of reach."""


def everywhere(points: Array) -> bool:
    """All of it is seen."""
    return True


@dataclass(frozen=True)
class Polyline:
    """One flattened subpath: points (n, 2); closed where the path says so."""

    points: Array
    closed: bool


def _quarter(radius: float, tolerance: float) -> int:
    """Into how many steps a quarter of a turn is cut."""
    step = LARGEST_STEP if radius <= tolerance else min(LARGEST_STEP, 2 * math.acos(1 - tolerance / radius))
    return math.ceil(math.pi / 2 / step - 1e-9)


def arc_angles(radius: float, a0: float, da: float, tolerance: float) -> Array:
    """The angles (n,) at which an arc is cut, without its start, with its end.

    Between its ends they are the same whole parts of a turn for every arc of that radius, so that two shapes that share
    one are cut alike.
    """
    if da < 0:
        return np.concatenate([arc_angles(radius, a0 + da, -da, tolerance)[-2::-1], [a0 + da]])
    step = math.pi / 2 / _quarter(radius, tolerance)
    near = 0.15
    inner = step * np.arange(math.ceil(a0 / step + near), math.floor((a0 + da) / step - near) + 1)
    return np.concatenate([inner, [a0 + da]])


def _reaches(pen: _Recorder, rows: Array) -> Array:
    """Places (n, 2) between which all lies that a pen drew."""
    round_ = np.array([[cx, cy, max(rx, ry)] for cx, cy, rx, ry, *_ in pen.arcs.values()]).reshape(-1, 3)
    corners = [round_[:, :2] - round_[:, 2:], round_[:, :2] + round_[:, 2:]]
    return np.concatenate([rows.reshape(-1, 2), *corners])


def _flatten(pen: _Recorder, tolerance: float, seen: Seen) -> list[Polyline]:
    if not pen.rows:
        return []
    rows = np.asarray(pen.rows, dtype=np.float64).reshape(-1, 4, 2)
    if not seen(_reaches(pen, rows)):
        return []
    if not np.isfinite(rows).all():
        bad = ~np.isfinite(rows).all(axis=(1, 2))
        rows = rows.copy()
        rows[bad] = 0.0
    second = np.maximum(
        np.linalg.norm(rows[:, 0] - 2 * rows[:, 1] + rows[:, 2], axis=1),
        np.linalg.norm(rows[:, 1] - 2 * rows[:, 2] + rows[:, 3], axis=1),
    )
    straight = (rows[:, 0] == rows[:, 1]).all(axis=1) & (rows[:, 2] == rows[:, 3]).all(axis=1)
    # Turning of the control polygon, so that small curves keep steps that can be told from corners.
    legs = np.diff(rows, axis=1)
    heading = np.arctan2(legs[..., 1], legs[..., 0])
    turn = np.abs((np.diff(heading, axis=1) + math.pi) % (2 * math.pi) - math.pi)
    turn = np.where((np.abs(legs[:, :-1]).sum(-1) > 0) & (np.abs(legs[:, 1:]).sum(-1) > 0), turn, 0.0).sum(axis=1)
    n = np.ceil(np.maximum(np.sqrt(0.75 * second / tolerance), np.minimum(turn / LARGEST_STEP, 36))).astype(np.int64)
    n = np.clip(np.where(straight, 1, np.maximum(n, 2)), 1, 2000)
    angles = {i: arc_angles(max(rx, ry), a0, da, tolerance) for i, (_, _, rx, ry, _, a0, da) in pen.arcs.items()}
    for i, a in angles.items():
        n[i] = len(a)
    first = np.concatenate([[0], np.cumsum(n)])
    which = np.repeat(np.arange(len(rows)), n)
    t = ((np.arange(first[-1]) - first[which] + 1) / n[which])[:, None]
    p0, p1, p2, p3 = (rows[which, j] for j in range(4))
    u = 1 - t
    points = u**3 * p0 + 3 * u**2 * t * p1 + 3 * u * t**2 * p2 + t**3 * p3
    line = straight[which]
    points[line] = p3[line]
    for i, (cx, cy, rx, ry, tilt, _, _) in pen.arcs.items():
        a = angles[i]
        x, y = rx * np.cos(a), ry * np.sin(a)
        points[first[i] : first[i + 1], 0] = cx + x * math.cos(tilt) - y * math.sin(tilt)
        points[first[i] : first[i + 1], 1] = cy + x * math.sin(tilt) + y * math.cos(tilt)
        points[first[i + 1] - 1] = rows[i, 3]
    bounds = [first[s] for s in pen.starts] + [first[-1]]
    return [
        Polyline(points[a:b], closed) for a, b, closed in zip(bounds[:-1], bounds[1:], pen.closed, strict=True) if b > a
    ]


def flatten_path(d: str, tolerance: float, seen: Seen = everywhere) -> tuple[list[Polyline], bool]:
    """Path data flattened, if it is `seen`; False beside it where the data is damaged, and then only what comes before
    is drawn."""
    pen, whole = _Recorder(), True
    try:
        parse_path(d, pen, arc_class=_ExactArc)
    except Exception:
        whole = False
    return _flatten(pen, tolerance, seen), whole


_NUMBER = re.compile(r"[+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?")


def flatten_points(text: str, closed: bool) -> tuple[list[Polyline], bool]:
    """The `points` of a polyline or polygon."""
    numbers = np.array(_NUMBER.findall(text), dtype=np.float64)
    whole = numbers.size % 2 == 0 and not re.search(r"[a-df-zA-DF-Z]", text)
    points = numbers[: numbers.size // 2 * 2].reshape(-1, 2)
    return ([Polyline(points, closed)] if len(points) > 1 else []), whole


def ellipse(cx: float, cy: float, rx: float, ry: float, tolerance: float) -> list[Polyline]:
    """A whole ellipse."""
    n = 4 * _quarter(max(rx, ry), tolerance)
    a = 2 * math.pi * np.arange(n) / n
    return [Polyline(np.column_stack([cx + rx * np.cos(a), cy + ry * np.sin(a)]), True)]


def rectangle(x: float, y: float, w: float, h: float, rx: float, ry: float, tolerance: float) -> list[Polyline]:
    """A rectangle, its corners rounded by rx and ry."""
    if rx <= 0 or ry <= 0:
        return [Polyline(np.array([[x, y], [x + w, y], [x + w, y + h], [x, y + h]]), True)]
    rx, ry = min(rx, w / 2), min(ry, h / 2)
    n = _quarter(max(rx, ry), tolerance)
    quarter = math.pi / 2 * np.arange(n + 1) / n
    corners = ((x + w - rx, y + ry, -1), (x + w - rx, y + h - ry, 0), (x + rx, y + h - ry, 1), (x + rx, y + ry, 2))
    parts = []
    for cx, cy, turns in corners:
        a = quarter + turns * math.pi / 2
        parts.append(np.column_stack([cx + rx * np.cos(a), cy + ry * np.sin(a)]))
    return [Polyline(np.concatenate(parts), True)]


def _heading(row: Array, arc: tuple[float, ...] | None, at_end: bool) -> Array:
    """Direction (2,) in which a line, cubic or arc leaves its start, or comes to its end; zero where it has none."""
    if arc is not None:
        _, _, rx, ry, tilt, a0, da = arc
        a = a0 + (da if at_end else 0.0)
        x, y = -rx * math.sin(a) * math.copysign(1, da), ry * math.cos(a) * math.copysign(1, da)
        return np.array([x * math.cos(tilt) - y * math.sin(tilt), x * math.sin(tilt) + y * math.cos(tilt)])
    ends = [row[3] - row[i] for i in (2, 1, 0)] if at_end else [row[i] - row[0] for i in (1, 2, 3)]
    return next((e for e in ends if np.abs(e).max() > 0), np.zeros(2))


def _turned(pen: _Recorder) -> list[tuple[Array, float]]:
    """The corners of what a pen drew, each with the angle (rad) at which it is passed: halfway between in and out."""
    rows = np.asarray(pen.rows, dtype=np.float64).reshape(-1, 4, 2)
    out: list[tuple[Array, float]] = []
    for first, last, closed in zip(pen.starts, [*pen.starts[1:], len(rows)], pen.closed, strict=True):
        legs = [
            (
                rows[i, 0],
                rows[i, 3],
                _heading(rows[i], pen.arcs.get(i), False),
                _heading(rows[i], pen.arcs.get(i), True),
            )
            for i in range(first + 1, last)
        ]
        start = rows[first, 3]
        if closed and (not legs or (legs[-1][1] != start).any()):
            end = legs[-1][1] if legs else start
            legs.append((end, start, start - end, start - end))
        points = [start, *(leg[1] for leg in legs)]
        for i, point in enumerate(points):
            came = legs[i - 1][3] if i else legs[-1][3] if closed and legs else None
            goes = legs[i][2] if i < len(legs) else legs[0][2] if closed and legs else None
            found = [v / np.hypot(*v) for v in (came, goes) if v is not None and np.hypot(*v) > 0]
            along = sum(found) if found else np.zeros(2)
            if len(found) == 2 and np.hypot(*along) < 1e-9:
                along = np.array([-found[0][1], found[0][0]])
            out.append((point, math.atan2(along[1], along[0]) if np.hypot(*along) > 0 else 0.0))
    return out


def corners_of_path(d: str) -> list[tuple[Array, float]]:
    """The vertices (2,) of path data and the direction (rad) in which a marker on each of them points (SVG 2, 13.7)."""
    pen = _Recorder()
    try:
        parse_path(d, pen, arc_class=_ExactArc)
    except Exception:
        return []
    return _turned(pen)


def corners_of_points(points: Array, closed: bool) -> list[tuple[Array, float]]:
    """The same for the points (n, 2) of a line, polyline or polygon."""
    pen = _Recorder()
    if len(points):
        pen.moveTo((float(points[0, 0]), float(points[0, 1])))
        for x, y in points[1:].tolist():
            pen.lineTo((x, y))
        if closed:
            pen.closePath()
    return _turned(pen)
