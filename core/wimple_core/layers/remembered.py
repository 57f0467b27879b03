"""What was found of a film is kept by what the film is, so that a change in one of them costs no look at the others."""

from __future__ import annotations

import hashlib
from collections import OrderedDict
from collections.abc import Callable, Hashable, Sequence
from typing import Any, TypeVar

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

T = TypeVar("T")
MOST_KEPT = 256
_KEPT: OrderedDict[Hashable, Any] = OrderedDict()


def digest_of(regions: Sequence[BaseGeometry]) -> bytes:
    """What tells regions from others: every corner of them."""
    told = hashlib.blake2b(digest_size=16)
    for written in shapely.to_wkb(np.array(list(regions), dtype=object)):
        told.update(len(written).to_bytes(8, "little"))
        told.update(written)
    return told.digest()


def remembered(what: Hashable, make: Callable[[], T]) -> T:
    """What `make` makes, or made before of the same."""
    # Asked for once: another thread may let go of it meanwhile.
    found = _KEPT.get(what)
    if found is None:
        found = (make(),)
        _KEPT[what] = found
        while len(_KEPT) > MOST_KEPT:
            try:
                _KEPT.popitem(last=False)
            except KeyError:
                break
    made: T = found[0]
    return made
