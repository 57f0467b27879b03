"""Doors that hold: hostile files in flight beside ordinary edits, and processes killed under load.

    ./wimple bench hostile     every file of the corpus through the running program, ten at a time
    ./wimple bench killed N    N rounds of kill -9 of web and worker processes (200 by default)

Both start a program of their own on a free port of this machine, with a folder of their own.
"""

from __future__ import annotations

import contextlib
import copy
import http.client
import json
import os
import random
import signal
import sqlite3
import tempfile
import threading
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any
from urllib.parse import urlparse

import hostile
from running import demo_server
from samples import drawing, example

Row = dict[str, Any]
ANSWER_S, EDIT_S, MEMORY_BYTES = 25.0, 1.0, 1_500_000_000
FILES = {"drawing": "a.svg", "outline": "a.dxf", "mesh": "a.stl", "obj": "a.obj", "ply": "a.ply", "photo": "a.png"}
DOOR = {"obj": "mesh", "ply": "mesh", "drawing": "drawings"}
AT_ONCE = 10
MOST_UNDER_WAY = 4


class Shop:
    """Somebody signed in: to the demo workshop, or with a name and a password."""

    def __init__(self, address: str, name: str = "", password: str = "") -> None:
        self.host = urlparse(address).netloc
        self.cookies: dict[str, str] = {}
        self.csrf = ""
        self.csrf = self("GET", "/session")[1]["csrf"]
        who = {"username": name, "password": password} if name else None
        self.csrf = self("POST", "/session" if name else "/session/demo", who)[1]["csrf"]

    def __call__(self, method: str, path: str, body: Any = None, file: tuple[str, bytes] | None = None) -> Any:
        """Status and answer; (0, {}) where the program was not there."""
        headers = {"X-CSRFToken": self.csrf, "Cookie": "; ".join(f"{k}={v}" for k, v in self.cookies.items())}
        headers |= {"X-Forwarded-Proto": "https", "Referer": f"https://{self.host}/"}
        data = None
        if file is not None:
            edge = "edge7d1f"
            headers["Content-Type"] = f"multipart/form-data; boundary={edge}"
            head = f'--{edge}\r\nContent-Disposition: form-data; name="file"; filename="{file[0]}"\r\n\r\n'
            data = head.encode() + file[1] + f"\r\n--{edge}--\r\n".encode()
        elif body is not None:
            headers["Content-Type"] = "application/json"
            data = json.dumps(body).encode()
        line = http.client.HTTPConnection(self.host, timeout=60)
        try:
            line.request(method, f"/api{path}", data, headers)
            answer = line.getresponse()
            for name, value in answer.getheaders():
                if name.lower() == "set-cookie":
                    key, _, rest = value.partition("=")
                    self.cookies[key] = rest.partition(";")[0]
            found = answer.read()
            return answer.status, json.loads(found) if found[:1] in (b"{", b"[") else {}
        except (OSError, http.client.HTTPException, ValueError):
            return 0, {}
        finally:
            line.close()

    def cup(self) -> tuple[int, dict[str, Any]]:
        """A new job with the demo cup's document and drawing."""
        job = self("POST", "/jobs", {"kind": "cup", "title": "doors"})[1]
        number = job["id"]
        self("POST", f"/jobs/{number}/drawings", file=("moon-band.svg", drawing("moon-band.svg")))
        return number, example("perihelion-cup")


def _resident(of: str) -> int:
    """The largest memory any process of that name uses now, bytes."""
    most = 0
    for place in Path("/proc").glob("[0-9]*"):
        try:
            if of in (place / "cmdline").read_bytes().replace(b"\0", b" ").decode(errors="replace"):
                most = max(most, int((place / "statm").read_text().split()[1]) * os.sysconf("SC_PAGESIZE"))
        except OSError:
            continue
    return most


