"""Fill an empty database with the demo workshop; leave any other as it is."""

from __future__ import annotations

import json

from django.conf import settings
from django.contrib.auth.models import User
from django.core.management.base import BaseCommand
from django.db import transaction
from wimple_core.artwork import clean_svg
from wimple_core.job import load_job

from ....jobs.models import Drawing, Job
from ...models import Membership, Workshop

DEMO_JOBS = ("perihelion-cup", "star-atlas-mug", "comet-door")


class Command(BaseCommand):
    help = __doc__

    def handle(self, *args: object, **options: object) -> None:
        if Workshop.objects.filter(demo=True).exists():
            return
        with transaction.atomic():
            workshop = Workshop.objects.create(name="Fernhallow Decals", demo=True)
            user = User.objects.create_user("demo")
            user.set_unusable_password()
            user.save()
            Membership.objects.create(user=user, workshop=workshop)
            for name in DEMO_JOBS:
                raw = json.loads((settings.EXAMPLES / f"{name}.wimple.json").read_text(encoding="utf-8"))
                document = load_job(raw)
                job = Job.start(workshop, document)
                for drawing in dict.fromkeys(d.file for d in document.drawings):
                    data = clean_svg((settings.EXAMPLES / "drawings" / drawing).read_bytes())
                    Drawing.objects.create(job=job, name=drawing, data=data)
        self.stdout.write("The demo workshop is loaded.")
