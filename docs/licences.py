"""Lists the licences of what ships with the program: `python docs/licences.py` writes docs/licences/README.md.

Python packages by requirements.lock, the front end's by the dependencies that are built into it.
"""

from __future__ import annotations

import json
import re
from importlib.metadata import metadata
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
FONTS = [
    ("Archivo", "SIL Open Font License 1.1", "on screens and paper; [text](Archivo-OFL.txt)"),
    ("Noto Sans, Greek and Cyrillic", "SIL Open Font License 1.1", "on paper; [text](NotoSans-OFL.txt)"),
]


def python_packages() -> list[tuple[str, str, str]]:
    out = []
    for line in (ROOT / "requirements.lock").read_text().splitlines():
        name, _, version = line.partition("==")
        about = metadata(name)
        said = [c.rpartition(" :: ")[2] for c in about.get_all("Classifier") or [] if c.startswith("License :: ")]
        own = about.get("License-Expression") or ", ".join(said) or (about.get("License") or "").splitlines()[0]
        out.append((name, version, re.sub(r"\s+", " ", own)[:90]))
    return out


def front_end_packages() -> list[tuple[str, str, str]]:
    wanted = json.loads((ROOT / "web/package.json").read_text())["dependencies"]
    lock = json.loads((ROOT / "web/package-lock.json").read_text())["packages"]
    todo, seen = [f"node_modules/{n}" for n in wanted], {}
    while todo:
        path = todo.pop()
        entry = lock.get(path)
        if entry is None or path in seen:
            continue
        seen[path] = entry
        todo += [f"node_modules/{n}" for n in entry.get("dependencies", {})]
    return sorted((p.removeprefix("node_modules/"), e["version"], e.get("license", "?")) for p, e in seen.items())


def table(rows: list[tuple[str, str, str]], head: tuple[str, str, str]) -> str:
    lines = [f"| {' | '.join(head)} |", "|---|---|---|", *(f"| {' | '.join(r)} |" for r in rows)]
    return "\n".join(lines)


def main() -> None:
    text = "\n\n".join(
        [
            "# Licences of shipped parts",
            "Wimple itself is under the MIT licence. It runs on, or has built into it, the parts below, each under its"
            " own licence. Written by `python docs/licences.py`; what only checks need is not here.",
            "## Fonts",
            table([(a, b, c) for a, b, c in FONTS], ("font", "licence", "where")),
            "## Python",
            table(python_packages(), ("package", "version", "licence")),
            "## Front end",
            table(front_end_packages(), ("package", "version", "licence")),
        ]
    )
    (ROOT / "docs/licences/README.md").write_text(text + "\n", encoding="utf-8")


if __name__ == "__main__":
    main()
