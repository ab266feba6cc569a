"""Levers beside samples, denoising and size: caps, splits, switches, saves; and what options take on disk."""

import numpy as np
import pytest

from film import exact_trial, make_project, make_shot, well_timed
from looks import look
from pemlo.core.cost.draws import draw_film, mean_of
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.cost.frame_arrays import frames_of
from pemlo.core.cost.frame_model import stage_seconds
from pemlo.core.errors import InputError
from pemlo.core.forecast.disk_memory import disk_memory_of, sum_of, too_small
from pemlo.core.forecast.needs import retry_factor
from pemlo.core.project.machines import Machine
from pemlo.core.project.settings import FrameSettings, ShotSettings
from pemlo.core.project.trials import STAGES
from pemlo.core.trade.held_levers import hold
from pemlo.core.trade.levers import Levers, combinations, keeps_pins, lever_text, not_had, values_of, why_not
from pemlo.core.trade.options import levers_of, options_of, predict_error

TRACE = STAGES.index("trace")


def known_film(*trials, shot=None, machines=None):
    project = make_project(shots=(shot or make_shot(),), trials=trials, machines=machines)
    known = fit(fit_input(project))
    return project, known, draw_film(known, project)


def traced_more(trial, factor, **changes):
    """The same trial where something makes tracing so many times as dear."""
    fixed = 20.0
    return trial.replace(seconds=fixed + factor * (trial.seconds - fixed), **changes)


def test_a_switch_is_learned_from_one_trial_with_and_one_without():
    trials = well_timed()
    _, known, draws = known_film(*trials, traced_more(trials[1], 1.4, switches=("blur",)))
    assert known.cost_factors.switches == ("blur",)
    factors = np.exp(draws["010"].theta[:, -1])
    assert np.median(factors) == pytest.approx(1.4, rel=0.05)
    assert np.quantile(factors, 0.05) < 1.4 < np.quantile(factors, 0.95)


def test_a_switch_that_was_never_timed_may_make_it_twice_as_dear_or_half():
    _, known, draws = known_film(*well_timed(), shot=make_shot(switches=("blur",)))
    low, high = np.quantile(np.exp(draws["010"].theta[:, -1]), [0.05, 0.95])
    assert low < 0.6
    assert high > 1.6


def test_a_capped_time_that_does_not_say_its_samples_tells_only_that_the_frame_takes_longer():
    trials = well_timed()
    capped = exact_trial("010", 50, 4096, most_seconds=30.0).replace(seconds=51.0)
    with_it = fit(fit_input(make_project(shots=(make_shot(),), trials=(*trials, capped))))
    without = fit(fit_input(make_project(shots=(make_shot(),), trials=trials)))
    assert with_it.timed_trials == len(trials) + 1
    assert with_it.shots["010"].best == pytest.approx(without.shots["010"].best, abs=0.02)
    assert not with_it.disagreements
    told = capped.replace(mean_samples=128.0)
    assert fit(fit_input(make_project(shots=(make_shot(),), trials=(*trials, told)))).timed_trials == len(trials) + 1
    unhurt = exact_trial("010", 50, 16, most_seconds=5000.0)
    assert fit(fit_input(make_project(shots=(make_shot(),), trials=(unhurt,)))).timed_trials == 1


def test_capped_hours_are_those_of_capping_frame_by_frame():
    trials = [exact_trial("010", frame, 256, factor=factor) for frame, factor in ((1, 0.7), (50, 1.0), (100, 1.6))]
    project, known, draws = known_film(*trials, *well_timed(frames=(50,)))
    mine, shot = draws["010"], project.shot("010")
    plain = frames_of([shot.asked], [project.size_of(shot)], known.cost_factors)
    each = stage_seconds(mine.theta[:, None, :], plain)[:, 0]
    cap = float(np.median(each[:, TRACE]))
    held = frames_of([shot.asked.replace(most_seconds=cap)], [project.size_of(shot)], known.cost_factors)
    by_frame = mine.cost_profile[:, :, None] * each[:, None, :]
    by_frame[..., TRACE] = np.minimum(by_frame[..., TRACE], cap)
    seconds, spent = mean_of(mine, held)
    assert seconds[:, 0] == pytest.approx(by_frame.sum(axis=2) @ mine.share, rel=1e-9)
    assert np.median(spent[:, 0]) < 250
    assert (spent[:, 0] <= 256 * (1 + 1e-12)).all()
    # What is held makes the hours surer.
    width = np.ptp(np.quantile(np.log(mean_of(mine, plain)[0]), [0.05, 0.95]))
    assert np.ptp(np.quantile(np.log(seconds), [0.05, 0.95])) < width


