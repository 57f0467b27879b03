"""Lengths as people write them."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st
from wimple_core.errors import BadReading
from wimple_core.figures import carried, format_length, format_quantity
from wimple_core.units import parse_length, parse_volume


@pytest.mark.parametrize(
    ("text", "unit", "mm"),
    [
        ("70", "mm", 70),
        ("70 mm", "in", 70),
        ("2 3/4 in", "mm", 69.85),
        ('2.75"', "mm", 69.85),
        ("2-3/4", "in", 69.85),
        ("5/8", "in", 15.875),
        ("2¾ in", "mm", 69.85),
        ("7,5 cm", "mm", 75),
        ("1 ft", "mm", 304.8),
        ("6'", "mm", 1828.8),
        ("1 ft 2 in", "mm", 355.6),
        ("-1 ft 2 3/4", "mm", -374.65),
        ("6' 2 1/2\"", "mm", 1892.3),
        ("1.5 feet", "in", 457.2),
        (".5 in", "mm", 12.7),
        ("-3", "mm", -3),
        ("0.2", "mm", 0.2),
        ("3/32 inch", "mm", 2.38125),
        ("  12  MM ", "in", 12),
    ],
)
def test_read(text: str, unit: str, mm: float) -> None:
    assert parse_length(text, unit) == pytest.approx(mm, rel=1e-12)  # type: ignore[arg-type]


@pytest.mark.parametrize(
    "text", ["", "  ", "abc", "2 in 5 mm", "5 parsec", "3/0", "1/2/3", "--3", "1e3", "NaN", "inf", "12..5"]
)
def test_what_is_no_length_says_what_would_be(text: str) -> None:
    with pytest.raises(BadReading) as bad:
        parse_length(text, field="blank.upper")
    assert bad.value.field == "blank.upper" and bad.value.hint


@pytest.mark.parametrize(
    ("text", "says", "hint"),
    [
        ("8² in", "raised", "8 1/2 in"),
        ("5e2", "power of ten", "500"),
        ("1.234,5", "more than one", "1234.5"),
        ("1,234.5 mm", "more than one", "1234.5"),
        ("3 ft 2 mm", "“mm”", "1 ft 2 in"),
    ],
)
def test_numbers_that_could_be_another_are_refused_in_words_that_fit(text: str, says: str, hint: str) -> None:
    with pytest.raises(BadReading) as bad:
        parse_length(text)
    assert says in bad.value.message and hint in bad.value.hint


def test_errors_speak_the_workshops_units() -> None:
    """The figures travel in the sentence, and are written out in the units of whoever reads it."""
    for style, said in (("mm", "69.8 mm"), ("in_fraction", "2 3/4 in"), ("in_decimal", "2.750 in")):
        bad = BadReading(f"At most {carried(69.85)}.", field="x", hint=f"Under {carried(69.85)}.")
        bad = bad.within("blank", "Cup: ")
        out = bad.as_dict(style)  # type: ignore[arg-type]
        assert (out["message"], out["hint"], out["field"]) == (f"Cup: At most {said}.", f"Under {said}.", "blank.x")
    assert str(BadReading(f"{carried(12.7)}")) == "12.7 mm"


@given(st.integers(1, 64 * 200))
def test_fractions_come_back(sixty_fourths: int) -> None:
    mm = sixty_fourths / 64 * 25.4
    assert parse_length(format_length(mm, "in_fraction")) == pytest.approx(mm, rel=1e-12)


def test_volumes_and_sentences() -> None:
    assert parse_volume("12 fl oz") == pytest.approx(354.882, abs=0.001)
    assert (
        format_quantity(0.06, "mm") == "0.06 mm"
        and format_quantity(0.75, "mm") == "0.75 mm"
        and format_quantity(0.3, "mm") == "0.3 mm"
    )
    assert format_quantity(-0.001, "mm", "in_decimal") == "0.000 in"
