"""The simulated cutter as a program of its own: the plotter language on one port, and on the next what a hand does at
a machine and what a ruler and a lens would find, as lines of JSON.

On the second port a line is one of `{"load": {"film_um": 70, "skew_deg": 0}}` (with `"page"`, where the middles of the
marks of a printed page should lie, mm, it is laid nearly so, and how it lies is seen), `{"under": 140}` (how thick the
film under the blade is now, um), `{"unload": true}`, `{"power": true}`,
`{"blade": true}` (a new one), `{"faults": {...}}` (see `Faults`) and `{"cut": true, "from": 0}`, which answers every
stroke from that one on.
"""

from __future__ import annotations

import argparse
import json
import socketserver
import threading
import time
from dataclasses import replace
from typing import Any

import numpy as np

from .machine import Faults, Machine, Off, Sheet

LOCAL = "127.0.0.1"
MOST_BYTES = 4096


def _server(port: int, handler: type[socketserver.BaseRequestHandler]) -> socketserver.ThreadingTCPServer:
    class Server(socketserver.ThreadingTCPServer):
        allow_reuse_address = True
        daemon_threads = True

    return Server((LOCAL, port), handler)


class Cutter:
    """The machine with its two ports; port 0 takes any free one. It cuts `pace` times as fast as it would, or at once
    for 0."""

    def __init__(self, machine: Machine, port: int = 0, pace: float = 0.0) -> None:
        self.machine, self.pace = machine, pace
        self._lock = threading.Lock()
        self.hand = np.random.default_rng()
        cutter = self

        class Plotter(socketserver.BaseRequestHandler):
            def handle(self) -> None:
                while data := self.request.recv(MOST_BYTES):
                    try:
                        with cutter._lock:
                            before = cutter.machine.seconds
                            answer = cutter.machine.take(data)
                            took = cutter.machine.seconds - before
                        if cutter.pace:
                            time.sleep(took / cutter.pace)
                    except Off:
                        return
                    if answer:
                        self.request.sendall(answer)

        class Hand(socketserver.StreamRequestHandler):
            def handle(self) -> None:
                for line in self.rfile:
                    with cutter._lock:
                        said = cutter.obey(line)
                    self.wfile.write(json.dumps(said).encode() + b"\n")

        self._servers = (_server(port, Plotter), _server(port + 1 if port else 0, Hand))
        self.port, self.hand_port = (int(s.server_address[1]) for s in self._servers)

    def obey(self, line: bytes) -> dict[str, Any]:
        """What a hand does at the machine; what is seen then."""
        try:
            wish = json.loads(line)
            return self._obey(wish if isinstance(wish, dict) else {})
        except (ValueError, TypeError) as bad:
            return {"error": str(bad)}

    def _obey(self, wish: dict[str, Any]) -> dict[str, Any]:
        machine = self.machine
        if "load" in wish:
            told = dict(wish["load"])
            page = told.pop("page", None)
            machine.load(Sheet.of_page(told["film_um"], page, self.hand) if page else Sheet(**told))
        if "under" in wish and machine.sheet is not None:
            machine.sheet = replace(machine.sheet, film_um=float(wish["under"]))
        if wish.get("unload"):
            machine.unload()
        if wish.get("power"):
            machine.power_on()
        if wish.get("blade"):
            machine.blade_m = 0.0
        if "faults" in wish:
            machine.faults = Faults(**wish["faults"])
        seen: dict[str, Any] = {"status": machine.status, "powered": machine.powered, "blade_m": machine.blade_m}
        if machine.sheet is not None and (lie := machine.sheet.lie) is not None:
            seen["lie"] = [*lie.shift, lie.turn, lie.scale]
        if wish.get("cut"):
            seen["strokes"] = [
                {
                    "tip": s.tip.round(4).ravel().tolist(),
                    "wanted": s.wanted.round(4).ravel().tolist(),
                    "depth_um": s.depth_um,
                    "through": s.through,
                    "into_liner": s.into_liner,
                }
                for s in machine.strokes[max(int(wish.get("from", 0)), 0) :]
            ]
        return seen

    def __enter__(self) -> Cutter:
        for server in self._servers:
            threading.Thread(target=server.serve_forever, daemon=True).start()
        return self

    def __exit__(self, *gone: object) -> None:
        for server in self._servers:
            server.shutdown()
            server.server_close()


def main() -> None:
    """Run it until it is ended."""
    asked = argparse.ArgumentParser(prog="wimple cutter", description="The simulated cutter.")
    asked.add_argument("--port", type=int, default=9100, help="takes HP-GL there, and a hand's wishes on the next one")
    asked.add_argument("--offset", type=float, default=0.25, help="its blade's offset, mm")
    asked.add_argument("--film", type=float, default=70.0, help="how thick the film on it is, um")
    asked.add_argument("--pace", type=float, default=1.0, help="how many times as fast as it would cut; 0: at once")
    told = asked.parse_args()
    machine = Machine(told.offset)
    machine.load(Sheet(told.film))
    with Cutter(machine, told.port, told.pace) as cutter:
        print(f"The simulated cutter takes HP-GL on {LOCAL}:{cutter.port}, and a hand's wishes on {cutter.hand_port}.")
        threading.Event().wait()


if __name__ == "__main__":
    main()
