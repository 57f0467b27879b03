"""Taking an SVG file in without harm: nothing is fetched, nothing expands, nothing in it runs."""

from __future__ import annotations

import gzip
import io
import re
from functools import lru_cache

from lxml import etree

from ...errors import BadDrawing

MOST_BYTES = 20_000_000
MOST_NUMBERS = 600_000
MOST_ELEMENTS = 100_000
XLINK_HREF = "{http://www.w3.org/1999/xlink}href"
LONGEST_DOCTYPE = 100_000
MOST_ATTRIBUTES = 300
LONGEST_ATTRIBUTE = 20_000
LONGEST_SHEET = 1_000_000
_LONG = ("d", "points", "href", XLINK_HREF)
"""Attributes that may be longer: numbers, which are counted, and pictures, which are taken out."""
SVG = "{http://www.w3.org/2000/svg}"

_DOCTYPE = re.compile(r"<!DOCTYPE[^\[>]*(\[.*?\]\s*)?>", re.DOTALL)
_ENTITY = re.compile(r"<!ENTITY\s+(%\s+)?([\w.:-]+)\s+(?:(SYSTEM|PUBLIC)\b|(\"[^\"]*\"|'[^']*'))", re.DOTALL)


def _text_of(data: bytes) -> str:
    if data[:2] == b"\x1f\x8b":
        try:
            with gzip.GzipFile(fileobj=io.BytesIO(data)) as packed:
                data = packed.read(MOST_BYTES + 1)
        except (OSError, EOFError) as bad:
            raise BadDrawing(
                "The file is packed, and the packing is damaged.", hint="Save the drawing again as plain SVG."
            ) from bad
    if len(data) > MOST_BYTES:
        raise BadDrawing(
            f"The file has {len(data) / 1e6:.0f} MB.",
            hint=f"At most {MOST_BYTES // 1_000_000} MB are read: simplify the drawing, or take pictures out.",
        )
    if not data.strip():
        raise BadDrawing("The file is empty.", hint="Save the drawing again as SVG and choose that file.")
    if data[:2] in (b"\xff\xfe", b"\xfe\xff"):
        return data.decode("utf-16", errors="replace")
    declared = re.match(rb"<\?xml[^>]*encoding=[\"']([\w.-]+)[\"']", data.lstrip(b"\xef\xbb\xbf"))
    encoding = declared.group(1).decode("ascii") if declared else "utf-8"
    try:
        return data.decode("utf-8-sig" if encoding.lower() in ("utf-8", "utf8") else encoding)
    except (UnicodeDecodeError, LookupError):
        return data.decode("latin-1")


def _without_doctype(text: str) -> str:
    begins = text.find("<!DOCTYPE", 0, 200_000)
    found = _DOCTYPE.match(text[: begins + LONGEST_DOCTYPE], begins) if begins >= 0 else None
    if not found:
        return text
    entities: dict[str, str] = {}
    for parameter, name, external, value in _ENTITY.findall(found.group(1) or ""):
        if external or parameter:
            raise BadDrawing(
                f"The file draws in another file through the entity “{name}”.",
                hint="Nothing outside the drawing is ever fetched: save it again as plain SVG.",
            )
        if "&" in value and not re.fullmatch(r"[^&]*(&#\w+;[^&]*)*", value):
            raise BadDrawing(
                f"The entity “{name}” is built from other entities, which may grow without end.",
                hint="Save it again as plain SVG, without entities.",
            )
        entities[name] = value[1:-1]
    body = text[: found.start()] + text[found.end() :]
    if not entities:
        return body
    names = "|".join(map(re.escape, entities))
    uses = re.findall(f"&({names});", body)
    if sum(len(entities[u]) for u in uses) + len(body) > MOST_BYTES:
        raise BadDrawing(
            "The file's entities expand to more than is read.", hint="Save it again as plain SVG, without entities."
        )
    return re.sub(f"&({names});", lambda m: entities[m.group(1)], body)


