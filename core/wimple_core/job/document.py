"""The job document: what the API takes and gives, what the database keeps, what `wimple build` reads."""

from __future__ import annotations

import datetime as dt
import itertools
from decimal import Decimal
from typing import Annotated, Any, Literal, Self

from pydantic import Field, TypeAdapter, ValidationInfo, field_validator, model_validator

from .blanks import Blank
from .edits import Edit
from .fields import Colour, Count, Distance, FileName, Length, Model, Money, Note, Number, Offset, Title
from .lettering import Lettering
from .names import Names
from .pattern import Pattern
from .recipes import FilledWords, JarInsert, OutlinedWords, RingWords, Tally
from .shapes import Shape
from .source import SourceBase
from .upgrades import VERSION


class PatchChoice(Model):
    """Which part of a scanned body is wrapped, and which line of it stays true."""

    mode: Literal["whole", "grow", "loop"] = "whole"
    seed: tuple[Offset, Offset, Offset] = (0.0, 0.0, 0.0)
    """`grow`: the place it grows from, mm as the body stands (x right, y up, z toward the eye)."""
    radius_mm: Length = 60.0
    """`grow`: how far along the surface."""
    loop: Annotated[tuple[tuple[Offset, Offset], ...], Field(max_length=400)] = ()
    """`loop`: corners of an outline drawn on the front view (x, y)."""
    line: Literal["across", "up"] = "across"
    """The line through its middle that keeps its length: level, or upright."""


class Wrap(Model):
    """How the surface is unrolled."""

    extent: Literal["full", "free"] = "full"
    """`full`: all round, from line to line; `free`: the area the keep-out zones leave."""
    overlap_mm: Offset = 0.0
    """Film beyond the closing edge of a full wrap; below zero it is a gap."""
    seam_deg: Annotated[Number, Field(ge=-360, le=360)] = 180.0
    """Where round the body the template begins and ends, from the front, positive to the right."""
    film_thickness_um: Annotated[Number, Field(ge=0, le=2000)] | None = None
    """Thickness of the film; null: the default film's own."""
    joint_overlap_mm: Annotated[Distance, Field(le=20)] = 0.0
    """Between the sections of a stack: how far the upper piece reaches under its joint."""
    relief: Literal["none", "slits", "gores"] = "none"
    """What is done where the film must give: nothing, slits from the edge, or gores."""
    gores: Annotated[Count, Field(ge=0, le=60)] = 0
    """How many; 0: as few as the film's limit allows."""
    slit_overlap_mm: Annotated[Length, Field(le=5)] = 0.5
    """How far the lips of one slit may lap over each other, or gape."""
    slit_edge: Literal["both", "lower", "upper"] = "both"
    patch: PatchChoice = PatchChoice()


Way = Literal["level", "even", "conformal", "flat"]


class Placement(Model):
    """Where one drawing sits on the surface."""

    width_mm: Length = 60.0
    """Width of what the drawing paints, round the surface at the height of its middle."""
    centre_deg: Annotated[Number, Field(ge=-360, le=360)] = 0.0
    """On a cup: the angle of its middle from the front, positive to the right."""
    across_mm: Offset = 0.0
    """On a panel: its middle, from the middle of the panel, positive to the right."""
    up_mm: Offset = 40.0
    """Its middle above the lower line (on a panel: above the lower edge)."""
    turn_deg: Annotated[Number, Field(ge=-360, le=360)] = 0.0
    mirrored: bool = False
    """Laid as in a mirror, left for right, before it is turned."""
    way: Way | Literal["suggested"] = "suggested"
    repeat: Annotated[Count, Field(ge=1, le=60)] = 1
    """Copies evenly round the cup."""
    once_round_mm: Annotated[Offset, Field(ge=-20, le=20)] | None = None
    """It goes once round with its ends at the seam, however wide that makes it, and they overlap by so much at the
    height of its middle (negative: a gap; 0: they meet). Null: as wide as `width_mm` says."""
    beside: Annotated[str, Field(pattern=r"^[a-z0-9-]{1,24}$")] | None = None
    """The element from whose first placement `centre_deg`, `across_mm` and `up_mm` are counted, so that it stays so to
    it; null: from the blank."""

    @field_validator("once_round_mm")
    @classmethod
    def _one_copy(cls, value: float | None, info: ValidationInfo) -> float | None:
        if value is not None and info.data.get("repeat", 1) > 1:
            raise ValueError("Once round there is room for one copy.|Set its copies to 1 first.")
        return value


