"""A drawing or a font taken in for the Folio, and the small picture that tells it from others."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely

from ..artwork import Artwork, separate
from ..artwork.lettering import open_face, set_words
from ..figures import carried
from ..job.lettering import Lettering
from ..job.source import is_font_file
from ..taking_in import drawing_in, font_in, read_roughly
from .drawn import Box, View, box, rings_of
from .placed import PaintView

SAMPLES = ("Aa Gg 12", "Aa", "אב", "ابج", "АБ", "ΑΒ")
"""What a font is shown by: the first of these that it has."""
MOST_SHAPES = 400
"""A small picture shows so many of the largest pieces."""


class FolioCardView(View):
    """What is shown of it: its colours, as far as they can be told apart so small, and what it is in a few words whose
    figures are still to be written out."""

    bounds: Box
    paints: list[PaintView]
    says: str


@dataclass(frozen=True)
class FolioIn:
    """What may be kept of a file, and how it is shown; `name` is what a font says it is called."""

    kind: str
    name: str
    data: bytes
    card: dict[str, Any]


def _card(art: Artwork, says: str) -> dict[str, Any]:
    left, low, right, high = art.bounds
    size = max(right - left, high - low)
    shown = []
    for colour, region in ((c.colour, c.seen) for c in separate(art.paints, art.tolerance)):
        parts = shapely.get_parts(region)
        if len(parts) > MOST_SHAPES:
            parts = parts[np.argsort(-shapely.area(parts))[:MOST_SHAPES]]
        shown.append(PaintView(colour=colour, rings=rings_of(shapely.multipolygons(parts), size / 900, 2)))
    return FolioCardView(bounds=box(art.bounds), paints=shown, says=says).model_dump(mode="json")


def folio_in(data: bytes, name: str) -> FolioIn:
    """A drawing, a picture or a font, taken in. Raises BadDrawing for what is none."""
    if is_font_file(name):
        return font_for_folio(data)
    drawn = drawing_in(data)
    art = read_roughly(drawn.data)
    left, low, right, high = art.bounds
    colours = len({p.colour for p in art.paints})
    many = f"{colours} colour{'s' if colours != 1 else ''}"
    size = f" · {carried(right - left, 'mm')} × {carried(high - low, 'mm')}" if art.sized else ""
    return FolioIn("drawing", "", drawn.data, _card(art, f"{many}{size}"))


def font_for_folio(data: bytes) -> FolioIn:
    """A font, shown by a few of its letters."""
    font_in(data)
    face = open_face("", data)
    letters = face.parts[0].letters
    text = next((s for s in SAMPLES if all(ord(c) in letters for c in s if c != " ")), "")
    text = text or "".join(chr(c) for c in sorted(letters) if chr(c).isprintable() and not chr(c).isspace())[:3]
    art = set_words(Lettering(text=text or "A", size_mm=20.0), face, 0.05)
    said = f"{len(letters):,} letters" + ("" if face.may_be_embedded else " · its flags forbid embedding")
    return FolioIn("font", face.own_name, data, _card(art, said))
