"""Draws the workshop's own font of signs, `drawings/fernhallow-marks.ttf`: run it again after a change.

Each capital is a sign of the observatory, 700 units tall on an em of 1000.
"""

from __future__ import annotations

import math
from pathlib import Path

from fontTools.fontBuilder import FontBuilder
from fontTools.pens.ttGlyphPen import TTGlyphPen

Ring = list[tuple[float, float]]
TALL, WIDE = 700.0, 760
CREATED = 3_849_984_000
"""Seconds since 1904, as fonts count: always the same, so that the file is."""


def turned(corners: int, radius: float, inner: float | None = None, from_top: float = 0.0) -> Ring:
    """A polygon, or a star where there is an inner radius, clockwise from the top."""
    count = corners if inner is None else 2 * corners
    out = []
    for n in range(count):
        a = from_top + 2 * math.pi * n / count
        r = radius if inner is None or n % 2 == 0 else inner
        out.append((380 + r * math.sin(a), 350 + r * math.cos(a)))
    return out


def back(ring: Ring) -> Ring:
    """The same the other way round: a hole."""
    return ring[::-1]


CIRCLE = 48
SIGNS: dict[str, list[Ring]] = {
    "A": [turned(5, 350, 140)],
    "B": [turned(CIRCLE, 350)],
    "C": [turned(CIRCLE, 350), back(turned(CIRCLE, 230))],
    "D": [turned(8, 350, 120)],
    "E": [turned(4, 350)],
    "F": [turned(6, 350), back(turned(6, 220))],
    "G": [turned(4, 350, 70)],
    "H": [turned(12, 350, 250), back(turned(CIRCLE, 150))],
    "I": [
        [(100, 0), (100, 300)]
        + [(380 - 280 * math.cos(t * math.pi / 20), 300 + 280 * math.sin(t * math.pi / 20)) for t in range(1, 20)]
        + [(660, 300), (660, 0)]
    ],
    "J": [turned(3, 350), back(turned(3, 150))],
}


def main() -> None:
    """Write the font."""
    names = [".notdef", "space", *SIGNS]
    glyphs = {}
    for name in names:
        pen = TTGlyphPen(None)
        for ring in SIGNS.get(name, []):
            pen.moveTo((round(ring[0][0]), round(ring[0][1])))
            for x, y in ring[1:]:
                pen.lineTo((round(x), round(y)))
            pen.closePath()
        glyphs[name] = pen.glyph()
    builder = FontBuilder(1000, isTTF=True)
    builder.setupGlyphOrder(names)
    builder.setupCharacterMap({32: "space", **{ord(c): c for c in SIGNS}})
    builder.setupGlyf(glyphs)
    builder.setupHorizontalMetrics({n: (400 if n == "space" else WIDE, 0) for n in names})
    builder.setupHorizontalHeader(ascent=800, descent=-200)
    builder.setupNameTable({"familyName": "Fernhallow Marks", "styleName": "Regular"})
    builder.setupOS2(sTypoAscender=800, sCapHeight=int(TALL), fsType=0)
    builder.setupPost()
    builder.font["head"].created = builder.font["head"].modified = CREATED
    builder.font.recalcTimestamp = False
    builder.save(Path(__file__).parent / "drawings" / "fernhallow-marks.ttf")


if __name__ == "__main__":
    main()