class FileSource(SourceBase):
    """A drawing in a file, which travels beside the document, in `drawings/`."""

    kind: Literal["file"] = "file"
    file: FileName
    shades: Annotated[Count, Field(ge=1, le=8)] = 1
    """Into how many flat steps a gradient is cut; 1: its mean colour stands for it."""
    see_through: Literal["shadows_out", "out", "blended", "full"] = "shadows_out"
    """What becomes of see-through paint: shadows are left out, and the rest is cut at full strength; all of it is left
    out; it becomes the colours it gives on what lies beneath; all of it is cut at full strength."""
    fine: Literal["aside", "kept"] = "aside"
    """What becomes of what is drawn too thin for a blade to go round at the size it is laid: it is set aside, or kept
    and told where it cannot be cut."""
    colours: Annotated[Count, Field(ge=1, le=24)] = 6
    """Into how many flat colours a picture is traced."""
    palette: Annotated[tuple[Colour, ...], Field(max_length=32)] = ()
    """The colours a picture is traced in; none: as many as `colours` says, found in it."""
    speckle_px: Annotated[Count, Field(ge=0, le=200)] = 4
    """What is smaller across, in pixels, is dropped of a picture."""

    @property
    def name(self) -> str:
        """What a maker calls it."""
        return self.file

    @property
    def files(self) -> tuple[str, ...]:
        """The files it is made from."""
        return (self.file,)

    @property
    def sizes(self) -> dict[str, float]:
        """None: its placement says how wide it is."""
        return {}


Source = Annotated[
    FileSource | Lettering | Shape | RingWords | FilledWords | JarInsert | OutlinedWords | Tally,
    Field(discriminator="kind"),
]
"""What an element is made from, told apart by `kind`."""


class Print(Model):
    """An element that is printed and cut round, not cut from films of its colours."""

    border_mm: Annotated[Distance, Field(le=30)] = 0.0
    """White left round the art; 0: it is cut along its own edge."""
    bleed_mm: Annotated[Distance, Field(le=10)] = 2.0
    """So far its colours go on past that edge, where there is no border."""
    film: Annotated[str, Field(max_length=60)] = ""
    """What it is printed on; empty: the default film."""


class Element(Model):
    """Something laid on the blank: what it is made from, what is done to its pieces, and where it lies."""

    id: Annotated[str, Field(pattern=r"^[a-z0-9-]{1,24}$")] = ""
    """Its own for good; pieces on the cut files are called after it. Left out, it is given."""
    source: Source
    edits: Annotated[tuple[Edit, ...], Field(max_length=2000)] = ()
    placements: Annotated[tuple[Placement, ...], Field(min_length=1, max_length=40)] = (Placement(),)
    pattern: Pattern | None = None
    """Repeated all over the blank, from where its first placement lays it."""
    knocks_out: bool = False
    """It is not cut from a film of its own, but out of all that lies beneath it."""
    printed: Print | None = None
    """It is printed in all its colours and cut round; null: each colour is cut from its film."""

    @property
    def name(self) -> str:
        """What a maker calls it."""
        return self.source.name

    def scale(self, drawn: float) -> float:
        """Millimetres on the blank for one of its drawing's, which is `drawn` mm wide, where its first placement lays
        it."""
        return 1.0 if self.source.sizes or drawn <= 0 else self.placements[0].width_mm / drawn


class FilmChoice(Model):
    """The film that stands for one colour of the artwork."""

    colour: Colour
    film: str
    film_colour: Colour | None = None
    """The colour of the film itself, where it is not the drawing's."""
    warm_colour: Colour | None = None
    """What it becomes in the warmth, where the film changes and that is not as its table says."""


class Marks(Model):
    """Registration marks, outside the artwork and the same on every layer: two crosses above it, two squares at its
    sides, strips along both sides, or an angle at each corner. A job of one layer has none."""

    kind: Literal["crosses", "squares", "strips", "corners", "none"] = "crosses"
    size_mm: Annotated[Length, Field(ge=3, le=30)] = 10.0
    away_mm: Annotated[Distance, Field(le=200)] = 6.0
    within: bool = True
    """Crosses stand within the work's own box where there is room beside it, so that no film is added for them."""
    centre: bool = True
    """A tick stands on the template's centre line, by which the pile is laid on the blank."""


class Meeting(Model):
    """How two colours meet, where that is not as all do; `under` says which of the two lies beneath."""

    colours: tuple[Colour, Colour]
    joint: Literal["as_all", "stacked", "knocked_out", "butted"] = "as_all"
    under: Colour | None = None

    @model_validator(mode="after")
    def _of_two(self) -> Self:
        if self.colours[0] == self.colours[1]:
            raise ValueError("A colour does not meet itself.|Name the two colours that meet.")
        if self.under is not None and self.under not in self.colours:
            raise ValueError(f"“{self.under}” is none of the two that meet.|One of: {', '.join(self.colours)}.")
        return self


