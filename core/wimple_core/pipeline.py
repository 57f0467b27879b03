"""The street: a job walks through its stages in the order in which the maker works.

Each stage is a function of frozen values, and its result is kept under the parts of the document it reads, so that
a change is computed from the first stage that sees it.
"""

from __future__ import annotations

import hashlib
import json
import threading
from collections import OrderedDict
from collections.abc import Callable, Mapping
from typing import Any, TypeVar

from .artwork import read_outline, read_svg
from .built import Build
from .errors import BadDrawing, BadReading
from .fit import Separated, fit, prepare, source_of, tolerance_for
from .job import Job
from .job.blanks import Blank, MeshBlank, PanelBlank
from .job.files import OUTLINE_OF_PHOTO, PATCH_OF_MESH, files_of
from .job.tables import film_by_id
from .layers import make_layers
from .layup import plan_layup
from .measure import Given, measure
from .measure.body import MeshBody
from .measure.mesh import body_from, load_mesh
from .measure.photo import Outline, find_outline
from .pricing import price_job
from .sheets import plan_sheets
from .surface import unwrap
from .surface.patch import Patch, patch_of_mesh
from .verdict import STEPS, Step

T = TypeVar("T")
Progress = Callable[[str], None]


class StageCache:
    """The last results of each stage, the least used dropped first. Safe to share between threads."""

    def __init__(self, size: int = 256) -> None:
        self._kept: OrderedDict[tuple[object, ...], object] = OrderedDict()
        self._size = size
        self._lock = threading.Lock()

    def get(self, key: tuple[object, ...], make: Callable[[], T]) -> T:
        """What was made under this key, or what `make` makes now."""
        with self._lock:
            if key in self._kept:
                self._kept.move_to_end(key)
                return self._kept[key]  # type: ignore[return-value]
        made = make()
        with self._lock:
            self._kept[key] = made
            while len(self._kept) > self._size:
                self._kept.popitem(last=False)
        return made


Drawings = Mapping[str, bytes]
"""The files the document's drawings name."""


def drawing_in(drawings: Drawings, name: str, index: int) -> bytes:
    """The bytes of a drawing. Raises BadDrawing where it is not there."""
    if name not in drawings:
        raise BadDrawing(
            f"The drawing “{name}” is not there.",
            field=f"drawings.{index}.file",
            hint="Put it into the folder “drawings” beside the document, or take it out of the job.",
        )
    return drawings[name]


def _blank_file(drawings: Drawings, name: str, field: str) -> bytes:
    if name not in drawings:
        raise BadReading(
            f"The file “{name}” is not there.",
            field=field,
            hint="Put it into the folder “drawings” beside the document, or take it out of the blank.",
        )
    return drawings[name]


def given_for(blank: Blank, drawings: Drawings, cache: StageCache) -> Given:
    """What the blank's files hold, each read once. Raises BadReading or BadDrawing where one is missing or cannot be
    read."""
    outline = mesh = found = None
    if isinstance(blank, PanelBlank) and blank.shape == "outline" and blank.outline:
        name = blank.outline
        data = _blank_file(drawings, name, "blank.outline")
        outline = cache.get(("outline", hashlib.sha256(data).hexdigest(), name), lambda: read_outline(data, name))
    if isinstance(blank, MeshBlank):
        body = _blank_file(drawings, blank.file, "blank.file")
        unit, up = blank.unit, blank.up
        mesh = cache.get(
            ("mesh", hashlib.sha256(body).hexdigest(), unit, up),
            lambda: body_from(load_mesh(body, blank.file), unit, up),
        )
    photo = getattr(blank, "photo", None)
    if photo is not None:
        picture = _blank_file(drawings, photo.file, "blank.photo.file")
        kept = drawings.get(photo.file + OUTLINE_OF_PHOTO)
        found = cache.get(
            ("photo", hashlib.sha256(picture).hexdigest()),
            lambda: Outline.from_dict(json.loads(kept)) if kept else find_outline(picture),
        )
    return Given(outline, mesh, found)


def patch_name(job: Job, drawings: Drawings) -> str:
    """Under which name the flattened patch of a job's mesh is kept beside it: it tells mesh, unit and choice."""
    assert isinstance(job.blank, MeshBlank)
    mesh = hashlib.sha256(drawings.get(job.blank.file, b"")).hexdigest()
    choice = f"{mesh} {job.blank.unit} {job.blank.up} {job.wrap.patch.model_dump_json()}"
    return f"{job.blank.file[:100]}.{hashlib.sha256(choice.encode()).hexdigest()[:16]}{PATCH_OF_MESH}"


