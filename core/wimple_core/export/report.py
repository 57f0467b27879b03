"""The report of a job: every figure and every verdict, for programs."""

from __future__ import annotations

import math
from typing import Any

from ..built import Build
from ..layers import Layer, Layers
from ..layers.inspection import SIZES_MM
from ..sheets import Way, film_by_cause
from ..surface import Template
from ..views.body_figures import body_figures
from .report_body import free_areas_of, seam_of
from .report_shapes import (
    ElementReport,
    FaceReport,
    FigureReport,
    FilmUseReport,
    GoreReport,
    JointReport,
    LayerReport,
    LevelReport,
    LoadReport,
    MisregistrationReport,
    NameFitReport,
    NameReport,
    PageReport,
    PassReport,
    PatchReport,
    PatternReport,
    PhotoCheckReport,
    PlaceReport,
    PriceReport,
    ReadingReport,
    ReliefReport,
    Report,
    ShareReport,
    SheetReport,
    SizeReport,
    SlitReport,
    SpotReport,
    StrainReport,
    TakenReport,
    TemplateReport,
    TookReport,
    VerdictReport,
    WayReport,
    WeedingReport,
)


def _strain(t: Template | None) -> StrainReport | None:
    if t is None or t.strain is None:
        return None
    s, before = t.strain, t.before
    relieved = before is not None and (t.slits or t.gores)
    return StrainReport(
        stretch_max=s.stretch_max,
        shorten_max=s.shorten_max,
        length_ratio=s.length_ratio,
        share_over_limit=s.share_over_limit,
        worst_at=s.worst_at,
        limit=s.limit,
        before=(
            {
                "stretch_max": before.stretch_max,
                "shorten_max": before.shorten_max,
                "length_ratio": before.length_ratio,
                "share_over_limit": before.share_over_limit,
            }
            if relieved and before
            else None
        ),
    )


def _template(b: Build) -> TemplateReport | None:
    t = b.template
    if t is None:
        return None
    left, low, right, high = t.outline.bounds
    sector = t.sector
    return TemplateReport(
        radius_lower_mm=sector.radius_lower if sector else None,
        radius_upper_mm=sector.radius_upper if sector else None,
        angle_deg=math.degrees(sector.angle) if sector else None,
        width_mm=right - left,
        height_mm=high - low,
        area_mm2=t.outline.area,
        overlap_mm=b.job.wrap.overlap_mm if b.job.wrap.extent == "full" else 0.0,
        film_thickness_mm=t.film_thickness,
    )


def _elements(b: Build) -> list[ElementReport]:
    return [
        ElementReport(
            id=d.element,
            name=d.name,
            width_mm=d.width,
            height_mm=d.height,
            way=d.way,
            suggested_way=d.suggested,
            sag_mm=f.sag,
            width_change_mm=f.width_change,
            pieces=sum(len(c.pieces[0]) for c in d.colours),
            colours=[c.colour for c in d.colours],
        )
        for d in (b.fit.drawings if b.fit else ())
        for f in d.ways
        if f.way == d.way
    ]


def _patterns(b: Build) -> list[PatternReport]:
    patterns = {e.id: e.pattern for e in b.elements if e.pattern is not None}
    lattices = {i: patterns[p.turns_with or i].lattice for i, p in patterns.items()}
    return [
        PatternReport(
            id=d.element,
            lattice=lattices[d.element],
            wanted_mm=made.places.wanted,
            pitch_mm=made.places.pitch,
            change_percent=made.change_percent,
            in_a_row=made.places.number,
            motifs=len(made.places),
            left_out=made.left_out,
        )
        for d in (b.fit.drawings if b.fit else ())
        if (made := d.pattern) is not None
    ]


def _names(b: Build) -> list[NameReport]:
    """A line for each of the list of names, as far as it was fitted, and the loads it is cut on, counted from 1."""
    if b.job.names is None or b.named is None:
        return []
    on: dict[int, list[int]] = {}
    for n, load in enumerate(b.sheets.loads if b.sheets else (), start=1):
        for row in dict.fromkeys(i.item.row for i in load.items):
            on.setdefault(row, []).append(n)
    return [
        NameReport(
            cells=list(row.cells),
            fits=[
                NameFitReport(
                    column=m,
                    lines=fit.words.text.split("\n"),
                    shrunk=fit.shrunk,
                    capitals_mm=fit.capitals,
                    width_mm=fit.wide,
                    height_mm=fit.tall,
                    over_mm=fit.over,
                )
                for m, fit in enumerate(row.fits)
                if fit is not None
            ],
            trouble=row.trouble.message if row.trouble else None,
            sheets=on.get(n, []),
        )
        for n, row in enumerate(b.named.rows)
    ]


