"""Answers that come line by line, squeezed as they go: quickly, for one long line must not hold the next one up."""

from __future__ import annotations

import zlib
from collections.abc import Iterator

from django.http import HttpRequest, StreamingHttpResponse
from django.utils.cache import patch_vary_headers

LINES = "application/x-ndjson"
LEVEL = 2
"""On 3.4 MB of contours a quarter of the time of the usual 6, for a tenth more bytes."""
CHUNK = 1 << 16


def _squeezed(lines: Iterator[bytes]) -> Iterator[bytes]:
    squeeze = zlib.compressobj(LEVEL, wbits=16 + zlib.MAX_WBITS)
    for line in lines:
        for at in range(0, len(line), CHUNK):
            if made := squeeze.compress(line[at : at + CHUNK]):
                yield made
        yield squeeze.flush(zlib.Z_SYNC_FLUSH)
    yield squeeze.flush()


def begun(lines: Iterator[bytes]) -> Iterator[bytes]:
    """The same lines, the first of them made at once: what is raised before it is raised here."""
    first = next(lines)

    def every() -> Iterator[bytes]:
        yield first
        yield from lines

    return every()


def in_lines(request: HttpRequest, lines: Iterator[bytes]) -> StreamingHttpResponse:
    """Lines as they come, as gzip where whoever asks takes that."""
    if "gzip" not in request.headers.get("Accept-Encoding", ""):
        return StreamingHttpResponse(lines, content_type=LINES)
    response = StreamingHttpResponse(_squeezed(lines), content_type=LINES, headers={"Content-Encoding": "gzip"})
    patch_vary_headers(response, ["Accept-Encoding"])
    return response