def kept_patch(job: Job, drawings: Drawings) -> Patch | None:
    """The patch flattened before, where there is one."""
    if not isinstance(job.blank, MeshBlank):
        return None
    data = drawings.get(patch_name(job, drawings))
    return Patch.from_bytes(data) if data else None


def flatten_patch(job: Job, drawings: Drawings, progress: Callable[[str, float], None]) -> tuple[str, bytes]:
    """Flatten the chosen patch of a job's mesh: the name to keep it under, and its bytes. Raises as measuring and
    flattening do."""
    body = build(job, drawings, "measure").measured.body
    assert isinstance(body, MeshBody)
    furthest = [0.0]

    def forward(what: str, share: float) -> None:
        furthest[0] = max(furthest[0], share)
        progress(what, furthest[0])

    return patch_name(job, drawings), patch_of_mesh(body, job.wrap.patch, forward).as_bytes()


def _separated(job: Job, drawings: Drawings, cache: StageCache) -> dict[str, Separated]:
    out: dict[str, Separated] = {}
    finest: dict[str, float] = {}
    for d in job.drawings:
        finest[d.file] = max(finest.get(d.file, 0.0), d.placement.width_mm)
    for i, d in enumerate(job.drawings):
        if source_of(d) in out:
            continue
        data = drawing_in(drawings, d.file, i)
        digest = hashlib.sha256(data).hexdigest()
        try:
            rough = cache.get(("size", digest), lambda data=data: _natural_width(data))  # type: ignore[misc]
            tolerance = tolerance_for(rough, finest[d.file])
            out[source_of(d)] = cache.get(
                ("drawing", digest, tolerance, d.shades),
                lambda data=data, t=tolerance, n=d.shades: prepare(read_svg(data, t, n)),  # type: ignore[misc]
            )
        except BadDrawing as bad:
            raise bad.within(f"drawings.{i}", f"“{d.file}”: ") from None
    return out


def _natural_width(data: bytes) -> float:
    left, _, right, _ = read_svg(data, 0.5).bounds
    return max(right - left, 1e-6)


def build(
    job: Job,
    drawings: Drawings,
    upto: Step = "price",
    cache: StageCache | None = None,
    progress: Progress = lambda step: None,
    at_once: bool = True,
) -> Build:
    """Build a job up to a step. A large patch of a mesh that was not flattened before is flattened only if `at_once`.

    Raises WimpleError for a job that cannot be built that far.
    """
    kept = cache or StageCache()
    last = STEPS.index(upto)
    found: dict[str, Any] = {}

    def stage(step: Step, key: tuple[object, ...], make: Callable[[], object]) -> None:
        progress(step)
        found["template" if step == "unwrap" else "fit" if step == "artwork" else step] = kept.get((step, *key), make)

    progress("measure")
    digests_of_blank = tuple(hashlib.sha256(drawings[n]).hexdigest() for n in files_of(job.blank) if n in drawings)
    if isinstance(job.blank, MeshBlank):
        digests_of_blank = (*digests_of_blank, str(patch_name(job, drawings) in drawings))
    measured = kept.get(
        ("measure", job.blank, digests_of_blank), lambda: measure(job.blank, given_for(job.blank, drawings, kept))
    )
    key: tuple[object, ...] = (job.blank, digests_of_blank, job.wrap)
    if last >= 1:
        film = film_by_id(job.layers.default_film, "layers.default_film")
        key = (*key, film.thickness_um, film.takes_strain_percent)
        stage("unwrap", key, lambda: unwrap(job.blank, job.wrap, measured, film, kept_patch(job, drawings), at_once))
    if last >= 2:
        separated = _separated(job, drawings, kept)
        digests = tuple(hashlib.sha256(drawings[d.file]).hexdigest() for d in job.drawings)
        key = (*key, job.drawings, digests)
        stage("artwork", key, lambda: fit(job.blank, job.drawings, separated, found["template"]))
    if last >= 3:
        weed = job.sheets.weed_box_away_mm
        key = (*key, job.layers, weed)
        stage("layers", key, lambda: make_layers(found["fit"].colours, job.layers, job.blank, weed))
    if last >= 4:
        key = (*key, job.sheets, job.quantity)
        stage("sheets", key, lambda: plan_sheets(found["layers"], job.sheets, job.quantity))
    if last >= 5:
        stage(
            "layup",
            (*key, job.layup),
            lambda: plan_layup(job.blank, measured, found["fit"], found["layers"], found["sheets"], job.layup),
        )
    if last >= 6:
        stage(
            "price",
            (*key, job.layup, job.price),
            lambda: price_job(found["sheets"], job.price, found["layup"], job.quantity),
        )
    return Build(job, measured, **found)