def _misregistration(layers: Layers) -> MisregistrationReport:
    first = layers.weakest
    return MisregistrationReport(
        chance=layers.gap_chance,
        first=[first.lower, first.upper] if first else None,
        first_chance=first.chance if first else None,
    )


def _weeding(la: Layer) -> WeedingReport:
    found, plan = la.inspection, la.weeding
    sizes = zip((*SIZES_MM, None), found.stay, found.go, strict=True)
    return WeedingReport(
        pieces=[SizeReport(under_mm=size, stay=stay, go=go) for size, stay, go in sizes],
        islands=len(found.islands),
        threads=len(found.threads),
        frames=len(la.cuts.only("frame")),
        cuts=len(la.cuts.only("weed")),
        start=plan.corner,
        minutes=plan.minutes,
        least=[SpotReport(kind=s.kind, value=s.value, at=s.at) for s in found.spots],
    )


def _layers(b: Build) -> list[LayerReport]:
    return [
        LayerReport(
            name=la.name,
            colour=la.colour,
            film=la.film.id,
            film_colour=la.film_colour,
            pieces=la.pieces,
            weeded=la.weeded,
            area_mm2=la.area,
            dots=len(la.inspection.dots),
            thin=len(la.inspection.thin),
            gaps=len(la.inspection.gaps),
            weeding=_weeding(la),
        )
        for la in (b.layers.layers if b.layers else ())
    ]


def _loads(b: Build) -> list[SheetReport]:
    if b.sheets is None:
        return []
    return [
        SheetReport(
            layer=load.name,
            film=load.patches[0].film.id,
            cutter=b.sheets.cutter.id,
            sets=load.sets,
            times=load.times,
            turned=load.turned,
            fits=load.fits,
            width_mm=load.width,
            height_mm=load.height,
            film_area_mm2=load.film_area,
        )
        for load in b.sheets.loads
    ]


def _load_reports(b: Build) -> list[LoadReport]:
    return [
        LoadReport(
            films=[patch.name for patch in plan.load.patches],
            times=plan.load.times,
            places=[
                PlaceReport(
                    film=i.item.name,
                    at_mm=i.at,
                    turn_deg=i.turn,
                    row=i.item.row,
                    sets=i.item.sets,
                    loose=i.item.loose,
                    by_hand=i.by_hand >= 0,
                )
                for i in plan.load.items
            ],
            patches=[
                PatchReport(
                    name=patch.name,
                    film=patch.film.id,
                    box_mm=patch.box,
                    sets=sum(i.item.sets for i in plan.load.items if i.item.name == patch.name),
                )
                for patch in plan.load.patches
            ],
            passes=[PassReport(film=p.film.id, strokes=len(p.paths), seconds=p.seconds) for p in plan.passes],
            seconds=plan.seconds,
            taken=[
                TakenReport(
                    patch=one.patch,
                    copy_of=one.copy,
                    piece=one.taken.piece,
                    box_mm=one.taken.box,
                    turned=one.taken.turned,
                    cut_off_mm=one.taken.cut_off,
                )
                for one in (b.sheets.allotted.taken if b.sheets else ())
                if one.load == n
            ],
        )
        for n, plan in enumerate(b.cutting.plans if b.cutting else ())
    ]


def _page_reports(b: Build) -> list[PageReport]:
    return [
        PageReport(
            name=face.name,
            element=face.element,
            film=plan.load.patches[0].film.id,
            size_mm=face.size,
            marks_mm=[(x, y) for x, y in face.marks.tolist()],
            times=plan.load.times,
            fits=plan.load.fits,
            strokes=len(plan.paths),
            seconds=plan.seconds,
        )
        for plan in (b.cutting.pages if b.cutting else ())
        if (face := plan.load.face) is not None
    ]