@pytest.mark.parametrize("saves", [0, 1, 4])
def test_what_saves_are_worth_against_breaking_frames(saves):
    # Frames of length 1 that break with a chance of 0.2 somewhere; the part since the last save counts whole.
    lost, random = 0.2, np.random.default_rng(saves)
    work = np.ones(200_000)
    again = np.arange(len(work))
    while len(again):
        again = again[random.random(len(again)) < lost]
        work[again] += 1 / (saves + 1)
    machine = Machine(name="desk", loss_percent=100 * lost)
    assert retry_factor([machine], saves) / (1 - lost) == pytest.approx(work.mean(), rel=0.01)


def test_saves_pay_where_frames_break_and_cost_where_they_do_not():
    trials = well_timed()
    for loss, most in ((0.0, 0), (40.0, 8)):
        machine = Machine(name="desk", loss_percent=loss)
        project, known, _ = known_film(*trials, machines=(machine,))
        assert levers_of(project, known, project.shot("010"), None).saves <= most
        assert bool(levers_of(project, known, project.shot("010"), None).saves) == bool(loss)


def test_denoisers_that_look_at_other_frames_do_not_go_with_motion_blur():
    shot = make_shot(switches=("motion blur",))
    assert "motion blur" in why_not(shot, shot.asked.replace(denoise="neighbours 8 2"))
    assert why_not(shot, shot.asked.replace(denoise="frame")) == ""
    assert why_not(shot, shot.asked.replace(denoise="neighbours", switches=())) == ""
    found = combinations(shot, Levers(("none", "neighbours"), switches=((), ("motion blur",))))
    assert {(one.denoise, one.switches) for one in found} == {
        ("none", ("motion blur",)), ("none", ()), ("neighbours", ()),
    }  # fmt: skip


def test_least_samples_are_offered_where_the_threshold_stands():
    shot = make_shot(noise_threshold=0.02, min_samples=8)
    found = combinations(shot, Levers(thresholds=True))
    assert {one.min_samples for one in found if one.noise_threshold == 0.02} == {4, 8, 16}
    assert {one.min_samples for one in found if one.noise_threshold not in {None, 0.02}} == {8}
    held = combinations(shot.replace(pins=("min_samples",)), Levers(thresholds=True))
    assert {one.min_samples for one in held if one.noise_threshold is not None} == {8}
    pinned = shot.replace(pins=("min_samples",))
    assert keeps_pins(pinned, shot.asked.replace(noise_threshold=None, min_samples=None)), (
        "it says nothing of fixed samples"
    )
    assert not keeps_pins(pinned, shot.asked.replace(min_samples=4))
    assert values_of(shot, Levers(thresholds=True))["min_samples"] == (4, 8, 16)


def test_what_cannot_be_had_is_said_of_each_lever():
    shot = make_shot(switches=("motion blur",)).replace(moves=("camera", "objects", "simulation"))
    found = not_had(shot, Levers(("none", "neighbours"), switches=((), ("motion blur",))))
    assert set(found) == {"keep", "denoise"}
    assert len(found["keep"]) == 2
    assert "motion blur" in found["denoise"][0]
    assert not_had(make_shot(), Levers(("none", "frame"))) == {}


def test_what_a_threshold_spends_with_another_split_is_not_made_up():
    shot = make_shot(noise_threshold=0.02, min_samples=8)
    found = combinations(shot, Levers(thresholds=True, splits=((1, 1, 1), (4, 1, 1))))
    assert {one.noise_threshold for one in found if one.split != (1, 1, 1)} == {None}
    seen = look(splits=("split 4,1,1",))
    assert predict_error(seen, shot.asked.replace(split=(4, 1, 1)), 32.0) is None


def test_a_split_halves_the_noise_and_what_it_is_worth_is_weighed():
    trials = well_timed()
    with_split = traced_more(trials[1], 1.5, split=(4, 1, 1))
    project, known, draws = known_film(*trials, with_split)
    seen = look(splits=("split 4,1,1",))
    shot = project.shot("010")
    assert levers_of(project, known, shot, seen).splits == ((1, 1, 1), (4, 1, 1))
    found = options_of(project, known, draws, shot, seen)
    plain, split = (
        found.place(ShotSettings(samples=256, split=rays, saves=found.settings[-1].saves))
        for rays in ((1, 1, 1), (4, 1, 1))
    )
    # A quarter of the variance: half the grain.
    assert found.error[split] / found.error[plain] == pytest.approx(0.5, rel=0.03)
    assert 1.2 < found.middle_hours[split] / found.middle_hours[plain] < 1.5


def test_a_switch_adds_what_it_does_to_the_picture():
    seen = look(0.01, switches={"blur": 4.0})
    plain = predict_error(seen, ShotSettings(samples=4096), 4096)
    on = predict_error(seen, ShotSettings(samples=4096, switches=("blur",)), 4096)
    assert on.switching == pytest.approx(4.0)
    assert on.total.middle == pytest.approx(np.hypot(plain.total.middle, 4.0), rel=1e-6)
    assert predict_error(seen, ShotSettings(samples=4096, switches=("shadows off",)), 4096) is None


