"""Files nobody means well with, or that an honest program wrote badly: made here, so that none of them is kept.

Each has a name, the kind of file it comes as, and its bytes. Run `python tests/hostile.py FOLDER` to have them in a
folder.
"""

from __future__ import annotations

import gzip
import io
import json
import struct
import sys
import zipfile
import zlib
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np

SVG = '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" '
PAGE = 'width="100mm" height="100mm" viewBox="0 0 100 100">'
SOLID = '<rect width="50" height="50" fill="#336699"/>'


@dataclass(frozen=True)
class Hostile:
    """One file: what it is called, as what it comes (drawing, outline, mesh, photo, picture, shelf, job), its bytes."""

    name: str
    kind: str
    make: Callable[[], bytes]


def svg(body: str, head: str = PAGE) -> bytes:
    return f"{SVG}{head}{body}</svg>".encode()


def _defs(body: str, after: str = SOLID) -> bytes:
    return svg(f"<defs>{body}</defs>{after}")


def nested_uses(deep: int, wide: int) -> bytes:
    levels = [f'<g id="l0">{SOLID}</g>']
    for n in range(1, deep):
        levels.append(f'<g id="l{n}">' + f'<use href="#l{n - 1}" x="{n}"/>' * wide + "</g>")
    return _defs("".join(levels), f'<use href="#l{deep - 1}"/>')


def circular(what: str) -> bytes:
    bodies = {
        "use": '<g id="a"><use href="#b"/></g><g id="b"><use href="#a"/></g><use href="#a"/>',
        "self": '<g id="a"><rect width="9" height="9"/><use href="#a" x="1"/></g>',
        "clip": '<clipPath id="c" clip-path="url(#d)"><rect width="9" height="9"/></clipPath>'
        '<clipPath id="d" clip-path="url(#c)"><rect width="9" height="9"/></clipPath>'
        '<rect width="50" height="50" clip-path="url(#c)"/>',
        "mask": '<mask id="m"><rect width="9" height="9" mask="url(#m)" fill="#fff"/></mask>'
        '<rect width="50" height="50" mask="url(#m)"/>',
        "pattern": '<pattern id="p" width="9" height="9" href="#q"/><pattern id="q" width="9" height="9" href="#p"/>'
        '<rect width="50" height="50" fill="url(#p)"/>',
        "painted": '<pattern id="p" width="9" height="9"><rect width="9" height="9" fill="url(#p)"/></pattern>'
        '<rect width="50" height="50" fill="url(#p)"/>',
        "gradient": '<linearGradient id="g" href="#h"/><linearGradient id="h" href="#g"/>'
        '<rect width="50" height="50" fill="url(#g)"/>',
        "marker": '<marker id="m"><path d="M0 0L9 9" stroke="#000" marker-start="url(#m)"/></marker>'
        '<path d="M0 0L9 9L50 5" stroke="#000" marker-mid="url(#m)"/>',
    }
    return svg(bodies[what])


def many_rules(rules: int, elements: int, selector: str = ".c{n} .d{n} > rect") -> bytes:
    sheet = "".join(f"{selector.format(n=n)}{{fill:#{n % 4096:03x}}}" for n in range(rules))
    drawn = "".join(
        f'<rect class="c{n}" x="{n % 100}" y="{n // 100 % 100}" width=".5" height=".5"/>' for n in range(elements)
    )
    return svg(f"<style>{sheet}</style>{drawn}")


def squiggle(points: int, seed: int = 3, attributes: str = 'stroke-width="2"') -> bytes:
    """A sketch line that crosses itself all the time, as a hand makes in a hurry."""
    at = np.random.default_rng(seed).uniform(5, 95, (points, 2))
    d = "M" + "L".join(f"{x:.2f} {y:.2f}" for x, y in at)
    return svg(f'<path d="{d}" fill="none" stroke="#123456" {attributes}/>')


def walk(points: int, seed: int = 3) -> bytes:
    """A sketch line as a hand makes it: it wanders, and crosses itself here and there."""
    rng = np.random.default_rng(seed)
    turn = np.cumsum(rng.normal(0, 0.5, points))
    at = np.cumsum(0.8 * np.column_stack([np.cos(turn), np.sin(turn)]), axis=0)
    at = 5 + 90 * (at - at.min(axis=0)) / np.ptp(at, axis=0).max()
    d = "M" + "L".join(f"{x:.3f} {y:.3f}" for x, y in at)
    return svg(f'<path d="{d}" fill="none" stroke="#123456" stroke-width="1.2"/>')


