"""A drawing's file read, whatever it is written in."""

from __future__ import annotations

from dataclasses import dataclass, field

from .artwork import Artwork
from .dxf import read_dxf
from .fine import Fine, without_fine
from .pdf import is_pdf, read_pdf
from .see_through import SeeThrough
from .svg import clean_and_read_svg, clean_svg, read_svg, svg_page_width
from .tracing import ROUGH_PIXELS, TRACED_PIXELS, Tracing, clean_picture, is_picture, trace


@dataclass(frozen=True)
class Reading:
    """How a file is read: into how many flat steps a gradient is cut, what becomes of see-through paint and of what is
    too fine to be cut, how a picture is traced, and whether that is done roughly, to be seen at once."""

    shades: int = 1
    see_through: SeeThrough = "shadows_out"
    fine: Fine = "kept"
    tracing: Tracing = field(default_factory=Tracing)
    rough: bool = False


def is_dxf(data: bytes) -> bool:
    """Is a file a DXF drawing? Told by its content: by the first group of its text, or the sentinel of its binary
    form."""
    start = data[:400].lstrip(b"\xef\xbb\xbf \t\r\n")
    first = start.split(b"\n")[0].strip()
    return start.startswith(b"AutoCAD Binary DXF") or first in (b"0", b"999")


def read_drawing(data: bytes, tolerance: float = 0.01, how: Reading = Reading()) -> Artwork:
    """Read a drawing into painted regions, as `read_svg`, `read_dxf` and `read_pdf` do, or trace a picture."""
    if is_picture(data):
        return trace(data, how.tracing, most_pixels=ROUGH_PIXELS if how.rough else TRACED_PIXELS)
    if is_pdf(data):
        art = read_pdf(data, tolerance, how.shades, how.see_through)
    elif is_dxf(data):
        art = read_dxf(data, tolerance)
    else:
        art = read_svg(data, tolerance, how.shades, how.see_through)
    return without_fine(art) if how.fine == "aside" and not how.rough else art


SMALL_BYTES = 300_000
"""A larger file is not read finely on a guess."""


def page_width(data: bytes) -> float | None:
    """How wide (mm) the page of a drawing is, where that is known without reading it: of an SVG that is not too large;
    else None."""
    if len(data) > SMALL_BYTES or is_picture(data) or is_pdf(data) or is_dxf(data):
        return None
    return svg_page_width(data)


def clean_drawing(data: bytes) -> bytes:
    """A drawing as it may be kept and handed out: an SVG cleaned; a DXF holds nothing that acts, and stays, as does a
    picture that was taken in, or a PDF that lies beside a document."""
    return data if is_dxf(data) or is_picture(data) or is_pdf(data) else clean_svg(data)


def take_in_drawing(data: bytes, tolerance: float) -> tuple[bytes, Artwork]:
    """A drawing as it may be kept, and what is read of it."""
    if is_picture(data):
        clean = clean_picture(data)
        return clean, trace(clean, most_pixels=ROUGH_PIXELS)
    if is_pdf(data):
        return data, read_pdf(data, tolerance)
    return (data, read_dxf(data, tolerance)) if is_dxf(data) else clean_and_read_svg(data, tolerance)
