"""A list of names: each in its room, each cut as if it were a job of its own, and lists as people write them."""

from __future__ import annotations

import csv
import io
import itertools
from decimal import Decimal
from typing import Any

import pytest
from samples import cup, drawing, example, files_of, svg
from wimple_core.artwork.lettering import in_room, set_words, shipped_face
from wimple_core.artwork.lettering.setting import straight_extent
from wimple_core.command import main
from wimple_core.errors import BadDocument
from wimple_core.export import all_files
from wimple_core.export.names import names_csv
from wimple_core.export.report import make_report
from wimple_core.job import load_job
from wimple_core.job.lettering import Baseline, Lettering
from wimple_core.job.names import MOST_ROWS, Room
from wimple_core.pipeline import build, build_whole
from wimple_core.table_file import read_table

ROOM = Room(wide_mm=50, tall_mm=22, least_mm=6, most_lines=2)
FACE = shipped_face("barlow-condensed")


def fitted(text: str, room: Room = ROOM, **words: Any) -> tuple[Any, float, float]:
    """How a text fits, and how wide and tall it is when it is set anew by what was found."""
    fit = in_room(Lettering(text=text, size_mm=14, **words), FACE, room)
    left, low, right, high = set_words(fit.words, FACE).bounds
    return fit, right - left, high - low


def test_words_are_made_as_small_as_their_room_asks_for_and_no_smaller() -> None:
    short, wide, _ = fitted("Kit")
    assert short.shrunk == 1 and short.words.size_mm == 14 and wide < 50
    long, wide, _ = fitted("Bartholomew")
    assert 49.5 < wide <= 50.0 and long.capitals == pytest.approx(long.words.size_mm) and "\n" not in long.words.text
    assert long.shrunk == pytest.approx(long.words.size_mm / 14)
    bent, wide, tall = fitted("Bartholomew", baseline=Baseline(kind="over", radius_mm=30))
    assert wide <= 50 and tall <= 22 and (wide > 48 or tall > 21)
    low, _, tall = fitted("Kit", Room(wide_mm=50, tall_mm=5, least_mm=2))
    assert 4.9 < tall <= 5 and low.capitals < 5.01


@pytest.mark.parametrize("text", ["Wg", "Zo\u00eb\nfj \u00c1", "AVATAR"])
@pytest.mark.parametrize("sized", ["capitals", "small", "width"])
def test_words_are_measured_without_being_drawn_as_they_are_drawn(text: str, sized: str) -> None:
    for font in ("pacifico", "barlow-condensed"):
        face = shipped_face(font)
        words = Lettering(text=text, font=font, size_mm=20, sized=sized, tracking=30, line_distance=130)  # type: ignore[arg-type]
        made = set_words(words, face)
        left, low, right, high = made.bounds
        assert straight_extent(words, face) == pytest.approx((made.capitals, right - left, high - low), abs=0.03)


def test_under_the_least_size_they_go_on_in_the_next_line() -> None:
    room, text = Room(wide_mm=60, tall_mm=22, least_mm=6, most_lines=2), "Captain Nightingale of the North"
    fit, wide, tall = fitted(text, room)
    assert fit.words.text.count("\n") == 1 and fit.capitals >= 6 and wide <= 60 and tall <= 22
    # Broken where they may be largest, as one sees by breaking them everywhere.
    words = text.split(" ")
    largest = 0.0
    for n in range(1, len(words)):
        broken = Lettering(text=" ".join(words[:n]) + "\n" + " ".join(words[n:]), size_mm=10)
        left, low, right, high = set_words(broken, FACE).bounds
        largest = max(largest, min(10 * 60 / (right - left), 10 * 22 / (high - low)))
    assert fit.capitals == pytest.approx(largest, abs=0.02)


def test_what_does_not_fit_even_so_stands_at_the_least_size_and_is_said() -> None:
    fit, wide, _ = fitted("Bartholomewandhissevenbrothers")
    assert fit.short and fit.capitals == pytest.approx(6) and fit.over == pytest.approx(wide - 50, abs=0.3)


def named(rows: list[list[str]], columns: list[dict[str, Any]] | None = None, **more: Any) -> dict[str, Any]:
    words = {"id": "n", "source": {"kind": "lettering", "text": "Name", "size_mm": 12}, "placements": [{"up_mm": 45}]}
    columns = columns or [{"element": "n", "room": {"wide_mm": 44, "tall_mm": 20, "least_mm": 4}}]
    return {**cup(), "elements": [words], "names": {"columns": columns, "rows": rows}, **more}


