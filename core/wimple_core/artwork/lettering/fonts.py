"""Fonts: those that are shipped, and any other that is brought, opened for shaping.

A shipped font may be in several files, each with some of its letters, as it is published for the web.
"""

from __future__ import annotations

import io
from collections.abc import Callable, Hashable
from dataclasses import dataclass
from functools import cached_property, lru_cache
from pathlib import Path

import uharfbuzz as hb
from fontTools.pens.boundsPen import BoundsPen
from fontTools.pens.svgPathPen import SVGPathPen
from fontTools.ttLib import TTFont, TTLibError
from shapely.geometry.base import BaseGeometry

from ...errors import BadDrawing
from ...job.lettering import SHIPPED_FONTS

FOLDER = Path(__file__).parent / "fonts"
MOST_FONT_BYTES = 20_000_000
MOST_GLYPHS = 70_000
MOST_OUTLINES = 2000
"""So many outlines of letters are kept with a font."""
NO_EMBEDDING = 0x0002
"""OS/2 fsType: restricted licence embedding (OpenType specification, OS/2 table)."""


class Part:
    """One file of a font."""

    def __init__(self, data: bytes) -> None:
        tables = _opened(data)
        self.upem = int(tables["head"].unitsPerEm)
        self.letters = frozenset(tables.getBestCmap() or {})
        self.embedding = int(getattr(tables.get("OS/2"), "fsType", 0) or 0)
        self.own_name = _said_name(tables)
        self.features = _features(tables)
        self._face = hb.Face(_plain(tables))
        self.font = hb.Font(self._face)
        self.font.scale = (self.upem, self.upem)
        self._paths: dict[int, str] = {}
        self._boxes: dict[int, tuple[float, float, float, float] | None] = {}
        self._outlines: dict[Hashable, BaseGeometry] = {}

    def outline(self, key: Hashable, make: Callable[[], BaseGeometry]) -> BaseGeometry:
        """An outline that was made of its glyphs before under this key, or is made now."""
        found = self._outlines.get(key)
        if found is None:
            if len(self._outlines) >= MOST_OUTLINES:
                self._outlines.clear()
            found = self._outlines[key] = make()
        return found

    def path(self, glyph: int) -> str:
        """A glyph's outline as SVG path data in font units, y up."""
        if glyph not in self._paths:
            pen = SVGPathPen(None)
            self.font.draw_glyph_with_pen(glyph, pen)
            self._paths[glyph] = pen.getCommands()
        return self._paths[glyph]

    def ink(self, glyph: int) -> tuple[float, float] | None:
        """From where to where a glyph is seen, font units; None where nothing is."""
        box = self.box(glyph)
        return (box[0], box[2]) if box else None

    def box(self, glyph: int) -> tuple[float, float, float, float] | None:
        """Left, low, right, high of what is seen of a glyph, font units; None where nothing is."""
        if glyph not in self._boxes:
            pen = BoundsPen(None)
            self.font.draw_glyph_with_pen(glyph, pen)
            found = tuple(float(v) for v in pen.bounds) if pen.bounds else None
            self._boxes[glyph] = found  # type: ignore[assignment]
        return self._boxes[glyph]

    def height(self, letter: str) -> float:
        """How high a letter stands over the baseline, font units; 0 where there is none."""
        glyph = self.font.get_nominal_glyph(ord(letter))
        if not glyph:
            return 0.0
        pen = BoundsPen(None)
        self.font.draw_glyph_with_pen(glyph, pen)
        return float(pen.bounds[3]) if pen.bounds else 0.0


@dataclass(frozen=True)
class Face:
    """A font: its files, the one that most letters are in first."""

    name: str
    parts: tuple[Part, ...]

    @property
    def upem(self) -> int:
        return self.parts[0].upem

    @cached_property
    def cap_height(self) -> float:
        """Height of a capital over the baseline, font units: as drawn, since what the file states need not be true."""
        return self._height("HEIX") or 0.7 * self.upem

    @cached_property
    def x_height(self) -> float:
        """Height of a small letter without ascender, font units."""
        return self._height("xzv") or 0.5 * self.upem

    def _height(self, letters: str) -> float:
        return next((h for c in letters for p in self.parts if (h := p.height(c)) > 0), 0.0)

    @property
    def own_name(self) -> str:
        """What the font says it is called; empty where it says nothing."""
        return self.parts[0].own_name

    @property
    def features(self) -> tuple[str, ...]:
        """The features that can be switched on or off, by their OpenType tags, those in any of its files."""
        return tuple(sorted({f for p in self.parts for f in p.features if feature_words(f)}))

    @property
    def may_be_embedded(self) -> bool:
        """Do its flags allow it to be embedded? Cutting letters is no embedding, but a maker may want to know."""
        return self.parts[0].embedding & 0x000F != NO_EMBEDDING


