"""The last results of stages and views, kept under what they were made of."""

from __future__ import annotations

import hashlib
import itertools
import threading
from collections import OrderedDict
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Generic, Protocol, TypeVar

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from .sizes import bytes_of

T = TypeVar("T")
Key = tuple[object, ...]


@dataclass(frozen=True)
class Result(Generic[T]):
    """What was made, and a number that no other result has: what is made of it is kept under that."""

    value: T
    number: int


class Caching(Protocol):
    """Keeps results under what they were made of. `at_once` says how much of what is made of it may go on at a time."""

    at_once: int

    def result(self, key: Key, make: Callable[[], T]) -> Result[T]:
        """What was made under this key, or what `make` makes now, with its number."""

    def get(self, key: Key, make: Callable[[], T]) -> T:
        """The same without its number."""


class StageCache:
    """The last results, the least used dropped first, so many at most and of so many bytes together; the newest is kept
    however large it is. Safe to share between threads."""

    at_once = 2

    def __init__(self, size: int = 256, most_bytes: int = 256_000_000) -> None:
        self._kept: OrderedDict[Key, tuple[Result[object], int]] = OrderedDict()
        self._size, self._most_bytes = size, most_bytes
        self._bytes = 0
        self._lock = threading.Lock()
        self._numbers = itertools.count(1)

    @property
    def held_bytes(self) -> int:
        """What is kept, about."""
        return self._bytes

    def result(self, key: Key, make: Callable[[], T]) -> Result[T]:
        """What was made under this key, or what `make` makes now, with its number."""
        with self._lock:
            if key in self._kept:
                self._kept.move_to_end(key)
                return self._kept[key][0]  # type: ignore[return-value]
        made = Result(make(), next(self._numbers))
        size = bytes_of(made.value)
        with self._lock:
            if key in self._kept:
                self._bytes -= self._kept.pop(key)[1]
            self._kept[key] = (made, size)  # type: ignore[assignment]
            self._bytes += size
            while len(self._kept) > self._size or (self._bytes > self._most_bytes and len(self._kept) > 1):
                self._bytes -= self._kept.popitem(last=False)[1][1]
        return made

    def get(self, key: Key, make: Callable[[], T]) -> T:
        """The same without its number."""
        return self.result(key, make).value


class Breathing:
    """The same cache for work that others go before: before anything new is made of it `breathe` is called, which may
    wait, or raise to end the work."""

    at_once = 1

    def __init__(self, cache: Caching, breathe: Callable[[], None]) -> None:
        self._cache, self._breathe = cache, breathe

    def result(self, key: Key, make: Callable[[], T]) -> Result[T]:
        """As of the cache."""

        def made() -> T:
            self._breathe()
            return make()

        return self._cache.result(key, made)

    def get(self, key: Key, make: Callable[[], T]) -> T:
        """As of the cache."""
        return self.result(key, make).value


class Keep(Protocol):
    """Keeps what was made under what it was made from."""

    def __call__(self, key: Key, make: Callable[[], T]) -> T: ...


def keep_nothing(key: Key, make: Callable[[], T]) -> T:
    """Keeps nothing."""
    return make()


def digest_of(regions: Iterable[BaseGeometry]) -> bytes:
    """What tells regions from others, by every corner of them."""
    told = hashlib.blake2b(digest_size=16)
    for written in shapely.to_wkb(np.array(list(regions), dtype=object)):
        told.update(len(written).to_bytes(8, "little"))
        told.update(written)
    return told.digest()
