"""Job documents read: as typed, of any version, every fault named."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any, Literal

from pydantic import ValidationError

from ..errors import BadDocument, FieldFault
from ..figures import format_length
from .blanks import Blank
from .document import _BLANK, _SOURCE, Job, Source
from .upgrades import upgrade

_CHOSEN = {"blank": "blank", "zones": "zone", "source": "source", "form": "shape", "edits": "edit"}
"""What stands where alternatives are told apart, by the field it stands in."""
_KINDS_OF_VALUE = {
    "string": "words",
    "float": "a number",
    "int": "a whole number",
    "bool": "yes or no",
    "tuple": "a list",
    "date": "a date such as 2026-12-04",
    "datetime": "a date and time such as 2026-12-04T10:00",
    "decimal": "an amount such as 3.99",
    "model": "a group of fields",
    "dict": "a group of fields",
}


_UNITS = {
    "_mm_s2": " mm/s²",
    "_mm_s": " mm/s",
    "_deg": "°",
    "_gf": " gf",
    "_um": " µm",
    "_ml": " ml",
    "_percent": " %",
    "_minutes": " minutes",
}
"""What a field's name says of its unit, lengths apart."""


def _wanted(error: Mapping[str, Any]) -> str:
    """What would be right, in plain words, of an error pydantic found by itself."""
    kind, about = str(error["type"]), error.get("ctx", {})
    if kind == "literal_error":
        return f"Choose one of: {str(about['expected']).replace(' or ', ', ').replace(chr(39), '')}."
    bounds = {
        "greater_than": ("more than", "gt"),
        "greater_than_equal": ("at least", "ge"),
        "less_than": ("less than", "lt"),
        "less_than_equal": ("at most", "le"),
    }
    if kind in bounds:
        word, name = bounds[kind]
        return f"It must be {word} {_bound(about[name], error['loc'])}."
    if kind == "string_too_long":
        return f"At most {about['max_length']} letters are taken."
    if kind in ("too_long", "too_short"):
        most, name = ("most", "max_length") if kind == "too_long" else ("least", "min_length")
        return f"Give at {most} {about[name]}."
    for start, words in _KINDS_OF_VALUE.items():
        if kind.startswith(start):
            return f"It wants {words}."
    return "docs/file-format.md says what belongs here."


def _bound(value: Any, loc: Sequence[Any]) -> str:
    """A bound with the unit that its field's name says; a length in inches as well, whoever reads it."""
    if not isinstance(value, (int, float)):
        return str(value)
    field = next((str(part) for part in reversed(loc) if isinstance(part, str)), "")
    if field.endswith("_mm"):
        return f"{value:g} mm" + (f" ({format_length(value, 'in_fraction')})" if value else "")
    return f"{value:g}" + next((unit for ending, unit in _UNITS.items() if field.endswith(ending)), "")


def _path(loc: Sequence[Any], raw: Any, named: bool) -> str:
    """Where a field is in what was given (`raw`), without the names of the alternatives that pydantic puts in between:
    those are no keys there, or are what its kind or form says. The last part is a field even if it is none, where it is
    `named` for that."""
    parts: list[str] = []
    entered = True
    for n, part in enumerate(loc):
        if isinstance(raw, Mapping):
            last = n == len(loc) - 1
            told = entered and part in (raw.get("kind"), raw.get("form"))
            if told or (part not in raw and not (last and named)):
                entered = False
                continue
        parts.append(str(part))
        if (isinstance(raw, Mapping) and part in raw) or (
            isinstance(raw, (list, tuple)) and isinstance(part, int) and part < len(raw)
        ):
            raw = raw[part]
        entered = True
    return ".".join(parts)


def _not_chosen(error: Mapping[str, Any], path: str) -> tuple[str, str]:
    """What is said of an alternative there is none of."""
    about = error.get("ctx", {})
    what = next((_CHOSEN[p] for p in reversed(path.split(".")) if p in _CHOSEN), "thing")
    by = str(about.get("discriminator", "kind")).strip("'")
    if "tag" not in about:
        return f"Which {what} this is, is not said.", f"Say so in its “{by}”."
    known = str(about.get("expected_tags", "")).replace("'", "")
    return f"There is no {what} “{str(about['tag'])[:40]}”.", f"It must be one of: {known}."


