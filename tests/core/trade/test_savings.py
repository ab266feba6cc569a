"""Savings of a size that matters, gathered over shots, and ways out where nothing passes. Three cases by hand first."""

import pytest

from film import make_project, make_shot
from pemlo.core.errors import InputError
from pemlo.core.film.film import Film
from pemlo.core.project.edits import adopt
from pemlo.core.project.machines import Machine
from pemlo.core.project.settings import CHARACTER, ShotSettings
from pemlo.core.project.shots import SettingsMark, Shot
from pemlo.core.project.trials import GOOD, Trial
from pemlo.core.trade.lever_edits import allow, like_trial
from pemlo.core.trade.savings import saving_steps, saving_words, savings, step_label
from pemlo.words.plans import by_weight, changes, unchanged_words
from pemlo.words.ways_out import ways_out

ASKED = ShotSettings(samples=256)
HALF = ASKED.replace(samples=128)


def trial(shot, settings, seconds, **fields):
    return Trial(shot=shot, frame=45, seconds=seconds, **settings.frame_fields(), **fields)


def interiors(count=6, mark="", **fields):
    """Shots of 90 frames that take 15 minutes each, and half of that at half the samples."""
    shots = tuple(Shot(name=f"{10 * k:03d}", first=1, last=90, asked=ASKED) for k in range(1, count + 1))
    trials = tuple(
        one for shot in shots
        for one in (trial(shot.name, ASKED, 900.0), trial(shot.name, HALF, 450.0, mark=mark))
    )  # fmt: skip
    return make_project(shots, trials, **fields)


def found_in(project, count=5):
    film = Film(project)
    steps = []
    for shot in project.shots:
        options = film.options(shot.name)
        steps += saving_steps(shot, options, options.place(shot.settings))
    hours = sum(float(film.options(shot.name).middle_hours[0]) for shot in project.shots)
    return savings(steps, hours, count)


def test_half_the_samples_in_six_interiors_is_one_saving_that_one_look_decides():
    """By hand: 6 × 90 × 7:30 are 67.5 h."""
    one = next(one for one in found_in(interiors()) if one.lever == "samples")
    assert (one.step, one.cost, len(one.shots)) == ("half the samples", "look", 6)
    assert one.hours == pytest.approx(67.5, rel=0.05)
    words = saving_words(one, "67 machine-hours")
    assert words.startswith("Half the samples in 6 shots (")
    assert words.endswith("look at frame 45 of 010 first") or "look at frame 45 of" in words


def test_what_passes_is_the_largest_step_and_not_the_next_notch():
    one = next(one for one in found_in(interiors(mark=GOOD)) if one.lever == "samples" and one.cost == "passes")
    assert {settings.samples for settings in one.settings.values()} == {128}
    assert saving_words(one, "67 h").endswith("passes by what was marked")


def test_what_costs_nothing_comes_first():
    shot = Shot(name="010", first=1, last=240, moves=("camera",), asked=ShotSettings(samples=64))
    trials = tuple(
        trial("010", shot.asked.replace(keep=keep), seconds)
        for keep, seconds in (((), 7.7), (("prepare",), 3.4), (("prepare", "light"), 0.8))
    )
    first = found_in(make_project((shot,), trials))[0]
    assert (first.lever, first.cost) == ("keep", "free")
    assert "the picture stays the same" in saving_words(first, "0.4 h")


@pytest.mark.parametrize(
    ("samples", "label"), [(128, "half the samples"), (64, "a quarter of the samples"), (192, "25 % fewer samples")]
)
def test_steps_are_called_by_what_they_are_worth(samples, label):
    assert step_label("samples", ASKED, ASKED.replace(samples=samples)) == label


def test_with_nothing_marked_it_is_said_how_far_it_is_what_would_do_and_what_decides():
    """By hand: 135 h of 80 available; two fifths must go, so half the samples do."""
    project = interiors()
    film = Film(project)
    plan = film.plan("missing")
    out = ways_out(project, plan.options, plan.plan, plan.available_h)
    assert out.fewer == pytest.approx(1 - 80 / 135, abs=0.03)
    assert out.ways[0].words == "half the samples"
    assert all(way.safe_h <= plan.available_h for way in out.ways)
    assert (out.look.frame, out.look.settings.samples) == (45, 128)
    assert f"{100 * out.fewer:.0f} % fewer hours" in out.words[0]
    # What is said to do does: the film with it is in time, by the exact run.
    done = adopt(project, {shot.name: one for shot, one in zip(project.shots, out.ways[0].settings, strict=True)})
    assert Film(done).forecast.probability >= project.delivery.confidence - 0.02


def test_where_something_passes_or_it_is_in_time_no_way_out_is_asked_for():
    for project in (interiors(mark=GOOD), interiors(1)):
        plan = Film(project).plan("missing")
        assert ways_out(project, plan.options, plan.plan, plan.available_h) is None