def squares(count: int) -> bytes:
    side = int(np.ceil(np.sqrt(count)))
    step = 100 / side
    return svg(
        "".join(
            f'<rect x="{step * (n % side):.4f}" y="{step * (n // side):.4f}" width="{step * 0.7:.4f}" '
            f'height="{step * 0.7:.4f}" fill="#{n * 37 % 3 * 5}a3"/>'
            for n in range(count)
        )
    )


def grid_of_lines(n: int) -> bytes:
    lines = "".join(f"M{i * 100 / n:.3f} 0V100M0 {i * 100 / n:.3f}H100" for i in range(n))
    return svg(f'<path d="{lines}" stroke="#123" stroke-width=".01" fill="none"/>')


def entity_bomb() -> bytes:
    lines = "".join(f'<!ENTITY a{n} "{f"&a{n - 1};" * 10}">' for n in range(1, 10))
    return f'<?xml version="1.0"?><!DOCTYPE svg [<!ENTITY a0 "ha">{lines}]>{SVG}{PAGE}<text>&a9;</text></svg>'.encode()


def flat_entity() -> bytes:
    """One long entity used often: no nesting, the same harm."""
    return (
        f'<?xml version="1.0"?><!DOCTYPE svg [<!ENTITY a "{"M0 0L9 9" * 2000}">]>{SVG}{PAGE}'
        f'<path d="{"&a;" * 5000}"/></svg>'
    ).encode()


def deep_groups(n: int) -> bytes:
    return svg("<g>" * n + SOLID + "</g>" * n)


