"""The exact development of cylinder and cone, by one formula, and its inverse.

With `sinc(u) = sin(u) / u` and `r(s) = r0 + k s`:

    x = r(s) phi sinc(k phi)
    y = s cos(k phi) - (r0 k phi^2 / 2) sinc(k phi / 2)^2

It is the rigid unrolling of the cone of half apex angle `asin k`, written so that it stays exact as k goes to 0
and for either sign of it; the point `phi = 0, s = 0` is the origin.
"""

from __future__ import annotations

import numpy as np

from ..arrays import Array

LEAST_TAPER = 1e-15
"""A whole turn of a wall of less taper differs from a straight strip by less than a nanometre."""


def develop(phi: Array, s: Array, r0: float, k: float) -> tuple[Array, Array]:
    """Points of the wall laid flat.

    `phi` (n,) rad from the front, `s` (n,) mm along the side; returns `x`, `y` (n,) mm on the template.
    `sin(k phi) / k` and `(1 - cos(k phi)) / k` are taken in the forms above, which lose nothing at small k.
    """
    if abs(k) < LEAST_TAPER:
        return r0 * phi, s + 0.0 * phi
    half = 0.5 * k * phi
    sin_half = np.sin(half)
    from_point = r0 / k + s
    # sin(2h) = 2 sin h cos h; the sag is 1 - cos(2h) = 2 sin(h)^2, which loses nothing where h is small.
    x = from_point * (2.0 * sin_half * np.cos(half))
    y = s - from_point * (2.0 * sin_half * sin_half)
    return x, y


def undevelop(x: Array, y: Array, r0: float, k: float) -> tuple[Array, Array]:
    """Points of the template back on the wall: `x`, `y` (n,) mm to `phi` (n,) rad and `s` (n,) mm."""
    m = np.hypot(k * x, k * y + r0)
    phi = x / r0 if abs(k) < LEAST_TAPER else np.arctan2(k * x, k * y + r0) / k
    s = (k * (x * x + y * y) + 2.0 * r0 * y) / (m + r0)
    return phi, s
