"""What is made without a file: words, shapes and recipes, whichever it is."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from ..errors import BadDrawing
from ..job.lettering import Lettering
from ..job.recipes import FilledWords, JarInsert, OutlinedWords, RingWords, Tally
from ..job.shapes import Shape
from .artwork import Artwork
from .lettering import Faces, set_words, shipped_face
from .recipes import NOTHING_SAID, OfBlank, filled_words, jar_insert, outlined_words, ring_words, tally
from .shapes import draw_shape

MAKE: Mapping[type, Callable[[Any, Faces], Artwork]] = {
    Lettering: lambda words, faces: set_words(words, faces(words.font)),
    Shape: lambda shape, faces: draw_shape(shape),
    RingWords: ring_words,
    FilledWords: filled_words,
    OutlinedWords: outlined_words,
}


def make_artwork(source: Any, faces: Faces = shipped_face, blank: OfBlank = NOTHING_SAID) -> Artwork:
    """The artwork of a source that is no drawing's file, its fonts found by `faces`; `blank` is what the blank it is
    for says of it. Raises BadDrawing, at its own fields, where it makes none."""
    if isinstance(source, Tally):
        return tally(source, faces, blank.height_of or _holds_nothing)
    if isinstance(source, JarInsert):
        return jar_insert(source, faces, blank.disc)
    return MAKE[type(source)](source, faces)


def _holds_nothing(ml: float) -> float:
    raise BadDrawing(
        "This blank holds nothing whose level could be told.",
        field="kind",
        hint="Tally marks go up a cup or a bottle that is measured.",
    )
