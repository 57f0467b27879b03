"""Verdicts and what stopped the street, in the workshop's units."""

from __future__ import annotations

from typing import Any, Literal

from ..built import Build
from ..errors import WimpleError
from ..figures import LengthStyle
from ..verdict import Verdict
from .drawn import View

LevelName = Literal["ok", "look", "stop"]


class VerdictView(View):
    code: str
    step: str
    level: LevelName
    subject: str
    sentence: str
    field: str
    fix: float | str | bool | None
    fixes: dict[str, Any]
    places: list[tuple[float, float]]


class FaultView(View):
    """One field at fault. `code` is the error's stable code, `places` where on the body it is wrong, mm."""

    code: str = ""
    field: str
    message: str
    hint: str
    places: list[tuple[float, float, float]] = []


class StopView(View):
    """Where the street ended: the step, and why."""

    step: str
    fault: FaultView


def verdict_view(v: Verdict, style: LengthStyle) -> VerdictView:
    """One verdict in words."""
    return VerdictView(
        code=v.code,
        step=v.step,
        level=v.level,
        subject=v.subject,
        sentence=v.sentence(style),
        field=v.field,
        fix=v.fix,
        fixes=dict(v.fixes),
        places=list(v.places),
    )


def fault_view(bad: WimpleError, style: LengthStyle) -> FaultView:
    """The first field an error is about."""
    first = bad.carried[0].in_units(style)
    return FaultView(code=bad.code, field=first.field, message=first.message, hint=first.hint, places=list(bad.places))


def stop_view(b: Build, style: LengthStyle) -> StopView | None:
    """Where and why a build stopped, if it did."""
    return StopView(step=b.stopped.step, fault=fault_view(b.stopped.error, style)) if b.stopped else None
