"""The workshop's own settings."""

from __future__ import annotations

from typing import Literal

from django.http import HttpRequest
from ninja import Router, Schema

from .models import Workshop, workshop_of

router = Router(tags=["workshop"])
LengthStyle = Literal["mm", "in_fraction", "in_decimal"]


class WorkshopOut(Schema):
    id: int
    name: str
    short: str
    length_style: LengthStyle


class WorkshopIn(Schema):
    length_style: LengthStyle


@router.patch("/workshop", response=WorkshopOut)
def change_workshop(request: HttpRequest, change: WorkshopIn) -> Workshop:
    """Change how lengths are written."""
    workshop = workshop_of(request)
    workshop.length_style = change.length_style
    workshop.save(update_fields=["length_style"])
    return workshop
