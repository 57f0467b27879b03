"""The shapes of the report: every figure and every verdict of a job, for programs. Lengths mm, areas mm2, angles
degrees."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict

from ..views.body_figures import BodyFigures


class _Part(BaseModel):
    model_config = ConfigDict(extra="forbid")


class ReadingReport(_Part):
    """One dimension as read, by its path in the blank. `deviation_mm` is null for a single reading; `outlier` is the
    place of
    the reading that stands apart, counted from 0."""

    name: str
    mean_mm: float
    deviation_mm: float | None
    error_mm: float
    count: int
    reads: str = ""
    instrument: str = ""
    outlier: int | None = None


class ShareReport(_Part):
    """How much of a figure's variance one reading makes."""

    reading: str
    share: float


class FigureReport(_Part):
    """A figure that follows from the readings, with its standard error and the readings that spread it, the largest
    first."""

    name: str
    value: float
    error: float
    unit: str
    again_first: str
    shares: list[ShareReport]


class SeamReport(_Part):
    """How far the ends of a full wrap may miss (standard errors, mm), and which reading to take again first.

    `rings_mm` holds the gap at every way round of a stack or turned body, from the foot up.
    """

    gap_top_mm: float
    gap_bottom_mm: float
    edge_drift_mm: float | None
    edge_miss_mm: float | None
    rings_mm: list[float]
    again_first: str


class FaceReport(_Part):
    """A side that is looked at: who sees it, where its middle is, and the largest rectangle free and readable there."""

    seen_by: str
    centre_deg: float | None
    centre_mm: float | None
    width_mm: float
    height_mm: float


class LevelReport(_Part):
    """Water that stands level: its height above the bench, and its volume (null where the wall is double)."""

    height_mm: float
    volume_ml: float | None
    brim_ml: float


class PhotoCheckReport(_Part):
    """One place by photograph and by hand: radii and the spread of their difference."""

    name: str
    height_mm: float
    radius_by_photo_mm: float
    radius_by_hand_mm: float
    spread_mm: float


class StrainReport(_Part):
    """What the film suffers, as shares (0.02 is 2 %): greatest stretch and shortening, largest length change over
    the smallest, share
    of the area over `limit` (what the default film takes; null where it states none), and where on the template it
    is worst, mm.
    `before` holds the same without the relief that was chosen (null where none was)."""

    stretch_max: float
    shorten_max: float
    length_ratio: float
    share_over_limit: float
    worst_at: tuple[float, float]
    limit: float | None
    before: dict[str, float] | None


class SlitReport(_Part):
    """A slit from the edge inward, mm on the template."""

    start: tuple[float, float]
    end: tuple[float, float]
    depth_mm: float


class GoreReport(_Part):
    """One gore or petal."""

    width_mm: float
    length_mm: float


class ReliefReport(_Part):
    """What lets the film give."""

    slits: list[SlitReport]
    gores: list[GoreReport]


class JointReport(_Part):
    """A joint between two sections: its height along the side and by how much the wall turns there."""

    height_mm: float
    turn_deg: float


class TemplateReport(_Part):
    """The flat template. Sector radii and the angle of one whole turn are null where it is a straight strip."""

    radius_lower_mm: float | None
    radius_upper_mm: float | None
    angle_deg: float | None
    width_mm: float
    height_mm: float
    area_mm2: float
    overlap_mm: float
    film_thickness_mm: float


class FreeAreaReport(_Part):
    """One piece of what the zones leave, the largest first: widths along its lower and upper edge, height along the
    side, true
    area (its error on the first piece stands for all of them), and the largest upright rectangle inside it."""

    width_low_mm: float
    width_high_mm: float
    height_mm: float
    area_mm2: float
    area_error_mm2: float | None = None
    largest_width_mm: float | None = None
    largest_height_mm: float | None = None
    readable_width_mm: float | None = None


class ElementReport(_Part):
    """One placement of an element."""

    id: str
    name: str
    width_mm: float
    height_mm: float
    way: str
    suggested_way: str
    sag_mm: float
    width_change_mm: float
    pieces: int
    colours: list[str]


class PatternReport(_Part):
    """An element repeated: how many are wanted apart and are, by how much that was changed to meet at the seam, the
    fewest and most in a row, how many motifs are laid and how many had no room whole."""

    id: str
    lattice: str
    wanted_mm: float
    pitch_mm: float
    change_percent: float
    in_a_row: tuple[int, int]
    motifs: int
    left_out: int


class NameFitReport(_Part):
    """How the words of one column fit their room: the lines they are set in, by what factor they were made smaller (1:
    as wanted), and by how much they miss it even so."""

    column: int
    lines: list[str]
    shrunk: float
    capitals_mm: float
    width_mm: float
    height_mm: float
    over_mm: float


class NameReport(_Part):
    """One line of the list of names, and the loads it is cut on, counted from 1."""

    cells: list[str]
    fits: list[NameFitReport]
    trouble: str | None
    sheets: list[int]


class SizeReport(_Part):
    """How many pieces of film stay, and of waste go, that are smaller across than `under_mm` (null: all larger ones)
    and no smaller than the size before."""

    under_mm: float | None
    stay: int
    go: int


class SpotReport(_Part):
    """The least of its kind: how wide a stroke or gap is, how large across a piece or hole (mm), how sharp a point
    (deg), and where on the template."""

    kind: str
    value: float
    at: tuple[float, float]


