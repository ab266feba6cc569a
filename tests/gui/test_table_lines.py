"""Arranging a table's rows: three cases by hand first, then what must hold of any."""

from dataclasses import dataclass

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pemlo.core.project.sequences import sequence_of
from pemlo.gui.common.columns import Column
from pemlo.gui.table.lines import SEQUENCE, Arrangement, Group, arranged, groupings


@dataclass(frozen=True)
class Row:
    name: str
    samples: int
    seconds: float | None = None
    denoise: str = "none"


COLUMNS = (
    Column("shot", "", lambda r: r.name, figures=False, single=True),
    Column("samples", "", lambda r: str(r.samples), lambda p, _r, _t: p, total=lambda rows: str(len(rows))),
    Column("a frame", "", lambda r: "–" if r.seconds is None else f"{r.seconds} s", order=lambda r: r.seconds),
    Column("denoise", "", lambda r: r.denoise, lambda p, _r, _t: p, figures=False),
)
ROWS = (
    Row("quay_100", 256, 300.0, "frame"),
    Row("quay_20", 512, None),
    Row("lamp_10", 64, 65.0),
    Row("lamp_9", 1024, 3700.0, "frame"),
)


def names(lines):
    return [line.name for line in lines]


def test_numbers_in_names_count_as_numbers():
    assert names(arranged(ROWS, COLUMNS, Arrangement(sort="shot"))) == ["lamp_9", "lamp_10", "quay_20", "quay_100"]


def test_what_has_no_value_stands_last_both_ways():
    up = arranged(ROWS, COLUMNS, Arrangement(sort="a frame"))
    down = arranged(ROWS, COLUMNS, Arrangement(sort="a frame", descending=True))
    assert names(up) == ["lamp_10", "quay_100", "lamp_9", "quay_20"]
    assert names(down) == ["lamp_9", "quay_100", "lamp_10", "quay_20"]


def test_figures_are_sorted_as_numbers():
    assert names(arranged(ROWS, COLUMNS, Arrangement(sort="samples"))) == ["lamp_10", "quay_100", "quay_20", "lamp_9"]


@pytest.mark.parametrize(
    ("text", "shown"),
    [
        ("quay", ["quay_100", "quay_20"]),
        ("QUAY frame", ["quay_100"]),
        ("samples > 200", ["quay_100", "quay_20", "lamp_9"]),
        ("samples>=512", ["quay_20", "lamp_9"]),
        ("quay samples > 256", ["quay_20"]),
        ("a frame > 1:10", ["quay_100", "lamp_9"]),
        ("a frame < 5 m lamp", ["lamp_10"]),
        ("a frame > 1 h", ["lamp_9"]),
        ("samples = 64, lamp", ["lamp_10"]),
        ("sam > 1000", ["lamp_9"]),
        ("nowhere", []),
        ("colour > 3", []),  # there is no such column: its words stand nowhere
        ("  ", ["quay_100", "quay_20", "lamp_10", "lamp_9"]),
    ],
)
def test_filter(text, shown):
    assert names(arranged(ROWS, COLUMNS, Arrangement(filter=text))) == shown


def test_groups_stand_in_the_order_of_the_film_over_their_sorted_rows():
    lines = arranged(ROWS, COLUMNS, Arrangement(group=SEQUENCE, sort="samples", folded=frozenset({"lamp"})))
    assert [type(line) for line in lines] == [Group, Row, Row, Group]
    assert names(lines) == ["quay", "quay_100", "quay_20", "lamp"]
    assert [row.name for row in lines[-1].rows] == ["lamp_10", "lamp_9"]


def test_grouping_is_offered_by_what_some_rows_share():
    assert groupings(ROWS, COLUMNS) == (SEQUENCE, "denoise")
    assert groupings(ROWS[:1], COLUMNS) == ()


@pytest.mark.parametrize(
    ("name", "sequence"),
    [("quay_010", "quay"), ("ep02/quay/010", "ep02/quay"), ("a-b c.d", "a-b c"), ("010", ""), ("_010", ""), ("", "")],
)
def test_sequences_are_names_before_their_last_separator(name, sequence):
    assert sequence_of(name) == sequence


rows = st.lists(
    st.builds(
        Row,
        st.text("ab_1290", max_size=6),
        st.integers(1, 5000),
        st.none() | st.floats(0.1, 1e6),
        st.sampled_from(["none", "frame"]),
    ),
    max_size=12,
)


@given(rows, st.sampled_from(["", "shot", "samples", "a frame"]), st.booleans(), st.text(max_size=30))
def test_no_row_is_lost_or_doubled(found, sort, descending, words):
    everything = arranged(found, COLUMNS, Arrangement(sort=sort, descending=descending))
    assert sorted(map(repr, everything)) == sorted(map(repr, found))
    some = arranged(found, COLUMNS, Arrangement(sort=sort, descending=descending, filter=words))
    assert [row for row in everything if row in some] == list(some)
    grouped = arranged(found, COLUMNS, Arrangement(sort=sort, group=SEQUENCE))
    assert sorted(repr(row) for line in grouped if isinstance(line, Group) for row in line.rows) == sorted(
        map(repr, found)
    )
    assert sorted(repr(line) for line in grouped if isinstance(line, Row)) == sorted(map(repr, found))
