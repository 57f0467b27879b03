"""Colours: how far apart two are, and whether a film shows on a blank."""

from __future__ import annotations

from functools import lru_cache

from coloraide import Color


@lru_cache(maxsize=4096)
def colour_difference(a: str, b: str) -> float:
    """CIEDE2000 between two `#rrggbb` colours."""
    return float(Color(a).delta_e(b, method="2000"))


def relative_luminance(colour: str) -> float:
    """Relative luminance of `#rrggbb` (WCAG 2.2)."""
    total = 0.0
    for weight, i in ((0.2126, 1), (0.7152, 3), (0.0722, 5)):
        c = int(colour[i : i + 2], 16) / 255
        total += weight * (c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4)
    return total


def contrast_ratio(a: str, b: str) -> float:
    """Contrast of two `#rrggbb` colours, 1 to 21 (WCAG 2.2): `(L1 + 0.05) / (L2 + 0.05)`."""
    high, low = sorted((relative_luminance(a), relative_luminance(b)), reverse=True)
    return (high + 0.05) / (low + 0.05)


def merge_near(areas: dict[str, float], limit: float) -> dict[str, str]:
    """Which colour stands for which: each goes to the largest one within `limit` (CIEDE2000)."""
    stands: dict[str, str] = {}
    kept: list[str] = []
    for colour in sorted(areas, key=lambda c: -areas[c]):
        near = next((k for k in kept if colour_difference(colour, k) <= limit), None)
        stands[colour] = near or colour
        if near is None:
            kept.append(colour)
    return stands


WARMING_C = 3.0
"""Over so many degrees on either side a film changes from one colour to the other (common practice, no source)."""


def warmed(cold: str, warm: str, changes_at: float, degrees: float) -> str:
    """The colour of a film between its cold and its warm one at so many degrees Celsius."""
    share = min(max((degrees - changes_at + WARMING_C) / (2 * WARMING_C), 0.0), 1.0)
    both = [(int(c[i : i + 2], 16), int(w[i : i + 2], 16)) for c, w in ((cold, warm),) for i in (1, 3, 5)]
    return "#" + "".join(f"{round(c + share * (w - c)):02x}" for c, w in both)
