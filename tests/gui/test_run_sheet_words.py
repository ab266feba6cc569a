"""The run sheet's ruler, ticks, rows and words, without a window."""

from datetime import datetime

import pytest
from hypothesis import given
from hypothesis import strategies as st

from film import make_project, make_shot, well_timed
from pemlo.core.cost.draws import draw_film
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.forecast.best_order import TriedOrder
from pemlo.core.forecast.finish import finish_of
from pemlo.core.forecast.kept_data import kept_data
from pemlo.core.forecast.time_ticks import time_ticks
from pemlo.core.forecast.who_when import slot_runs
from pemlo.core.project.machines import Machine
from pemlo.gui.runsheet import presenter
from pemlo.gui.runsheet.scale import Scale

MACHINES = (
    Machine(name="desk", count=3, speed=0.5),
    Machine(name="off", count=0),
    Machine(name="blade", frames_at_once=2),
)


@pytest.fixture(scope="module")
def film():
    shots = (make_shot("010", 30, keep=("prepare",)).replace(moves=("camera",)), make_shot("020", 20))
    project = make_project(shots, well_timed("010", (1, 30)), MACHINES, retake_share=0.1)
    known = fit(fit_input(project))
    draws = draw_film(known, project)
    return project, finish_of(project, known, draws, trace=True), kept_data(project, known, draws)


@given(st.floats(0.1, 400), st.floats(0.02, 50), st.floats(0, 1))
def test_coming_closer_keeps_the_hour_and_stays_within_the_ruler(whole, factor, share):
    scale = Scale(0.0, whole, whole, 100.0, 800.0)
    at = share * whole
    closer = scale.zoomed(factor, at)
    assert closer.first_h >= -1e-9
    assert closer.last_h <= whole * (1 + 1e-9) or closer.first_h == 0
    if factor >= 1:
        assert closer.x(at) == pytest.approx(scale.x(at), abs=1e-6)
    assert closer.hours(closer.x((closer.first_h + closer.last_h) / 2)) == pytest.approx(
        (closer.first_h + closer.last_h) / 2
    )


@pytest.mark.parametrize(
    ("last", "width", "words"),
    [
        (80, 900, ["12", "18", "Tue 22", "6", "12", "18", "Wed 23", "6", "12", "18", "Thu 24", "6", "12"]),
        (6, 400, ["11", "12", "13", "14", "15"]),
        (2, 900, ["10:15", "10:30", "10:45", "11:00", "11:15", "11:30", "11:45"]),
    ],
)
def test_ticks_are_where_people_expect_them(last, width, words):
    ticks = time_ticks(make_project(), 0.0, last, width)
    assert [tick.words for tick in ticks] == words
    assert all(0 < tick.hours < last for tick in ticks)


def test_ticks_over_a_change_of_clocks_are_times_of_the_day():
    # Clocks go forward in Lisbon at 01:00 on 30 March 2031: that Sunday has 23 hours.
    project = make_project(timezone="Europe/Lisbon").replace(start=datetime.fromisoformat("2031-03-29T12:00+00:00"))
    midnights = [tick.hours for tick in time_ticks(project, 0.0, 60.0, 900) if tick.midnight]
    assert midnights == [12.0, 35.0, 59.0]


def test_rows_are_groups_until_they_are_unfolded(film):
    project, found, _ = film
    rows = presenter.rows_of(project, found, frozenset(), 80.0)
    assert [(row.label, len(row.slots), row.detail) for row in rows] == [
        ("desk × 3", 3, "0.5 × as fast"), ("off × 0", 0, "switched off"), ("blade", 2, "2 in parallel"),
    ]  # fmt: skip
    open_rows = presenter.rows_of(project, found, frozenset({"desk"}), 80.0)
    assert [row.slots for row in open_rows] == [(0,), (1,), (2,), (), (3, 4)]
    assert [row.heads for row in open_rows] == [True, False, False, True, True]
    assert [len(row.slots) for row in presenter.rows_of(project, None, frozenset(), 80.0)] == [0, 0, 0]


def test_every_frame_stands_in_one_run_and_reads_as_it_was_rendered(film):
    project, found, _ = film
    runs = slot_runs(found)
    assert sorted(runs.frames) == list(range(len(found.work.frame)))
    assert (runs.last[:-1] + 1 == runs.first[1:]).all()
    # Kept data are filled once by each slot that renders the shot.
    renders = {int(slot) for slot, job in zip(runs.slot, runs.job, strict=True) if found.jobs[job].shot.name == "010"}
    assert runs.fills.sum() == len(renders)
    for run in range(len(runs.slot)):
        words = presenter.reading(project, found, runs, run, float(runs.begin[run]) + 1e-6)
        job = found.jobs[int(runs.job[run])]
        assert words.startswith(f"Shot {job.shot.name}, frame ")
        assert ("again" in words) == (job.part == "again")


def test_what_is_kept_is_said_with_its_reason(film):
    _, _, kept = film
    one, other = kept
    assert presenter.keeping_words(one) == "scene preparation"
    assert presenter.keeping_words(other) == "Nothing cached. Scene preparation and light could be"
    cells = {column.title: column.text(one) for column in presenter.KEPT_COLUMNS}
    assert cells["shot"] == "010"
    assert cells["saves"].endswith(" h")
    assert cells["memory"] == "not known"


@pytest.mark.parametrize(
    ("now", "best", "words"),
    [
        ((0.4, 1.0, 50.0), (0.4, 1.0, 40.0), "The longest first it ends 10 h sooner."),
        ((0.4, 1.0, 50.0), (0.4, 1.0, 49.9), "does better"),
        ((0.4, 0.5, 50.0), (0.4, 1.0, 50.0), "keeps more than 99 in 100 of the dates instead of 50 in 100"),
        ((0.9, 1.0, 40.0), (0.4, 1.0, 50.0), "No other order"),
    ],
)
def test_another_order_is_offered_for_what_it_gives(now, best, words):
    tried = [TriedOrder(order, (), *numbers) for order, numbers in (("film", now), ("longest", best))]
    said, offered = presenter.order_words(tried)
    assert words in said
    assert (offered is None) == ("No other" in said)


def test_the_parts_of_the_hours_add_up(film):
    _, found, _ = film
    shares = presenter.time_shares(found)
    whole = sum(use.busy_hours + use.idle_hours for use in found.machines)
    assert sum(share.hours for share in shares) == pytest.approx(whole)