NAMES = [["Wenna"], ["Marigold Anne Tremayne"], ["Jo"], ["Wenna"]]


def test_each_line_is_cut_as_a_job_of_its_own_would_be() -> None:
    built = build_whole(load_job(named(NAMES)), {})
    report = make_report(built)
    items = {i.item.row: i.item for load in built.sheets.loads for i in load.items}
    assert sorted(items) == [0, 1, 2, 3] and [n.sheets for n in report.names] == [[1]] * 4
    for n, (text,) in enumerate(NAMES):
        fit = built.named.rows[n].fits[0]
        alone = named([], quantity=1)
        del alone["names"]
        alone["elements"][0]["source"].update(text=fit.words.text, size_mm=fit.words.size_mm)
        own = build_whole(load_job(alone), {})
        assert items[n].area == pytest.approx(own.layers.layers[0].area, rel=1e-9), text
        mine, theirs = items[n].cuts.only("piece").bounds, own.sheets.loads[0].items[0].cuts.only("piece").bounds
        assert [mine[k + 2] - mine[k] for k in (0, 1)] == pytest.approx([theirs[k + 2] - theirs[k] for k in (0, 1)]), (
            text
        )
    regions = [i.cuts.only("piece", "hole").region for i in built.sheets.loads[0].items]
    assert all(a.distance(b) >= 3 - 1e-6 for a, b in itertools.combinations(regions, 2))
    assert {v.code: v.level for v in built.verdicts if v.code.startswith("names")} == {
        "names.short": "ok",
        "names.twice": "look",
    }


def test_cut_n_times_four_names_cost_as_four_times_n_pieces() -> None:
    twice = build_whole(load_job(named(NAMES, quantity=2)), {})
    once = build_whole(load_job(named(NAMES)), {})
    assert twice.job.pieces == 8 and {load.times for load in twice.sheets.loads} == {2}
    assert twice.price.cost == once.price.cost and twice.price.batch_cost == pytest.approx(
        2 * once.price.batch_cost, abs=Decimal("0.011")
    )
    assert twice.cutting.seconds == pytest.approx(2 * once.cutting.seconds)


def test_more_names_than_a_mat_holds_go_on_the_next() -> None:
    rows = [[f"Visitor {n}"] for n in range(90)]
    boxes, built = (build_whole(load_job(named(rows, sheets={"lay": lay})), {}) for lay in ("boxes", "least"))
    assert len(boxes.sheets.loads) > 1 and all(load.fits for load in boxes.sheets.loads)
    assert built.sheets.film_area < boxes.sheets.film_area and len(built.sheets.loads) <= len(boxes.sheets.loads)
    for one in (boxes, built):
        assert sorted(i.item.row for load in one.sheets.loads for i in load.items) == list(range(90))
    assert "names.csv" in {f.path for f in all_files(built, {})}


def test_what_varies_may_be_a_colour_a_number_a_measure_or_a_drawing() -> None:
    columns = [
        {"element": "n"},
        {"element": "n", "field": "colour"},
        {"element": "s", "field": "form.points"},
        {"element": "d", "field": "file"},
    ]
    raw = named([["7", "#b3261e", "6", "a.svg"], ["12", "", "5", ""]], columns)
    raw["elements"] += [
        {"id": "s", "source": {"kind": "shape", "form": {"form": "star", "points": 9}}, "placements": [{"up_mm": 20}]},
        {"id": "d", "source": {"kind": "file", "file": "b.svg"}, "placements": [{"up_mm": 70, "width_mm": 8}]},
    ]
    files = {
        "a.svg": svg('<rect width="10" height="10" fill="#00aa00"/>'),
        "b.svg": svg('<rect width="10" height="5" fill="#0000aa"/>'),
    }
    job = load_job(raw)
    assert set(job.drawings) == {"a.svg", "b.svg"}
    built = build_whole(job, files)
    first, second = (row.elements for row in built.named.rows)
    assert first[0].source.colour == "#b3261e" and second[0].source.colour == "#18202e"
    assert (first[1].source.form.points, second[1].source.form.points) == (6, 5)
    assert "#00aa00" in {la.colour for la in built.layers.layers}
    films = {(i.item.film_colour, i.item.row) for load in built.sheets.loads for i in load.items}
    assert {("#b3261e", 0), ("#00aa00", 0), ("#0000aa", 1)} <= films and ("#b3261e", 1) not in films


