"""What takes long is made once and kept under a key: the outline in a photograph, a patch of a mesh laid flat."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Callable
from dataclasses import dataclass
from typing import Generic, Protocol, TypeVar

from .job.blanks import MeshBlank
from .job.document import PatchChoice
from .measure.body import MeshBody
from .measure.photo import Outline, find_outline
from .surface.patch import Patch, patch_of_mesh

T = TypeVar("T")
Progress = Callable[[str, float], None]
"""Hears what is being done and how much of it is (0 to 1); may raise to stop it."""


class Kept(Protocol):
    """Where slow results are kept."""

    def has(self, kind: str, key: str) -> bool:
        """Was the one of that kind under that key made?"""

    def get(self, kind: str, key: str) -> bytes | None:
        """It, if it was made."""


class NothingKept:
    """A place where nothing was kept yet."""

    def has(self, kind: str, key: str) -> bool:
        return False

    def get(self, kind: str, key: str) -> bytes | None:
        return None


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


def outline_in_photo(picture: Callable[[], bytes], digest: str) -> Slow[Outline]:
    """The outline of a body in a photograph."""
    return Slow(
        Wanted("photo", digest),
        lambda progress: find_outline(picture(), lambda what: progress(what, 0.0)),
        lambda outline: json.dumps(outline.as_dict()).encode(),
        lambda data: Outline.from_dict(json.loads(data)),
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
