"""The document: what it allows, what it says, and pure edits."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from film import DUE, START, exact_trial, make_project, make_shot
from pemlo.core.errors import InputError
from pemlo.core.project import edits
from pemlo.core.project.delivery import FRAME_RATES, FRAME_SIZES, Delivery, exact_rate, local_moment, rate_name
from pemlo.core.project.lookup import MOST_ROWS, SHORT
from pemlo.core.project.machines import Machine
from pemlo.core.project.notices import notices
from pemlo.core.project.project import Project
from pemlo.core.project.record import build
from pemlo.core.project.settings import ShotSettings
from pemlo.core.project.shots import Shot
from pemlo.core.project.trials import Trial


@pytest.mark.parametrize(
    ("kind", "fields", "words"),
    [
        (ShotSettings, {"samples": 0}, "samples: must be 1 or more"),
        (ShotSettings, {"samples": -5}, "samples: must be 1 or more"),
        (ShotSettings, {"samples": "many"}, "samples: must be a whole number"),
        (ShotSettings, {}, "samples: is missing"),
        (ShotSettings, {"samples": 8, "min_samples": 16}, "the min samples (16) are more than the most (8)"),
        (ShotSettings, {"samples": 8, "noise_threshold": float("nan")}, "must be a number, not infinity"),
        (ShotSettings, {"samples": 8, "resolution_percent": 0.5}, "resolution percent: must be 1"),
        (Shot, {"name": "", "first": 1, "last": 2, "asked": {"samples": 1}}, "name: is empty"),
        (Shot, {"name": "a", "first": 9, "last": 2, "asked": {"samples": 1}}, "last frame (2) is before the first (9)"),
        (Shot, {"name": "a", "first": 1, "last": 2_000_000, "asked": {"samples": 1}}, "a million frames at most"),
        (Shot, {"name": "a", "first": 1, "last": 2, "width": 9, "asked": {"samples": 1}}, "both width and height"),
        (Machine, {"name": "m", "hours": "now and then"}, "write hours like"),
        (Machine, {"name": "m", "speed": float("inf")}, "speed: must be a number"),
        (Machine, {"name": "m", "loss_percent": 100}, "loss percent: must be less than 100"),
        (Delivery, {"deadline": "2031-04-24T18:00"}, "deadline: must have a time zone"),
        (Delivery, {"deadline": DUE, "timezone": "Mars/North"}, "“Mars/North” is not a time zone"),
        (Delivery, {"deadline": "3031-04-24T18:00Z"}, "the year 3031"),
        (Trial, {"shot": "a", "frame": 1, "samples": 1, "seconds": -3}, "seconds: must be more than 0"),
        (Trial, {"shot": "a", "frame": 1, "samples": 1, "seconds": 3, "mark": "nice"}, "mark: must be"),
    ],
)
def test_says_where_and_what(kind, fields, words):
    with pytest.raises(InputError) as caught:
        build(kind, fields, "Here")
    assert words in str(caught.value)
    assert str(caught.value).startswith("Here")


def test_a_project_holds_together():
    with pytest.raises(InputError, match="deadline is not after the start"):
        make_project().replace(start="2032-01-01T00:00Z")
    with pytest.raises(InputError, match="shot 010 appears twice"):
        make_project().replace(shots=(make_shot("010"), make_shot("010")))
    with pytest.raises(InputError, match="shots that the brief does not have: 999"):
        make_project().replace(trials=(exact_trial("999", 1, 16),))
    many = tuple(exact_trial("010", 1, 16, denoise=f"way {number}") for number in range(13))
    with pytest.raises(InputError, match="12 ways of denoising"):
        make_project().replace(trials=many)


def test_documents_are_frozen(project):
    with pytest.raises(ValueError, match="frozen"):
        project.title = "other"
    assert hash(project.shots[0]) == hash(make_project().shots[0])


def test_edits_leave_the_old_document_as_it_was(project):
    before = project.model_dump_json()
    project = edits.add_trials(project, [exact_trial("010", 5, 16)])
    renamed = edits.set_shot(project, "010", name="015")
    assert [shot.name for shot in renamed.shots] == ["015", "020"]
    assert renamed.trials[0].shot == "015"
    assert make_project().model_dump_json() == before


def test_a_removed_shot_takes_its_trials_along(project):
    project = edits.add_trials(project, [exact_trial("010", 5, 16), exact_trial("020", 5, 16)])
    left = edits.remove_shots(project, ["010"])
    assert [trial.shot for trial in left.trials] == ["020"]
    with pytest.raises(InputError, match="shot 030 is not in the brief"):
        edits.add_trials(project, [exact_trial("030", 5, 16)])


def test_a_machine_renamed_is_followed_by_its_trials(project):
    project = edits.add_trials(project, [exact_trial("010", 5, 16, machine="reference")])
    assert edits.set_machine(project, "reference", name="desk").trials[0].machine == "desk"


@given(st.permutations(["a", "b", "c", "d"]), st.integers(-6, 6))
def test_moving_a_shot_only_changes_the_order(names, by):
    project = make_project(shots=tuple(make_shot(name) for name in names))
    moved = edits.move_shot(project, names[1], by)
    assert sorted(shot.name for shot in moved.shots) == sorted(names)
    assert moved.shots[max(0, min(3, 1 + by))].name == names[1]


def test_a_plan_stands_apart_from_what_was_asked(project):
    shot = project.shots[0].replace(plan=ShotSettings(samples=64, frame_step=2))
    assert shot.settings.samples == 64
    assert shot.asked.samples == 256
    assert (shot.frame_count, shot.rendered_count(shot.settings)) == (100, 50)


def test_names_that_are_free():
    assert edits.unused_name(["010", "020"], "010") == "030"
    assert edits.unused_name([], "010") == "010"
    assert edits.unused_name(["machine", "machine 2"], "machine") == "machine 3"


def test_notices_tell_what_looks_wrong(project):
    project = edits.add_trials(project, [exact_trial("010", 500, 16, machine="ghost")])
    words = [str(notice) for notice in notices(project.replace(machines=()))]
    assert len(words) == 3
    assert "none is listed" in words[0]
    assert "“ghost” is not in the brief" in words[1]
    assert "trials at frame 500 lie outside 1-100" in words[2]
    assert notices(make_project()) == ()


def test_sizes_and_rates_of_the_standards():
    sizes = {(size.name, size.width, size.height) for size in FRAME_SIZES}
    # SMPTE ST 428-1 (2048x1080, 4096x2160) and ITU-R BT.2020 (3840x2160).
    assert {("DCI 2K", 2048, 1080), ("DCI 4K", 4096, 2160), ("UHD 4K", 3840, 2160)} <= sizes
    assert exact_rate(29.97) == 30000 / 1001
    assert rate_name(30000 / 1001) == "29.97"
    # SMPTE ST 12-1: drop-frame counting has 17 982 frames in ten minutes of 29.97.
    shot = Shot(name="a", first=1, last=17982, fps=FRAME_RATES["29.97"], asked=ShotSettings(samples=1))
    assert make_project(shots=(shot,)).screen_seconds(shot) == pytest.approx(600, abs=0.001)


def test_moments_are_read_in_the_zone():
    assert local_moment("2031-07-01 12:00", "Europe/Lisbon").isoformat() == "2031-07-01T12:00:00+01:00"
    assert local_moment("2031-07-01T12:00+05:00", "Europe/Lisbon").utcoffset().total_seconds() == 5 * 3600
    with pytest.raises(ValueError, match="is not a date and time"):
        local_moment("next week", "UTC")


def test_unknown_fields_are_kept():
    data = make_project().model_dump(mode="json")
    data["later"] = {"a": 1}
    data["shots"][0]["mood"] = "calm"
    again = Project.model_validate(data).model_dump(mode="json")
    assert again["later"] == {"a": 1}
    assert again["shots"][0]["mood"] == "calm"
    assert edits.set_shot(Project.model_validate(data), "010", last=90).model_dump()["shots"][0]["mood"] == "calm"


def test_start_is_kept_with_its_zone():
    assert make_project().start.isoformat() == START.replace("Z", ":00+00:00")


@pytest.mark.parametrize("count", [2, SHORT + 1, 40])
def test_shots_and_trials_are_found_by_name_in_every_copy(count):
    """An index belongs to the very row that it was made of: a copy with others has its own."""
    names = [f"{number:03d}" for number in range(count)]
    shots = tuple(make_shot(name, 50) for name in names)
    film = make_project(shots, tuple(exact_trial(name, 1, 64) for name in names))
    assert (film.shot("001").name, len(film.trials_of("000"))) == ("001", 1)
    trials = (*film.trials, exact_trial("000", 2, 64).replace(left_out="slow"))
    longer = film.model_copy(update={"shots": (*shots[:-1], make_shot("new", 7)), "trials": trials})
    assert (longer.shot("new").frame_count, len(longer.trials_of("000")), len(film.trials_of("000"))) == (7, 2, 1)
    assert (len(longer.trials), len(longer.counted_trials)) == (count + 1, count)
    with pytest.raises(KeyError):
        longer.shot(names[-1])
    assert film.trials_of("none") == ()


def test_rows_that_come_and_go_never_have_the_index_of_another():
    for number in range(5 * MOST_ROWS):
        names = [f"{number}_{place}" for place in range(SHORT + 2)]
        film = make_project(tuple(make_shot(name) for name in names))
        assert [film.shot(name).name for name in names] == names
        with pytest.raises(KeyError):
            film.shot(f"{number - 1}_0")
