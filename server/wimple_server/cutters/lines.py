"""The line to a cutter, and to the hand of the stand-in."""

from __future__ import annotations

import json
import socket
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from django.conf import settings
from wimple_core.cutting.sending import CutterFault
from wimple_core.job.shipped import Cutter

SILENT_S = 20.0
"""A cutter that says nothing for so long is lost."""
MOST_BYTES = 65536


def address_of(cutter: Cutter) -> tuple[str, int]:
    """Where a cutter is. Raises CutterFault for one that only takes files."""
    at = settings.SIMULATED_CUTTER if cutter.simulated else cutter.address
    if not at:
        raise CutterFault(
            f"{cutter.name} has no address: it is not connected.",
            field="cutter",
            hint="Carry the files to it, or write its address down in Cutters.",
        )
    host, _, port = at.rpartition(":")
    return host, int(port)


class SocketLine:
    """A connection over the network."""

    def __init__(self, socket_: socket.socket) -> None:
        self.socket = socket_

    def send(self, data: bytes) -> None:
        """Send all of it."""
        self.socket.sendall(data)

    def receive(self) -> bytes:
        """What comes next."""
        return self.socket.recv(4096)


@contextmanager
def line_to(cutter: Cutter) -> Iterator[SocketLine]:
    """A line to a cutter. Raises CutterFault where it is not there."""
    try:
        made = socket.create_connection(address_of(cutter), timeout=5)
    except (OSError, ValueError, OverflowError) as bad:
        raise CutterFault(
            f"{cutter.name} is not there.",
            field="cutter",
            hint="Look whether it is switched on and its address is right, then go on.",
        ) from bad
    with made:
        made.settimeout(SILENT_S)
        yield SocketLine(made)


def hand(cutter: Cutter, wish: dict[str, Any]) -> dict[str, Any] | None:
    """Have the hand at the stand-in do something, and see what it sees; None for a real machine, whose hand is the
    maker's, and where the stand-in is not there."""
    if not cutter.simulated:
        return None
    try:
        host, port = address_of(cutter)
        with socket.create_connection((host, port + 1), timeout=5) as made, made.makefile("rwb") as file:
            file.write(json.dumps(wish).encode() + b"\n")
            file.flush()
            seen = json.loads(file.readline())
            return seen if isinstance(seen, dict) else None
    except (OSError, ValueError, CutterFault):
        return None
