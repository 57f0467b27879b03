from django.db import migrations, models


def number_revisions(apps, schema_editor):
    """States there are get the revisions up to the newest, in their order."""
    job, state = apps.get_model("jobs", "Job"), apps.get_model("jobs", "JobState")
    for pk, newest in job.objects.values_list("pk", "revision").iterator():
        states = list(state.objects.filter(job_id=pk).order_by("-position").only("pk"))
        for back, row in enumerate(states):
            row.revision = max(newest - back, 0)
            row.via = "saved" if back < len(states) - 1 else "started"
        state.objects.bulk_update(states, ["revision", "via"], batch_size=200)


class Migration(migrations.Migration):

    dependencies = [("jobs", "0005_works_and_digests")]

    operations = [
        migrations.AddField("jobstate", "by", models.CharField(blank=True, max_length=150, default=""), preserve_default=False),
        migrations.AddField("jobstate", "revision", models.PositiveIntegerField(default=1)),
        migrations.AddField(
            "jobstate",
            "via",
            models.CharField(
                choices=[
                    ("started", "Started"),
                    ("saved", "Saved"),
                    ("undone", "Undone"),
                    ("redone", "Redone"),
                    ("restored", "Restored"),
                ],
                default="saved",
                max_length=8,
            ),
        ),
        migrations.AddField("jobstate", "what", models.CharField(blank=True, max_length=300, default=""), preserve_default=False),
        migrations.AlterField("jobstate", "position", models.PositiveIntegerField(null=True)),
        migrations.RunPython(number_revisions, migrations.RunPython.noop),
        migrations.AddConstraint(
            "jobstate", models.UniqueConstraint(fields=("job", "revision"), name="one_state_a_revision")
        ),
        migrations.AddIndex("job", models.Index(fields=["workshop", "-changed", "-id"], name="bench_order")),
    ]
