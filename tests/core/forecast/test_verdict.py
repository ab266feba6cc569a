"""The verdict: chance, finish, slack, and what is said of them."""

from datetime import datetime, timedelta

import numpy as np
import pytest

from film import DUE, exact_seconds, exact_trial, make_project, make_shot, well_timed
from pemlo.core.cost.draws import draw_film
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.forecast.verdict import forecast
from pemlo.core.project.edits import set_asked, set_delivery
from pemlo.core.project.machines import Machine
from pemlo.core.project.settings import FrameSettings
from pemlo.words.doubts import doubts
from pemlo.words.unknowns import unknowns
from pemlo.words.verdicts import detail, headline, say_moment, verdict

ONE_SHOT = (make_shot("010"),)


def ask(project, known=None):
    known = known or fit(fit_input(project))
    return forecast(project, known, draw_film(known, project))


def test_hours_are_frames_times_seconds():
    project = make_project(shots=ONE_SHOT, trials=well_timed())
    found = ask(project)
    seconds = exact_seconds(FrameSettings(samples=256))
    assert found.shots[0].seconds.middle == pytest.approx(seconds, rel=0.03)
    assert found.hours.middle == pytest.approx(100 * seconds / 3600, rel=0.03)
    assert found.hours.low < found.hours.middle < found.hours.high


def test_finish_is_start_plus_hours_on_one_machine_that_is_always_free():
    project = make_project(shots=ONE_SHOT, trials=well_timed(), assembly_minutes=60)
    found = ask(project)
    wanted = project.start + timedelta(hours=found.hours.middle + 1)
    assert abs((found.finish[1] - wanted).total_seconds()) < 120
    assert found.hours_available == pytest.approx(79)  # from Monday 10:00 to Thursday 18:00, less one


def test_retakes_are_hours_too():
    plain = ask(make_project(shots=ONE_SHOT, trials=well_timed()))
    again = ask(make_project(shots=ONE_SHOT, trials=well_timed(), retake_share=0.25))
    assert again.hours.middle == pytest.approx(1.25 * plain.hours.middle)
    assert again.shots[0].hours.middle == pytest.approx(plain.shots[0].hours.middle)


@pytest.mark.parametrize(
    ("count", "kind", "words"),
    [(1, "misses", "Likely done "), (9, "makes it", "Makes Thursday 18:00 with")],
)
def test_too_few_machines_miss_and_enough_make_it(count, kind, words):
    shots = (make_shot("010", 6000),)
    project = make_project(shots=shots, trials=well_timed(), machines=(Machine(name="m", count=count),))
    found = ask(project)
    assert found.kind == kind
    assert words in headline(project, found)
    assert (found.spare_h > 0) == (kind == "makes it")


def test_in_doubt_is_between():
    project = make_project(shots=ONE_SHOT, trials=(exact_trial("010", 50, 64, 50),))
    found = ask(project)
    middle = project.start + timedelta(hours=found.hours.middle * 1.15)
    project = set_delivery(project, deadline=middle)
    found = ask(project)
    assert found.kind == "in doubt"
    assert 0.5 <= found.probability < 0.9
    assert "10 to be 90 % sure; 3 are available: 7 short." in detail(project, found)


def test_odds_are_the_share_of_draws_that_are_in_time():
    project = make_project(shots=ONE_SHOT, trials=(exact_trial("010", 50, 64, 50),))
    base = ask(project)
    for share in (0.2, 0.5, 0.8):
        hours = float(np.quantile(base.finish_h, share))
        moved = set_delivery(project, deadline=project.start + timedelta(hours=hours))
        assert ask(moved).probability == pytest.approx(share, abs=0.002)


