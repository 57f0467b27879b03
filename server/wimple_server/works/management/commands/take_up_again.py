"""Enqueue the work that was under way when the program was last stopped."""

from __future__ import annotations

from django.core.management.base import BaseCommand
from django_tasks_db.models import DBTaskResult

from ...tasks import take_up_again


class Command(BaseCommand):
    help = __doc__

    def handle(self, *args: object, **options: object) -> None:
        DBTaskResult.objects.filter(finished_at__isnull=True).delete()
        count = take_up_again()
        if count:
            self.stdout.write(f"{count} piece(s) of work taken up again.")
