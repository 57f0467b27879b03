"""Bringing in what a job's files hold: each read once, slow results from where they are kept."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import replace
from typing import Any, TypeVar

import shapely
import trimesh

from .apart import Run, here
from .artwork import Note, Reading, Tracing, make_artwork
from .artwork.lettering import Face, open_face, shipped_face
from .artwork.recipes import NOTHING_SAID, OfBlank
from .artwork.tracing import is_picture, picture_pixels
from .cache import Caching, Key, Result
from .errors import BadDrawing, BadReading, WimpleError, seen_from
from .files import Files
from .fit.separated import Separated, prepare, tolerance_for
from .job.blank import BlankBase
from .job.document import FileSource, Job, Source
from .job.source import is_font_file
from .measure import kind_of
from .measure.flat_bodies import MeshBody
from .measure.mesh import body_from
from .measure.silhouette import Outline
from .slow import Kept, Slow, Wanted, natural_width, outline_in_photo, separated_drawing, traced_picture
from .taking_in import contour_in, first_in, font_in, triangles_in

T = TypeVar("T")
QUICK_PIXELS = 500_000
"""A picture of no more is traced while somebody waits."""
KEEP_AFTER_S = 0.3
"""What took longer to make is kept."""


def _said_rough(made: Separated) -> Separated:
    """A tracing that says it is rough, in place of what it says it is."""
    rough = Note("artwork.traced", "a picture", "traced roughly so far", "look", "source.colours")
    notes = tuple(n for n in made.artwork.notes if n.code != "artwork.traced")
    return replace(made, artwork=replace(made.artwork, notes=(*notes, rough)))


class Bringer:
    """Reads the files of one job, each by `run`. `asked` holds the slow results that were not there, and are not made
    here."""

    def __init__(
        self, blank: BlankBase, files: Files, cache: Caching, kept: Kept, at_once: bool, run: Run = here
    ) -> None:
        self.files, self.cache, self.kept, self.at_once, self.run = files, cache, kept, at_once, run
        self.field = kind_of(blank).file_field
        self.asked: dict[Wanted, Slow[Any]] = {}

    def read(self, name: str, error: type[WimpleError], beside: str) -> bytes:
        """A file's content. Raises `error` where it is not there."""
        if name not in self.files:
            raise error(
                f"The file “{name}” is not there.",
                hint=f"Put it into the folder “drawings” beside the document, or take it out of the {beside}.",
            )
        return self.files.read(name)

    def _of_blank(self, name: str) -> bytes:
        return self.read(name, BadReading, "blank")

    def slow(self, wanted: Slow[T], quick: bool) -> T | None:
        """A slow result: as kept, or made now where that is quick or asked for; None where it must be waited for."""

        def bring() -> T:
            data = self.kept.get(wanted.wanted.kind, wanted.wanted.key)
            return wanted.read(data) if data else wanted.make(lambda what, share: None)

        if self.at_once or quick or self.kept.has(wanted.wanted.kind, wanted.wanted.key):
            return self.cache.get(("slow", wanted.wanted), bring)
        self.asked[wanted.wanted] = wanted
        return None

    def _made_once(self, wanted: Slow[T]) -> T:
        """What is made here, or was before; kept where that took long."""
        kind, key = wanted.wanted.kind, wanted.wanted.key
        data = self.kept.get(kind, key)
        if data is not None:
            return wanted.read(data)
        began = time.monotonic()
        made = wanted.make(lambda what, share: None)
        if time.monotonic() - began > KEEP_AFTER_S:
            self.kept.keep(kind, key, wanted.write(made))
        return made

    def drawing(self, name: str, how: Reading, widest: float) -> Result[Separated]:
        """A drawing separated, as finely as it must be read to be placed `widest` mm wide."""
        digest = self.files.digest(name) if name in self.files else ""

        def data() -> bytes:
            return self.read(name, BadDrawing, "job")

        with seen_from("source.file"):
            pixels = self.cache.get(("picture", digest), lambda: picture_pixels(data()) if is_picture(data()) else 0)
            if pixels:
                return self._traced(data, digest, how, pixels <= QUICK_PIXELS)
            width = self.cache.get(("size", digest), lambda: self._width(data, digest, how, widest))
            tolerance = tolerance_for(width, widest)
            wanted = separated_drawing(data, digest, tolerance, how, self.run)
            return self.cache.result(("drawing", digest, tolerance, how), lambda: self._made_once(wanted))

    def _width(self, data: Callable[[], bytes], digest: str, how: Reading, widest: float) -> float:
        """How wide a drawing is at its own size. Where nothing is known of it yet it is read once for that and for
        itself."""
        size = natural_width(data, digest, self.run)
        if self.kept.has(size.wanted.kind, size.wanted.key):
            return self._made_once(size)
        began = time.monotonic()
        width, tolerance, written = self.run(first_in, data(), widest, how)
        took = time.monotonic() - began
        drawn = separated_drawing(data, digest, tolerance, how, self.run)
        for slow, made in ((size, size.write(width)), (drawn, written)):
            if took > KEEP_AFTER_S:
                self.kept.keep(slow.wanted.kind, slow.wanted.key, made)
        self.cache.result(("drawing", digest, tolerance, how), lambda: drawn.read(written))
        return float(width)

    def _traced(self, data: Callable[[], bytes], digest: str, how: Reading, quick: bool) -> Result[Separated]:
        """A picture traced as finely as its pixels are, however large it is laid; a rough tracing of one that takes its
        time and is not made here, until it is."""
        fine = traced_picture(data, digest, how, self.run)
        kind, key = fine.wanted.kind, fine.wanted.key
        if self.at_once or quick or self.kept.has(kind, key):
            return self.cache.result(("traced", key), lambda: self._made_once(fine))
        self.asked[fine.wanted] = fine
        rough = separated_drawing(data, digest, 0.0, replace(how, rough=True), self.run)
        return self.cache.result(("rough", key), lambda: _said_rough(self._made_once(rough)))

    def made(
        self, source: Source, widest: float, blank: OfBlank = NOTHING_SAID, body: Key = (), printed: bool = False
    ) -> Result[Separated]:
        """What an element is made from, separated, as finely as it must be read to be placed `widest` mm wide.
        `blank` is what the blank says of it, which `body` tells from others; of what is `printed` nothing is too
        fine."""
        if isinstance(source, FileSource):
            tracing = Tracing(source.colours, source.palette, source.speckle_px)
            fine = "kept" if printed else source.fine
            return self.drawing(source.file, Reading(source.shades, source.see_through, fine, tracing), widest)
        digests = tuple(self.files.digest(n) for n in source.files if n in self.files)
        key = ("made", source, digests, body if source.of_blank else ())
        with seen_from("source"):
            return self.cache.result(key, lambda: prepare(make_artwork(source, self.face, blank)))

    def font_digests(self, job: Job) -> tuple[str, ...]:
        """Digests of the files of a job's fonts."""
        return tuple(self.files.digest(n) for n in job.drawings if is_font_file(n) and n in self.files)

    def face(self, font: str) -> Face:
        """A font, shipped or in a file."""
        if not is_font_file(font):
            return shipped_face(font)
        digest = self.files.digest(font) if font in self.files else ""
        with seen_from("font"):
            return self.cache.get(("face", digest, font), lambda: self._opened(font))

    def _opened(self, font: str) -> Face:
        data = self.read(font, BadDrawing, "job")
        self.run(font_in, data)
        return open_face(font.rpartition(".")[0], data)

    def outline(self, name: str) -> shapely.Polygon:
        """The outermost contour of a drawing."""
        digest = self.files.digest(name) if name in self.files else ""
        with seen_from(self.field):
            return self.cache.get(("outline", digest, name), lambda: self.run(contour_in, self._of_blank(name), name))

    def mesh(self, name: str, unit: str, up: str) -> MeshBody:
        """The triangles of a file, in mm and upright."""
        digest = self.files.digest(name) if name in self.files else ""

        def read() -> trimesh.Trimesh:
            with seen_from(self.field):
                corners, triangles = self.run(triangles_in, self._of_blank(name), name)
            return trimesh.Trimesh(corners, triangles, process=False)

        return self.cache.get(("mesh", digest, unit, up), lambda: body_from(read(), unit, up))

    def photo(self, name: str) -> Outline | None:
        """The outline found in a photograph; None where it is not found yet."""
        digest = self.files.digest(name) if name in self.files else ""
        with seen_from(self.field):
            return self.slow(outline_in_photo(lambda: self._of_blank(name), digest, self.run), quick=not digest)