def test_more_time_more_machines_and_fewer_samples_never_lower_the_odds():
    shots = (make_shot("010", 400),)
    project = make_project(shots=shots, trials=(exact_trial("010", 50, 64, 50), exact_trial("010", 50, 128, 50)))
    known = fit(fit_input(project))
    draws = draw_film(known, project)
    base = forecast(project, known, draws)
    later = set_delivery(project, deadline=project.delivery.deadline + timedelta(hours=10))
    more = project.replace(machines=(Machine(name="reference", count=2),))
    cheaper = set_asked(project, ["010"], samples=64)
    for better in (later, more, cheaper):
        assert forecast(better, known, draws).probability >= base.probability
    assert forecast(cheaper, known, draws).hours.middle < base.hours.middle


def test_what_is_not_known_says_so():
    empty = make_project(shots=())
    assert headline(empty, ask(empty)) == "Say what the film is."
    untimed = make_project()
    found = ask(untimed)
    assert found.kind == "unknown"
    assert found.probability is None
    assert found.finish is None
    assert headline(untimed, found) == "Time one frame of shot 010 to begin."
    assert "not known yet" in detail(untimed, found)


def test_no_machine_is_never():
    project = make_project(shots=ONE_SHOT, trials=well_timed(), machines=())
    found = ask(project)
    assert found.finish == (None, None, None)
    assert found.probability == 0
    assert "No machine has hours before Thursday 18:00" in verdict(project, found)


def test_a_finish_beyond_all_calendars():
    shots = (make_shot("010", 100_000),)
    slow = exact_trial("010", 50, 256, factor=10_000.0)
    project = make_project(shots=shots, trials=(slow,))
    found = ask(project)
    assert found.finish[1] is None
    assert "by more than a year" in headline(project, found)


def test_moments_as_people_say_them():
    project = make_project(timezone="Europe/Lisbon")
    assert say_moment(project.delivery.deadline, project) == "Thu 19:00"  # summer time in Lisbon
    assert say_moment(project.start + timedelta(days=8), project) == "Tue 29 Apr 11:00"
    assert say_moment(project.start + timedelta(days=400), project, long=True) == "Monday 25 May 2032 11:00".replace(
        "Monday", "Tuesday"
    )
    assert say_moment(None, project) == "never"


def test_a_deadline_means_its_moment_in_any_zone():
    east = make_project(shots=ONE_SHOT, trials=well_timed(), deadline="2031-04-24T20:00+02:00")
    utc = make_project(shots=ONE_SHOT, trials=well_timed(), deadline=DUE)
    assert ask(east).probability == ask(utc).probability
    assert east.delivery.deadline == datetime.fromisoformat("2031-04-24T18:00+00:00")


def test_a_slip_is_named_with_its_place():
    good = well_timed(noise=0.03)
    project = make_project(trials=(good[0].replace(seconds=good[0].seconds * 5), *good[1:]))
    found = doubts(project, fit(fit_input(project)))
    assert [problem.where for problem in found] == ["Trial of shot 010, frame 1"]
    assert "6 m" in found[0].what
    assert doubts(make_project(trials=good), fit(fit_input(make_project(trials=good)))) == ()


def test_unknowns_name_what_no_trial_shows():
    adaptive = make_shot("010", samples=512, min_samples=16, noise_threshold=0.01, denoise="frame")
    project = make_project(shots=(adaptive, make_shot("020")))
    assert unknowns(project, adaptive) == ("No trial yet: what a frame takes is not known. Time one frame.",)
    project = project.replace(trials=(exact_trial("010", 5, 16, 25), exact_trial("010", 5, 32, 25)))
    words = " ".join(unknowns(project, adaptive))
    for part in (
        "All trials are of frame 5",
        "timed at 1920×1080 px: the cost follows by pixels from 480×270",
        "noise threshold",
        "denoising “frame”",
    ):
        assert part in words
    assert unknowns(project, project.shots[1]) == (
        "Not timed: taken from the film's other shots. One timed frame replaces that.",
    )
    assert unknowns(make_project(trials=well_timed()), make_shot("010")) == ()
