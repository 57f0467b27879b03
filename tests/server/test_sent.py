"""Files sent over HTTP: what is none, is broken or is too large is refused by the field of what it was sent for."""

from __future__ import annotations

import io
import json
import zlib
from collections.abc import Iterator

import pytest
from PIL import Image
from samples import EXAMPLES, svg
from server_api import Api
from wimple_server.jobs.models import Drawing, Job
from wimple_server.lines import in_lines
from wimple_server.shelf.models import ShelfBlank
from wimple_server.works.models import Work

DOORS = {
    "drawings": ("a.svg", "file"),
    "outline": ("a.svg", "blank.outline"),
    "mesh": ("a.stl", "blank.file"),
    "photo": ("a.jpg", "blank.photo.file"),
}


@pytest.mark.parametrize("door", DOORS)
@pytest.mark.parametrize("data", [b"", b"<svg", b"\xff\xfe\x00no file of ours", b"0" * 4096])
def test_what_cannot_be_read_is_refused_at_its_field(api: Api, plain: Job, door: str, data: bytes) -> None:
    name, field = DOORS[door]
    answer = api.upload(f"/jobs/{plain.pk}/{door}", name, data)
    if door == "photo":
        # Taken in by a task: what is wrong is said by the work.
        work = api("GET", f"/works/{answer.json()['id']}").json()
        assert work["status"] == "failed"
        said = work["error"]
    else:
        assert answer.status_code == 422
        said = answer.json()
    assert said["field"] == field and said["message"] and said["hint"], said
    assert not Drawing.objects.filter(job=plain).exists()


@pytest.mark.parametrize("door", DOORS)
def test_what_is_too_large_is_said_so_in_megabytes(api: Api, plain: Job, settings, door: str) -> None:  # type: ignore[no-untyped-def]
    settings.MOST_UPLOAD_BYTES = settings.MOST_BLANK_FILE_BYTES = 1_000_000
    name, field = DOORS[door]
    answer = api.upload(f"/jobs/{plain.pk}/{door}", name, b" " * 1_600_000)
    said = answer.json()
    assert answer.status_code == 422 and said["field"] == field
    assert "2 MB" in said["message"] and said["hint"].startswith("At most 1 MB are taken")
    assert ("simplify" in said["hint"]) == (door == "drawings")
    assert not Work.objects.exists()
    just = svg('<rect width="50" height="50"/>') + b" " * 900_000
    assert api.upload(f"/jobs/{plain.pk}/drawings", "a.svg", just).status_code == 201


def test_the_shelfs_files_are_refused_so_too(api: Api, plain: Job, settings) -> None:  # type: ignore[no-untyped-def]
    kept = api("POST", "/shelf", {"job": plain.pk}).json()["id"]
    bad = api.upload(f"/shelf/{kept}/picture", "a.png", b"no picture")
    assert bad.status_code == 422 and bad.json()["field"] == "file" and bad.json()["hint"]
    out = io.BytesIO()
    Image.new("RGB", (900, 500), "#1c3d7a").save(out, "PNG")
    assert api.upload(f"/shelf/{kept}/picture", "a.png", out.getvalue()).status_code == 200
    picture = ShelfBlank.objects.get(pk=kept).picture
    assert picture is not None and max(Image.open(io.BytesIO(picture)).size) < 900
    settings.MOST_UPLOAD_BYTES = settings.MOST_SHELF_FILE_BYTES = 1_000_000
    for path in (f"/shelf/{kept}/picture", "/shelf/import"):
        large = api.upload(path, "a.png", b" " * 1_600_000)
        assert large.status_code == 422 and large.json()["field"] == "file" and "2 MB" in large.json()["message"]
    assert ShelfBlank.objects.get(pk=kept).picture == picture


def test_a_broken_photograph_of_a_job_is_said_where_the_job_names_it(api: Api, plain: Job) -> None:
    """A job may name a photograph whose outline is still to be found, and that cannot be read after all."""
    raw = json.loads((EXAMPLES / "bellied-mug.wimple.json").read_text(encoding="utf-8"))
    raw["elements"] = []
    Drawing.keep(plain, raw["blank"]["photo"]["file"], b"no picture", Drawing.Kind.PHOTO)
    body = {"document": raw, "step": "measure"}
    (wanted,) = api("POST", f"/jobs/{plain.pk}/build", body).json()["waiting"]
    work = api("POST", "/works", {"job": plain.pk, "document": raw, **wanted}).json()
    done = api("GET", f"/works/{work['id']}").json()
    assert done["status"] == "failed" and done["error"]["field"] == "blank.photo.file", done


def test_lines_come_as_they_are_made(rf) -> None:  # type: ignore[no-untyped-def]
    """Each line can be read before the next is made, squeezed or not; a long one is passed on in pieces."""
    made: list[int] = []

    def lines() -> Iterator[bytes]:
        for n in range(3):
            made.append(n)
            yield b'{"n":%d,"long":"%s"}\n' % (n, bytes(range(48, 58)) * 30000)

    plain = in_lines(rf.post("/"), lines())
    assert "Content-Encoding" not in plain.headers and len(list(plain.streaming_content)) == 3
    made.clear()
    squeezed = in_lines(rf.post("/", headers={"accept-encoding": "br, gzip"}), lines())
    assert squeezed.headers["Content-Encoding"] == "gzip" and "Accept-Encoding" in squeezed.headers["Vary"]
    reader, text, seen = zlib.decompressobj(16 + zlib.MAX_WBITS), b"", []
    for chunk in squeezed.streaming_content:
        text += reader.decompress(chunk)
        if text.count(b"\n") > len(seen):
            seen.append(len(made))
    assert seen == [1, 2, 3], "a line is whole before the next is begun"
    assert [json.loads(line)["n"] for line in text.splitlines()] == [0, 1, 2]


@pytest.mark.django_db(transaction=True)
def test_files_of_one_name_that_come_at_once_are_all_kept(api: Api, plain: Job) -> None:
    """Ten hands bring the same name at once: ten files, none refused, none lost."""
    from concurrent.futures import ThreadPoolExecutor

    from django.db import connection

    def bring(n: int) -> int:
        try:
            size = 5 + n
            return api.upload(
                f"/jobs/{plain.pk}/drawings", "a.svg", svg(f"<rect width='{size}' height='9'/>")
            ).status_code
        finally:
            connection.close()

    with ThreadPoolExecutor(10) as pool:
        assert list(pool.map(bring, range(10))) == [201] * 10
    assert plain.drawings.count() == len(set(plain.drawings.values_list("name", flat=True))) == 10
