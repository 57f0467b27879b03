"""Panels, flat and bent, inserts and meshes, as a job document holds them."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field, field_validator, model_validator

from .blank import BlankBase
from .dimension import Dimension
from .fields import Count, Distance, FileName, Length, Model, Offset, Title
from .tables import Instrument

Shape = Literal["rectangle", "rounded", "circle", "ellipse", "hexagon", "polygon", "outline"]
_SIZES: dict[str, tuple[str, ...]] = {
    "rectangle": ("width",),
    "rounded": ("width",),
    "circle": ("diameter", "circumference"),
    "ellipse": ("width",),
    "hexagon": ("across_flats", "across_corners", "side"),
    "polygon": ("across_flats", "across_corners", "side"),
    "outline": ("width",),
}


class PanelBase(BlankBase):
    margin_mm: Distance = 0.0
    on_vehicle: bool = False
    """Lights, plates, sensors, labels and the driver's view must then be marked."""

    @property
    def margin(self) -> float:
        return self.margin_mm

    @property
    def beyond(self) -> tuple[float, float]:
        """How far its wall goes on along the side above what was read, and below it, mm."""
        return 0.0, 0.0

    @property
    def vehicle(self) -> bool:
        return self.on_vehicle


CutFrom = Annotated[str, Field(max_length=60)] | None
"""The film, card or paper that a blank is cut out of with what is on it; empty: the default film; null: it is there
already."""


class PanelBlank(PanelBase):
    """A flat panel of a regular shape, or of any outline."""

    kind: Literal["panel"] = "panel"
    name: Title = "Panel"
    shape: Shape = "rectangle"
    width: Dimension
    """Width; for a circle its diameter or circumference; for a hexagon or polygon across flats, across corners or
    one side."""
    height: Dimension | None = None
    """Of a rectangle, rounded rectangle or ellipse."""
    corner: Dimension | None = None
    """Radius of the corners of a rounded rectangle."""
    sides: Annotated[Count, Field(ge=3, le=60)] = 6
    outline: FileName | None = None
    """An SVG or DXF file beside the document whose outermost contour is the panel's; `width` says how wide it is."""
    tape_thickness_mm: Distance = 0.2
    cut_from: CutFrom = None

    @property
    def cut_out(self) -> str | None:
        return self.cut_from

    @property
    def tape_mm(self) -> float:
        return self.tape_thickness_mm

    @model_validator(mode="before")
    @classmethod
    def _needs(cls, raw: Any) -> Any:
        if not isinstance(raw, dict):
            return raw
        shape = raw.get("shape", "rectangle")
        wanted = {
            "rectangle": ("height",),
            "rounded": ("height", "corner"),
            "ellipse": ("height",),
            "outline": ("outline",),
        }.get(str(shape), ())
        missing = [name for name in wanted if not raw.get(name)]
        if missing:
            raise ValueError(
                f"A panel of the shape “{shape}” has no {' and no '.join(missing)}.|Measure that too, or choose another"
                " shape."
            )
        return raw

    @model_validator(mode="after")
    def _reads(self) -> PanelBlank:
        allowed = _SIZES[self.shape]
        if self.width.reads not in allowed:
            raise ValueError(
                f"A {self.width.reads.replace('_', ' ')} says nothing of a panel of the shape “{self.shape}”."
                f"|Read one of: {', '.join(a.replace('_', ' ') for a in allowed)}."
            )
        return self


class ChordRise(Model):
    """A straight edge laid across the bend: its length between the two touching places, and the rise in the middle."""

    chord: Dimension
    rise: Dimension


class CurvedPanelBlank(PanelBase):
    """A panel bent one way, as a cylinder is: chord and rise at one place or several."""

    kind: Literal["curved_panel"] = "curved_panel"
    name: Title = "Curved panel"
    bend: Literal["across", "up"] = "across"
    """Which way the film goes round: from left to right, or from below upward."""
    hollow: bool = False
    """Bent away from who looks at it."""
    width: Dimension
    """Left to right: along the surface (`arc`), or straight from edge to edge (`chord`) where it bends that way."""
    height: Dimension
    places: Annotated[tuple[ChordRise, ...], Field(min_length=1, max_length=20)]


class RisePanelBlank(PanelBase):
    """A panel bent both ways: rises over a flat base, read on a grid by straight edge and ruler."""

    kind: Literal["rise_panel"] = "rise_panel"
    name: Title = "Panel curved both ways"
    across_mm: Annotated[tuple[Offset, ...], Field(min_length=3, max_length=9)]
    """Where the columns stand, from the left edge, growing."""
    up_mm: Annotated[tuple[Offset, ...], Field(min_length=3, max_length=9)]
    """Where the rows stand, from the lower edge, growing."""
    rises: tuple[tuple[tuple[Offset, ...] | None, ...], ...]
    """One row for each of `up_mm`, from below; each place holds its readings; null where none was taken."""
    reads: Literal["rise", "gap"] = "rise"
    """`rise`: how far the surface stands out over the base; `gap`: how far it stays back below the straight edge."""
    instrument: Instrument = "ruler"

    @field_validator("rises", mode="before")
    @classmethod
    def _plain_numbers(cls, raw: Any) -> Any:
        """A place with one reading may be written without brackets."""
        if not isinstance(raw, (list, tuple)):
            return raw
        rows = [r if isinstance(r, (list, tuple)) else [r] for r in raw]
        return [[c if c is None or isinstance(c, (list, tuple)) else [c] for c in row] for row in rows]


class RoundHole(Model):
    """A round hole; its middle from the middle of the insert."""

    form: Literal["round"] = "round"
    width_mm: Length = 3.175
    across_mm: Offset = 0.0
    up_mm: Offset = 0.0


class SlotHole(Model):
    """A slot with square ends."""

    form: Literal["slot"] = "slot"
    width_mm: Length = 15.875
    height_mm: Length = 2.38125
    across_mm: Offset = 0.0
    up_mm: Offset = 0.0


class Tab(Model):
    """A pull tab that stands out over the upper edge."""

    width_mm: Length = 8.636
    height_mm: Length = 12.7


class InsertBlank(PanelBase):
    """A disc that lies inside a lid or jar, by the inside diameter and its clearance."""

    kind: Literal["insert"] = "insert"
    name: Title = "Lid insert"
    inside: Dimension
    clearance_mm: Distance = 0.5
    """Kept free all round, on each side."""
    hole: Annotated[RoundHole | SlotHole, Field(discriminator="form")] | None = None
    tab: Tab | None = None
    candle: bool = False
    cut_from: CutFrom = ""

    @property
    def cut_out(self) -> str | None:
        return self.cut_from

    @property
    def burns(self) -> bool:
        return self.candle


class MeshBlank(PanelBase):
    """A body as a triangle mesh from a scan or a drawing, with the unit its numbers are in."""

    kind: Literal["mesh"] = "mesh"
    name: Title = "Scanned body"
    file: FileName
    unit: Literal["mm", "cm", "m", "in"]
    up: Literal["x", "y", "z"] = "z"
    """Which of the file's axes points up."""
    check: Dimension | None = None
    """A width or height read on the body itself, to hold the mesh's against."""
