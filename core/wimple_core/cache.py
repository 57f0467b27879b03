"""The last results of stages and views, kept under what they were made of."""

from __future__ import annotations

import itertools
import threading
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass
from typing import Generic, TypeVar

T = TypeVar("T")
Key = tuple[object, ...]


@dataclass(frozen=True)
class Result(Generic[T]):
    """What was made, and a number that no other result has: what is made of it is kept under that."""

    value: T
    number: int


class StageCache:
    """The last results, the least used dropped first. Safe to share between threads."""

    def __init__(self, size: int = 256) -> None:
        self._kept: OrderedDict[Key, Result[object]] = OrderedDict()
        self._size = size
        self._lock = threading.Lock()
        self._numbers = itertools.count(1)

    def result(self, key: Key, make: Callable[[], T]) -> Result[T]:
        """What was made under this key, or what `make` makes now, with its number."""
        with self._lock:
            if key in self._kept:
                self._kept.move_to_end(key)
                return self._kept[key]  # type: ignore[return-value]
        made = Result(make(), next(self._numbers))
        with self._lock:
            self._kept[key] = made  # type: ignore[assignment]
            while len(self._kept) > self._size:
                self._kept.popitem(last=False)
        return made

    def get(self, key: Key, make: Callable[[], T]) -> T:
        """The same without its number."""
        return self.result(key, make).value
