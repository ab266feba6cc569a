"""What the stages show, without any widget."""

import numpy as np
import pytest

from film import exact_trial, make_project, make_shot, well_timed
from pemlo.core.cost.draws import draw_film
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.cost.next_trial import advise
from pemlo.core.errors import InputError
from pemlo.core.farm.capacity import machine_power
from pemlo.core.forecast.verdict import forecast
from pemlo.core.interval import Interval
from pemlo.core.project.edits import add_trials
from pemlo.core.project.machines import Machine
from pemlo.core.units import format_hours
from pemlo.demo import demo_project
from pemlo.gui.brief import presenter as brief
from pemlo.gui.stages import brief_stands, trials_stands
from pemlo.gui.trials import presenter as trials
from pemlo.gui.trials.trial_columns import TRIAL_COLUMNS, off_text, trial_rows


def column(columns, title):
    return next(one for one in columns if one.title == title)


def answer(project):
    known = fit(fit_input(project))
    draws = draw_film(known, project)
    return known, draws, forecast(project, known, draws)


def test_brief_rows_and_lines():
    project = demo_project()
    _, _, found = answer(project)
    rows = brief.shot_rows(project, found)
    texts = {c.title: c.text(rows[6]) for c in brief.SHOT_COLUMNS}
    assert texts["frames"] == "1-120"
    assert texts["on screen"] == "5.0 s"
    assert texts["threshold"] == "0.025"
    assert "(" in texts["machine-hours"]
    assert texts["a frame"].endswith(" m")
    together = brief.shots_counted(rows), brief.frames_together(rows), brief.screen_together(rows)
    assert together == ("10 shots", "1\u202f204", "50.2 s")
    # The sum of what shots need is the film's, but for retakes, which are counted there.
    retakes = 1 + project.delivery.retake_share
    assert brief.hours_together(rows) == format_hours(found.hours.times(1 / retakes))
    assert brief.hours_together(rows[:1]) == column(brief.SHOT_COLUMNS, "machine-hours").text(rows[0])
    # Clock hours by the speed of each, less what is lost, are the machine-hours that it can do.
    rows_of = brief.machine_rows(project)
    total = sum(row.hours * machine_power(row.machine) / row.machine.count for row in rows_of)
    assert total == pytest.approx(found.hours_available)
    assert any(line.startswith("020, 090: not timed") for line in brief.assumption_lines(project))
    untimed = brief.shot_rows(make_project(), None)
    assert column(brief.SHOT_COLUMNS, "machine-hours").text(untimed[0]) == "–"


@pytest.mark.parametrize(
    ("title", "text", "part", "value"),
    [
        ("shot", "015", "name", "015"), ("frames", "5-50", "first", 5), ("frames", "1-99x2", "step", 2),
        ("frames", "7", "last", 7), ("moves", "lights camera", "moves", ("camera", "lights")),
    ],
)  # fmt: skip
def test_shot_cells_are_edited(title, text, part, value):
    project = make_project()
    edit = column(brief.SHOT_COLUMNS, title).edit
    assert getattr(edit(project, brief.shot_rows(project, None)[0], text).shots[0], part) == value


@pytest.mark.parametrize(
    ("title", "text", "part", "value"),
    [
        ("samples", "64", "samples", 64), ("threshold", "0,02", "noise_threshold", 0.02), ("threshold", "–", "noise_threshold", None),
        ("min", "8", "min_samples", 8), ("min", "", "min_samples", None), ("denoise", "", "denoise", "none"),
        ("size", "75 %", "resolution_percent", 75), ("frame step", "2", "frame_step", 2),
    ],
)  # fmt: skip
def test_settings_cells_are_edited(title, text, part, value):
    project = make_project()
    edit = column(brief.SHOT_COLUMNS, title).edit
    assert getattr(edit(project, brief.shot_rows(project, None)[0], text).shots[0].asked, part) == value


