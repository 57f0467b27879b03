"""What every kind of blank answers. One module holds all that is particular to a kind; nobody else asks which it is."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, ClassVar, Generic, Literal, Protocol, TypeVar

import shapely

from ...figures import LengthStyle
from ...job.blank import BlankBase
from ..drawing import Sketch
from ..flat_bodies import MeshBody
from ..measured import Given, Measured, Readings, TrialFound
from ..readings import Reading, dimensions_of, read_dimension
from ..silhouette import Outline

B = TypeVar("B", bound=BlankBase)
Relief = Literal["none", "slits", "gores"]


class Bring(Protocol):
    """Reads the files a blank names, each once."""

    def outline(self, name: str) -> shapely.Polygon:
        """The outermost contour of a drawing."""

    def mesh(self, name: str, unit: str, up: str) -> MeshBody:
        """The triangles of a file, in mm and upright."""

    def photo(self, name: str) -> Outline | None:
        """The outline found in a photograph; None where it is not found yet."""


class Kind(Generic[B]):
    """One kind of blank."""

    blank: ClassVar[type[BlankBase]]
    wraps: ClassVar[tuple[str, ...]] = ()
    """Which fields of the wrap have a meaning on it, besides the film's thickness."""
    starts: ClassVar[Mapping[str, Mapping[str, Any]]] = {}
    """Examples to be typed over, by the name under which a maker asks for one."""
    reliefs: ClassVar[tuple[Relief, ...]] = ("none",)
    """What may be done where film on it must give."""
    edges: ClassVar[tuple[str, ...]] = ()
    """Which edges of it may be slit by themselves; none where there is no choice."""
    file_field: ClassVar[str] = ""
    """Where it names its file."""
    levelled: ClassVar[bool] = False
    """Is the lowest edge of a decal marked on it by a level?"""
    patched: ClassVar[bool] = False
    """Is a part of it chosen and flattened, which takes a while?"""

    @property
    def name(self) -> str:
        """What the document calls it."""
        return str(self.blank.model_fields["kind"].default)

    def files(self, blank: B) -> tuple[str, ...]:
        """The files it names, which travel beside the document."""
        return ()

    def given(self, blank: B, bring: Bring) -> Given:
        """What its files hold."""
        return Given()

    def readings(self, blank: B) -> dict[str, Reading]:
        """All its readings by their path in it."""
        return {path: read_dimension(d) for path, d in dimensions_of(blank)}

    def measure(self, blank: B, given: Given) -> Measured:
        """Its body with spread, free areas, figures and verdicts. Raises BadReading for what no blank can be."""
        raise NotImplementedError

    def sketch(self, blank: B, measured: Measured, style: LengthStyle) -> Sketch:
        """Its dimensioned drawing."""
        raise NotImplementedError

    def offers(self, blank: B, measured: Measured) -> dict[str, Any]:
        """Parts of the document offered on it besides those that every blank has."""
        return {}

    def trials(self, blank: B) -> list[TrialFound]:
        """What trial fits made of it, the first one first."""
        return []

    def water_to(self, measured: Measured, height: float) -> float:
        """Water in ml that stands at a height along its side; 0 where it tells nothing."""
        return 0.0

    def step_at(self, blank: B, readings: Readings, path: str) -> float:
        """The difference of the radii above and below a side, mm; 0 where it stands upright."""
        return 0.0


AnyKind = Kind[Any]
