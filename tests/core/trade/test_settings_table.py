"""Many settings in little room say what the records themselves say."""

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from pemlo.core.project.settings import ShotSettings
from pemlo.core.trade.settings_table import SettingsTable

settings = st.builds(
    ShotSettings,
    samples=st.integers(20, 40),
    min_samples=st.sampled_from([None, 4, 8]),
    noise_threshold=st.sampled_from([None, 0.01, 0.02]),
    denoise=st.sampled_from(["none", "frame", "neighbours"]),
    resolution_percent=st.sampled_from([50.0, 100.0]),
    keep=st.sampled_from([(), ("prepare",)]),
    switches=st.sampled_from([(), ("fog",)]),
    frame_step=st.sampled_from([1, 2]),
)


@given(st.lists(settings, min_size=1, max_size=30, unique=True), settings)
def test_each_is_found_in_its_place_and_no_other_is(made, other):
    table = SettingsTable.of(made)
    assert list(table) == made
    assert len(table) == len(made)
    assert [table.place(one) for one in made] == list(range(len(made)))
    assert table.place(other) == (made.index(other) if other in made else None)
    assert [tuple(getattr(one, name) for name in ShotSettings.model_fields) for one in made] == list(table.rows())


@given(st.lists(settings, min_size=2, max_size=20, unique=True))
def test_one_more_and_some_of_them(made):
    *first, last = made
    table = SettingsTable.of(first).and_one(last)
    assert list(table) == made
    assert table.place(last) == len(first)
    assert [table.place(one) for one in first] == list(range(len(first)))
    assert list(table.only([len(first), 0])) == [last, made[0]]
    assert list(table[1:]) == made[1:]


def test_rows_whose_numbers_are_too_large_to_tell_them_apart_are_told_apart():
    fields = list(ShotSettings.model_fields)
    rest = len(fields) - 1
    codes = np.array([[0, *[0] * rest], [*[0] * rest, 1], [1, *[0] * rest]], np.int16)
    values = tuple(tuple(range(1, 3)) if name == "samples" else (None, 1) for name in fields)
    table = SettingsTable(ShotSettings(samples=1), codes, values)
    table.__dict__["_weights"] = np.zeros(len(fields), np.int64)  # all rows have one number
    wanted = ShotSettings.model_construct(
        **{name: table[code] for name, table, code in zip(fields, values, codes[1], strict=True)}
    )
    assert table.place(wanted) == 1


def test_what_a_newer_program_wrote_is_kept():
    newer = ShotSettings.model_validate({"samples": 3, "from_the_future": "x"})
    table = SettingsTable.of([newer, ShotSettings(samples=4)])
    assert table[0].model_extra == {"from_the_future": "x"}
