"""Figures as a workshop writes them, and on their way there in a sentence.

1 in = 25.4 mm exactly (NIST SP 811); 1 US fl oz = 29.5735295625 ml (NIST Handbook 44, appendix C).
"""

from __future__ import annotations

import math
import re
from fractions import Fraction
from typing import Literal

LengthStyle = Literal["mm", "in_fraction", "in_decimal"]
"""How a workshop reads lengths."""

MM_PER_INCH = 25.4
ML_PER_FLUID_OUNCE = 29.5735295625
BEYOND_MM = 1e9
"""Nothing is so long: what was typed by mistake is written short."""
SIXTY_FOURTHS = 64
"""Inches are shown to the nearest 1/64, the finest mark on a maker's rule."""


def format_length(mm: float, style: LengthStyle = "mm", digits: int = 1) -> str:
    """Write a length the way the workshop reads it, with its unit.

    >>> format_length(69.85, "in_fraction")
    '2 3/4 in'
    """
    inches = mm / MM_PER_INCH
    if abs(mm) >= BEYOND_MM:
        return f"{mm:.3g} mm" if style == "mm" else f"{inches:.3g} in"
    if style == "mm":
        return f"{_fixed(mm, digits)} mm"
    if style == "in_decimal":
        return f"{_fixed(inches, digits + 2)} in"
    return f"{_as_fraction(inches)} in"


def _fixed(value: float, digits: int) -> str:
    text = f"{value:.{digits}f}"
    return text.removeprefix("-") if float(text) == 0 else text


def _as_fraction(inches: float) -> str:
    sixty_fourths = math.floor(abs(inches) * SIXTY_FOURTHS + 0.5)
    whole, rest = divmod(sixty_fourths, SIXTY_FOURTHS)
    sign = "-" if inches < 0 and sixty_fourths else ""
    if not rest:
        return f"{sign}{whole}"
    f = Fraction(rest, SIXTY_FOURTHS)
    return f"{sign}{whole} {f}" if whole else f"{sign}{f}"


def _area(value: float, small: bool, style: LengthStyle) -> str:
    if style == "mm":
        return f"{_fixed(value, 1)} mm²" if small else f"{_fixed(value / 100, 1)} cm²"
    return f"{_fixed(value / MM_PER_INCH**2, 3 if small else 1)} in²"


SMALL_MM2 = 10.0
"""A smaller area would be none in the larger unit."""


def format_quantity(value: float, unit: str, style: LengthStyle = "mm") -> str:
    """Write a figure with its unit: lengths in the workshop's style, everything else as it is."""
    match unit:
        case "mm" if style == "in_fraction" and 0 < abs(value) < MM_PER_INCH / 32:
            return format_length(value, "in_decimal")
        case "mm":
            if style == "mm" and 0 < abs(value) < 0.995:
                text = _fixed(value, 2)
                return f"{text.removesuffix('0')} mm"
            return format_length(value, style)
        case "m":
            return f"{_fixed(value, 1)} m" if style == "mm" else f"{_fixed(1000 * value / MM_PER_INCH / 12, 0)} ft"
        case "ml":
            return f"{_fixed(value, 0)} ml" if style == "mm" else f"{_fixed(value / ML_PER_FLUID_OUNCE, 1)} fl oz"
        case "%":
            return f"{_fixed(value, 1)} %"
        case "deg":
            return f"{_fixed(value, 1)}°"
        case "ratio":
            return f"{_fixed(value, 2).rstrip('0').rstrip('.')} : 1"
        case "mm2" | "mm²":
            return _area(value, unit == "mm²" or 0 < abs(value) < SMALL_MM2, style)
        case "min":
            return f"{_fixed(value, 1)} min"
        case "h":
            return f"{_fixed(value, 1).removesuffix('.0')} h"
        case "count":
            return str(int(value))
        case "":
            return _fixed(value, 2)
        case _:
            return f"{_fixed(value, 2)} {unit}"


_OPEN, _CLOSE = "\ue000", "\ue001"
_CARRIED = re.compile(f"{_OPEN}([^ ]+) ([^{_CLOSE}]*){_CLOSE}")


def carried(value: float, unit: str = "mm") -> str:
    """A figure on its way in a sentence, to be written out by `worded` in the units of whoever reads it."""
    return f"{_OPEN}{float(value)!r} {unit}{_CLOSE}"


def worded(text: str, style: LengthStyle = "mm") -> str:
    """A sentence with the figures it carries written out.

    >>> worded(f"At most {carried(69.85)}.", "in_fraction")
    'At most 2 3/4 in.'
    """
    return _CARRIED.sub(lambda m: format_quantity(float(m.group(1)), m.group(2), style), text)
