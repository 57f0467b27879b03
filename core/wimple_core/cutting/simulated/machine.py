"""The machine: reads the plotter language byte by byte, as HP-GL has it (from memory), and moves its blade.

Known: IN, PA, PR, PU, PD, SP, VS (speed, cm/s), FS (force, gf), OS (asks for its status), OA (where it stands), OE
(its last error), MF (look for a printed mark near a place: a word of its own), and the device's own `ESC . B` (how many
bytes it still takes) and `ESC . K` (forget what is not done yet). Lengths are mm, y up; 40 units to the mm.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from ...arrays import Array
from ..found_marks import Lie
from ..plotter import UNITS_PER_MM
from ..seconds import path_length
from ..trailing import tip_path
from .drive import along, drive
from .strokes import Stroke

BUFFER_BYTES = 1024
PER_UM = 0.9
"""Force (gf) that a new blade needs for each um of film; a model of our own."""
WORN_M = 900.0
"""After so many metres a blade has lost half of its edge; the same."""
SLIP = 0.0004
"""Of a long feed so much is lost, a share of what goes beyond FEED_MM."""
FEED_MM = 1000.0
EYE_MM = 12.0
"""So far round the place it is sent to the eye sees a mark."""
ASK = b"\x1b.B"
FORGET = b"\x1b.K"
COMMAND = re.compile(rb"\s*([A-Za-z]{2})([^;A-Za-z\x1b]*);?")
MOST_NUMBERS = 100_000


@dataclass(frozen=True)
class Sheet:
    """A load of film: how thick it is (um), and how far it lies askew (degrees)."""

    film_um: float = 70.0
    skew_deg: float = 0.0
    marks: tuple[tuple[float, float], ...] = ()
    """Where the middles of printed marks lie on the machine, mm."""
    eye_mm: float = 0.02
    """By how much an eye misses a mark's middle (one standard deviation, each way)."""
    lie: Lie | None = None
    """How a printed page really lies."""

    @classmethod
    def of_page(cls, film_um: float, page: Sequence[Sequence[float]], hand: np.random.Generator) -> Sheet:
        """A page as a hand lays it, whose marks should lie there (mm): never quite where they should, and a printer
        never quite keeps a size."""
        marks = np.array(page, dtype=float).reshape(-1, 2)
        turn, scale = float(np.radians(hand.uniform(-1.2, 1.2))), float(hand.uniform(0.997, 1.004))
        about = Lie((0.0, 0.0), turn, scale, 0.0).of(marks[:1])[0]
        right, up = (marks[0] - about + hand.uniform(3.0, 8.0, 2)).tolist()
        lie = Lie((right, up), turn, scale, 0.0)
        return cls(film_um, marks=tuple((x, y) for x, y in lie.of(marks).tolist()), lie=lie)


@dataclass(frozen=True)
class Faults:
    """How the machine is told to fail. `dull`: what is left of the blade's edge, a share; `force`: what of the force
    reaches the film; `offset_mm`: by how much the blade's offset differs from what is told; `lose_after`: the bytes
    after which its buffer loses LOST of them; `drop_after`: those after which the connection is dropped;
    `power_after_mm`: the cut length after which the power goes."""

    dull: float = 1.0
    force: float = 1.0
    offset_mm: float = 0.0
    lose_after: int | None = None
    drop_after: int | None = None
    power_after_mm: float | None = None


LOST = 64
OVERRUN = 7


class Off(Exception):
    """The machine has no power, or has let go of the line."""