def png(width: int, height: int, rows: bytes | None = None, depth: int = 1, colours: int = 0) -> bytes:
    def chunk(kind: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    squeeze = zlib.compressobj(9)
    data = b""
    if rows is None:
        row = bytes(1 + (width + 7) // 8)
        data = b"".join(squeeze.compress(row) for _ in range(height)) + squeeze.flush()
    return (
        b"\x89PNG\r\n\x1a\n"
        + chunk(b"IHDR", struct.pack(">IIBBBBB", width, height, depth, colours, 0, 0, 0))
        + chunk(b"IDAT", data if rows is None else rows)
        + chunk(b"IEND", b"")
    )


def noisy_png(width: int, height: int) -> bytes:
    """Every pixel of a colour of its own."""
    dice = np.random.default_rng(5)
    rows = dice.integers(0, 256, (height, 1 + 3 * width), dtype=np.uint8)
    rows[:, 0] = 0
    return png(width, height, zlib.compress(rows.tobytes(), 1), 8, 2)


def stl(says: int, holds: int, values: float = 1.0) -> bytes:
    triangles = np.zeros(holds, dtype=[("n", "<f4", 3), ("v", "<f4", (3, 3)), ("a", "<u2")])
    triangles["v"] = values * np.random.default_rng(1).uniform(0, 50, (holds, 3, 3))
    return bytes(80) + struct.pack("<I", says) + triangles.tobytes()


def dxf(*entities: str) -> bytes:
    body = "\n".join(entities)
    return f"0\nSECTION\n2\nENTITIES\n{body}\n0\nENDSEC\n0\nEOF\n".encode()


def dxf_circle(radius: str, x: str = "0") -> str:
    return f"0\nCIRCLE\n8\n0\n10\n{x}\n20\n0\n30\n0\n40\n{radius}"


def dxf_line(a: float, b: float, c: float, d: float) -> str:
    return f"0\nLINE\n8\n0\n10\n{a}\n20\n{b}\n30\n0\n11\n{c}\n21\n{d}\n31\n0"


def crossing_lines(n: int) -> bytes:
    at = np.random.default_rng(2).uniform(0, 300, (n, 4))
    return dxf(*(dxf_line(*row) for row in at.round(3).tolist()))


def shelf(blanks: str, version: str = "1") -> bytes:
    return f'{{"format":"wimple.shelf","version":{version},"blanks":{blanks}}}'.encode()


def job(blank: str = "", more: str = "") -> bytes:
    return f'{{"format":"wimple.job","version":2,"blank":{blank or "null"}{more}}}'.encode()


def zip_bomb() -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("a.svg", bytes(50_000_000))
    return out.getvalue()


def noise(n: int, seed: int = 9) -> bytes:
    return np.random.default_rng(seed).bytes(n)


_D = "drawing"


def drawings() -> Iterator[Hostile]:
    """SVG drawings."""
    yield Hostile("nested uses, ten to the ninth", _D, lambda: nested_uses(10, 10))
    yield Hostile("nested uses, two to the thirtieth", _D, lambda: nested_uses(31, 2))
    yield Hostile("nested uses within the limit of each", _D, lambda: nested_uses(4, 24))
    for what in ("use", "self", "clip", "mask", "pattern", "painted", "gradient", "marker"):
        yield Hostile(f"circular {what}", _D, lambda what=what: circular(what))  # type: ignore[misc]
    clips = "".join(
        f'<clipPath id="c{n}" clip-path="url(#c{n - 1})"><circle cx="50" cy="50" r="{50 - n / 20}"/></clipPath>'
        for n in range(1, 400)
    )
    yield Hostile("clips in clips", _D, lambda: _defs(clips, '<rect width="90" height="90" clip-path="url(#c399)"/>'))
    patterns = "".join(
        f'<pattern id="p{n}" width="1" height="1"><rect width="9" height="9" fill="url(#p{n - 1})"/></pattern>'
        for n in range(1, 3000)
    )
    yield Hostile(
        "patterns in patterns", _D, lambda: _defs(patterns, '<rect width="9" height="9" fill="url(#p2999)"/>')
    )
    stops = "".join(f'<stop offset="{n / 20000:.5f}" stop-color="#{n % 4096:03x}"/>' for n in range(20_000))
    gradient = f'<linearGradient id="g">{stops}</linearGradient>'
    yield Hostile(
        "a gradient of 20,000 stops", _D, lambda: _defs(gradient, '<rect width="50" height="50" fill="url(#g)"/>')
    )
    yield Hostile(
        "that gradient on 5,000 shapes",
        _D,
        lambda: _defs(
            gradient,
            "".join(f'<rect x="{n % 70}" y="{n // 70}" width=".8" height=".8" fill="url(#g)"/>' for n in range(5000)),
        ),
    )
    yield Hostile("4,000 rules on 20,000 elements", _D, lambda: many_rules(4000, 20_000))
    yield Hostile("4,000 rules by class on 20,000", _D, lambda: many_rules(4000, 20_000, ".c{n}"))
    yield Hostile("rules of every kind of child", _D, lambda: many_rules(300, 3000, "svg :nth-child({n}n+1) ~ * * * *"))
    has = "svg" + ":has(g" * 40 + ")" * 40
    yield Hostile(
        "nests of :has()", _D, lambda: svg(f"<style>{has}{{fill:red}}</style>" + "<g>" * 50 + SOLID + "</g>" * 50)
    )
    nots = ":not(" * 3000 + "rect" + ")" * 3000
    yield Hostile("nests of :not()", _D, lambda: svg(f"<style>{nots}{{fill:red}}</style>{SOLID}"))
    yield Hostile("a run of translate(", _D, lambda: svg(f'<g transform="{"translate(" * 50_000}">{SOLID}</g>'))
    yield Hostile("a run of translate(1)", _D, lambda: svg(f'<g transform="{"translate(1)" * 50_000}">{SOLID}</g>'))
    yield Hostile(
        "a run of spaces in a transform", _D, lambda: svg(f'<g transform="scale(1{" " * 200_000}x">{SOLID}</g>')
    )
    yield Hostile("a run of url(", _D, lambda: svg(f'<rect width="9" height="9" style="fill:{"url(" * 50_000}"/>'))
    yield Hostile(
        "a run of url(#", _D, lambda: svg(f'<rect width="9" height="9" clip-path="{"url(#" * 50_000}"/>{SOLID}')
    )
    yield Hostile("a run of braces in a sheet", _D, lambda: svg(f"<style>{'{' * 100_000}</style>{SOLID}"))
    yield Hostile("a run of comments in a sheet", _D, lambda: svg(f"<style>{'/*' * 200_000}</style>{SOLID}"))
    yield Hostile("a run of @import", _D, lambda: svg(f"<style>{'@import ' * 100_000}</style>{SOLID}"))
    many = " ".join(f'a{n}="{n}"' for n in range(50_000))
    yield Hostile("50,000 attributes", _D, lambda: svg(f'<rect {many} width="9" height="9"/>'))
    yield Hostile("an attribute of 5 MB", _D, lambda: svg(f'<rect data-x="{"x" * 5_000_000}" width="9" height="9"/>'))
    yield Hostile(
        "a style attribute of 5 MB", _D, lambda: svg(f'<rect style="{"fill:red;" * 550_000}" width="9" height="9"/>')
    )
    yield Hostile("10,000 groups in one another", _D, lambda: deep_groups(10_000))
    yield Hostile("200 groups in one another", _D, lambda: deep_groups(200))
    yield Hostile(
        "10,000 groups beside one another", _D, lambda: svg("<g>" + SOLID + "</g>" + '<g opacity=".5"/>' * 10_000)
    )
    for value in ("1e308", "-1e308", "NaN", "Infinity", "1e15", "1e-308", "9" * 4000):
        short = value[:9]
        yield Hostile(f"a circle of radius {short}", _D, lambda v=value: svg(f'<circle r="{v}" fill="#123"/>'))  # type: ignore[misc]
        yield Hostile(f"a path through {short}", _D, lambda v=value: svg(f'<path d="M0 0C{v} 0 0 {v} 9 9Z"/>{SOLID}'))  # type: ignore[misc]
        yield Hostile(
            f"a stroke {short} wide", _D, lambda v=value: svg(f'<path d="M0 0L9 9" stroke="#000" stroke-width="{v}"/>')
        )  # type: ignore[misc]
        yield Hostile(f"scaled by {short}", _D, lambda v=value: svg(f'<g transform="scale({v})"><circle r="3"/></g>'))  # type: ignore[misc]
    yield Hostile(
        "a rectangle 1e300 wide in a view box of 1e12",
        _D,
        lambda: svg('<rect width="1e300" height="1"/>', 'viewBox="0 0 1e12 1e12">'),
    )
    yield Hostile(
        "a page of 1e9 mm",
        _D,
        lambda: svg('<circle r="5e8" cx="5e8" cy="5e8"/>', 'width="1e9mm" height="1e9mm" viewBox="0 0 1e9 1e9">'),
    )
    yield Hostile("an arc of 1e7 beside the page", _D, lambda: svg('<path d="M0 0A1e7 1e7 0 1 1 1 1Z" fill="#123"/>'))
    yield Hostile(
        "dashes of 1e-9", _D, lambda: squiggle(50, attributes='stroke-width="1" stroke-dasharray="1e-9 1e-9"')
    )
    yield Hostile(
        "dashes of 0.01 on a long line",
        _D,
        lambda: squiggle(400, attributes='stroke-width=".2" stroke-dasharray=".01 .01"'),
    )
    yield Hostile(
        "20,000 round dots on a line",
        _D,
        lambda: squiggle(20_000, attributes='stroke-width="2" stroke-linecap="round" stroke-linejoin="round"'),
    )
    yield Hostile(
        "3,000 points criss and cross, filled", _D, lambda: squiggle(3000).replace(b'fill="none"', b'fill="#abc"')
    )
    yield Hostile("1,200 points criss and cross, stroked", _D, lambda: squiggle(1200))
    yield Hostile("600 points criss and cross, stroked", _D, lambda: squiggle(600))
    yield Hostile("a net of 1,500 lines each way", _D, lambda: grid_of_lines(1500))
    yield Hostile("150,000 squares", _D, lambda: squares(150_000))
    yield Hostile("99,000 squares", _D, lambda: squares(99_000))
    overlaid = "".join(
        f'<circle cx="{40 + n % 20}" cy="{40 + n // 20 % 20}" r="{30 + n % 7}" fill="#{n % 4096:03x}"/>'
        for n in range(3000)
    )
    yield Hostile("3,000 large discs over one another", _D, lambda: svg(overlaid))
    arcs = "M50 50" + "".join(f"A{n % 40 + 1} 30 {n} 0 1 {n * 13 % 100} {n * 29 % 100}" for n in range(20_000))
    yield Hostile("20,000 arcs in one path", _D, lambda: svg(f'<path d="{arcs}"/>'))
    yield Hostile("a path of 3 MB of numbers", _D, lambda: svg(f'<path d="M0 0{"L1 2" * 750_000}"/>'))
    yield Hostile("a path of digits alone", _D, lambda: svg(f'<path d="M{"1" * 3_000_000} 0"/>{SOLID}'))
    yield Hostile("a path of signs", _D, lambda: svg(f'<path d="M0 0{"-+" * 500_000}"/>{SOLID}'))
    yield Hostile("a polygon of 700,000 corners", _D, lambda: svg(f'<polygon points="{"1,2 3,4 " * 350_000}"/>'))
    markers = '<marker id="m" markerWidth="9" markerHeight="9"><path d="M0 0L9 9L0 9Z"/></marker>'
    yield Hostile(
        "a marker on each of 20,000 corners",
        _D,
        lambda: svg(f'<defs>{markers}</defs><path d="M0 0{"L1 2L3 4" * 10_000}" marker-mid="url(#m)"/>'),
    )
    yield Hostile("an entity bomb", _D, entity_bomb)
    yield Hostile("one long entity used often", _D, flat_entity)
    yield Hostile(
        "an entity from a file",
        _D,
        lambda: b'<!DOCTYPE svg [<!ENTITY x SYSTEM "file:///etc/hostname">]>' + svg("<text>&x;</text>"),
    )
    yield Hostile("an unknown encoding", _D, lambda: b'<?xml version="1.0" encoding="klingon"?>' + svg(SOLID))
    yield Hostile("an encoding that is no text", _D, lambda: b'<?xml version="1.0" encoding="hex"?>' + svg(SOLID))
    yield Hostile("an encoding that unpacks", _D, lambda: b'<?xml version="1.0" encoding="zlib"?>' + svg(SOLID))
    yield Hostile("UTF-7", _D, lambda: b'<?xml version="1.0" encoding="utf-7"?>' + svg("+ADw-script+AD4-"))
    yield Hostile("UTF-16 cut in the middle", _D, lambda: svg(SOLID).decode().encode("utf-16")[:-3])
    yield Hostile(
        "lone surrogates",
        _D,
        lambda: svg(f'<text id="\ud800">\udfff</text>{SOLID}'.encode("utf-8", "surrogatepass").decode("latin-1")),
    )
    yield Hostile("zeros", _D, lambda: bytes(1_000_000))
    yield Hostile("noise", _D, lambda: noise(200_000))
    yield Hostile("a packed bomb", _D, lambda: gzip.compress(bytes(400_000_000), 9))
    yield Hostile("a zip", _D, zip_bomb)
    yield Hostile("words of a megabyte", _D, lambda: svg(f"<text>{'word ' * 200_000}</text>{SOLID}"))
    yield Hostile(
        "ids of a megabyte", _D, lambda: svg(f'<g id="{"i" * 1_000_000}">{SOLID}</g><use href="#{"i" * 1_000_000}"/>')
    )


def others() -> Iterator[Hostile]:
    """Outlines, meshes, pictures, Shelves, documents."""
    for radius in ("1e14", "1e300", "nan", "-5", "1e-300"):
        yield Hostile(f"a DXF circle of {radius}", "outline", lambda r=radius: dxf(dxf_circle(r)))  # type: ignore[misc]
    yield Hostile("a DXF circle far away", "outline", lambda: dxf(dxf_circle("10", "1e15"), dxf_circle("10")))
    yield Hostile("3,000 crossing lines in a DXF", "outline", lambda: crossing_lines(3000))
    yield Hostile("300 crossing lines in a DXF", "outline", lambda: crossing_lines(300))
    yield Hostile(
        "5,000 circles in one another", "outline", lambda: dxf(*(dxf_circle(f"{n / 50 + 1:.3f}") for n in range(5000)))
    )
    yield Hostile("a DXF of 200,000 lines", "outline", lambda: crossing_lines(200_000))
    spline = (
        "0\nSPLINE\n8\n0\n70\n8\n71\n3\n72\n100004\n73\n100000\n"
        + "\n".join("40\n1" for _ in range(100_004))
        + "\n"
        + "\n".join(f"10\n{n}\n20\n{n % 7}" for n in range(100_000))
    )
    yield Hostile("a DXF spline of 100,000 points", "outline", lambda: dxf(spline))
    yield Hostile("a DXF of noise", "outline", lambda: noise(100_000))
    yield Hostile("a DXF that says nothing but 0", "outline", lambda: b"0\n" * 500_000)
    yield Hostile("a DXF with digits without end", "outline", lambda: dxf(dxf_circle("9" * 100_000)))
    yield Hostile("an outline in SVG that is a net", "outline", lambda: grid_of_lines(800))
    yield Hostile("a mesh that says four thousand million", "mesh", lambda: stl(2**32 - 1, 12))
    yield Hostile("a mesh that says none", "mesh", lambda: stl(0, 2000))
    yield Hostile("a mesh of nan", "mesh", lambda: stl(2000, 2000, float("nan")))
    yield Hostile("a mesh of 1e38", "mesh", lambda: stl(2000, 2000, 1e36))
    yield Hostile("a mesh of loose triangles", "mesh", lambda: stl(300_000, 300_000))
    yield Hostile(
        "an OBJ with corners that are not there",
        "obj",
        lambda: b"v 0 0 0\nv 1 0 0\nv 0 1 0\n" + b"f 1 2 999999999\n" * 1000,
    )
    yield Hostile("an OBJ of 2,000,000 corners", "obj", lambda: b"v 1 2 3\n" * 2_000_000 + b"f 1 2 3\n")
    yield Hostile(
        "an OBJ face of 100,000 corners",
        "obj",
        lambda: b"v 0 0 0\nv 1 0 0\nv 0 1 1\n" + b"f" + b" 1 2 3" * 33_000 + b"\n",
    )
    ply = (
        b"ply\nformat ascii 1.0\nelement vertex %d\nproperty float x\nproperty float y\nproperty float z\n"
        b"element face %d\nproperty list uchar int vertex_indices\nend_header\n"
    )
    yield Hostile("a PLY that says a thousand million corners", "ply", lambda: ply % (10**9, 1) + b"0 0 0\n")
    yield Hostile("a PLY that says a million faces", "ply", lambda: ply % (3, 300_000) + b"0 0 0\n1 0 0\n0 1 0\n")
    binary = b"ply\nformat binary_little_endian 1.0\nelement vertex %d\nproperty double x\nend_header\n"
    yield Hostile("a binary PLY that says much", "ply", lambda: binary % 10**12 + bytes(100))
    yield Hostile("a picture of 3,600 megapixels", "photo", lambda: png(60_000, 60_000, b"x"))
    yield Hostile("a picture of 200 by 240,000", "photo", lambda: png(200, 240_000))
    yield Hostile("a picture of 7,000 by 7,000, all black", "photo", lambda: png(7000, 7000))
    yield Hostile("a picture cut short", "photo", lambda: png(2000, 2000)[:200])
    yield Hostile("a picture of 3,600 megapixels to be traced", "drawing", lambda: png(60_000, 60_000, b"x"))
    yield Hostile("a picture of 200 by 240,000 to be traced", "drawing", lambda: png(200, 240_000))
    yield Hostile("a picture of 7,000 by 7,000 to be traced", "drawing", lambda: png(7000, 7000))
    yield Hostile("a picture of noise to be traced", "drawing", lambda: noisy_png(2000, 2000))
    yield Hostile("a picture to be traced cut short", "drawing", lambda: png(2000, 2000)[:200])
    for what, make in {
        "circle of 1e14": lambda: dxf(dxf_circle("1e14")),
        "circle far away": lambda: dxf(dxf_circle("5", "1e15")),
        "circle of NaN": lambda: dxf(dxf_circle("nan")),
        "3,000 crossing lines": lambda: crossing_lines(3000),
    }.items():
        yield Hostile(f"a DXF drawing with a {what}", "drawing", make)
    yield Hostile(
        "a picture that unpacks to too much", "photo", lambda: png(300, 300, zlib.compress(bytes(200_000_000), 9))
    )
    yield Hostile("a card picture of 3,600 megapixels", "picture", lambda: png(60_000, 60_000, b"x"))
    yield Hostile("a card picture of 200 by 240,000", "picture", lambda: png(200, 240_000))
    yield Hostile("a Shelf with digits without end", "shelf", lambda: shelf(f"[{'9' * 10_000}]"))
    yield Hostile("a Shelf whose version has digits without end", "shelf", lambda: shelf("[]", "9" * 10_000))
    yield Hostile("a Shelf of nests", "shelf", lambda: shelf("[" * 100_000 + "]" * 100_000))
    yield Hostile("a Shelf of a million nothings", "shelf", lambda: shelf("[" + "0," * 1_000_000 + "0]"))
    yield Hostile(
        "a Shelf with a picture that lies", "shelf", lambda: shelf(json.dumps([{"blank": {}, "picture": "AAAA"}]))
    )
    yield Hostile("a Shelf in UTF-16", "shelf", lambda: shelf("[]").decode().encode("utf-16"))
    yield Hostile("a Shelf of numbers that are none", "shelf", lambda: shelf("[NaN, Infinity]"))
    rows = "name;upper;lower\n" + "cup;" + "9" * 10_000 + ";1\n"
    yield Hostile("a table with digits without end", "shelf", lambda: rows.encode())


def every() -> list[Hostile]:
    """All of them."""
    return [*drawings(), *others()]


if __name__ == "__main__":
    folder = Path(sys.argv[1])
    folder.mkdir(parents=True, exist_ok=True)
    for n, file in enumerate(every()):
        (folder / f"{n:03} {file.name[:60]}.{file.kind}").write_bytes(file.make())
