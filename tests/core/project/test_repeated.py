"""The same row twice is one measurement, unless it was timed again."""

import numpy as np

from film import exact_trial, make_project, make_shot, well_timed
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.persistence.csv_trials import read_trials, write_trials
from pemlo.core.project.edits import add_trials, set_delivery
from pemlo.core.project.repeated import counted_once, incoming, timed_again
from pemlo.demo import demo_project

SHOTS = (make_shot("010"),)


def hours_apart(project):
    theta = fit(fit_input(project)).shots["010"].theta
    return float(np.quantile(theta[:, 3], 0.95) - np.quantile(theta[:, 3], 0.05))


def test_rows_pasted_again_make_no_forecast_narrower():
    three = tuple(exact_trial("010", frame, 64, 50, factor) for frame, factor in ((1, 1.0), (50, 1.3), (100, 0.9)))
    once = make_project(shots=SHOTS, trials=three)
    twice = make_project(shots=SHOTS, trials=three * 2)
    assert fit(fit_input(twice)).timed_trials == 3
    assert hours_apart(twice) == hours_apart(once)
    again = add_trials(once, timed_again(once, three))
    assert fit(fit_input(again)).timed_trials == 6


def test_a_table_that_was_written_and_pasted_back_adds_nothing():
    for project in (demo_project(), make_project(shots=SHOTS, trials=well_timed())):
        found = incoming(project, read_trials(write_trials(project), project))
        assert (len(found.new), len(found.here)) == (0, len(project.trials))


def test_a_table_with_fewer_columns_is_still_the_same_rows():
    full = exact_trial("010", 1, 64).replace(prepare_seconds=5.0, picture="a.exr", note="soft", mean_samples=64.0)
    project = make_project(shots=SHOTS, trials=(full,))
    found = incoming(project, read_trials(f"shot,frame,samples,seconds\n010,1,64,{full.seconds!r}\n", project))
    assert (len(found.new), len(found.here)) == (0, 1)


def test_the_same_percentage_of_another_size_is_another_measurement():
    project = make_project(shots=SHOTS, trials=(exact_trial("010", 1, 64, 50),))
    larger = set_delivery(project, width=3840, height=2160)
    assert len(incoming(larger, [exact_trial("010", 1, 64, 50)]).new) == 1
    as_timed = exact_trial("010", 1, 64, 25).replace(seconds=project.trials[0].seconds)
    assert len(incoming(larger, [as_timed]).here) == 1


def test_rows_are_told_apart_by_all_that_makes_a_time():
    project = make_project(shots=SHOTS, trials=(exact_trial("010", 1, 64),))
    for change in (
        {"frame": 2}, {"samples": 65}, {"machine": "desk"}, {"seconds": 9.0}, {"region_percent": 25.0}, {"way": "q"},
        {"frames_at_once": 2}, {"denoise": "frame"}, {"assumed": True},
    ):  # fmt: skip
        assert len(incoming(project, [project.trials[0].replace(**change)]).new) == 1, change
    for change in ({"note": "x"}, {"mark": "good enough"}, {"picture": "b.exr"}, {"memory_gib": 2.0}):
        assert len(incoming(project, [project.trials[0].replace(**change)]).here) == 1, change


def test_a_row_twice_in_one_table_comes_in_once_and_the_third_time_again_is_the_third():
    project = make_project(shots=SHOTS)
    row = exact_trial("010", 1, 64)
    found = incoming(project, [row, row])
    assert (len(found.new), len(found.here)) == (1, 1)
    project = add_trials(project, found.new)
    for repeat in (1, 2):
        project = add_trials(project, timed_again(project, [row]))
        assert project.trials[-1].repeat == repeat


def test_of_equal_rows_the_one_that_says_most_counts_and_left_out_ones_do_not():
    plain = exact_trial("010", 1, 64)
    telling = plain.replace(mean_samples=64.0)
    assert counted_once([plain, telling, plain]) == {1}
    assert counted_once([plain.replace(left_out="by hand"), plain]) == {1}
    assert counted_once([plain, plain.replace(repeat=1)]) == {0, 1}