@pytest.mark.parametrize(
    ("text", "shown", "count"),
    [("1-5,9", "1-5, 9", 6), ("25-30, 1-10", "1-10, 25-30", 16), ("1-9x2", "1-9x2", 5), ("7", "7", 1)],
)
def test_a_shot_of_several_ranges_is_typed_and_shown_as_it_was_typed(text, shown, count):
    project = make_project()
    frames = column(brief.SHOT_COLUMNS, "frames")
    edited = frames.edit(project, brief.shot_rows(project, None)[0], text)
    row = brief.shot_rows(edited, None)[0]
    assert (frames.text(row), row.shot.frame_count) == (shown, count)
    again = frames.edit(edited, row, "1-100")
    assert again.shots[0].ranges == ()


@pytest.mark.parametrize(
    ("title", "text"),
    [("frames", "9-1"), ("frames", "x"), ("shot", ""), ("shot", "020"), ("samples", "0"), ("samples", "1.5"),
     ("threshold", "-1"), ("size", "0"), ("moves", "wheels"), ("frame step", "0")],
)  # fmt: skip
def test_wrong_cells_say_why(title, text):
    project = make_project()
    with pytest.raises(InputError) as caught:
        column(brief.SHOT_COLUMNS, title).edit(project, brief.shot_rows(project, None)[0], text)
    assert str(caught.value)


@pytest.mark.parametrize(
    ("title", "text", "part", "value"),
    [
        ("hours", "Mon-Fri 19-8", "hours", "Mon-Fri 19:00-08:00"), ("count", "7", "count", 7), ("speed", "1,5", "speed", 1.5),
        ("memory", "–", "memory_gib", None), ("memory", "64 GiB", "memory_gib", 64), ("failed", "2 %", "loss_percent", 2),
        ("in parallel", "3", "frames_at_once", 3), ("price", "", "price_per_hour", None), ("contention", "0.1", "contention", 0.1),
    ],
)  # fmt: skip
def test_machine_cells_are_edited(title, text, part, value):
    project = make_project()
    edit = column(brief.MACHINE_COLUMNS, title).edit
    assert getattr(edit(project, brief.machine_rows(project)[0], text).machines[0], part) == value


def test_other_days_are_read_and_take_hours_away():
    project = make_project()
    edit = column(brief.MACHINE_COLUMNS, "other days").edit
    row = brief.machine_rows(project)[0]
    closed = edit(project, row, "2031-04-22 off; 2031-04-23 09:00-12:00")
    assert brief.machine_rows(closed)[0].hours == pytest.approx(row.hours - 24 - 21)
    assert edit(closed, brief.machine_rows(closed)[0], "–").machines[0].exceptions == ()
    with pytest.raises(InputError, match="is not a date and its hours"):
        edit(project, row, "tomorrow off")


def test_seconds_are_written_in_the_unit_that_suits():
    assert brief.seconds_text(Interval(10, 12, 15)) == "12 (10–15) s"
    assert brief.seconds_text(Interval(500, 700, 900)) == "12 (8–15) m"
    assert brief.seconds_text(Interval(5000, 9000, 12000)) == "2.5 (1.4–3.3) h"
    assert brief.seconds_text(None) == "–"


def test_the_ladder_stands_where_the_fit_and_the_trials_are():
    project = make_project(trials=well_timed(noise=0.02))
    known, draws, found = answer(project)
    ladder = trials.ladder(project, project.shots[0], known, draws)
    assert [line.label for line in ladder.lines] == ["100 %", "50 %"]
    plan = ladder.lines[0]
    assert plan.plan
    assert (plan.curve.low <= plan.curve.middle).all()
    assert (plan.curve.middle[1:] >= plan.curve.middle[:-1] - 1e-9).all()
    samples, low, middle, high = ladder.plan
    assert samples == 256
    assert middle == pytest.approx(found.shots[0].seconds.middle, rel=0.01)
    assert len(ladder.dots) == 16
    assert all(dot.y > 0 and not dot.doubtful for dot in ladder.dots)
    assert {dot.x for dot in ladder.dots} == {16, 64, 256}


