"""How much memory a value takes, about: what a cache needs to know of what it keeps."""

from __future__ import annotations

from typing import Any

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

OBJECT_BYTES = 64
"""An object besides what it holds, about."""
GEOMETRY_BYTES = 160
PLACE_BYTES = 16
_PLAIN = (int, float, complex, bool, type(None), type, range)
_HELD = (tuple, list, set, frozenset)


def bytes_of(value: object) -> int:
    """Bytes of a value and of all it holds, each thing once: arrays and geometries by their numbers, text by its
    letters, anything else by what is in it."""
    total, seen, todo = 0, set[int](), [value]
    while todo:
        v: Any = todo.pop()
        if isinstance(v, _PLAIN):
            total += OBJECT_BYTES // 2
        elif id(v) in seen:
            continue
        elif isinstance(v, str | bytes | bytearray):
            total += OBJECT_BYTES + len(v)
        elif isinstance(v, BaseGeometry):
            total += GEOMETRY_BYTES + PLACE_BYTES * int(shapely.get_num_coordinates(v))
        elif isinstance(v, np.ndarray):
            total += OBJECT_BYTES + v.nbytes
            if v.dtype == object:
                # Geometries are counted all at once.
                every = {id(g): g for g in v.ravel().tolist() if id(g) not in seen}
                shapes = [g for g in every.values() if isinstance(g, BaseGeometry)]
                total += GEOMETRY_BYTES * len(shapes)
                total += PLACE_BYTES * int(shapely.get_num_coordinates(np.array(shapes, dtype=object)).sum())
                seen.update(id(g) for g in shapes)
                todo += [g for g in every.values() if not isinstance(g, BaseGeometry)]
        elif isinstance(v, dict):
            total += OBJECT_BYTES + 16 * len(v)
            todo += v.keys()
            todo += v.values()
        elif isinstance(v, _HELD):
            total += OBJECT_BYTES + 8 * len(v)
            todo += v
        else:
            total += OBJECT_BYTES
            todo += getattr(v, "__dict__", {}).values()
        seen.add(id(v))
    return total
