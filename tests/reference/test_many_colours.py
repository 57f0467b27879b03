"""Many-coloured drawings nobody here made, from five sets of illustrations, through layers and stacking on a panel, a
cylinder, a taper in every way and in copies, against resvg. All four hundred: `python tests/many_coloured.py`."""

from __future__ import annotations

import pytest
from many_coloured import PLACES, SHADED, draws_something, sample, share_alike
from wimple_core.errors import BadDrawing

DRAWINGS = list(sample(40, seed=20261126))


@pytest.mark.parametrize("n", range(len(DRAWINGS)))
def test_what_resvg_draws_is_cut(n: int) -> None:
    """None is refused that resvg draws, none fails, and what film can show looks as drawn."""
    name, data = DRAWINGS[n]
    plain = not any(word in data.decode() for word in SHADED)
    for place in (PLACES[0], PLACES[1 + n % (len(PLACES) - 1)]):
        try:
            alike, pieces = share_alike(data, place)
        except BadDrawing:
            assert not draws_something(data), name
            return
        assert pieces > 0
        if plain:
            assert alike >= 0.99, (name, place[0])