def test_noise_stands_beside_seconds_where_trials_tell_it():
    timed = tuple(trial.replace(noise=0.8 / trial.samples**0.5) for trial in well_timed(noise=0.02))
    adaptive = timed[0].replace(noise_threshold=0.05, min_samples=4, mean_samples=40.0, noise=0.05)
    project = make_project(trials=(*timed, adaptive))
    known, draws, _ = answer(project)
    noise = trials.ladder(project, project.shots[0], known, draws).noise
    assert np.interp(64, noise.curve.x, noise.curve.middle) == pytest.approx(0.1, rel=0.02)
    assert len(noise.dots) == len(timed) + 1
    assert (noise.dots[-1].x, noise.dots[-1].y) == (40.0, 0.05), "at the samples that it spent"
    assert "noise 5 % of the mean brightness" in noise.dots[-1].words
    silent = make_project(trials=well_timed(noise=0.02))
    known, draws, _ = answer(silent)
    nothing = trials.ladder(silent, silent.shots[0], known, draws).noise
    assert nothing.curve is None
    assert nothing.dots == ()


def test_how_far_a_trial_lies_is_told_of_its_whole_time():
    staged = [
        trial.replace(prepare_seconds=20.0, write_seconds=0.01, trace_seconds=trial.seconds - 20.01)
        for trial in well_timed()
    ]
    staged[2] = staged[2].replace(write_seconds=0.03)
    project = make_project(trials=tuple(staged))
    rows = trial_rows(project, "010", fit(fit_input(project)))
    assert abs(rows[2].residual.off) < 0.03, "a stage that took three times as long is next to nothing of the frame"


def test_a_slip_is_shown_as_one():
    good = well_timed(noise=0.03)
    slip = good[0].replace(seconds=good[0].seconds * 4)
    project = make_project(trials=(slip, *good[1:]))
    known, draws, _ = answer(project)
    rows = trial_rows(project, "010", known)
    assert rows[0].doubtful
    assert off_text(rows[0]).endswith("check")
    assert not any(row.doubtful for row in rows[1:])
    assert sum(dot.doubtful for dot in trials.along(project, project.shots[0], known).dots) == 1
    assert off_text(trial_rows(project, "010", None)[0]) == "–"


def test_ladders_of_adaptive_untimed_and_tiny_shots():
    shots = (
        make_shot("010", samples=512, min_samples=16, noise_threshold=0.01, denoise="frame"),
        make_shot("020", 1, samples=1),
    )
    project = make_project(shots=shots, trials=(exact_trial("010", 5, 16, 50),))
    known, draws, _ = answer(project)
    for shot in shots:
        ladder = trials.ladder(project, shot, known, draws)
        assert ladder.plan[1] < ladder.plan[2] < ladder.plan[3]
        along = trials.along(project, shot, known)
        assert len(along.curve.x) == min(shot.frame_count, 100)
    assert "never timed" in trials.ladder(project, shots[1], known, draws).words


def test_advice_in_words():
    project = make_project(trials=well_timed())
    advice = advise(fit(fit_input(project)), project)
    what, why = trials.advice_words(advice[0], known=True)
    assert what.startswith("Shot 020, frame ")
    assert "about" in what
    assert "machine-hours" in why
    assert "minute" in why
    _, why = trials.advice_words(advice[0], known=False)
    assert why.startswith("There is no trial yet")


def test_trials_are_pasted_in_many_shapes():
    project = make_project(shots=(make_shot("010", denoise="frame"), make_shot("020")))
    for text, count in (
        ("5\t4:02\n6\t4:10", 2),
        ("5;16;30 s", 1),
        ("frame\tsamples\ttime\n5\t16\t0:30", 1),
        ("shot,frame,seconds\n020,5,30", 1),
        ("frame\tsamples\tleast\tthreshold\tdenoise\tsize\ttime\toff fit\n5\t16\t–\t–\tnone\t50 %\t4 m 02 s\t−3 %", 1),
    ):
        found = trials.pasted_trials(text, project, "010")
        assert len(found) == count
        add_trials(project, found)
    assert found[0].resolution_percent == 50
    assert found[0].denoise == "none"
    for wrong in ("", "5", "1\t2\t3\t4", "5\tquick", "frame\ttime\nx\t5"):
        with pytest.raises(InputError):
            trials.pasted_trials(wrong, project, "010")


