"""What an edit waits for while lanes work: its own, and those of others."""

from __future__ import annotations

import statistics
import threading
import time
from typing import Any

from doors import Shop
from page import PageAsks
from running import program
from shop import SECRET, make_shop

Row = dict[str, Any]
EDITS = 24
APART_S = 0.35


def _moved(document: dict[str, Any], n: int) -> dict[str, Any]:
    document["elements"][0]["placements"][0]["up_mm"] = 34 + 0.37 * (n % 40)
    return document


def lanes() -> list[Row]:
    """An edit of the demo cup with nothing else to do; while its own lane works (each edit drops it); and while the
    lanes of two others work. One web process."""
    with program("serve", WIMPLE_WEB_PROCESSES="1") as (address, data):
        make_shop(data, people=3, tickets=1)
        pages = []
        for n in range(3):
            shop = Shop(address, f"hand {n}", SECRET)
            job, document = shop.cup()
            pages.append((PageAsks(shop, job, f"p{n}"), document))
        mine, document = pages[0]
        for page, there in pages:
            page.ask(there, False)
        took: dict[str, list[float]] = {"alone": [], "own": [], "others": []}
        n = 0
        for _ in range(EDITS):
            # In turn, so that all meet the same noise.
            for what, rest in (("alone", False), ("own", True)):
                mine.ask(_moved(document, n := n + 1), rest)
                time.sleep(APART_S)
                took[what].append(mine.ask(_moved(document, n := n + 1), False))
                time.sleep(APART_S / 2)
        stop = threading.Event()

        def works(page: PageAsks, there: dict[str, Any], from_: int) -> None:
            k = from_
            while not stop.is_set():
                page.ask(_moved(there, k := k + 1), True)
                stop.wait(2.0)

        others = [threading.Thread(target=works, args=(*page, 10 * i)) for i, page in enumerate(pages[1:])]
        for other in others:
            other.start()
        for _ in range(2 * EDITS):
            took["others"].append(mine.ask(_moved(document, n := n + 1), False))
            time.sleep(APART_S)
        stop.set()
        for other in others:
            other.join()
    alone = statistics.median(took["alone"])
    names = {"own": "its own lane works", "others": "the lanes of two others work"}
    return [
        {
            "what": f"an edit of the demo cup answered while {names[what]}",
            "ours_ms": 1e3 * statistics.median(took[what]),
            "against": "the same with no lane",
            "theirs_ms": 1e3 * alone,
            "ratio": statistics.median(took[what]) / alone,
            "limit": 1.2,
        }
        for what in names
    ]


if __name__ == "__main__":
    print(*lanes(), sep="\n")
