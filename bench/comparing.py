"""What became slower since results were committed: each figure by the reference of its own run."""

from __future__ import annotations

import json
import subprocess
from pathlib import Path
from typing import Any

ROOT = Path(__file__).resolve().parent.parent
Row = dict[str, Any]
TIMES = (
    "ours_ms",
    "first_ms",
    "drag_ms",
    "acknowledged_ms",
    "drawn_ms",
    "exact_ms",
    "opened_seen_ms",
    "stepped_to_seen_ms",
    "opened_exact_ms",
)
SLOWER = 1.3
LEAST_MS = 3.0
"""Less than that, on a machine like that of the committed results, is noise."""


def _git(*words: str) -> str:
    return subprocess.run(["git", *words], cwd=ROOT, capture_output=True, text=True, check=True).stdout.strip()


def committed() -> tuple[list[Row], str]:
    """The rows that are committed, and the commit they came with."""
    found = json.loads(_git("show", "HEAD:bench/results.json"))
    return found["rows"], _git("log", "-1", "--format=%h", "--", "bench/results.json")


def slower(now: list[Row], before: list[Row]) -> list[str]:
    """A line for each figure that is over SLOWER times what it was, both divided by the reference of their own run."""
    was = {row["what"]: row for row in before}
    # Before each row had its own, a run had one.
    one = next((row["theirs_ms"] for row in before if row.get("against") == "bare numpy"), None)
    out = []
    for row in now:
        old = was.get(row["what"])
        for name in TIMES:
            if old is None or not all(isinstance(r.get(name), int | float) for r in (row, old)):
                continue
            then = old.get("reference_ms", one)
            if then is None:
                continue
            times = (row[name] / row["reference_ms"]) / (old[name] / then)
            if times > SLOWER and row[name] * then / row["reference_ms"] - old[name] > LEAST_MS:
                out.append(f"{times:.2f} times as long: {row['what']}, {name} {old[name]:.0f} -> {row[name]:.0f}")
    return out


def say_slower(now: list[Row]) -> int:
    """Print what became slower, with the commits it may have come with; 1 where something did."""
    before, since = committed()
    found = slower(now, before)
    for line in found:
        print(f"SLOWER since {since}..{_git('rev-parse', '--short', 'HEAD')}: {line}")
    known = {row["what"] for row in before}
    print(f"{sum(row['what'] in known for row in now)} of {len(now)} rows compared with {since}: {len(found)} slower")
    return int(bool(found))