class Base(Model):
    """One film under all others, larger than they are by an outline. Holes in the work stay clear, or it fills them;
    `auto`: they stay clear on a blank that is seen through."""

    colour: Colour = "#ffffff"
    outline_mm: Annotated[Distance, Field(le=30)] = 2.0
    holes: Literal["auto", "clear", "filled"] = "auto"


class Weeding(Model):
    """How the waste comes off: frames round lettering and dense places, so that a small strip comes away first, and
    lines that part the rest into what a hand can hold."""

    frames: bool = True
    frame_away_mm: Annotated[Length, Field(ge=1, le=20)] = 3.0
    parts: bool = True
    largest_mm: Annotated[Length, Field(ge=30, le=1000)] = 150.0


class Mend(Model):
    """What is done, on request, to what the film does not take: what is too thin made as wide as is safe, pieces
    smaller all over than `drop_under_mm` left out, gaps opened as far as waste comes out of them whole, points
    rounded, and dots too small for the film joined by a bridge to a larger piece no further away than `bridge_mm`; 0
    does nothing."""

    thicken: bool = False
    widen_gaps: bool = False
    drop_under_mm: Annotated[Distance, Field(le=20)] = 0.0
    round_mm: Annotated[Distance, Field(le=5)] = 0.0
    bridge_mm: Annotated[Distance, Field(le=20)] = 0.0


def _most(*plans: Mend) -> dict[str, Any]:
    """The most that is asked for by any of some plans."""
    return {name: max(getattr(plan, name) for plan in plans) for name in Mend.model_fields}


class MendOf(Mend):
    """The same for the film of one colour."""

    colour: Colour


class LayerPlan(Model):
    """How colours become layers."""

    order: Annotated[tuple[Colour, ...], Field(max_length=64)] = ()
    """The colours by hand, the lowest film first; those not named lie on what they lay on in the drawing. One that is
    named twice is cut as two layers: what of it lies on others is of the upper one."""
    meetings: Annotated[tuple[Meeting, ...], Field(max_length=400)] = ()
    base: Base | None = None
    joint: Literal["auto", "stacked", "knocked_out", "butted"] = "auto"
    overlap_mm: Annotated[Distance, Field(le=10)] = 0.7
    eye_mm: Annotated[Distance, Field(le=2)] = 0.2
    """A gap is seen where it is wider."""
    risk_percent: Annotated[Number, Field(gt=0, le=50)] = 5.0
    """So many of a hundred lay-ups may show a gap."""
    accuracy_mm: Annotated[Length, Field(le=10)] = 0.3
    """How far a hand misses in laying one layer on another (one standard deviation, each way)."""
    merge_near: bool = False
    merge_delta_e: Annotated[Number, Field(ge=0, le=50)] = 5.0
    """Colours closer than this (CIEDE2000) become one, where `merge_near` is set."""
    films: Annotated[tuple[FilmChoice, ...], Field(max_length=64)] = ()
    default_film: str = "calendered-gloss"
    seen: Literal["from_outside", "through_glass"] = "from_outside"
    """`through_glass`: laid on the inside of glass and seen through it; all is cut mirrored."""
    marks: Marks = Marks()
    weeding: Weeding = Weeding()
    mend: Mend = Mend()
    """What is done to all films."""
    mend_of: Annotated[tuple[MendOf, ...], Field(max_length=64)] = ()
    """What is done besides to the film of one colour alone."""

    def mend_for(self, colour: str) -> Mend:
        """What is done to the film of a colour: what is asked for of all, and of it."""
        return Mend(**_most(self.mend, *(own for own in self.mend_of if own.colour == colour)))

    def mending_also(self, colour: str, **asked: object) -> list[dict[str, object]]:
        """What `mend_of` becomes where more is asked for of one colour's film."""
        own = _most(Mend(), *(m for m in self.mend_of if m.colour == colour))
        others = [m for m in self.mend_of if m.colour != colour]
        return [m.model_dump(mode="json") for m in (*others, MendOf(colour=colour, **{**own, **asked}))]


class PanelPlan(Model):
    """How work larger than the machine cuts is parted into panels."""

    part: bool = False
    lap_mm: Annotated[Distance, Field(le=100)] = 10.0
    """Where a piece has to be crossed, the panel laid later laps over the other by so much."""
    first: Literal["left", "right"] = "left"
    """From which side panels are laid; the lowest come first, so that laps shed water."""
    moved_mm: Annotated[tuple[Distance, ...], Field(max_length=40)] = ()
    """Where upright joints are wanted, from the left edge of the work; the first ones, none: found."""