def test_trials_are_typed():
    project = make_project(shots=(make_shot("010", samples=512, min_samples=16, noise_threshold=0.01),))
    as_asked = trials.typed_trial(project, "010", {"frame": "5", "seconds": "4:02"})
    assert (as_asked.noise_threshold, as_asked.samples) == (0.01, 512)
    fixed = trials.typed_trial(project, "010", {"frame": "5", "seconds": "4:02", "samples": "8"})
    assert (fixed.noise_threshold, fixed.samples, fixed.min_samples) == (None, 8, None)
    for typed, words in (
        ({"seconds": "4:02"}, "which frame you timed"),
        ({"frame": "5"}, "how long it took"),
        ({"frame": "5", "seconds": "4:02", "samples": "0"}, "samples"),
        ({"frame": "five", "seconds": "4:02"}, "Frame"),
    ):
        with pytest.raises(InputError, match=words):
            trials.typed_trial(project, "010", typed)


@pytest.mark.parametrize(
    ("title", "typed", "field", "value", "shown"),
    [
        ("switches", "motion blur, wide", "switches", ("motion blur", "wide"), "motion blur, wide"),
        ("switches", "–", "switches", (), "–"),
        ("split", "4,1,2", "split", (4, 1, 2), "4,1,2"),
        ("time limit", "4:02", "most_seconds", 242.0, "4 m 02 s"),
        ("time limit", "", "most_seconds", None, "–"),
        ("saves", "3", "saves", 3, "3"),
        ("memory", "7.5 GiB", "memory_gib", 7.5, "7.5 GiB"),
        ("disk", "", "disk_mib", None, "–"),
    ],
)
def test_settings_beside_the_usual_are_typed_in_the_table(title, typed, field, value, shown):
    trial = exact_trial("010", 5, 16, switches=("old",), most_seconds=9.0, disk_mib=3.0)
    project = make_project(trials=(trial,))
    (row,) = trial_rows(project, "010", None)
    changed = column(TRIAL_COLUMNS, title).edit(project, row, typed)
    assert getattr(changed.trials[0], field) == value
    assert column(TRIAL_COLUMNS, title).text(trial_rows(changed, "010", None)[0]) == shown


def test_all_settings_survive_copying_from_the_table_and_pasting_back():
    fields = {
        "switches": ("motion blur",),
        "split": (4, 1, 1),
        "most_seconds": 242.0,
        "saves": 2,
        "memory_gib": 1.5,
        "disk_mib": 5.25,
    }
    project = make_project(trials=(exact_trial("010", 5, 16, **fields),))
    (row,) = trial_rows(project, "010", None)
    text = "\n".join(("\t".join(one.title for one in TRIAL_COLUMNS), "\t".join(one.text(row) for one in TRIAL_COLUMNS)))
    (again,) = trials.pasted_trials(text, project, "010")
    assert {name: getattr(again, name) for name in fields} == fields


def test_what_is_switched_on_is_asked_in_the_brief():
    project = make_project()
    (row, _) = brief.shot_rows(project, None)
    cell = column(brief.SHOT_COLUMNS, "switches")
    assert cell.text(row) == "–"
    changed = cell.edit(project, row, "motion blur")
    assert changed.shot("010").asked.switches == ("motion blur",)
    assert cell.edit(changed, brief.shot_rows(changed, None)[0], "–").shot("010").asked.switches == ()


def test_where_the_stages_stand():
    assert trials_stands(make_project()) == "no trials yet"
    assert trials_stands(make_project(trials=well_timed())) == "16 timed, 020 not"
    assert trials_stands(demo_project()) == "51 timed, 2 not"
    assert brief_stands(make_project()) == "2 shots, 150 fr"
    assert brief_stands(make_project(shots=())) == "no shots yet"
    assert brief.machines_line(make_project(machines=())).startswith("Add one")
    assert "3 machines" in brief.machines_line(make_project(machines=(Machine(name="a", count=3),)))
