"""The files beside a document: drawings, outlines, meshes, photographs. They are told apart by digests, and read only
where something is made of them."""

from __future__ import annotations

import hashlib
from collections.abc import Mapping
from typing import Protocol


class Files(Protocol):
    """Files by name."""

    def __contains__(self, name: object) -> bool: ...

    def digest(self, name: str) -> str:
        """What tells its content from any other."""

    def read(self, name: str) -> bytes:
        """Its content."""


class InMemory:
    """Files that are at hand."""

    def __init__(self, data: Mapping[str, bytes]) -> None:
        self._data = data
        self._digests: dict[str, str] = {}

    def __contains__(self, name: object) -> bool:
        return name in self._data

    def digest(self, name: str) -> str:
        if name not in self._digests:
            self._digests[name] = hashlib.sha256(self._data[name]).hexdigest()
        return self._digests[name]

    def read(self, name: str) -> bytes:
        return self._data[name]


def as_files(given: Files | Mapping[str, bytes]) -> Files:
    """Files, or bytes by name taken as such."""
    return InMemory(given) if isinstance(given, Mapping) else given
