"""What is made without a file: words, shapes and recipes, whichever it is."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from ..job.lettering import Lettering
from ..job.recipes import FilledWords, JarInsert, RingWords
from ..job.shapes import Shape
from .artwork import Artwork
from .lettering import Faces, set_words, shipped_face
from .recipes import filled_words, jar_insert, ring_words
from .shapes import draw_shape

MAKE: Mapping[type, Callable[[Any, Faces], Artwork]] = {
    Lettering: lambda words, faces: set_words(words, faces(words.font)),
    Shape: lambda shape, faces: draw_shape(shape),
    RingWords: ring_words,
    JarInsert: jar_insert,
    FilledWords: filled_words,
}


def make_artwork(source: Any, faces: Faces = shipped_face) -> Artwork:
    """The artwork of a source that is no drawing's file, its fonts found by `faces`. Raises BadDrawing, at its own
    fields, where it makes none."""
    return MAKE[type(source)](source, faces)