@dataclass
class Machine:
    """The simulated cutter. `offset_mm` is its blade's; `unloaded` tells that no film is on it."""

    offset_mm: float = 0.25
    sheet: Sheet | None = None
    faults: Faults = Faults()
    blade_m: float = 0.0
    force_gf: float = 90.0
    speed_mm_s: float = 100.0
    travel_mm_s: float = 200.0
    acceleration_mm_s2: float = 2000.0
    lift_s: float = 0.08
    strokes: list[Stroke] = field(default_factory=list)
    powered: bool = True
    watch: Callable[[Machine], None] | None = None

    def __post_init__(self) -> None:
        # Where the blade points: it stays so whatever the machine is told, until it is drawn along.
        self._heading: float | None = None
        self.eye = np.random.default_rng(0)
        self._clear()
        self.taken = 0
        self.cut_mm = 0.0
        self.seconds = 0.0
        """What its own clock shows: how long it has moved, and lifted its blade."""

    def _clear(self) -> None:
        self._waiting = b""
        self._at = np.zeros(2)
        self._down = False
        self._relative = False
        self._error = 0
        self._path: list[Array] = []

    @property
    def room(self) -> int:
        """How many bytes it still takes."""
        return BUFFER_BYTES - len(self._waiting)

    @property
    def status(self) -> int:
        """As HP-GL has it: 16 ready, 1 blade down, 32 an error; and 8 where no film is loaded."""
        return 16 + self._down + 32 * bool(self._error) + 8 * (self.sheet is None)

    def load(self, sheet: Sheet) -> None:
        """Film is laid on and fed in; what was cut before is another sheet's."""
        self.sheet = sheet
        self.strokes.clear()
        self._clear()

    def unload(self) -> None:
        """The sheet is taken off: nothing can be cut in its place again."""
        self._lift()
        self.sheet = None

    def take(self, data: bytes) -> bytes:
        """Take bytes off the line; what it answers. Raises Off where it fails so."""
        if not self.powered:
            raise Off("no power")
        before = self.taken
        self.taken += len(data)
        faults = self.faults
        if faults.drop_after is not None and before <= faults.drop_after < self.taken:
            self._work(data[: faults.drop_after - before])
            self.faults = replace(faults, drop_after=None)
            raise Off("the line is dropped")
        if faults.lose_after is not None and before <= faults.lose_after < self.taken:
            at = faults.lose_after - before
            data = data[:at] + data[at + LOST :]
            self._error = OVERRUN
            self.faults = replace(faults, lose_after=None)
        return self._work(data)

    def _work(self, data: bytes) -> bytes:
        answer = b""
        self._waiting += data
        if len(self._waiting) > BUFFER_BYTES:
            # What does not go in is lost, and said.
            self._waiting = self._waiting[:BUFFER_BYTES]
            self._error = OVERRUN
        while True:
            # An escape may stand within what was cut off: what came before it then never ends.
            at = self._waiting.find(FORGET)
            if at >= 0:
                self._waiting = self._waiting[at + len(FORGET) :].lstrip()
                self._lift()
                continue
            self._waiting = self._waiting.lstrip()
            if self._waiting.startswith(ASK):
                self._waiting = self._waiting[len(ASK) :]
                answer += b"%d\r" % self.room
                continue
            end = self._end()
            if end is None:
                break
            one, self._waiting = self._waiting[:end], self._waiting[end:]
            answer += self._do(one)
        return answer

    def _end(self) -> int | None:
        """Where the first command ends; None while it has not come whole."""
        stop = self._waiting.find(b";")
        if stop >= 0:
            return stop + 1
        # A long stroke is cut as it comes: up to its last whole pair.
        head, rest = self._waiting[:2], self._waiting[2:]
        if len(rest) > BUFFER_BYTES // 2 and head.upper() in (b"PD", b"PU"):
            numbers = rest.split(b",")
            whole = (len(numbers) - 1) // 2 * 2
            if whole:
                done = b",".join(numbers[:whole])
                self._waiting = head + done + b";" + head + b",".join(numbers[whole:])
                return 2 + len(done) + 1
        return None

    def _do(self, command: bytes) -> bytes:
        found = COMMAND.fullmatch(command)
        if found is None:
            if command.strip(b"; \r\n\t"):
                self._error = 1
            return b""
        name = found[1].upper()
        try:
            numbers = [float(n) for n in re.split(rb"[,\s]+", found[2].strip()) if n][:MOST_NUMBERS]
        except ValueError:
            self._error = 3
            return b""
        return self._obey(name, numbers)

    def _obey(self, name: bytes, numbers: list[float]) -> bytes:
        if name == b"IN":
            self._lift()
            self._at, self._relative, self._error = np.zeros(2), False, 0
        elif name in (b"PA", b"PR"):
            self._relative = name == b"PR"
            self._go(numbers)
        elif name == b"PU":
            self._lift()
            self._go(numbers)
        elif name == b"PD":
            if not self._down:
                self._path, self._down = [self._at.copy()], True
            self._go(numbers)
        elif name == b"VS" and numbers:
            self.speed_mm_s = 10 * max(numbers[0], 0.1)
        elif name == b"FS" and numbers:
            self.force_gf = max(numbers[0], 0.0)
        elif name == b"OS":
            return b"%d\r" % self.status
        elif name == b"OE":
            said, self._error = self._error, 0
            return b"%d\r" % said
        elif name == b"OA":
            x, y = np.rint(self._at * UNITS_PER_MM).astype(int).tolist()
            return b"%d,%d,%d\r" % (x, y, self._down)
        elif name == b"MF" and len(numbers) == 2:
            return self._see(np.array(numbers) / UNITS_PER_MM)
        elif name != b"SP":
            self._error = 1
        return b""

    def _see(self, at: Array) -> bytes:
        """The eye is sent to a place: the middle of the mark it sees there, as it sees it, or 0."""
        marks = np.array(self.sheet.marks).reshape(-1, 2) if self.sheet is not None else np.empty((0, 2))
        away = np.hypot(*(marks - at).T)
        if not len(marks) or away.min() > EYE_MM:
            return b"0\r"
        seen = marks[int(away.argmin())] + self.eye.normal(0.0, self.sheet.eye_mm if self.sheet else 0.0, 2)
        x, y = np.rint(seen * UNITS_PER_MM).astype(int).tolist()
        return b"%d,%d\r" % (x, y)

    def _go(self, numbers: list[float]) -> None:
        if len(numbers) % 2:
            self._error = 2
            numbers = numbers[:-1]
        for x, y in zip(numbers[::2], numbers[1::2], strict=True):
            to = np.array([x, y]) / UNITS_PER_MM + (self._at if self._relative else 0.0)
            if not np.isfinite(to).all():
                self._error = 3
                return
            far = float(np.hypot(*(to - self._at)))
            if not self._down:
                self.seconds += drive([far], [], self.travel_mm_s, self.acceleration_mm_s2)
            if self._down:
                left = (self.faults.power_after_mm or math.inf) - self.cut_mm
                if far >= left:
                    self._at = self._at + (to - self._at) * max(left, 0.0) / max(far, 1e-12)
                    self._path.append(self._at.copy())
                    self._lift()
                    self.powered, self._waiting = False, b""
                    raise Off("the power is cut")
                self.cut_mm += far
                self._path.append(to)
            self._at = to

    def _lift(self) -> None:
        """The blade comes up: what it cut is written down."""
        if self._down and len(self._path) > 1 and self.sheet is not None:
            pivot = np.array(self._path)
            self.seconds += self.lift_s + along(pivot, self.speed_mm_s, self.acceleration_mm_s2)
            tip, self._heading = tip_path(pivot, max(self.offset_mm + self.faults.offset_mm, 0.0), self._heading)
            self.strokes.append(Stroke(pivot, self._on_film(tip), self.depth_um, self.sheet.film_um))
            self.blade_m += path_length(pivot) / 1000
        self._down, self._path = False, []
        if self.watch:
            self.watch(self)

    def _on_film(self, tip: Array) -> Array:
        """Where on the film that is, which lies askew and slips on a long feed."""
        assert self.sheet is not None
        beyond = np.maximum(tip[:, 1] - FEED_MM, 0.0)
        tip = tip - np.column_stack([np.zeros(len(tip)), SLIP * beyond])
        a = math.radians(-self.sheet.skew_deg)
        c, s = math.cos(a), math.sin(a)
        there: Array = tip @ np.array([[c, s], [-s, c]])
        return there

    @property
    def edge(self) -> float:
        """What is left of the blade's edge, a share."""
        left: float = self.faults.dull * 0.5 ** (self.blade_m / WORN_M)
        return left

    @property
    def depth_um(self) -> float:
        """How deep it cuts now."""
        return self.force_gf * self.faults.force * self.edge / PER_UM

    def power_on(self) -> None:
        """The power is back: it stands at the origin, and knows nothing of what it was told."""
        self.powered = True
        self.faults = replace(self.faults, power_after_mm=None)
        self._clear()
