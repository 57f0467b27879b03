"""Workshops and who works in them."""

from __future__ import annotations

from django.conf import settings
from django.db import models
from django.http import Http404, HttpRequest
from wimple_core.figures import LengthStyle


class Workshop(models.Model):
    """One business: everything else belongs to one."""

    class Style(models.TextChoices):
        MM = "mm"
        IN_FRACTION = "in_fraction"
        IN_DECIMAL = "in_decimal"

    name = models.CharField(max_length=120)
    length_style = models.CharField(max_length=12, choices=Style.choices, default=Style.MM)
    demo = models.BooleanField(default=False)

    def __str__(self) -> str:
        return self.name


class Membership(models.Model):
    """Somebody works in a workshop."""

    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="memberships")
    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="memberships")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["user", "workshop"], name="member_once")]

    def __str__(self) -> str:
        return f"{self.user} in {self.workshop}"


def workshop_of(request: HttpRequest) -> Workshop:
    """The workshop of who is signed in. Raises Http404 for somebody without one."""
    found = Workshop.objects.filter(memberships__user_id=request.user.pk).order_by("pk").first()
    if found is None:
        raise Http404
    return found


def style_of(request: HttpRequest) -> LengthStyle:
    """How whoever asks reads lengths; mm where nobody is signed in."""
    if not request.user.is_authenticated:
        return "mm"
    try:
        style: LengthStyle = workshop_of(request).length_style
        return style
    except Http404:
        return "mm"