def test_shots_that_stay_are_counted_with_their_reason():
    project = interiors()
    marked = project.shots[0].replace(marks=(SettingsMark(settings=HALF, mark=GOOD),))
    project = project.replace(shots=(marked, *project.shots[1:]))
    found = Film(project).plan("hours")
    every = changes(found.options, found.plan, [shot.asked for shot in project.shots])
    assert [one.shot for one in by_weight(every)] == ["010"]
    assert unchanged_words(project, found.options, every) == (
        "5 shots not changed (020, 030, 040, 050, 060): nothing cheaper was marked good enough.",
    )


def character(settings, asked):
    return [name for name in CHARACTER if getattr(settings, name) != getattr(asked, name)]


def blurred(**fields):
    """A shot whose blur can be off, be smaller and hold frames, all of it marked by nobody; fewer samples passed."""
    asked = ASKED.replace(switches=("motion blur",))
    shot = Shot(name="010", first=1, last=90, asked=asked, marks=fields.pop("marks", ()))
    trials = (
        trial("010", asked, 900.0), trial("010", asked.replace(switches=()), 500.0, **fields),
        trial("010", asked.replace(samples=64), 300.0, mark=GOOD),
    )  # fmt: skip
    return make_project((shot,), trials, (Machine(name="m"),))


def test_what_a_picture_is_stays_until_somebody_allows_it():
    project = blurred()
    options = Film(project).options("010")
    usable = [one for one, may in zip(options.settings, options.usable, strict=True) if may]
    assert all(not character(one, project.shots[0].asked) for one in usable)
    free = allow(project, ["010"], "switches", on=True)
    options = Film(free).options("010")
    assert any(one.switches == () for one, may in zip(options.settings, options.usable, strict=True) if may)
    assert all(one.frame_step == 1 for one, may in zip(options.settings, options.usable, strict=True) if may)
    assert allow(free, ["010"], "switches", on=False) == project


def test_a_trial_of_it_that_was_marked_good_allows_it():
    project = blurred(mark=GOOD)
    options = Film(project).options("010")
    assert options.plannable[options.place(project.shots[0].asked.replace(switches=()))]


def test_a_shot_is_planned_like_a_trial_in_one_act_and_a_small_test_at_its_full_size():
    project = interiors(1)
    assert like_trial(project, 1).shots[0].settings == HALF
    small = project.trials[1].replace(resolution_percent=50.0, width=None, height=None)
    project = project.replace(trials=(project.trials[0], small))
    planned = like_trial(project, 1).shots[0].settings
    assert (planned.resolution_percent, planned.samples) == (100, 171)  # a third more: 128 × 4/3
    passes = project.replace(trials=(project.trials[0], project.trials[1].replace(mark=GOOD, mark_size=True)))
    assert like_trial(passes, 1).shots[0].settings.resolution_percent == 50


def test_what_excludes_each_other_is_no_plan():
    shot = make_shot(switches=("motion blur",))
    looks_around = trial("010", shot.asked.replace(denoise="neighbours"), 100.0)
    project = make_project((shot,), (trial("010", shot.asked, 100.0), looks_around))
    with pytest.raises(InputError, match="cannot be had with motion blur"):
        like_trial(project, 1)
    options = Film(project).options("010")
    assert not any(one.looks_around and one.switches for one in options.settings)


def moving(*allows, mark=""):
    """A shot in which something moves; denoising frame by frame at a quarter of the samples is the cheapest."""
    shot = Shot(name="010", first=1, last=90, asked=ASKED, moves=("objects",), allows=allows)
    quick = ASKED.replace(samples=64, denoise="frame")
    around = ASKED.replace(samples=64, denoise="neighbours")
    trials = (trial("010", ASKED, 900.0), trial("010", quick, 250.0, mark=mark), trial("010", around, 300.0))
    return make_project((shot,), trials), quick, around


def usable(project, settings):
    options = Film(project).options("010")
    return bool(options.usable[options.place(settings)])


def test_a_denoiser_that_looks_at_each_frame_alone_is_locked_where_something_moves():
    """It leaves other grain in every frame: that flickers. One that looks at neighbours does not."""
    project, quick, around = moving()
    assert not usable(project, quick)
    assert usable(project, around)
    assert usable(moving("denoise")[0], quick)
    assert usable(moving(mark=GOOD)[0], quick)
    still = project.replace(shots=(project.shots[0].replace(moves=()),))
    assert usable(still, quick)
    # A shot that was asked for denoised so stays so, and may be had without.
    asked = project.replace(shots=(project.shots[0].replace(asked=quick),))
    assert usable(asked, quick)
    assert usable(asked, ASKED)
