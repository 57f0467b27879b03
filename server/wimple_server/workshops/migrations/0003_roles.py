import unicodedata

import django.utils.timezone
from django.conf import settings
from django.db import migrations, models
from django.utils.text import slugify


def name_shops(apps, schema_editor):
    """Workshops get short names; the first member of each becomes its owner; accounts are named after the workshop they
    were made in."""
    workshop, membership = apps.get_model("workshops", "Workshop"), apps.get_model("workshops", "Membership")
    used = set()
    for row in workshop.objects.order_by("pk"):
        base = slugify(row.name)[:34].strip("-") or "workshop"
        short, n = base, 1
        while short in used:
            n += 1
            short = f"{base}-{n}"
        used.add(short)
        row.short = short
        row.save(update_fields=["short"])
        first = membership.objects.filter(workshop=row).order_by("pk").first()
        if first is not None:
            first.role = "owner"
            first.save(update_fields=["role"])
    named = set()
    for row in membership.objects.order_by("pk").select_related("user", "workshop"):
        if row.user_id in named:
            continue
        named.add(row.user_id)
        name = row.user.username
        folded = unicodedata.normalize("NFKC", name).strip().casefold().replace("@", " at ")[:100]
        full, n = f"{folded}@{row.workshop.short}", 1
        while type(row.user).objects.filter(username=full).exists():
            n += 1
            full = f"{folded} {n}@{row.workshop.short}"
        row.user.first_name = row.user.first_name or name.replace("@", " at ")
        row.user.username = full
        row.user.save(update_fields=["username", "first_name"])


class Migration(migrations.Migration):

    dependencies = [
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
        ("workshops", "0002_workshop_tables_keptresult"),
    ]

    operations = [
        migrations.AlterModelOptions("membership", {"ordering": ["pk"]}),
        migrations.AddField(
            "membership",
            "role",
            models.CharField(
                choices=[("owner", "Owner"), ("maker", "Maker"), ("viewer", "Viewer")], default="maker", max_length=8
            ),
        ),
        migrations.AddField("membership", "since", models.DateTimeField(default=django.utils.timezone.now)),
        migrations.AddField("workshop", "short", models.CharField(default="", max_length=40), preserve_default=False),
        migrations.RunPython(name_shops, migrations.RunPython.noop),
        migrations.AlterField("workshop", "short", models.SlugField(max_length=40, unique=True)),
    ]
