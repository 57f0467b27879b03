"""A shop at work: people editing their jobs at once, on production settings.

    ./wimple bench shop [PEOPLE [SECONDS]]      30 people for 90 s by default

Starts a program of its own on a free port of this machine, with a folder of its own, or with what WIMPLE_DATABASE and
WIMPLE_QUEUE name.
"""

from __future__ import annotations

import copy
import json
import os
import random
import subprocess
import threading
import time
from pathlib import Path
from typing import Any

from doors import Shop
from page import PageAsks
from running import ROOT, program
from samples import drawing, example

Row = dict[str, Any]
LIMITS_S = {"save": 0.5, "build": 1.0, "bench": 1.0}
THOUGHT_S = 5.0
JOBS = ("perihelion-cup", "star-atlas-mug", "comet-door", "two-section-bottle")
TICKETS = 300
SECRET = "nine grey kettles sing"
MAKE = """
from wimple_core.job import load_job
from wimple_server.jobs.building import write_ticket
from wimple_server.jobs.models import Job
from wimple_server.people.accounts import new_account
from wimple_server.workshops.models import Role, Workshop
import json, pathlib
shop = Workshop.objects.create(name="Many Hands")
for n in range({people}):
    new_account(shop, f"hand {{n}}", "{secret}", Role.MAKER)
example = json.loads(pathlib.Path("{example}").read_text())
first = Job.start(shop, load_job({{"title": "Old", "blank": example["blank"]}}))
write_ticket(first)
first = Job.objects.get(pk=first.pk)
fields = [f.name for f in Job._meta.concrete_fields if f.name != "id"]
Job.objects.bulk_create(Job(**{{name: getattr(first, name) for name in fields}}) for _ in range({tickets}))
"""


def make_shop(data: Path, people: int, tickets: int) -> None:
    """A workshop of so many people, and so many jobs on its Bench."""
    env = {**os.environ, "WIMPLE_MODE": "serve", "WIMPLE_DATA": str(data)}
    cup = ROOT / "examples" / "perihelion-cup.wimple.json"
    made = MAKE.format(people=people, secret=SECRET, example=cup, tickets=tickets)
    subprocess.run(
        [str(ROOT / "wimple"), "manage", "shell", "-c", made], env=env, check=True, stdout=subprocess.DEVNULL
    )


class Hand:
    """One person: a job of their own, changed and looked at, with pauses for thought."""

    def __init__(self, shop: Shop, n: int, took: dict[str, list[float]]) -> None:
        self.shop, self.took, self.rng = shop, took, random.Random(n)
        self.document = example(JOBS[n % len(JOBS)])
        self.job = shop("POST", "/jobs", {"kind": "cup", "title": f"hand {n}"})[1]["id"]
        for file in dict.fromkeys(e["source"]["file"] for e in self.document.get("elements", [])):
            shop("POST", f"/jobs/{self.job}/drawings", file=(file, drawing(file)))
        self.revision = shop("GET", f"/jobs/{self.job}")[1]["revision"]
        self.page = PageAsks(shop, self.job, f"p{n}")

    def _timed(self, what: str, *asked: Any) -> dict[str, Any]:
        began = time.monotonic()
        status, answer = self.shop(*asked)
        self.took[what].append(time.monotonic() - began if status == 200 else 99.0)
        return dict(answer)

    def edit(self) -> None:
        document = copy.deepcopy(self.document)
        if document.get("elements"):
            document["elements"][0]["placements"][0]["up_mm"] = round(35 + 10 * self.rng.random(), 2)
        else:
            document["wrap"] = {**document.get("wrap", {}), "overlap_mm": round(3 * self.rng.random(), 2)}
        # The open step, and whatever comes of the rest until the next edit.
        self.took["build"].append(self.page.ask(document, True))
        time.sleep(0.6)
        saved = self._timed("save", "PUT", f"/jobs/{self.job}", {"revision": self.revision, "document": document})
        self.revision, self.document = saved.get("revision", self.revision), document

    def work(self, until: float) -> None:
        time.sleep(THOUGHT_S * self.rng.random())
        while time.monotonic() < until:
            self.edit()
            if self.rng.random() < 0.15:
                self._timed("bench", "GET", "/jobs")
            time.sleep(THOUGHT_S * self.rng.uniform(0.5, 1.5))


def shop_at_work(people: int = 30, seconds: float = 90.0) -> list[Row]:
    """Saves, builds and the Bench for people who each change their job and think for a while, their lanes at work."""
    took: dict[str, list[float]] = {what: [] for what in LIMITS_S}
    with program("serve") as (address, data):
        make_shop(data, people, TICKETS)
        hands = [Hand(Shop(address, f"hand {n}", SECRET), n, took) for n in range(people)]
        for hand in hands:
            hand.edit()
        for times in took.values():
            times.clear()
        until = time.monotonic() + seconds
        threads = [threading.Thread(target=h.work, args=(until,)) for h in hands]
        for t in threads:
            t.start()
        for t in threads:
            t.join()
    rows = []
    for what, times in took.items():
        times.sort()
        p95 = times[int(0.95 * len(times))]
        rows.append(
            {
                "what": f"{people} people, {THOUGHT_S:.0f} s of thought: {what}",
                "times": len(times),
                "median_s": times[len(times) // 2],
                "p95_s": p95,
                "slowest_s": times[-1],
                "limits": {"p95_s": LIMITS_S[what]},
                "within": p95 < LIMITS_S[what],
            }
        )
    return rows


if __name__ == "__main__":
    print(json.dumps(shop_at_work(), indent=1))
