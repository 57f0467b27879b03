"""The cascade: presentation attributes, style sheets, style attributes, inheritance."""

from __future__ import annotations

import re
from collections.abc import Mapping
from functools import lru_cache

import cssselect2
import tinycss2
import tinycss2.color4
from lxml import etree

from ...errors import BadDrawing
from .safety import SVG

INHERITED: dict[str, str] = {
    "fill": "#000",
    "fill-rule": "nonzero",
    "fill-opacity": "1",
    "stroke": "none",
    "stroke-width": "1",
    "stroke-linejoin": "miter",
    "stroke-linecap": "butt",
    "stroke-miterlimit": "4",
    "stroke-dasharray": "none",
    "stroke-dashoffset": "0",
    "stroke-opacity": "1",
    "color": "#000",
    "visibility": "visible",
    "clip-rule": "nonzero",
    "font-size": "16px",
    "paint-order": "normal",
    "marker-start": "none",
    "marker-mid": "none",
    "marker-end": "none",
}
OWN: dict[str, str] = {
    "display": "inline",
    "opacity": "1",
    "clip-path": "none",
    "mask": "none",
    "filter": "none",
    "overflow": "",
    "stop-color": "#000",
    "stop-opacity": "1",
    "transform": "",
    "mix-blend-mode": "normal",
}
MOST_TESTS = 2_000_000
"""So often one selector is held against one element: each takes some microseconds."""
_GEOMETRY = ("d", "x", "y", "cx", "cy", "r", "rx", "ry", "width", "height")
_MARKERS = ("marker-start", "marker-mid", "marker-end")
_KNOWN = frozenset(INHERITED) | frozenset(OWN) | frozenset(_GEOMETRY)

Style = Mapping[str, str]


def _parted(text: str) -> list[str]:
    """What stands between the semicolons of a text that stand in no brackets."""
    out, deep, begin = [], 0, 0
    for found in re.finditer("[;()]", text):
        deep = max(0, deep + {"(": 1, ")": -1, ";": 0}[found[0]])
        if found[0] == ";" and not deep:
            out.append(text[begin : found.start()])
            begin = found.end()
    return [*out, text[begin:]]


def _uncommented(text: str) -> str:
    """A text without its comments; one that is left open goes on to the end."""
    kept = []
    while (begin := text.find("/*")) >= 0:
        kept.append(text[:begin])
        end = text.find("*/", begin + 2)
        text = text[end + 2 :] if end >= 0 else ""
    return "".join([*kept, text])


def _declarations(text: str) -> list[tuple[str, str, bool]]:
    out = []
    for part in _parted(text):
        name, colon, value = part.partition(":")
        if colon:
            value, bang, _ = value.partition("!important")
            out.append((name.strip().lower(), value.strip(), bool(bang)))
    return out


class StyleSheet:
    """All `<style>` elements of a drawing, matched against its elements."""

    def __init__(self, root: etree._Element) -> None:
        self.matcher = cssselect2.Matcher()
        self.used = False
        self.wrappers: dict[etree._Element, cssselect2.ElementWrapper] = {}
        for style in root.iter(f"{SVG}style"):
            self._read("".join(style.itertext()))
        if self.used:
            self._check(root)
            self.wrappers = {w.etree_element: w for w in cssselect2.ElementWrapper.from_xml_root(root).iter_subtree()}

    def _check(self, root: etree._Element) -> None:
        """Raises BadDrawing where selectors would be held against elements too often."""
        m = self.matcher
        always = len(m.other_selectors)
        tests = 0
        for el in root.iter(etree.Element):
            tests += always + len(m.lower_local_name_selectors.get(etree.QName(el).localname.lower(), ()))
            tests += sum(len(m.class_selectors.get(c, ())) for c in (el.get("class") or "").split())
        if tests > MOST_TESTS:
            raise BadDrawing(
                f"The drawing's styles would be looked up {tests:,} times.",
                hint=f"At most {MOST_TESTS:,} look-ups are made: save it with plain attributes instead of style rules.",
            )

    def _read(self, text: str) -> None:
        for rule in tinycss2.parse_stylesheet(text, skip_comments=True, skip_whitespace=True):
            if rule.type == "at-rule" and rule.lower_at_keyword == "media" and rule.content:
                if "print" not in tinycss2.serialize(rule.prelude) and "prefers" not in tinycss2.serialize(
                    rule.prelude
                ):
                    self._read(tinycss2.serialize(rule.content))
                continue
            if rule.type != "qualified-rule":
                continue
            body = _declarations(tinycss2.serialize([t for t in rule.content if t.type != "comment"]))
            try:
                selectors = cssselect2.compile_selector_list(rule.prelude)
            except cssselect2.SelectorError:
                continue
            for selector in selectors:
                self.matcher.add_selector(selector, body)
                self.used = True

    def rules_for(self, element: etree._Element) -> list[tuple[str, str, bool]]:
        """Declarations that apply to the element, weakest first."""
        if not self.used:
            return []
        wrapper = self.wrappers.get(element)
        if wrapper is None:
            return []
        return [d for _, _, _, body in sorted(self.matcher.match(wrapper), key=lambda m: m[:2]) for d in body]


def own_style(element: etree._Element, sheet: StyleSheet) -> dict[str, str]:
    """What the element itself says, before inheritance."""
    out: dict[str, str] = {k: v.strip() for k, v in element.attrib.items() if k in _KNOWN}  # type: ignore[misc,union-attr]
    said = sheet.rules_for(element)
    if style := element.get("style"):
        said = said + _declarations(_uncommented(style))
    said = [(n, value, bang) for name, value, bang in said for n in (_MARKERS if name == "marker" else (name,))]
    for name, value, important in said:
        if name in _KNOWN and not important and value:
            out[name] = value
    for name, value, important in said:
        if name in _KNOWN and important and value:
            out[name] = value
    return out


def cascade(parent: Style, own: Mapping[str, str]) -> dict[str, str]:
    """The computed style of an element below `parent`."""
    out = {k: parent[k] for k in INHERITED}
    out.update(OWN)
    for name, value in own.items():
        if value == "inherit":
            out[name] = parent.get(name, OWN.get(name, ""))
        elif value == "initial":
            out[name] = INHERITED.get(name, OWN.get(name, ""))
        else:
            out[name] = value
    return out


@lru_cache(maxsize=4096)
def read_colour(text: str) -> tuple[str, float] | None:
    """`#rrggbb` and opacity of a CSS colour, or None where it is none. Wider gamuts are clipped to sRGB."""
    text = text.partition("icc-color(")[0].strip()
    try:
        colour = tinycss2.color4.parse_color(text)
    except Exception:
        return None
    if colour is None or colour == "currentcolor":
        return None
    try:
        rgb = colour.to("srgb")
    except Exception:
        return None
    channels = [min(1.0, max(0.0, float(c or 0.0))) for c in rgb.coordinates]
    return "#" + "".join(f"{int(c * 255 + 0.5):02x}" for c in channels), float(rgb.alpha)
