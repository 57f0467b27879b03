"""What a drawing grows to once its uses are drawn: counted before anything is, so that no small file costs much."""

from __future__ import annotations

import re
from functools import partial

from lxml import etree

from ...errors import BadDrawing
from .safety import MOST_ELEMENTS, MOST_NUMBERS, SVG, XLINK_HREF

MOST_USES = 10_000
_REFERENCE = re.compile(r"(clip-path|mask|marker(?:-start|-mid|-end)?)\s*[:=]?\s*url\(\s*['\"]?#([^'\")\s]{1,200})")
_NUMBER = re.compile(r"[\d.]+")
_REFERRING = ("clip-path", "mask", "marker-start", "marker-mid", "marker-end")


def _numbers(el: etree._Element) -> int:
    return sum(len(_NUMBER.findall(v)) for v in (el.get("d"), el.get("points")) if v)


def check_expansion(root: etree._Element) -> None:
    """Raises BadDrawing where uses, clips, masks and markers would be drawn too often, or would grow to too much.

    Each element is counted once and each reference adds what it refers to, so the count takes no longer than the file.
    """
    by_id = {i: el for el in root.iter(etree.Element) if (i := el.get("id"))}
    counted: dict[etree._Element, tuple[float, float, float]] = {}

    def referred(el: etree._Element) -> list[tuple[etree._Element, float]]:
        """What an element draws besides its children, and how often."""
        if el.tag != f"{SVG}use" and not any(a in el.attrib for a in (*_REFERRING, "style")):
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
    children = partial(filter, lambda c: isinstance(c.tag, str))
    while todo:
        el, done = todo.pop()
        if done:
            elements, numbers, uses = 1.0, float(_numbers(el)), float(el.tag == f"{SVG}use")
            for other, times in (*((c, 1.0) for c in children(el)), *referred(el)):
                more = counted.get(other, (0.0, 0.0, 0.0))
                # A marker worn is a repeat as well.
                uses += times if other.tag == f"{SVG}marker" and other.getparent() is not el else 0.0
                elements, numbers, uses = elements + times * more[0], numbers + times * more[1], uses + times * more[2]
            counted[el] = (elements, numbers, uses)
            open_.discard(el)
        elif el not in counted and el not in open_:
            open_.add(el)
            todo.append((el, True))
            following = (*children(el), *(r for r, _ in referred(el)))
            todo += [(c, False) for c in following if c not in counted and c not in open_]
    elements, numbers, uses = counted[root]
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