def fault_of(error: Mapping[str, Any], raw: Any = None) -> FieldFault:
    """An error of pydantic's in words; `raw` is what was given, where that is known."""
    path = _path(error["loc"], raw, error["type"] in ("missing", "extra_forbidden"))
    message = str(error["msg"]).removeprefix("Value error, ")
    message, _, hint = message.partition("|")
    value = error.get("input")
    if error["type"] == "extra_forbidden":
        message, hint = f"“{error['loc'][-1]}” is not part of a job document.", "Take it out, or check its spelling."
    elif error["type"] == "missing":
        message, hint = f"“{error['loc'][-1]}” is missing.", "Every job needs it."
    elif error["type"] == "int_from_float":
        message, hint = f"{value} is not a whole number.", "Write it as 12."
    elif error["type"] == "string_pattern_mismatch" and path.endswith(".file"):
        message, hint = f"“{value}” is not a file name.", "It has no folders in it and does not start with a dot."
    elif error["type"] == "too_short":
        least = error.get("ctx", {}).get("min_length", 1)
        message, hint = "There is nothing here.", "At least one reading is needed."
        if least > 1:
            message, hint = (
                f"There are too few of these: {error['ctx'].get('actual_length', 0)}.",
                f"At least {least} are needed.",
            )
    elif error["type"] == "too_long":
        message, hint = f"{message}.", "Take some out."
    elif error["type"].startswith("union_tag"):
        message, hint = _not_chosen(error, path)
    elif not hint:
        said, shown = message, str(value) if len(str(value)) < 60 else f"{str(value)[:57]}…"
        message = "Nothing is given here." if "input" in error and value is None else "This cannot stand here."
        if isinstance(value, (str, int, float)):
            message = f"“{shown}” cannot stand here."
        hint = f"{said[0].upper()}{said[1:]}." if error["type"] == "value_error" else _wanted(error)
    return FieldFault(
        path,
        message[0].upper() + message[1:] if message else "It cannot be read.",
        hint or "docs/file-format.md says what belongs here.",
    )


def load_job(raw: object, unit: Literal["mm", "in"] = "mm") -> Job:
    """Read a job document (any version), bare typed lengths being in `unit`.

    Raises BadDocument naming every field at fault.
    """
    if not isinstance(raw, Mapping):
        raise BadDocument("This is not a job document.", hint="It must be a JSON object with “format”: “wimple.job”.")
    document = upgrade(dict(raw))
    try:
        return Job.model_validate(document, context={"unit": unit})
    except ValidationError as bad:
        raise refusal(bad, document) from None


def refusal(bad: ValidationError, raw: Any, prefix: str = "") -> BadDocument:
    """What pydantic refused of what was given (`raw`), in words, naming every field at fault; `prefix` is where that
    stands."""
    errors = bad.errors(include_url=False)
    inner = {tuple(e["loc"][:-1]) for e in errors}
    before, whole = ((prefix,), {prefix: raw}) if prefix else ((), raw)
    faults = [
        fault_of({**e, "loc": (*before, *e["loc"])}, whole)
        for e in errors
        if not (e["type"] == "too_short" and tuple(e["loc"]) in inner)
    ]
    return BadDocument.of(faults)


def load_blank(raw: object, unit: Literal["mm", "in"] = "mm") -> Blank:
    """Read the blank of a document by itself. Raises BadDocument naming every field at fault."""
    try:
        blank: Blank = _BLANK.validate_python(raw, context={"unit": unit})
    except ValidationError as bad:
        raise refusal(bad, raw, "blank") from None
    return blank


def load_source(raw: object) -> Source:
    """Read the source of an element by itself. Raises BadDocument naming every field at fault."""
    try:
        source: Source = _SOURCE.validate_python(raw)
    except ValidationError as bad:
        raise refusal(bad, raw) from None
    return source