class HandPlace(Model):
    """Where the hand laid a set of one film on its load or patch: the lower left of its box from that of the work, mm,
    and its turn to the left."""

    film: Title
    x_mm: Offset = 0.0
    y_mm: Offset = 0.0
    turn_deg: Annotated[Number, Field(ge=-360, le=360)] = 0.0


class HeldFree(Model):
    """A corner of the safe area on which nothing is laid."""

    corner: Literal["low_left", "low_right", "high_left", "high_right"]
    width_mm: Length = 50.0
    height_mm: Length = 50.0


class SheetPlan(Model):
    """What the layers are cut from."""

    cutter: str = "desktop-mat"
    setting: Annotated[str, Field(max_length=200)] = ""
    """The maker's own setting of that cutter for this film, in their words."""
    margin_mm: Annotated[Distance, Field(le=100)] = 12.7
    """Film kept round the work, each side (a 6 x 6 in design uses about 7 x 7 in)."""
    weed_box: bool = True
    weed_box_away_mm: Annotated[Distance, Field(le=50)] = 4.0
    overcut_mm: Annotated[Distance, Field(le=5)] = 0.5
    lay: Literal["least", "boxes", "searched"] = "least"
    """How sets of a batch lie: by their true outlines or their boxes, whichever takes less; by their boxes; or the
    closest lay that a search of some seconds finds."""
    gap_mm: Annotated[Distance, Field(ge=1, le=50)] = 3.0
    """Between sets that lie by their outlines."""
    pieces: Literal["as_drawn", "loose"] = "as_drawn"
    """Sets keep their arrangement and their marks; or all pieces are moved to save film, each placed by itself."""
    mats: Literal["auto", "one_film", "shared"] = "auto"
    """One film to a load, or several in patches on one mat; `auto`: what takes less time."""
    patch_room_mm: Annotated[Distance, Field(le=30)] = 3.0
    """Between two patches on a mat: what a hand misses by in laying them."""
    by_hand: Annotated[tuple[HandPlace, ...], Field(max_length=200)] = ()
    """Sets laid by hand, on every load of their film; the rest lie round them."""
    held: Annotated[tuple[HeldFree, ...], Field(max_length=4)] = ()
    panels: PanelPlan = PanelPlan()
    liner_grid: Literal["none", "cm", "half_inch", "inch"] = "none"
    """Patches on a shared mat are cut to whole steps of the grid printed on the liner."""

    @property
    def frame_mm(self) -> float:
        """How far the weed box stands from the work; 0 where there is none."""
        return self.weed_box_away_mm if self.weed_box else 0.0


class LayupPlan(Model):
    """How the layers come together."""

    order: Literal["auto", "tape", "blank", "mat"] = "auto"
    apply_on: dt.datetime | None = None
    cure_hours: Annotated[Number, Field(ge=0, le=1000)] = 72.0


USUAL_BLANK = Decimal("3.99")
"""What a plain cup costs, where nobody said (common practice, no source)."""


class PricePlan(Model):
    """What it costs and what it is sold for, for one piece."""

    currency: Annotated[str, Field(max_length=3)] = ""
    blank_cost: Money | None = None
    """None: what a cup or bottle usually costs, and nothing where the work goes on something that is there."""
    labour_minutes: Annotated[Number, Field(ge=0, le=100_000)] | None = None
    """For one piece; None: what its weeding and its laying up are reckoned to take."""
    rate_per_hour: Money = Decimal("12.00")
    overhead: Money = Decimal("0")
    tape_per_m2: Money | None = None
    """None: what the table says of the tape that is taken."""
    price_from: Literal["margin", "markup", "price"] = "margin"
    margin_percent: Annotated[Number, Field(ge=0, lt=100)] = 60.0
    markup_percent: Annotated[Number, Field(ge=0, le=10_000)] = 150.0
    price: Money = Decimal("0")


class Reference(Model):
    """A picture to work by: laid under or over the template, see-through, and never cut. Its middle in the template's
    mm, y up."""

    file: FileName
    x_mm: Offset = 0.0
    y_mm: Offset = 40.0
    width_mm: Length = 100.0
    ratio: Annotated[Number, Field(gt=0, le=1000)] = 1.0
    """Its height to its width."""
    turn_deg: Annotated[Number, Field(ge=-360, le=360)] = 0.0
    seen_percent: Annotated[Number, Field(ge=5, le=100)] = 45.0
    lies: Literal["under", "over", "hidden"] = "under"


