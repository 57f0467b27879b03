"""What a drawing grows to once its uses are drawn: counted before anything is, so that no small file costs much."""

from __future__ import annotations

import re

from lxml import etree

from ...errors import BadDrawing
from .safety import MOST_ELEMENTS, MOST_NUMBERS, SVG, XLINK_HREF

MOST_USES = 10_000
_REFERENCE = re.compile(r"(clip-path|mask|marker(?:-start|-mid|-end)?)\s*[:=]?\s*url\(\s*['\"]?#([^'\")\s]{1,200})")
_NUMBER = re.compile(r"[\d.]+")
_REFERRING = ("clip-path", "mask", "marker-start", "marker-mid", "marker-end")
_NAMES = frozenset(_REFERRING)


def _numbers(el: etree._Element) -> int:
    return sum(len(_NUMBER.findall(v)) for v in (el.get("d"), el.get("points")) if v)


def _refers(el: etree._Element) -> bool:
    """Does an element draw, or wear, another by its id?"""
    return el.tag == f"{SVG}use" or not _NAMES.isdisjoint(el.keys()) or "url(" in (el.get("style") or "")


def check_expansion(root: etree._Element) -> None:
    """Raises BadDrawing where uses, clips, masks and markers would be drawn too often, or would grow to too much."""
    every = list(root.iter(etree.Element))
    if any(map(_refers, every)):
        _check(*_grown(root))
    else:
        _check(float(len(every)), float(sum(map(_numbers, every))), 0.0)


def _grown(root: etree._Element) -> tuple[float, float, float]:
    """How many elements, numbers and repeats a drawing has once all it refers to is drawn.

    Each element is counted once and each reference adds what it refers to, so the count takes no longer than the file.
    """
    by_id = {i: el for el in root.iter(etree.Element) if (i := el.get("id"))}
    counted: dict[etree._Element, tuple[float, float, float]] = {}

    below: dict[etree._Element, list[tuple[etree._Element, float]]] = {}

    def referred(el: etree._Element) -> list[tuple[etree._Element, float]]:
        """What an element draws besides its children, and how often."""
        if not _refers(el):
            return []
        said = "; ".join(f"{a}:{el.get(a)}" for a in _REFERRING if el.get(a)) + ";" + (el.get("style") or "")[:5000]
        worn = max(1.0, _numbers(el) / 2)
        out = [(i, worn if name == "marker-mid" else 1.0) for name, i in _REFERENCE.findall(said)]
        if el.tag == f"{SVG}use":
            out.append(((el.get("href") or el.get(XLINK_HREF) or "").strip().lstrip("#"), 1.0))
        return [(by_id[i], times) for i, times in out if i in by_id]

    # Depth first without recursion; an element still open when it is met again refers to itself, and is not drawn.
    open_: set[etree._Element] = set()
    todo: list[tuple[etree._Element, bool]] = [(root, False)]
    while todo:
        el, done = todo.pop()
        if done:
            elements, numbers, uses = 1.0, float(_numbers(el)), float(el.tag == f"{SVG}use")
            for other, times in below.pop(el):
                more = counted.get(other, (0.0, 0.0, 0.0))
                # A marker worn is a repeat as well.
                uses += times if other.tag == f"{SVG}marker" and other.getparent() is not el else 0.0
                elements, numbers, uses = elements + times * more[0], numbers + times * more[1], uses + times * more[2]
            counted[el] = (elements, numbers, uses)
            open_.discard(el)
        elif el not in counted and el not in open_:
            open_.add(el)
            todo.append((el, True))
            below[el] = [*((c, 1.0) for c in el if isinstance(c.tag, str)), *referred(el)]
            todo += [(c, False) for c, _ in below[el] if c not in counted and c not in open_]
    return counted[root]


def _check(elements: float, numbers: float, uses: float) -> None:
    if uses > MOST_USES:
        raise BadDrawing(
            f"The drawing repeats its parts {_many(uses)} times.",
            hint=f"At most {MOST_USES:,} repeats are drawn: a symbol that holds copies of copies grows without end.",
        )
    if elements > MOST_ELEMENTS or numbers > 2 * MOST_NUMBERS:
        what = f"{_many(elements)} shapes" if elements > MOST_ELEMENTS else f"about {_many(numbers / 2)} points"
        raise BadDrawing(
            f"{'With its repeats drawn the' if uses else 'The'} drawing has {what}.",
            hint=f"At most {MOST_ELEMENTS:,} shapes and {MOST_NUMBERS:,} points are drawn: simplify it.",
        )


def _many(count: float) -> str:
    return f"{count:,.0f}" if count < 1e9 else "more than a thousand million"
