"""Colours of a drawing against the films at hand."""

from __future__ import annotations

from typing import Any

import pytest
from samples import cup, svg
from wimple_core.cache import StageCache
from wimple_core.errors import BadDocument
from wimple_core.job import load_job
from wimple_core.job.tables import SHIPPED, Tables, load_tables
from wimple_core.pipeline import build_whole

SQUARES = "".join('<rect x="{}" width="9" height="9" fill="{}"/>'.format(11 * n, "{}") for n in range(3))
CACHE = StageCache()


def judged(colours: tuple[str, str, str], tables: Tables = SHIPPED, **layers: Any) -> dict[str, Any]:
    one = {"source": {"kind": "file", "file": "a.svg"}, "placements": [{"width_mm": 60, "up_mm": 50}]}
    job = load_job({**cup(), "elements": [one], "layers": layers})
    files = {"a.svg": svg(SQUARES.format(*colours))}
    return {v.code: v for v in build_whole(job, files, "layers", cache=CACHE, tables=tables).verdicts}


def at_hand(*rows: tuple[str, str, str]) -> Tables:
    return load_tables({"colours": [{"film": f, "name": n, "colour": c} for f, n, c in rows]})


def test_a_colour_that_no_film_comes_near_is_named_and_the_nearest_taken_on_request() -> None:
    said = judged(("#ffffff", "#2a5bb8", "#00ff88"))["layers.at_hand"]
    assert (said.level == "look" and said.value > 10 and "lime" in said.sentence()) or "green" in said.sentence()
    films = said.fixes["layers.films"]
    assert [f["colour"] for f in films] == ["#00ff88"] and films[0]["film_colour"] in ("#9ccc3c", "#2f8a4a")
    assert "layers.at_hand" not in judged(("#ffffff", "#2a5bb8", "#00ff88"), films=films)
    assert "layers.at_hand" not in judged(("#fefefe", "#2b5cb7", "#c32b29"))
    # What was chosen for other colours stays chosen.
    chosen = {"colour": "#ffffff", "film": "cast", "film_colour": "#efe6c8"}
    more = judged(("#ffffff", "#2a5bb8", "#00ff88"), films=[chosen])["layers.at_hand"].fixes["layers.films"]
    assert more[0] == chosen and len(more) == 2


def test_several_are_said_at_once_and_mended_at_once() -> None:
    said = judged(("#00ff88", "#ff00ff", "#2a5bb8"))["layers.at_hand"]
    assert "2 of 3 colours" in said.sentence() and len(said.fixes["layers.films"]) == 2


def test_a_film_is_held_against_its_own_colours_and_another_only_named() -> None:
    tables = at_hand(("cast", "sun", "#f2d22e"), ("calendered-gloss", "ink", "#101010"))
    said = judged(("#f2d22e", "#111111", "#101012"), tables)
    assert (
        "ink is nearest" in said["layers.at_hand"].sentence() and "sun for yellow" in said["layers.at_hand"].sentence()
    )
    assert "layers.at_hand" not in judged(("#f2d22e",) * 3, tables, default_film="cast")
    none = judged(("#f2d22e",) * 3, tables, default_film="glitter")["layers.at_hand"]
    assert not none.fixes and "no glitter, metal flake film at hand" in none.sentence()


def test_more_colours_than_films() -> None:
    tables = at_hand(("calendered-gloss", "ink", "#101010"), ("calendered-gloss", "snow", "#ffffff"))
    said = judged(("#101010", "#ffffff", "#1b1b1f"), tables)["layers.films"]
    assert (said.value, said.limit) == (
        3,
        2,
    ) and "black and black 2 would all be cut from the one ink" in said.sentence()
    assert "layers.films" not in judged(("#101010", "#ffffff", "#ffffff"), tables)


def test_the_list_is_read_anew_where_it_changes_and_may_be_empty() -> None:
    colours = ("#101010", "#ffffff", "#c22a2a")
    assert "layers.at_hand" not in judged(colours)
    assert "layers.at_hand" in judged(colours, at_hand(("calendered-gloss", "ink", "#101010")))
    assert "layers.at_hand" not in judged(colours, load_tables({"colours": []}))


def test_colours_of_films_that_are_not_there() -> None:
    with pytest.raises(BadDocument) as bad:
        at_hand(("velvet", "plum", "#6e1e33"))
    assert "plum" in bad.value.message and "calendered-gloss" in bad.value.hint
    with pytest.raises(BadDocument) as wrong:
        at_hand(("cast", "plum", "purple"))
    assert wrong.value.field == "colours.0.colour"
    # Films of its own only: the colours as shipped of those it has not are passed over.
    own = [{**SHIPPED.films[0].model_dump(), "id": "own"}]
    assert load_tables({"films": own}).colours == SHIPPED.colours