def _film_use(b: Build) -> FilmUseReport | None:
    if b.sheets is None or not b.sheets.every:
        return None
    work, between, round_ = film_by_cause(b.sheets.loads)
    return FilmUseReport(
        whole_mm2=b.sheets.film_area,
        work_mm2=work,
        between_mm2=between,
        round_mm2=round_,
        lost_mm2=b.sheets.allotted.all_lost,
        printed_mm2=sum(page.film_area * page.times for page in b.sheets.pages),
    )


def _way(way: Way | None) -> WayReport | None:
    if way is None:
        return None
    return WayReport(loads=way.loads, minutes=way.minutes, film_mm2=way.film_area, placements=way.placements)


def _price(b: Build) -> PriceReport | None:
    p = b.price
    if p is None:
        return None
    return PriceReport(
        currency=b.job.price.currency,
        lines=[{"name": x.name, "amount": str(x.amount)} for x in p.lines],
        cost=str(p.cost),
        price=str(p.price),
        profit=str(p.profit),
        margin_percent=round(float(p.margin), 4),
        markup_percent=round(float(p.markup), 4),
        batch_price=str(p.batch_price),
    )


def make_report(b: Build) -> Report:
    """The report of a job, as far as it was built."""
    m, t = b.body, b.template
    round_body = m.body.closed
    return Report(
        title=b.job.title,
        readings=[
            ReadingReport(
                name=n,
                mean_mm=r.mean,
                deviation_mm=r.deviation,
                error_mm=r.error,
                count=r.count,
                reads=r.reads,
                instrument=r.instrument,
                outlier=r.outlier,
            )
            for n, r in m.readings.items()
        ],
        body=body_figures(m),
        figures=[
            FigureReport(
                name=c.name,
                value=c.value,
                error=c.error,
                unit=c.unit,
                again_first=c.first,
                shares=[ShareReport(reading=n, share=s) for n, s in c.shares],
            )
            for c in m.consequences
        ],
        seam=seam_of(m),
        level=(
            LevelReport(height_mm=m.level.height_mm, volume_ml=m.level.volume_ml, brim_ml=m.level.brim_ml)
            if m.level
            else None
        ),
        photo=[
            PhotoCheckReport(
                name=c.name,
                height_mm=c.height,
                radius_by_photo_mm=c.by_photo,
                radius_by_hand_mm=c.by_hand,
                spread_mm=c.spread,
            )
            for c in (m.photo.checks if m.photo else ())
        ],
        template=_template(b),
        strain=_strain(t),
        relief=(
            None
            if t is None
            else ReliefReport(
                slits=[SlitReport(start=s.start, end=s.end, depth_mm=s.depth) for s in t.slits],
                gores=[GoreReport(width_mm=g.width, length_mm=g.length) for g in t.gores],
            )
        ),
        joints=[JointReport(height_mm=at, turn_deg=math.degrees(turn)) for at, turn in (t.joints if t else ())],
        free_areas=free_areas_of(m),
        faces=[
            FaceReport(
                seen_by=f.seen_by,
                centre_deg=math.degrees(f.centre) if round_body else None,
                centre_mm=None if round_body else f.centre,
                width_mm=f.width,
                height_mm=f.height,
            )
            for f in m.free.faces
        ],
        elements=_elements(b),
        patterns=_patterns(b),
        names=_names(b),
        joint=b.layers.joint if b.layers else None,
        misregistration=_misregistration(b.layers) if b.layers else None,
        overlap_mm=b.layers.overlap if b.layers else None,
        gap_chance=b.layers.gap_chance if b.layers else None,
        layers=_layers(b),
        sheets=_loads(b),
        loads=_load_reports(b),
        pages=_page_reports(b),
        film_use=_film_use(b),
        one_film=_way(b.sheets.one_film) if b.sheets else None,
        shared_mats=_way(b.sheets.shared) if b.sheets else None,
        as_drawn=_way(b.sheets.drawn) if b.sheets else None,
        loose=_way(b.sheets.loose) if b.sheets else None,
        price=_price(b),
        verdicts=[
            VerdictReport(
                code=v.code,
                step=v.step,
                subject=v.subject,
                level=v.level,
                value=v.value,
                limit=v.limit,
                unit=v.unit,
                sentence=v.sentence(),
            )
            for v in b.verdicts
        ],
        took=[TookReport(stage=stage, ms=round(1000 * s, 2)) for stage, s in b.took.items()],
    )


def report_schema() -> dict[str, Any]:
    """JSON Schema (2020-12) of the report."""
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **Report.model_json_schema()}
