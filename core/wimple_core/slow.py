"""What takes long is made once and kept under a key: the outline in a photograph, a patch of a mesh laid flat, a traced
picture."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from typing import Generic, Protocol, TypeVar

from .apart import Progress, Run, here
from .artwork import Reading
from .fit.separated import Separated, as_bytes, from_bytes
from .job.document import PatchChoice
from .job.panels import MeshBlank
from .measure import BLANK
from .measure.flat_bodies import MeshBody
from .measure.silhouette import Outline
from .surface.patch import Patch, patch_of_mesh
from .taking_in import outlined_in, separated_in, traced_in, width_in

T = TypeVar("T")


class Kept(Protocol):
    """Where slow results are kept."""

    def has(self, kind: str, key: str) -> bool:
        """Was the one of that kind under that key made?"""

    def get(self, kind: str, key: str) -> bytes | None:
        """It, if it was made."""

    def keep(self, kind: str, key: str, data: bytes) -> None:
        """Keep one that was made."""


class NothingKept:
    """A place where nothing is kept."""

    def has(self, kind: str, key: str) -> bool:
        return False

    def get(self, kind: str, key: str) -> bytes | None:
        return None

    def keep(self, kind: str, key: str, data: bytes) -> None:
        pass


@dataclass(frozen=True)
class Wanted:
    """A slow result that is waited for: its kind and the key it will be kept under."""

    kind: str
    key: str


@dataclass(frozen=True)
class Slow(Generic[T]):
    """A slow result: what it is, its key, how it is made, and how it is kept and read again."""

    wanted: Wanted
    make: Callable[[Progress], T]
    write: Callable[[T], bytes]
    read: Callable[[bytes], T]
    below: str = ""
    """Below what of the job the fields of its errors are."""


@lru_cache(maxsize=1)
def _reader() -> str:
    """Tells one state of what reads drawings from another: what an older one made is not taken for its own."""
    here = Path(__file__).parent
    beside = ("arrangement.py", "overlay.py", "slivers.py", "thin.py", "fit/separated.py")
    every = b"".join(p.read_bytes() for p in [*sorted((here / "artwork").rglob("*.py")), *(here / b for b in beside)])
    return hashlib.sha256(every).hexdigest()


def separated_drawing(
    data: Callable[[], bytes], digest: str, tolerance: float, how: Reading, run: Run = here
) -> Slow[Separated]:
    """A drawing read to a tolerance (mm, at its own size) and separated; `run` does the reading."""
    what = f"{_reader()} {digest} {tolerance!r} {how!r}"
    return Slow(
        Wanted("drawing", hashlib.sha256(what.encode()).hexdigest()),
        lambda progress: from_bytes(run(separated_in, data(), tolerance, how)),
        as_bytes,
        from_bytes,
    )


def traced_picture(data: Callable[[], bytes], digest: str, how: Reading, run: Run = here) -> Slow[Separated]:
    """A picture traced and separated."""
    what = f"{_reader()} {digest} {how!r}"
    return Slow(
        Wanted("trace", hashlib.sha256(what.encode()).hexdigest()),
        lambda progress: from_bytes(run(traced_in, data(), how, progress=progress)),
        as_bytes,
        from_bytes,
    )


def natural_width(data: Callable[[], bytes], digest: str, run: Run = here) -> Slow[float]:
    """How wide (mm) what a drawing paints is at its own size, roughly."""
    key = hashlib.sha256(f"{_reader()} {digest}".encode()).hexdigest()
    return Slow(
        Wanted("size", key), lambda progress: float(run(width_in, data())), lambda width: repr(width).encode(), float
    )


def outline_in_photo(picture: Callable[[], bytes], digest: str, run: Run = here) -> Slow[Outline]:
    """The outline of a body in a photograph."""
    return Slow(
        Wanted("photo", digest),
        lambda progress: run(outlined_in, picture(), progress=progress),
        lambda outline: json.dumps(outline.as_dict()).encode(),
        lambda data: Outline.from_dict(json.loads(data)),
        f"{BLANK}.photo.file",
    )


def flat_patch(body: MeshBody, blank: MeshBlank, digest: str, choice: PatchChoice) -> Slow[Patch]:
    """A part of a mesh laid flat. Its key tells the mesh, its unit and its upright, and which part was chosen."""
    what = f"{digest} {blank.unit} {blank.up} {choice.model_dump_json()}"

    def make(progress: Progress) -> Patch:
        furthest = [0.0]

        def forward(what: str, share: float) -> None:
            furthest[0] = max(furthest[0], share)
            progress(what, furthest[0])

        return patch_of_mesh(body, choice, forward)

    return Slow(
        Wanted("patch", hashlib.sha256(what.encode()).hexdigest()), make, lambda p: p.as_bytes(), Patch.from_bytes
    )