def test_caps_are_offered_and_the_noise_of_dear_frames_counts():
    project, known, draws = known_film(*well_timed())
    shot = project.shot("010")
    found = options_of(project, known, draws, shot, look())
    capped = [k for k, one in enumerate(found.settings) if one.most_seconds and one.resolution_percent == 100]
    assert len(capped) == 9
    by_cap = sorted(capped, key=lambda k: found.settings[k].most_seconds)
    assert (np.diff(found.middle_hours[by_cap]) > 0).all()
    assert (np.diff(found.error[by_cap]) < 0).all()
    stays = values_of(shot, levers_of(project, known, shot, look()))["most_seconds"]
    assert stays[-1] is None
    assert list(stays[:-1]) == sorted(stays[:-1])


@pytest.mark.parametrize(
    ("words", "field", "value", "text"),
    [
        ("010.most_seconds=4m02", "most_seconds", 242.0, "4 m 02 s"),
        ("010.most_seconds=none", "most_seconds", None, "none"),
        ("010.split=4,1,2", "split", (4, 1, 2), "4,1,2"),
        (
            "010.switches=motion blur + wide gloss",
            "switches",
            ("motion blur", "wide gloss"),
            "motion blur and wide gloss",
        ),
        ("010.saves=2", "saves", 2, "twice"),
    ],
)
def test_levers_are_held_in_the_words_people_use(words, field, value, text):
    project = hold(make_project(shots=(make_shot(),)), words)
    settings = project.shot("010").settings
    assert getattr(settings, field) == value
    assert lever_text(settings, field) == text
    assert project.shot("010").pins == (field,)


@pytest.mark.parametrize("words", ["010.split=4,1", "010.split=a,b,c", "010.saves=-1", "010.most_seconds=soon"])
def test_wrong_values_of_levers_are_refused(words):
    with pytest.raises(InputError):
        hold(make_project(shots=(make_shot(),)), words)


def test_disk_grows_with_pixels_and_frames():
    trials = (exact_trial("010", 1, 16, 50.0, disk_mib=8.0), exact_trial("010", 50, 16, 100.0, disk_mib=32.0))
    project = make_project(trials=trials)
    found = disk_memory_of(project, project.shot("010"), project.shot("010").asked).disk_gib
    assert found.middle == pytest.approx(100 * 32 / 1024)
    assert found.low < found.middle < found.high
    half = disk_memory_of(
        project, project.shot("010"), ShotSettings(samples=1, resolution_percent=50, frame_step=2)
    ).disk_gib
    assert half.middle == pytest.approx(50 * 8 / 1024)
    # A shot without such trials borrows from the film, and is less sure of it.
    other = disk_memory_of(project, project.shot("020"), project.shot("020").asked).disk_gib
    assert other.middle == pytest.approx(50 * 32 / 1024)
    assert other.high / other.low > found.high / found.low
    assert sum_of([found, other]).middle == pytest.approx(found.middle + other.middle)


def test_memory_has_a_part_that_is_always_there():
    trials = (exact_trial("010", 1, 16, 50.0, memory_gib=3.0), exact_trial("010", 50, 16, 100.0, memory_gib=6.0))
    machines = (
        Machine(name="old", memory_gib=4),
        Machine(name="two", memory_gib=10, frames_at_once=2),
        Machine(name="new"),
    )
    project = make_project(trials=trials, machines=machines)
    shot = project.shot("010")
    found = disk_memory_of(project, shot, shot.asked).memory_gib
    assert found.middle == pytest.approx(6.0, rel=1e-6)
    assert disk_memory_of(
        project, shot, ShotSettings(samples=1, resolution_percent=25)
    ).memory_gib.middle == pytest.approx(2.25, rel=1e-3)
    assert too_small(project, shot, shot.asked, found) == ("old", "two")


def test_of_one_size_it_is_not_known_how_much_memory_is_always_there():
    project = make_project(trials=(exact_trial("010", 1, 16, 50.0, memory_gib=4.0),))
    shot = project.shot("010")
    found = disk_memory_of(project, shot, shot.asked).memory_gib
    assert found.low < 4.0
    assert found.high > 16.0
    assert disk_memory_of(make_project(), shot, shot.asked).memory_gib is None


def test_settings_know_what_is_switched():
    one = FrameSettings(samples=1, switches=("b", "a", "b"), split=(2, 1, 1))
    assert one.switches == ("a", "b")
    assert one.switched == ("a", "b", "split 2,1,1")


@pytest.mark.parametrize("wrong", [(1, "a"), ({"a": 1},), ("a,b",), ("split 4,1,1",), ("",)])
def test_wrong_switches_in_a_file_are_told(wrong):
    with pytest.raises(InputError):
        ShotSettings(samples=1).replace(switches=wrong)
