"""Verdicts and what stopped the street, in the workshop's units."""

from __future__ import annotations

from typing import Any, Literal

from ..built import Build
from ..errors import WimpleError
from ..figures import LengthStyle
from ..remedies import Remedy
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
    places: list[tuple[float, float]]


class RemedyView(View):
    """What mends a verdict, tried by building the job with it: of which verdict (`code`, `field`, `sentence`), what is
    put in where, what comes of it, and what is worse then, each as a sentence."""

    code: str
    field: str
    sentence: str
    edits: dict[str, Any]
    says: str
    also: list[str]


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
        places=list(v.places),
    )


def remedy_view(r: Remedy, style: LengthStyle) -> RemedyView:
    """One remedy in words."""
    return RemedyView(
        code=r.of.code,
        field=r.of.field,
        sentence=r.of.sentence(style),
        edits=dict(r.edits),
        says=r.says(style),
        also=[v.sentence(style) for v in r.also],
    )


def fault_view(bad: WimpleError, style: LengthStyle) -> FaultView:
    """The first field an error is about."""
    first = bad.carried[0].in_units(style)
    return FaultView(code=bad.code, field=first.field, message=first.message, hint=first.hint, places=list(bad.places))


def stop_view(b: Build, style: LengthStyle) -> StopView | None:
    """Where and why a build stopped, if it did."""
    return StopView(step=b.stopped.step, fault=fault_view(b.stopped.error, style)) if b.stopped else None