class Job(Model):
    """A whole job, from the readings to the price. Lengths mm, angles in fields named `_deg` degrees."""

    format: Literal["wimple.job"] = "wimple.job"
    version: Literal[3] = VERSION
    title: Title = "New job"
    customer: Title = ""
    due: dt.date | None = None
    quantity: Annotated[Count, Field(ge=1, le=10_000)] = 1
    note: Note = ""
    blank: Blank
    wrap: Wrap = Wrap()
    elements: Annotated[tuple[Element, ...], Field(max_length=40)] = ()
    names: Names | None = None
    reference: Reference | None = None
    layers: LayerPlan = LayerPlan()
    sheets: SheetPlan = SheetPlan()
    layup: LayupPlan = LayupPlan()
    price: PricePlan = PricePlan()

    @model_validator(mode="before")
    @classmethod
    def _named(cls, raw: Any) -> Any:
        """Elements without an id get the first that is free."""
        elements = raw.get("elements") if isinstance(raw, dict) else None
        if not isinstance(elements, (list, tuple)):
            return raw
        taken = {e.get("id") for e in elements if isinstance(e, dict)}
        free = (i for i in (f"e{n}" for n in itertools.count(1)) if i not in taken)
        named = [{"id": next(free), **e} if isinstance(e, dict) and "id" not in e else e for e in elements]
        return {**raw, "elements": named}

    @field_validator("elements")
    @classmethod
    def _told_apart(cls, elements: tuple[Element, ...]) -> tuple[Element, ...]:
        ids = [e.id for e in elements]
        twice = next((i for i in ids if ids.count(i) > 1), None)
        if twice is not None:
            raise ValueError(f"Two elements have the id “{twice}”.|Give each its own, such as e{len(ids) + 1}.")
        return elements

    @field_validator("elements")
    @classmethod
    def _beside_others(cls, elements: tuple[Element, ...]) -> tuple[Element, ...]:
        first = {e.id: e.placements[0].beside for e in elements}
        for e in elements:
            for p in e.placements:
                at, steps = p.beside, 0
                while at is not None:
                    if at not in first:
                        raise ValueError(
                            f"“{e.id}” is placed from “{at}”, which is not there.|Place it from the blank."
                        )
                    if at == e.id or steps > len(first):
                        raise ValueError(f"“{e.id}” is placed from itself.|Place one of them from the blank.")
                    at, steps = first[at], steps + 1
        return elements

    @field_validator("elements")
    @classmethod
    def _take_turns(cls, elements: tuple[Element, ...]) -> tuple[Element, ...]:
        leads = {e.id for e in elements if e.pattern is not None and e.pattern.turns_with is None}
        for e in elements:
            leader = e.pattern.turns_with if e.pattern else None
            if leader is not None and leader not in leads:
                said = f"“{e.id}” takes turns with “{leader}”, which has no pattern of its own."
                raise ValueError(f"{said}|Give that one a pattern first.")
        return elements

    @field_validator("names")
    @classmethod
    def _of_elements(cls, names: Names | None, info: ValidationInfo) -> Names | None:
        known = [e.id for e in info.data.get("elements", ())]
        lost = next((c.element for c in names.columns if c.element not in known), None) if names else None
        if lost is not None and known:
            raise ValueError(f"There is no element “{lost}”.|What varies is one of: {', '.join(known)}.")
        return names if known else None

    @property
    def pictures(self) -> tuple[str, ...]:
        """The pictures it is worked by, of which nothing is made."""
        return (self.reference.file,) if self.reference else ()

    @property
    def pieces(self) -> int:
        """How many finished pieces the whole job makes: its quantity, of each of its names."""
        return self.quantity * (len(self.names.rows) if self.names else 1)

    @property
    def blank_cost(self) -> Decimal:
        """What one blank costs: as was typed, or as it usually does."""
        typed = self.price.blank_cost
        return (USUAL_BLANK if self.blank.drinkware else Decimal(0)) if typed is None else typed

    @property
    def drawings(self) -> tuple[str, ...]:
        """The files its elements are made from, in any line of its list of names, each once."""
        out = [f for e in self.elements for f in e.source.files]
        if self.names:
            of_files = [n for n, c in enumerate(self.names.columns) if c.field in ("file", "font")]
            out += [f for row in self.names.rows for n in of_files if (f := row[n].strip()) and "." in f]
        return tuple(dict.fromkeys(out))


_SOURCE: TypeAdapter[Any] = TypeAdapter(Source)
_BLANK: TypeAdapter[Any] = TypeAdapter(Blank)