Faces = Callable[[str], Face]
"""From what a source calls its font to the font."""


def _said_name(tables: TTFont) -> str:
    """A font's name, as OpenType's name table holds it: its typographic family, its family, or its full name."""
    try:
        names = tables.get("name")
        said = (str(names.getDebugName(i) or "").strip() for i in (16, 1, 4)) if names is not None else ()
        return next((s[:80] for s in said if s), "")
    except Exception:  # A damaged table: the file has a name as well.
        return ""


def _features(tables: TTFont) -> frozenset[str]:
    """The tags of what a font substitutes letters by."""
    try:
        found = getattr(getattr(tables.get("GSUB"), "table", None), "FeatureList", None)
        return frozenset(str(r.FeatureTag) for r in found.FeatureRecord) if found is not None else frozenset()
    except Exception:  # A damaged table: nothing to choose from; the shaper ignores it as well.
        return frozenset()


FEATURES = {
    "liga": "ligatures",
    "clig": "ligatures by their neighbours",
    "calt": "forms by their neighbours",
    "dlig": "rare ligatures",
    "swsh": "swashes",
    "cswh": "swashes by their neighbours",
    "salt": "other forms",
    "titl": "forms for titles",
    "hist": "old forms",
    "smcp": "small capitals",
    "c2sc": "capitals as small ones",
    "lnum": "figures as tall as capitals",
    "onum": "figures with long and short ones",
    "pnum": "figures as wide as they are",
    "tnum": "figures of one width",
    "frac": "fractions",
    "zero": "nought with a stroke",
}
"""What a font may offer, by OpenType's tags for it, in words (its registry of layout features)."""
ON_ANYWAY = ("liga", "clig", "calt")
"""Those that are on unless they are switched off."""


def feature_words(tag: str) -> str:
    """A feature in words; empty for one that is not a matter of choice."""
    if tag[:2] == "ss" and tag[2:].isdigit():
        return f"set {int(tag[2:])} of other forms"
    return FEATURES.get(tag, "")


def _plain(tables: TTFont) -> bytes:
    """The same without the web's compression."""
    out = io.BytesIO()
    tables.flavor = None
    tables.save(out)
    return out.getvalue()


def _opened(data: bytes) -> TTFont:
    """Raises BadDrawing for what is no font, is too large, or has no outlines."""
    if len(data) > MOST_FONT_BYTES:
        raise BadDrawing(
            f"The font has {len(data) / 1e6:.0f} MB.", hint=f"At most {MOST_FONT_BYTES // 1_000_000} MB are read."
        )
    if data[:4] == b"ttcf":
        raise BadDrawing("This file is a collection of fonts.", hint="Give the one font as a file of its own.")
    try:
        tables = TTFont(io.BytesIO(data), lazy=False)
        glyphs = int(tables["maxp"].numGlyphs)
        tables["head"], tables["hhea"], tables["hmtx"], tables["cmap"]
        outlined = any(t in tables for t in ("glyf", "CFF ", "CFF2"))
    except (TTLibError, KeyError, AssertionError, ValueError, TypeError, IndexError, OverflowError, EOFError) as bad:
        raise BadDrawing("This is not a font, or it is damaged.", hint="Give a TTF, OTF, WOFF or WOFF2 file.") from bad
    except Exception as bad:
        raise BadDrawing("This font cannot be read.", hint="Give a TTF, OTF, WOFF or WOFF2 file.") from bad
    if not outlined:
        raise BadDrawing(
            "This font has no outlines, only pictures of its letters.",
            hint="A blade needs outlines: take another font.",
        )
    if glyphs > MOST_GLYPHS:
        raise BadDrawing(f"The font has {glyphs:,} glyphs.", hint=f"At most {MOST_GLYPHS:,} are read.")
    return tables


def open_face(name: str, data: bytes) -> Face:
    """A font that was brought. Raises BadDrawing where it cannot be used."""
    part = Part(data)
    if not part.letters:
        raise BadDrawing("This font says of no letter which glyph it is.", hint="Take another font.")
    return Face(name, (part,))


@lru_cache(maxsize=len(SHIPPED_FONTS))
def shipped_face(font: str) -> Face:
    """A shipped font, by its id. Raises BadDrawing for one that is not shipped."""
    if font not in SHIPPED_FONTS:
        raise BadDrawing(
            f"There is no font “{font}”.", field="font", hint=f"Choose one of: {', '.join(SHIPPED_FONTS)}."
        )
    files = sorted(FOLDER.glob(f"{font}.*.woff2"))
    return Face(SHIPPED_FONTS[font].name, tuple(Part(f.read_bytes()) for f in files))
