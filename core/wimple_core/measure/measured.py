"""What the first stage yields: everything the readings say."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import shapely

from ..job.blank import BlankBase
from ..verdict import Verdict
from .bodies import Body
from .capacity import LevelFound
from .consequences import Consequence
from .flat_bodies import MeshBody
from .free import FreeArea
from .photo import PhotoProfile
from .readings import Reading
from .silhouette import Outline

Readings = Mapping[str, Reading]


@dataclass(frozen=True, eq=False)
class Given:
    """What a blank is known by besides its readings: the outline of its drawing, its mesh, the outline in its
    photograph."""

    outline: shapely.Polygon | None = None
    mesh: MeshBody | None = None
    photo: Outline | None = None


@dataclass(frozen=True)
class PhotoCheck:
    """One place taken off the photograph and read by hand: its name, both radii and the spread of their difference,
    mm."""

    name: str
    height: float
    by_photo: float
    by_hand: float
    spread: float


@dataclass(frozen=True, eq=False)
class PhotoFound:
    """What the photograph says: the side line, and each place that was read by hand too."""

    profile: PhotoProfile
    checks: tuple[PhotoCheck, ...]
    outline: Outline


@dataclass(frozen=True)
class TrialFound:
    """The ways round before and after one trial fit, mm."""

    top_before: float
    top_after: float
    bottom_before: float
    bottom_after: float


@dataclass(frozen=True, eq=False)
class Measured:
    """A blank's body, its readings by path, its free area, what its spread does, and the verdicts on them."""

    blank: BlankBase
    body: Body
    readings: dict[str, Reading]
    free: FreeArea
    volume_ml: float | None
    verdicts: tuple[Verdict, ...]
    consequences: tuple[Consequence, ...] = ()
    level: LevelFound | None = None
    photo: PhotoFound | None = None

    @property
    def beyond(self) -> tuple[float, float]:
        """How far a wall goes on along the side above what was read, and below it, mm."""
        return self.blank.beyond

    def error_of(self, name: str) -> float | None:
        """The standard error of a figure, if the blank has it."""
        found = self.consequence(name)
        return found.error if found else None

    def consequence(self, name: str) -> Consequence | None:
        """The figure of that name, if the blank has it."""
        return next((c for c in self.consequences if c.name == name), None)
