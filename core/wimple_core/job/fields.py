"""Field types that read what a person typed: lengths, volumes, colours, money."""

from __future__ import annotations

import math
import re
from decimal import Decimal
from typing import Annotated, Any

from pydantic import AfterValidator, BeforeValidator, ConfigDict, Field, ValidationInfo, WithJsonSchema
from pydantic import BaseModel as PydanticModel

from ..errors import BadReading
from ..figures import carried
from ..units import parse_length, parse_volume

LONGEST_MM = 50_000.0
"""Nothing that is decorated by hand is longer than a lorry."""


class Model(PydanticModel):
    """Base of every part of the document: frozen, and no unknown fields."""

    model_config = ConfigDict(frozen=True, extra="forbid", validate_default=False)


def _length(value: Any, info: ValidationInfo) -> Any:
    if isinstance(value, bool):
        raise ValueError("a length is wanted, such as 70 mm or 2 3/4 in")
    if isinstance(value, str):
        try:
            value = parse_length(value, "in" if (info.context or {}).get("unit") == "in" else "mm")
        except BadReading as bad:
            raise ValueError(f"{bad.message}|{bad.hint}") from None
    return value


def _volume(value: Any, info: ValidationInfo) -> Any:
    if isinstance(value, str):
        try:
            value = parse_volume(value, "oz" if (info.context or {}).get("unit") == "in" else "ml")
        except BadReading as bad:
            raise ValueError(f"{bad.message}|{bad.hint}") from None
    return value


def _number(value: Any) -> Any:
    if isinstance(value, str):
        text = value.strip().rstrip("°%").replace(",", ".").replace("−", "-").strip()
        if not re.fullmatch(r"[+-]?(\d+\.?\d*|\.\d+)", text):
            raise ValueError(f"“{value.strip()}” is not a number.|Write it as 12 or 12.5.")
        return float(text)
    return value


def _finite(value: float) -> float:
    if not math.isfinite(value):
        raise ValueError(f"{value} is not a number a rule can show.|Type the reading again.")
    return value


def _bounded(low: float, high: float, low_open: bool, noun: str):  # type: ignore[no-untyped-def]
    def check(value: float) -> float:
        if value < low or (low_open and value == low):
            least = f"more than {carried(low)}" if low_open else f"{carried(low)} or more"
            raise ValueError(f"{carried(value)} is too small for a {noun}.|It must be {least}.")
        if value > high:
            raise ValueError(
                f"{carried(value)} is too large for a {noun}.|Nothing over {carried(high)} is taken: check the unit."
            )
        return value

    return check


_TYPED_LENGTH = WithJsonSchema({"type": "number", "description": "mm; a string with a unit is read too"})
Length = Annotated[
    float,
    BeforeValidator(_length),
    AfterValidator(_finite),
    AfterValidator(_bounded(0, LONGEST_MM, True, "length")),
    _TYPED_LENGTH,
]
"""A length above zero, mm."""
Distance = Annotated[
    float,
    BeforeValidator(_length),
    AfterValidator(_finite),
    AfterValidator(_bounded(0, LONGEST_MM, False, "distance")),
    _TYPED_LENGTH,
]
"""A length of zero or more, mm."""
Offset = Annotated[
    float,
    BeforeValidator(_length),
    AfterValidator(_finite),
    AfterValidator(_bounded(-LONGEST_MM, LONGEST_MM, False, "position")),
    _TYPED_LENGTH,
]
"""A length of either sign, mm."""
Volume = Annotated[
    float,
    BeforeValidator(_volume),
    AfterValidator(_finite),
    Field(gt=0, le=100_000),
    WithJsonSchema({"type": "number", "description": "ml; a string with a unit is read too"}),
]
Number = Annotated[float, BeforeValidator(_number), AfterValidator(_finite), WithJsonSchema({"type": "number"})]
Count = Annotated[int, BeforeValidator(_number)]


def _money(value: Any) -> Any:
    if isinstance(value, str):
        text = value.strip().replace(",", ".")
        if not re.fullmatch(r"\d{1,9}(\.\d{1,6})?", text):
            raise ValueError(f"“{value.strip()}” is not an amount of money.|Write it as 3.99.")
        return Decimal(text)
    if isinstance(value, float):
        return Decimal(repr(value))
    return value


Money = Annotated[
    Decimal,
    BeforeValidator(_money),
    Field(ge=0, le=1_000_000, allow_inf_nan=False),
    WithJsonSchema({"type": "string", "pattern": r"^\d{1,9}(\.\d{1,6})?$"}),
]


def _colour(value: Any) -> Any:
    if not isinstance(value, str) or not re.fullmatch(r"#[0-9a-fA-F]{6}", value.strip()):
        raise ValueError(f"“{value}” is not a colour.|Write it as # and six hexadecimal digits, such as #1c3d7a.")
    return value.strip().lower()


Colour = Annotated[str, BeforeValidator(_colour), WithJsonSchema({"type": "string", "pattern": "^#[0-9a-fA-F]{6}$"})]
Title = Annotated[str, Field(max_length=120)]
Note = Annotated[str, Field(max_length=4000)]
FileName = Annotated[str, Field(min_length=1, max_length=160, pattern=r"^[^./\\\x00-\x1f][^/\\\x00-\x1f]*$")]
"""A file that travels beside the document: no folders, no dot in front."""