def parse_svg(data: bytes) -> etree._Element:
    """The root element of an SVG file. Raises BadDrawing for what is not one, is cut short, too large or unsafe."""
    text = re.sub(r"^\s*<\?xml[^>]*\?>", "", _without_doctype(_text_of(data)), count=1)
    parser = etree.XMLParser(
        resolve_entities=False, no_network=True, load_dtd=False, huge_tree=False, remove_comments=True, remove_pis=True
    )
    try:
        root = etree.fromstring(text.strip().encode("utf-8"), parser)
    except etree.XMLSyntaxError as bad:
        if "<svg" not in text[:5000]:
            raise BadDrawing(
                "This is not an SVG drawing.", hint="Choose a file that your drawing program saved as SVG."
            ) from None
        if "depth" in (bad.msg or ""):
            raise BadDrawing(
                "The drawing's groups lie too deep in one another.", hint="At most 250 deep are read: ungroup some."
            ) from None
        line = bad.position[0] if bad.position else 1
        raise BadDrawing(
            f"The drawing breaks off or is damaged near line {line}.",
            hint="Save it again as SVG, or download it once more.",
        ) from None
    if root.tag not in (f"{SVG}svg", "svg"):
        raise BadDrawing(
            f"This is XML, but not a drawing: its outermost element is “{etree.QName(root).localname}”.",
            hint="Choose a file that your drawing program saved as SVG.",
        )
    if root.tag == "svg":
        for el in root.iter(etree.Element):
            if "}" not in el.tag:
                el.tag = SVG + el.tag
    count = sum(1 for _ in root.iter())
    if count > MOST_ELEMENTS:
        raise BadDrawing(f"The drawing has {count} elements.", hint=f"At most {MOST_ELEMENTS} are read: simplify it.")
    for el in root.iter(etree.Element):
        _check_attributes(el)
    sheet = sum(len(t) for style in root.iter(f"{SVG}style") for t in style.itertext())
    if sheet > LONGEST_SHEET:
        raise BadDrawing(
            f"The drawing's style sheets have {sheet:,} characters.",
            hint=f"At most {LONGEST_SHEET:,} are read: save it with plain attributes instead of style rules.",
        )
    return root


def _check_attributes(el: etree._Element) -> None:
    """Raises BadDrawing for an element that says too much; what is too long and means nothing here is dropped."""
    if len(el.attrib) > MOST_ATTRIBUTES:
        raise BadDrawing(
            f"One {etree.QName(el).localname} of the drawing has {len(el.attrib):,} attributes.",
            hint=f"At most {MOST_ATTRIBUTES} are read: save it again as plain SVG.",
        )
    for name, value in el.attrib.items():
        if len(value) <= LONGEST_ATTRIBUTE or name in _LONG:
            continue
        if "}" in str(name) or str(name).startswith("data-") or name == "id":
            # What other programs noted for themselves.
            del el.attrib[name]
        else:
            raise BadDrawing(
                f"The “{str(name)[:40]}” of one {etree.QName(el).localname} has {len(value):,} characters.",
                hint=f"At most {LONGEST_ATTRIBUTE:,} are read: save it again as plain SVG.",
            )


_DROPPED = {
    "script",
    "foreignObject",
    "iframe",
    "object",
    "embed",
    "audio",
    "video",
    "image",
    "animate",
    "set",
    "animateTransform",
    "animateMotion",
    "metadata",
    "handler",
    "listener",
}
_OUTSIDE_URL = re.compile(r"url\(\s*+(?!['\"]?\s*+#)[^()]*+\)", re.IGNORECASE)


@lru_cache(maxsize=4096)
def _is_outside(key: str) -> bool:
    """Does an attribute act, or name what lies outside?"""
    local = etree.QName(key).localname.lower()
    return bool(local.startswith("on") or local in ("src", "base"))


@lru_cache(maxsize=4096)
def _links(key: str) -> bool:
    return bool(etree.QName(key).localname.lower() == "href")


def clean_svg(data: bytes) -> bytes:
    """The drawing as it may be kept and handed out: no scripts, events, links outside, pictures or foreign content.

    Raises BadDrawing as `parse_svg` does.
    """
    return as_bytes(clean_tree(data))


def as_bytes(root: etree._Element) -> bytes:
    """A drawing written out."""
    out: bytes = etree.tostring(root, encoding="utf-8", xml_declaration=True)
    return out


def clean_tree(data: bytes) -> etree._Element:
    """The cleaned drawing as a tree."""
    root = parse_svg(data)
    for el in list(root.iter(etree.Element)):
        name = etree.QName(el)
        if name.localname in _DROPPED and el is not root:
            parent = el.getparent()
            if parent is not None:
                if name.localname == "image":
                    parent.replace(el, etree.Element(f"{SVG}desc", {"data-taken-out": "image"}))
                else:
                    parent.remove(el)
            continue
        for key, value in list(el.attrib.items()):
            if _is_outside(key) or (_links(key) and not value.strip().startswith("#")):
                del el.attrib[key]
            elif "url(" in value.lower():
                el.set(key, _OUTSIDE_URL.sub("none", value))
        if name.localname == "style" and el.text:
            el.text = re.sub(r"@import[^;]*;?", "", _OUTSIDE_URL.sub("none", el.text), flags=re.IGNORECASE)
    return root