def test_a_line_that_cannot_be_made_is_said_and_the_others_go_on() -> None:
    columns = [{"element": "n"}, {"element": "n", "field": "colour"}]
    raw = named([["Ada", "#102030"], ["Bo", "reddish"], ["", "#102030"], ["Cy", ""]], columns)
    built = build_whole(load_job(raw), {})
    (bad,) = [v for v in built.verdicts if v.code == "names.trouble"]
    assert bad.level == "stop" and bad.value == 2 and "Line 2" in bad.sentence() and bad.field == "names.rows.1.1"
    assert {i.item.row for load in built.sheets.loads for i in load.items} == {0, 3}
    (fits,) = [v for v in built.verdicts if v.code == "names.short"]
    assert fits.sentence().startswith("All 2 names fit")
    raw["names"]["shown"] = 2
    shown = build(load_job(raw), {})
    assert shown.stopped and shown.stopped.error.field == "names.rows.2.0" and "no words" in shown.stopped.error.message


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"columns": [{"element": "zz"}]}, "names"),
        ({"rows": [["a", "b"]]}, "names"),
        ({"rows": []}, "names.rows"),
        ({"shown": 9}, "names"),
        ({"rows": [["x"]] * (MOST_ROWS + 1)}, "names.rows"),
    ],
)
def test_a_list_that_is_none_is_refused_at_its_field(change: dict[str, Any], field: str) -> None:
    raw = named(NAMES)
    raw["names"] = {**raw["names"], **change}
    with pytest.raises(BadDocument) as bad:
        load_job(raw)
    assert bad.value.field == field and bad.value.hint


@pytest.mark.parametrize(
    ("data", "rows"),
    [
        (b"Ada\r\nBo\r\n\r\n", [("Ada",), ("Bo",)]),
        ("\ufeffName;No\nZo\u00eb;4\n\u00c1lvaro;5".encode(), [("Zo\u00eb", "4"), ("\u00c1lvaro", "5")]),
        ("Zo\u00eb,1\n\u00c1lvaro,2\n".encode("cp1252"), [("Zo\u00eb", "1"), ("\u00c1lvaro", "2")]),
        ("name\tno\nAda\t1\n".encode("utf-16"), [("Ada", "1")]),
        (b'"Finch, Ada",1\n"say ""hi""",2\n', [("Finch, Ada", "1"), ('say "hi"', "2")]),
        (b"Finch, Ada\nBo\nCy\nDi\n", [("Finch, Ada",), ("Bo",), ("Cy",), ("Di",)]),
        (b'"two\nlines",1\nAda,2\nBo,3', [("two\nlines", "1"), ("Ada", "2"), ("Bo", "3")]),
        (b"a,b\nc\nd,e\nf,g\n", [("a", "b"), ("c", ""), ("d", "e"), ("f", "g")]),
        (b"sep=|\na|b\nc|d\n", [("a", "b"), ("c", "d")]),
        (drawing("visitor-names.csv")[:25], [("Wenna",), ("Tobin",), ("Ottoline"[:8],)]),
    ],
)
def test_lists_are_read_as_people_write_them(data: bytes, rows: list[tuple[str, ...]]) -> None:
    assert list(read_table(data).rows) == rows


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (b"", "empty"),
        (b"PK\x03\x04\x00\x00", "no text"),
        (b"n\n" * 10_000, "10,000 lines"),
        (b",".join([b"x"] * 30), "30 columns"),
        (b'a,b\n"c,d\n' + b"e,f\n" * 200, "more than 200 letters"),
        (b"\xff\xfea", "breaks off"),
    ],
)
def test_what_is_no_list_is_said(data: bytes, said: str) -> None:
    with pytest.raises(BadDocument) as bad:
        read_table(data)
    assert said in bad.value.message and bad.value.hint


FORMULAS = ["=1+1", "+44 20", "-5", "@SUM(A1)", " =HYPERLINK(0)", "\uff1dcmd", "Ada = 1", "O'Neil", "'quoted'"]


def test_no_cell_of_a_list_goes_out_as_a_formula_and_all_come_back_as_they_were() -> None:
    columns = [{"element": "n", "title": "=who", "room": {"wide_mm": 120, "tall_mm": 60, "least_mm": 1}}]
    b = build_whole(load_job(named([[f] for f in FORMULAS], columns)), {}, "artwork")
    assert b.named is not None
    written = names_csv(b.job.names, b.named)
    for row in csv.reader(io.StringIO(written)):
        assert not any(cell.lstrip().startswith(("=", "+", "-", "@", "\t", "\r", "\uff1d")) for cell in row), row
    assert [row[0] for row in read_table(written.encode()).rows][-len(FORMULAS) :] == [
        " ".join(f.split()) for f in FORMULAS
    ]


