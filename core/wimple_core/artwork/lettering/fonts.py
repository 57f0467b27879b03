"""Fonts: those that are shipped, and any other that is brought, opened for shaping.

A shipped font may be in several files, each with some of its letters, as it is published for the web.
"""

from __future__ import annotations

import io
from dataclasses import dataclass
from functools import cached_property, lru_cache
from pathlib import Path

import uharfbuzz as hb
from fontTools.pens.boundsPen import BoundsPen
from fontTools.pens.svgPathPen import SVGPathPen
from fontTools.ttLib import TTFont, TTLibError

from ...errors import BadDrawing
from ...job.lettering import SHIPPED_FONTS

FOLDER = Path(__file__).parent / "fonts"
MOST_FONT_BYTES = 20_000_000
MOST_GLYPHS = 70_000
NO_EMBEDDING = 0x0002
"""OS/2 fsType: restricted licence embedding (OpenType specification, OS/2 table)."""


class Part:
    """One file of a font."""

    def __init__(self, data: bytes) -> None:
        self.tables = _opened(data)
        self.upem = int(self.tables["head"].unitsPerEm)
        self.letters = frozenset(self.tables.getBestCmap() or {})
        self._face = hb.Face(_plain(self.tables))
        self.font = hb.Font(self._face)
        self.font.scale = (self.upem, self.upem)
        self._paths: dict[int, str] = {}
        self._ink: dict[int, tuple[float, float] | None] = {}

    def path(self, glyph: int) -> str:
        """A glyph's outline as SVG path data in font units, y up."""
        if glyph not in self._paths:
            pen = SVGPathPen(None)
            self.font.draw_glyph_with_pen(glyph, pen)
            self._paths[glyph] = pen.getCommands()
        return self._paths[glyph]

    def ink(self, glyph: int) -> tuple[float, float] | None:
        """From where to where a glyph is seen, font units; None where nothing is."""
        if glyph not in self._ink:
            pen = BoundsPen(None)
            self.font.draw_glyph_with_pen(glyph, pen)
            self._ink[glyph] = (float(pen.bounds[0]), float(pen.bounds[2])) if pen.bounds else None
        return self._ink[glyph]

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
    def may_be_embedded(self) -> bool:
        """Do its flags allow it to be embedded? Cutting letters is no embedding, but a maker may want to know."""
        flags = int(getattr(self.parts[0].tables.get("OS/2"), "fsType", 0) or 0)
        return flags & 0x000F != NO_EMBEDDING


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