class WeedingReport(_Part):
    """How a layer is weeded: its pieces by size, islands inside weeded holes, parts that hang by a thread, frames and
    cut lines in the waste, the corner to begin at, and the minutes it takes."""

    pieces: list[SizeReport]
    islands: int
    threads: int
    frames: int
    cuts: int
    start: str
    minutes: float
    least: list[SpotReport]


class LayerReport(_Part):
    """One layer, the lowest first."""

    name: str
    colour: str
    film: str
    film_colour: str
    pieces: int
    weeded: int
    area_mm2: float
    dots: int
    thin: int
    gaps: int
    weeding: WeedingReport


class MisregistrationReport(_Part):
    """The chance that a gap that is seen shows anywhere in one lay-up; and the two films whose joint fails first, the
    lower one first, with its own chance."""

    chance: float
    first: list[str] | None
    first_chance: float | None


class SheetReport(_Part):
    """One load."""

    layer: str
    film: str
    cutter: str
    sets: int
    times: int
    turned: bool
    fits: bool
    width_mm: float
    height_mm: float
    film_area_mm2: float


class PlaceReport(_Part):
    """Where one set of a film's cuts lies on a load: turned by degrees to the left about its own lower left corner, and
    then moved by so many mm from the lower left of the safe area."""

    film: str
    at_mm: tuple[float, float]
    turn_deg: float
    row: int
    sets: int
    loose: int
    by_hand: bool


class PatchReport(_Part):
    """A piece of film on a load: its left, low, right and high (mm from the lower left of the safe area)."""

    name: str
    film: str
    box_mm: tuple[float, float, float, float]
    sets: int


class PassReport(_Part):
    """What is cut with one setting, without unloading in between."""

    film: str
    strokes: int
    seconds: float


class TakenReport(_Part):
    """A patch of a copy of a load (both counted from 0), and the film of the workshop's it is cut out of: the piece by
    its id, where on it (left, low, right, high, mm), whether turned a quarter, and what of a roll is cut off for it."""

    patch: int
    copy_of: int
    piece: str
    box_mm: tuple[float, float, float, float]
    turned: bool
    cut_off_mm: float


class LoadReport(_Part):
    """One load, and how often it is cut alike; seconds are the blade's, for one time."""

    films: list[str]
    times: int
    places: list[PlaceReport]
    patches: list[PatchReport]
    passes: list[PassReport]
    seconds: float
    taken: list[TakenReport]


class PageReport(_Part):
    """A printed face, cut as a load of its own: the frame of its page, the middles of its marks in it, how often it is
    wanted; seconds are the blade's, for one."""

    name: str
    element: str
    film: str
    size_mm: tuple[float, float]
    marks_mm: list[tuple[float, float]]
    times: int
    fits: bool
    strokes: int
    seconds: float


class FilmUseReport(_Part):
    """Where the film of all loads goes (mm2): the work, what lies between it, what is kept round it, what is left
    beside that of what was cut off, too small to be kept, and printed pages."""

    whole_mm2: float
    work_mm2: float
    between_mm2: float
    round_mm2: float
    lost_mm2: float
    printed_mm2: float


class WayReport(_Part):
    """What a way of loading takes, minutes without the blade's, and how often something is placed by hand."""

    loads: int
    minutes: float
    film_mm2: float
    placements: int


class PriceReport(_Part):
    """Money as strings with two decimals, for one piece; margin and markup in per cent."""

    currency: str
    lines: list[dict[str, str]]
    cost: str
    price: str
    profit: str
    margin_percent: float
    markup_percent: float
    batch_price: str


class VerdictReport(_Part):
    """One judgement with its figure and limit; `subject` is what it is about, empty for the job as a whole."""

    code: str
    step: str
    subject: str
    level: Literal["ok", "look", "stop"]
    value: float
    limit: float | None
    unit: str
    sentence: str


class TookReport(_Part):
    """What one stage of the build took, in ms; next to nothing where it was known from before."""

    stage: str
    ms: float


class Report(_Part):
    """All that was found out about a job. Where a job was only measured, `template`, `joint` and
    `price` are null and the lists after them empty."""

    format: Literal["wimple.report"] = "wimple.report"
    version: Literal[2] = 2
    title: str
    readings: list[ReadingReport]
    body: BodyFigures
    figures: list[FigureReport]
    seam: SeamReport | None
    level: LevelReport | None
    photo: list[PhotoCheckReport]
    template: TemplateReport | None
    strain: StrainReport | None
    relief: ReliefReport | None
    joints: list[JointReport]
    free_areas: list[FreeAreaReport]
    faces: list[FaceReport]
    elements: list[ElementReport]
    patterns: list[PatternReport]
    names: list[NameReport]
    joint: str | None
    overlap_mm: float | None
    gap_chance: float | None
    misregistration: MisregistrationReport | None
    layers: list[LayerReport]
    sheets: list[SheetReport]
    loads: list[LoadReport]
    pages: list[PageReport]
    film_use: FilmUseReport | None
    one_film: WayReport | None
    shared_mats: WayReport | None
    as_drawn: WayReport | None
    loose: WayReport | None
    price: PriceReport | None
    verdicts: list[VerdictReport]
    took: list[TookReport]
