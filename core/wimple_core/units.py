"""Lengths and volumes as people write them, read into millimetres and millilitres."""

from __future__ import annotations

import re
import unicodedata
from fractions import Fraction
from typing import Literal

from .errors import BadReading
from .figures import ML_PER_FLUID_OUNCE, MM_PER_INCH, SIXTY_FOURTHS

_LENGTH_UNITS = {
    "mm": 1.0,
    "millimetre": 1.0,
    "millimetres": 1.0,
    "millimeter": 1.0,
    "millimeters": 1.0,
    "cm": 10.0,
    "m": 1000.0,
    "in": MM_PER_INCH,
    "inch": MM_PER_INCH,
    "inches": MM_PER_INCH,
    '"': MM_PER_INCH,
    "″": MM_PER_INCH,
    "”": MM_PER_INCH,
    "ft": 304.8,
    "foot": 304.8,
    "feet": 304.8,
    "'": 304.8,
    "′": 304.8,
    "’": 304.8,
}
_INCHES = {u: _LENGTH_UNITS[u] for u in ("in", "inch", "inches", '"', "″", "”")}
_VOLUME_UNITS = {
    "ml": 1.0,
    "cl": 10.0,
    "dl": 100.0,
    "l": 1000.0,
    "floz": ML_PER_FLUID_OUNCE,
    "oz": ML_PER_FLUID_OUNCE,
    "fl": ML_PER_FLUID_OUNCE,
}
_NUMBER = re.compile(
    r"""\s*(?P<sign>[+-])?\s*
    (?: (?P<whole>\d+)(?:\s+|\s*-\s*)(?P<num>\d+)\s*/\s*(?P<den>\d+)
      | (?P<fnum>\d+)\s*/\s*(?P<fden>\d+)
      | (?P<decimal>\d+(?:[.,]\d*)?|[.,]\d+) )
    \s*(?P<unit>[^\d\s].*?)?\s*$""",
    re.VERBOSE,
)


def _spell_out_fractions(text: str) -> str:
    out = []
    for ch in text:
        if "FRACTION" in unicodedata.name(ch, ""):
            f = Fraction(unicodedata.numeric(ch)).limit_denominator(SIXTY_FOURTHS)
            out.append(f" {f.numerator}/{f.denominator}")
        else:
            out.append(ch)
    return "".join(out).replace("⁄", "/").replace("−", "-")


_FEET_AND_INCHES = re.compile(
    r"""\s*([+-]?)\s*(\d+(?:[.,]\d*)?)\s*(?:ft\.?|foot|feet|'|′|’)\s*([^a-z\s'′’].*)""", re.IGNORECASE
)
_RAISED = "²³¹⁰⁴⁵⁶⁷⁸⁹"


def _refuse_odd_numbers(typed: str, plain: str, field: str) -> None:
    """Raises BadReading for numbers written in ways that could be read as another one."""
    if any(c in _RAISED for c in typed):
        raise BadReading(
            f"“{typed}” has a small raised figure in it.",
            field=field,
            hint="That stands for a power, not a fraction: write 8 1/2 in or 8.5 in.",
        )
    power = re.match(r"[+-]?\s*(\d+(?:[.,]\d*)?)\s*e\s*([+-]?\d{1,3})(?!\w)", plain, re.IGNORECASE)
    if power:
        value = float(f"{power.group(1).replace(',', '.')}e{power.group(2)}")
        hint = f"Write it out: {value:g}." if 1e-3 <= value < 1e6 else "Write it out as a plain number."
        raise BadReading(f"“{typed}” is written as a power of ten.", field=field, hint=hint)
    both = re.match(r"[+-]?\s*(\d[\d.,]*[.,]\d*)", plain)
    if both and len(re.findall(r"[.,]", both.group(1))) > 1:
        digits = re.sub(r"[.,](?=.*[.,])", "", both.group(1)).replace(",", ".")
        raise BadReading(
            f"“{typed}” has more than one point or comma in its number.",
            field=field,
            hint=f"Leave out what parts the thousands: {digits}.",
        )


def _read(text: str, units: dict[str, float], default: str, field: str, example: str, noun: str) -> float:
    if not text.strip():
        raise BadReading(f"No {noun} given.", field=field, hint=f"Type one, such as {example}.")
    plain = _spell_out_fractions(text.strip())
    _refuse_odd_numbers(text.strip(), plain, field)
    found = _NUMBER.match(plain)
    if not found:
        raise BadReading(f"“{text.strip()}” is not a {noun}.", field=field, hint=f"Write it as {example}.")
    g = found.groupdict()
    denominator = int(g["den"] or g["fden"] or 1)
    if denominator == 0:
        raise BadReading(f"“{text.strip()}” divides by zero.", field=field, hint=f"Write it as {example}.")
    if g["decimal"] is not None:
        number = float(g["decimal"].replace(",", "."))
    else:
        number = float(Fraction(int(g["num"] or g["fnum"]), denominator) + int(g["whole"] or 0))
    unit = (g["unit"] or default).lower().replace(" ", "").replace(".", "")
    if unit not in units:
        mixed = re.search(r"\d", unit) is not None
        say = "mixes two units" if mixed else f"has the unit “{g['unit']}”, which is not known here"
        raise BadReading(f"“{text.strip()}” {say}.", field=field, hint=f"Use one number and one unit: {example}.")
    value = number * units[unit]
    return -value if g["sign"] == "-" else value


def parse_length(text: str, default_unit: Literal["mm", "in"] = "mm", field: str = "") -> float:
    """Read a length in mm from what a person typed.

    Takes decimals (point or comma), fractions and mixed numbers, with mm, cm, m, in, \", ft or ', feet and inches
    together, or no unit for `default_unit`. Raises BadReading for anything else.

    >>> parse_length("2 3/4 in")
    69.85
    >>> parse_length("5/8", "in")
    15.875
    >>> parse_length("1 ft 2 in")
    355.6
    """
    example = '70 mm, 2 3/4 in, 2.75", 5/8 in or 1 ft 2 in'
    feet = _FEET_AND_INCHES.fullmatch(text)
    if feet:
        sign, count, rest = feet.groups()
        inches = _read(rest, _INCHES, "in", field, example, "length")
        whole = float(count.replace(",", ".")) * _LENGTH_UNITS["ft"] + inches
        return -whole if sign == "-" else whole
    return _read(text, _LENGTH_UNITS, default_unit, field, example, "length")


def parse_volume(text: str, default_unit: Literal["ml", "oz"] = "ml", field: str = "") -> float:
    """Read a volume in ml from what a person typed (ml, cl, l, US fl oz). Raises BadReading."""
    return _read(text, _VOLUME_UNITS, default_unit, field, "350 ml or 12 fl oz", "volume")