def test_the_command_takes_a_list_of_its_own(tmp_path: Any, capsys: Any) -> None:
    (tmp_path / "list.csv").write_text("Ada\nBo\n", encoding="utf-8")
    example = "examples/visitor-names.wimple.json"
    assert main([example, "--names", str(tmp_path / "list.csv"), "--out", str(tmp_path / "out")]) == 0
    lines = (tmp_path / "out" / "names.csv").read_text(encoding="utf-8").splitlines()
    assert lines[0] == "Name,capitals_mm,trouble" and lines[1].startswith("Ada,16") and len(lines) == 3
    (tmp_path / "wide.csv").write_text("Ada,1\nBo,2\n", encoding="utf-8")
    assert main([example, "--names", str(tmp_path / "wide.csv"), "--out", str(tmp_path / "out")]) == 1
    assert "2 columns" in capsys.readouterr().err


def test_a_stroke_too_thin_in_a_room_is_mended_by_the_room() -> None:
    """A larger size would be made smaller again; the wider room it names is enough, and a little less is not."""

    def judged(wide: float) -> list[Any]:
        source = {"kind": "lettering", "text": "x", "font": "barlow-condensed", "size_mm": 30}
        names = {
            "columns": [{"element": "e1", "room": {"wide_mm": wide, "tall_mm": 90, "least_mm": 3, "most_lines": 1}}],
            "rows": [["Bartholomew"]],
        }
        raw = {**cup(), "elements": [{"source": source, "placements": [{"up_mm": 45}]}], "names": names}
        return [v for v in build_whole(load_job(raw), {}, "artwork").verdicts if v.code == "artwork.stroke"]

    (thin,) = judged(30)
    assert thin.field == "names.columns.0.room.wide_mm" and 30 < thin.fix < 200
    assert not judged(thin.fix) and judged(0.85 * thin.fix)


def test_names_too_many_for_one_load_keep_the_order_of_the_list() -> None:
    """On a narrow mat the first lines are on the first load, and each load takes as many as go."""
    columns = [{"element": "n", "room": {"wide_mm": 120, "tall_mm": 60, "least_mm": 20}}]
    raw = named([[f"No {n} of {n * n}"] for n in range(40)], columns)
    raw["elements"][0]["source"]["size_mm"] = 40
    raw["sheets"] = {"held": [{"corner": "low_left"}]}
    sheets = build_whole(load_job(raw), {}).sheets
    assert "A list of names is laid over the corners" in sheets.verdicts[1].reason
    loads = sheets.loads
    rows = [sorted(i.item.row for i in load.items) for load in loads]
    assert len(loads) > 1 and [n for some in rows for n in some] == list(range(40))
    for load in loads:
        work = [i.cuts.only("piece", "hole").region for i in load.items]
        assert load.fits and all(a.distance(b) >= 3 - 1e-6 for a, b in itertools.combinations(work, 2))


def test_each_name_is_priced_and_counted_by_itself() -> None:
    """A name of two pieces and one of nine: each costs what its film takes, together as much as the batch, and the
    pieces are counted by name."""
    raw = example("visitor-names")
    b = build_whole(load_job(raw), files_of(raw))
    price, rows = b.price, b.named.rows  # type: ignore[union-attr]
    assert price is not None and len(price.each) == len(rows)
    apart = sum((cost for _, cost, _ in price.each), Decimal(0)) - price.batch_cost / b.job.quantity
    assert abs(apart) <= Decimal(len(rows)) / 100
    of = {rows[n].name: cost for n, cost, _ in price.each}
    longest, shortest = max(of, key=len), min(of, key=len)
    assert of[longest] > of[shortest]
    said = next(v for v in b.verdicts if v.code == "layup.pieces").sentence()
    assert "each name" in said
    # What is printed beside it, alike for all, is shared by all alike.
    raw["elements"].append({**raw["elements"][0], "id": "p", "printed": {"border_mm": 4}})
    beside = build_whole(load_job(raw), files_of(raw)).price
    more = [with_ - cost for (_, with_, _), (_, cost, _) in zip(beside.each, price.each, strict=True)]  # type: ignore[union-attr]
    assert max(more) - min(more) <= Decimal("0.02") and min(more) > 0
