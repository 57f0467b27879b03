"""With what a body is laid flat."""

from __future__ import annotations

from dataclasses import dataclass

from ..job.document import Wrap
from ..job.shipped import Film
from ..job.tables import SHIPPED


@dataclass(frozen=True)
class Laying:
    """The wrap asked for, the film it is made of, and the films there are besides."""

    wrap: Wrap
    film: Film
    films: tuple[Film, ...] = SHIPPED.films

    @property
    def limit(self) -> float | None:
        """What the film takes, as a share; None where it states nothing."""
        percent = self.film.takes_strain_percent
        return None if percent is None else percent / 100

    @property
    def thickness(self) -> float:
        """Thickness of the film in mm: as typed, or the film's own."""
        typed = self.wrap.film_thickness_um
        return (self.film.thickness_um if typed is None else typed) / 1000
