"""Words on paper: the fonts that go into every PDF, so that no letter a maker types becomes another.

Archivo holds the Latin letters of Europe and Vietnam, Noto Sans Greek and Cyrillic (both SIL Open Font License 1.1, in
docs/licences). `fonts/` was cut from their packages at weights 400 and 650 or 700, without layout tables.
"""

from __future__ import annotations

from functools import cache
from itertools import groupby
from pathlib import Path

from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen.canvas import Canvas

_FOLDER = Path(__file__).parent / "fonts"
_FAMILIES = ("Archivo", "NotoSans")
MISSING = "?"
"""Stands for a letter none of the fonts has."""


@cache
def _fonts(bold: bool) -> tuple[TTFont, ...]:
    """The fonts of one weight in the order in which a letter is looked for."""
    out = []
    for family in _FAMILIES:
        name = f"{family}-{'SemiBold' if bold else 'Regular'}"
        font = TTFont(name, str(_FOLDER / f"{name}.ttf"))
        pdfmetrics.registerFont(font)
        out.append(font)
    return tuple(out)


def _runs(text: str, bold: bool) -> list[tuple[TTFont, str]]:
    """The text in stretches, each with the first font that has its letters."""
    fonts = _fonts(bold)

    def font_of(letter: str) -> int:
        code = ord(letter)
        return next((i for i, f in enumerate(fonts) if code in f.face.charToGlyph), -1)

    return [
        (fonts[max(i, 0)], "".join(part) if i >= 0 else MISSING * len(list(part)))
        for i, part in groupby(text, key=font_of)
    ]


def width_of(text: str, size: float, bold: bool = False) -> float:
    """How wide a line of text is, points."""
    return float(sum(font.stringWidth(part, size) for font, part in _runs(text, bold)))


def draw(
    canvas: Canvas, x: float, y: float, text: str, size: float, bold: bool = False, outlined: bool = False
) -> None:
    """Write one line of text from (x, y), points; `outlined`, its letters are stroked as well."""
    for font, part in _runs(text, bold):
        canvas.setFont(font.fontName, size)
        canvas.drawString(x, y, part, mode=2 if outlined else 0)
        x += font.stringWidth(part, size)


def draw_to(canvas: Canvas, right: float, y: float, text: str, size: float, bold: bool = False) -> None:
    """Write one line of text that ends at `right`, points."""
    draw(canvas, right - width_of(text, size, bold), y, text, size, bold)


def wrap_lines(text: str, size: float, width: float, bold: bool = False) -> list[str]:
    """Text broken into lines no wider than `width` points; a word that is wider alone is broken too."""
    lines: list[str] = []
    line = ""
    for word in text.split():
        longer = f"{line} {word}".strip()
        if width_of(longer, size, bold) <= width:
            line = longer
            continue
        if line:
            lines.append(line)
        while width_of(word, size, bold) > width and len(word) > 1:
            cut = next(n for n in range(len(word) - 1, 0, -1) if n == 1 or width_of(word[:n], size, bold) <= width)
            lines.append(word[:cut])
            word = word[cut:]
        line = word
    return [*lines, line] if line else lines


def shortened(text: str, size: float, width: float, bold: bool = False) -> str:
    """A line cut off with dots where it is wider than `width` points."""
    if width_of(text, size, bold) <= width:
        return text
    while text and width_of(text + "…", size, bold) > width:
        text = text[:-1]
    return text.rstrip() + "…"
