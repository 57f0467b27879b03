"""Keep-out zones of a blank: what must stay bare, as a band, a sector or a polygon."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from .fields import Length, Model, Number, Offset, Title

ZoneKind = Literal["lip", "base", "handle", "seam", "light", "plate", "sensor", "label", "sight", "other"]
VEHICLE_ZONES: tuple[ZoneKind, ...] = ("light", "plate", "sensor", "label", "sight")


class BandZone(Model):
    """All across, or all round, between two heights (mm along the side above the lower line)."""

    form: Literal["band"] = "band"
    kind: ZoneKind = "other"
    name: Title = ""
    low_mm: Offset = 0.0
    high_mm: Offset = 10.0


class SectorZone(Model):
    """A strip of one width from `low_mm` to `high_mm` (None: to the edge), round a middle."""

    form: Literal["sector"] = "sector"
    kind: ZoneKind = "seam"
    name: Title = ""
    centre_deg: Annotated[Number, Field(ge=-360, le=360)] = 180.0
    """On a round body: its middle from the front, positive to the right."""
    centre_mm: Offset = 0.0
    """On a panel: its middle from the panel's middle, positive to the right."""
    width_mm: Length = 6.0
    low_mm: Offset | None = None
    high_mm: Offset | None = None


class PolygonZone(Model):
    """Any outline of at least three corners: (mm to the right of the front or the middle, mm up)."""

    form: Literal["polygon"] = "polygon"
    kind: ZoneKind = "other"
    name: Title = ""
    points: Annotated[tuple[tuple[Offset, Offset], ...], Field(min_length=3, max_length=400)]


Zone = Annotated[BandZone | SectorZone | PolygonZone, Field(discriminator="form")]
Zones = Annotated[tuple[Zone, ...], Field(max_length=60)]