def hostile_files() -> list[Row]:
    """All hostile files through the running program, ten at a time, while somebody edits a cup."""
    over = threading.Event()
    edits: list[float] = []
    took: dict[str, tuple[float, int]] = {}
    memory = [0]
    with demo_server() as address:
        shop = Shop(address)
        number, document = shop.cup()
        shop("POST", f"/jobs/{number}/build", {"document": document, "step": "artwork", "have": []})

        def edit() -> None:
            n = 0
            while not over.is_set():
                n += 1
                moved = copy.deepcopy(document)
                moved["elements"][0]["placements"][0]["up_mm"] = 40 + n % 50 / 7
                began = time.monotonic()
                status, _ = shop("POST", f"/jobs/{number}/build", {"document": moved, "step": "artwork", "have": []})
                edits.append(time.monotonic() - began if status == 200 else 99.0)
                time.sleep(0.3)

        def look() -> None:
            while not over.wait(0.1):
                memory[0] = max(memory[0], _resident("wimple_core.keeper"))

        def send(file: hostile.Hostile) -> None:
            data = file.make()
            mine = copy.copy(shop)
            began = time.monotonic()
            if file.kind in ("shelf", "picture"):
                status = mine("POST", "/shelf/import", file=("a.json", data))[0]
            else:
                name = "a.svg" if data[:4] == b"<svg" else FILES[file.kind]
                status = mine("POST", f"/jobs/{number}/{DOOR.get(file.kind, file.kind)}", file=(name, data))[0]
            took[file.name] = (time.monotonic() - began, status)

        threads = [threading.Thread(target=f) for f in (edit, look)]
        for t in threads:
            t.start()
        every = hostile.every()
        random.Random(4).shuffle(every)
        with ThreadPoolExecutor(AT_ONCE) as pool:
            list(pool.map(send, every))
        over.set()
        for t in threads:
            t.join()
    edits.sort()
    slowest = max(took.values())[0]
    faults = [n for n, (_, status) in took.items() if status in (0, 500)]
    row = {
        "what": f"{len(took)} hostile files, {AT_ONCE} at a time, and edits beside them",
        "slowest_answer_s": slowest,
        "faults": faults,
        "most_memory_mb": memory[0] / 1e6,
        "edits": len(edits),
        "edit_median_s": edits[len(edits) // 2],
        "edit_95_s": edits[int(0.95 * len(edits))],
        "edit_slowest_s": edits[-1],
        "limits": {"slowest_answer_s": ANSWER_S, "most_memory_mb": MEMORY_BYTES / 1e6, "edit_95_s": EDIT_S},
        "within": slowest < ANSWER_S
        and not faults
        and memory[0] < MEMORY_BYTES
        and edits[int(0.95 * len(edits))] < EDIT_S,
    }
    return [row]


def _processes(data: str) -> list[tuple[int, str]]:
    """Web and worker processes of the program that keeps its things in `data`."""
    found = []
    for place in Path("/proc").glob("[0-9]*"):
        try:
            if f"WIMPLE_DATA={data}\0".encode() not in (place / "environ").read_bytes():
                continue
            command = (place / "cmdline").read_bytes().replace(b"\0", b" ").decode(errors="replace")
        except OSError:
            continue
        for name in ("gunicorn", "do_work", "wimple_core.keeper"):
            if name in command:
                found.append((int(place.name), name))
    return found


class Load:
    """Jobs saved and works asked for, again and again, with what was acknowledged of them."""

    def __init__(self, shop: Shop) -> None:
        self.shop, self.over = shop, threading.Event()
        self.acknowledged: dict[int, tuple[int, str]] = {}
        self.saves = 0
        self.works: list[int] = []
        self.jobs = [shop.cup() for _ in range(3)]
        self.threads = [threading.Thread(target=self._save, args=j) for j in self.jobs]
        self.threads.append(threading.Thread(target=self._ask))
        for t in self.threads:
            t.start()

    def end(self) -> None:
        self.over.set()
        for t in self.threads:
            t.join()

    def _save(self, number: int, document: dict[str, Any]) -> None:
        mine, n = copy.copy(self.shop), 0
        while not self.over.wait(0.01):
            status, job = mine("GET", f"/jobs/{number}")
            if status != 200:
                continue
            n += 1
            title = f"{number} at {n}"
            body = {"revision": job["revision"], "document": {**document, "title": title}}
            status, saved = mine("PUT", f"/jobs/{number}", body)
            if status == 200:
                self.acknowledged[number] = (saved["revision"], title)
                self.saves += 1

    def _ask(self) -> None:
        # No more at once than a worker does in a minute: what waits its turn is not what hangs.
        mine, under_way = copy.copy(self.shop), set[int]()
        while not self.over.wait(0.5):
            for number in sorted(under_way):
                status, work = mine("GET", f"/works/{number}")
                if status == 404 or (status == 200 and work["status"] not in ("waiting", "running")):
                    under_way.discard(number)
            if len(under_way) >= MOST_UNDER_WAY:
                continue
            status, work = mine("POST", "/works", {"kind": "files", "job": self.jobs[0][0]})
            if status == 202:
                self.works.append(work["id"])
                under_way.add(work["id"])

    def lost(self) -> list[int]:
        """Jobs that do not stand where they were acknowledged, or further on."""
        out = []
        for number, (revision, title) in self.acknowledged.items():
            status, job = self.shop("GET", f"/jobs/{number}")
            for _ in range(100):
                if status == 200:
                    break
                time.sleep(0.2)
                status, job = self.shop("GET", f"/jobs/{number}")
            same = job.get("revision") == revision and job["document"]["title"] == title
            if not same and job.get("revision", 0) <= revision:
                out.append(number)
        return out


def _kill_one(data: str, rng: random.Random) -> int:
    """Kill one process of the program, not the master of the web ones: whoever runs the program keeps that up."""
    there = _processes(data)
    web = sorted(p for p in there if p[1] == "gunicorn")[1:]
    some = [*web, *(p for p in there if p[1] != "gunicorn")]
    if not some:
        return 0
    with contextlib.suppress(ProcessLookupError):
        os.kill(rng.choice(some)[0], signal.SIGKILL)
    return 1


def _rows_of(folder: Path, question: str) -> list[Any]:
    with contextlib.closing(sqlite3.connect(folder / "wimple.sqlite3", timeout=20)) as look:
        return look.execute(question).fetchall()


def killed(rounds: int = 200) -> list[Row]:
    """Web and worker processes killed at any time while jobs are saved and works asked for: nothing that was
    acknowledged is lost, and nothing hangs."""
    rng, done, whole = random.Random(11), 0, 0
    before = set(Path(tempfile.gettempdir()).glob("wimple-*"))
    with demo_server() as address:
        (folder,) = set(Path(tempfile.gettempdir()).glob("wimple-*")) - before
        load = Load(Shop(address))
        for _ in range(rounds):
            time.sleep(rng.uniform(0.3, 2.2))
            done += _kill_one(str(folder), rng)
            whole += _rows_of(folder, "PRAGMA integrity_check") == [("ok",)]
        load.end()
        lost = load.lost()
        began, hanging = time.monotonic(), set(load.works)
        while hanging and time.monotonic() - began < 180:
            left = _rows_of(folder, "SELECT id FROM works_work WHERE status IN ('waiting', 'running')")
            hanging &= {n for (n,) in left}
            time.sleep(1)
        quiet = time.monotonic() - began
    return [
        {
            "what": f"kill -9 {done} times, of web and worker processes under load",
            "saves_acknowledged": load.saves,
            "lost": lost,
            "found_whole": whole,
            "works_asked": len(load.works),
            "hanging": len(hanging),
            "quiet_after_s": quiet,
            "limits": {"quiet_after_s": 120},
            "within": not lost and not hanging and quiet < 120 and whole == rounds,
        }
    ]
