"""Printed faces as loads: each a sheet by itself, found by its marks and cut along its contour."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from ..cuts import cuts_round
from ..fit import Fit
from ..job.document import Element
from ..job.shipped import Cutter, Film
from ..job.tables import Tables
from ..layers.pile import Sheet
from ..verdict import Figure, Verdict
from .loads import Item, Load, Loads, Medium, Patch, PlacedItem, medium_of
from .printed import Face, faces_of

PAPER = "#ffffff"


def page_of(face: Face, film: Film, medium: Medium, times: int) -> Load:
    """A printed face on its own sheet of film, the lower left of its frame at the origin of the safe area."""
    item = Item(face.name, film, PAPER, cuts_round(face.contour), face.size, face.contour.area)
    patch = Patch(face.name, film, PAPER, (0.0, 0.0, *face.size))
    return Load(medium, (PlacedItem(item, (0.0, 0.0)),), (patch,), times, face)


def pages_of(
    fit: Fit,
    elements: Sequence[Element],
    tables: Tables,
    cutter: Cutter,
    default_film: str,
    quantity: int,
    sheet: Sheet | None = None,
) -> tuple[Load, ...]:
    """The printed faces of a job, each wanted as often as its sets; on a `sheet` that is the blank itself, what is
    printed on each film as one face, cut along the sheet's edge. Raises BadDocument for a film there is none of."""
    usual = default_film if sheet is None else sheet.film or default_film
    films = {
        e.id: tables.film(e.printed.film or usual, f"elements.{n}.printed.film")
        for n, e in enumerate(elements)
        if e.printed is not None
    }
    medium = medium_of(cutter)
    of_sheet = (sheet.region, {e: film.id for e, film in films.items()}) if sheet else None
    faces = faces_of(fit, tuple(elements), of_sheet)
    return tuple(page_of(face, films[face.element], medium, quantity) for face in faces)


def with_pages(loads: Loads, pages: tuple[Load, ...]) -> Loads:
    """The same with printed pages, those alike as one, their film, and whether they have room on the cutter."""
    alike: dict[str, Load] = {}
    for page in pages:
        times = alike[page.digest].times if page.digest in alike else 0
        alike[page.digest] = replace(page, times=times + page.times)
    pages = tuple(alike.values())
    film = sum(page.film_area * page.times for page in pages)
    over = [_fits(page, 1) for page in pages if not page.fits]
    largest = max(pages, key=lambda page: max(page.size), default=None)
    said = over or ([_fits(largest, len(pages))] if largest else [])
    return replace(loads, pages=pages, film_area=loads.film_area + film, verdicts=(*loads.verdicts, *said))


def _fits(page: Load, count: int) -> Verdict:
    """Whether a page has room on the cutter, the largest of so many."""
    w, h, room = page.width, page.height, page.medium
    over = max(w - room.width, h - room.length)
    figures: dict[str, Figure] = {
        "w": (w, "mm"),
        "h": (h, "mm"),
        "wide": (room.width, "mm"),
        "long": (room.length, "mm"),
    }
    what = f"{page.name}, printed" if count == 1 else f"{count} printed pages, the largest of {page.name}"
    size = f"{what}: {{w}} by {{h}} with its marks"
    if page.fits:
        words = f"{size}, inside the cutter's safe area."
        return Verdict("sheets.page", "sheets", "ok", max(w, h), None, "mm", words, figures=figures, subject=page.name)
    return Verdict(
        "sheets.page",
        "sheets",
        "look",
        over,
        0.0,
        "mm",
        f"{size}, {{value}} more than the cutter's safe area of {{wide}} by {{long}}.",
        "Print it smaller, or cut it on a larger machine.",
        figures,
        field="sheets.cutter",
        subject=page.name,
    )
