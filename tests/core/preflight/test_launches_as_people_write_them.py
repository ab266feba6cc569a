"""Launches as people write them: numbers in names, stills and movies, the rest of a range, every setting of the plan."""

import pytest

from film import make_project, make_shot, well_timed
from pemlo.core.arrivals.place import FrameName, place_of, with_frame_field
from pemlo.core.preflight.all_checks import ready_shots, run_checks, unsure_shots
from pemlo.core.preflight.check_context import FolderFacts, plan_row, situation_of
from pemlo.core.preflight.finding import FINE, UNKNOWN, WRONG
from pemlo.core.preflight.written_paths import paths_of
from pemlo.core.project.launch import LaunchRow


def film(shot=None, **row):
    shot = shot or make_shot("010", 300)
    project = make_project(shots=(shot,), trials=well_timed("010", (1, 300)))
    planned = plan_row(project, shot).replace(pattern="{shot}.{frame:04}.exr", folder="r")
    return project.replace(launch=(planned.replace(**row),))


def checked(project, names=(), *, there=True, folder="r"):
    here = situation_of(project)
    facts = FolderFacts(is_folder=there, writable=True, free_gib=1000.0, names=frozenset(names))
    return type(here)(here.project, here.rows, here.typed, here.left_out, {folder: facts, ".": facts})


def outcome(found, check):
    (one,) = [one for one in found if one.check == check and one.shot]
    return one.outcome


@pytest.mark.parametrize(
    ("written", "first"),
    [
        ("shot.####.exr", "shot.0001.exr"), ("shot.@@@@.exr", "shot.0001.exr"), ("shot_%04d.png", "shot_0001.png"),
        ("{shot}.{frame:04}.exr", "010.0001.exr"), ("%d.exr", "1.exr"), ("v2_#.##.exr", "v2_#.01.exr"),
    ],
)  # fmt: skip
def test_frame_numbers_are_read_as_people_write_them(written, first):
    row = LaunchRow(shot="010", first=1, last=3, pattern=written, folder="r")
    assert paths_of(row)[0] == f"r/{first}"
    assert len(paths_of(row)) == 3
    assert place_of(written).read(first).frame == 1
    project = film(pattern=written)
    assert outcome(run_checks(checked(project)), "file names") in (FINE, WRONG)


def test_enough_marks_are_fine_and_too_few_are_lengthened_as_they_are_read():
    assert outcome(run_checks(checked(film(pattern="{shot}.####.exr"))), "file names") == FINE
    (short,) = [
        one for one in run_checks(checked(film(pattern="{shot}.##.exr"))) if one.check == "file names" and one.words
    ]
    mended = short.mend.change(film(pattern="{shot}.##.exr"))
    assert mended.launch[0].pattern == "{shot}.{frame:04}.exr"


def test_what_is_no_frame_number_stays():
    for name in ("a.exr", "100%.exr", "50%d/x.exr", "{shot}.{frame:04}.#.exr"):
        assert with_frame_field(name) == name
    assert place_of("p_%03d.exr").path(FrameName("010", 7)) == "p_007.exr"


def test_a_still_needs_no_number_and_its_file_is_not_overwritten_unsaid():
    still = make_shot("010", 300).replace(still=True)
    first, _ = still.range_to_render(still.settings)
    project = film(still, pattern="poster.exr", first=first, last=first)
    assert outcome(run_checks(checked(project)), "file names") == FINE
    assert outcome(run_checks(checked(project)), "overwriting") == FINE
    found = run_checks(checked(project, ["poster.exr"]))
    (one,) = [one for one in found if one.check == "overwriting"]
    assert (one.outcome, one.words) == (WRONG, "r/poster.exr of 010 exists and would be overwritten.")


def test_a_movie_that_is_there_would_be_overwritten():
    found = run_checks(checked(film(pattern="010.mp4"), ["010.mp4"]))
    assert outcome(found, "overwriting") == WRONG
    assert outcome(run_checks(checked(film(pattern="010.mp4"))), "overwriting") == FINE


def test_a_launch_of_the_rest_is_right_where_the_others_are_in():
    """21-300 with the first 20 in."""
    done = [f"010.{frame:04d}.exr" for frame in range(1, 21)]
    rest = film(first=21)
    assert outcome(run_checks(checked(rest, done)), "range") == FINE
    assert outcome(run_checks(checked(rest, done)), "overwriting") == FINE
    assert outcome(run_checks(checked(rest, done[:-1])), "range") == WRONG
    assert outcome(run_checks(checked(film(last=400), done)), "range") == WRONG


def test_what_is_there_and_is_skipped_is_not_overwritten():
    done = [f"010.{frame:04d}.exr" for frame in range(1, 21)]
    assert outcome(run_checks(checked(film(), done)), "overwriting") == WRONG
    assert outcome(run_checks(checked(film(skips=True), done)), "overwriting") == FINE


@pytest.mark.parametrize(
    ("field", "value", "words"),
    [
        ("samples", 128, "samples 128"), ("most_seconds", 60.0, "time limit 1 m 00 s, planned none"),
        ("split", (4, 1, 1), "sampling split 4,1,1, planned 1,1,1"), ("switches", ("fog",), "switches fog, planned none"),
        ("keep", ("light",), "kept light, planned nothing"), ("way", "quick", "way quick, planned the usual one"),
        ("threshold", 0.1, "noise threshold 0.1"), ("denoise", "frame", "denoise frame"),
    ],
)  # fmt: skip
def test_every_setting_of_the_plan_is_checked_and_mended(field, value, words):
    project = film(**{field: value})
    (one,) = [one for one in run_checks(checked(project)) if one.check == "settings"]
    assert one.outcome == WRONG
    assert words in one.words
    mended = one.mend.change(project)
    assert outcome(run_checks(checked(mended)), "settings") == FINE


def test_least_samples_are_checked_where_there_is_a_threshold():
    adaptive = make_shot("010", 300, noise_threshold=0.02, min_samples=16)
    project = film(adaptive, min_samples=4)
    (one,) = [one for one in run_checks(checked(project)) if one.check == "settings"]
    assert "min samples 4, planned 16" in one.words
    assert outcome(run_checks(checked(one.mend.change(project))), "settings") == FINE


def test_a_format_that_is_not_known_is_not_wrong():
    found = run_checks(checked(film(pattern="{shot}.{frame:04}.xyz")))
    assert outcome(found, "pictures") == UNKNOWN
    assert outcome(found, "format") == UNKNOWN


def test_light_in_eight_bits_is_wrong_and_one_file_for_each_layer_is_not():
    bright = run_checks(checked(film(pattern="{shot}.{frame:04}.jpg", colour="scene-linear")))
    assert outcome(bright, "format") == WRONG
    layered = film(pattern="{shot}.{layer}.{frame:04}.png", layers=("albedo",))
    assert outcome(run_checks(checked(layered)), "format") == FINE
    assert outcome(run_checks(checked(film(pattern="{shot}.{frame:04}.png", layers=("albedo",)))), "format") == WRONG


def test_layers_that_a_denoiser_does_without_are_wanted_and_not_demanded():
    denoised = make_shot("010", 300, denoise="frame")
    found = run_checks(checked(film(denoised, layers=("depth",))))
    assert outcome(found, "layers") == UNKNOWN
    neighbours = make_shot("010", 300, denoise="neighbours")
    assert outcome(run_checks(checked(film(neighbours, layers=("depth",)))), "layers") == WRONG


def test_a_folder_that_is_not_there_or_not_the_one_that_is_watched_is_said():
    assert outcome(run_checks(checked(film())), "folders") == FINE
    assert outcome(run_checks(checked(film(), there=False)), "folders") == UNKNOWN
    project = film()
    elsewhere = project.replace(watching=project.watching.replace(place="other/{shot}.{frame:04}.exr"))
    (one,) = [one for one in run_checks(checked(elsewhere)) if one.check == "folders"]
    assert (one.outcome, one.words) == (UNKNOWN, "010 is written into r, and other is watched.")


def test_no_shot_is_ready_of_which_something_is_not_known():
    here = checked(film(), there=False)
    found = run_checks(here)
    assert ready_shots(here, found) == ()
    assert unsure_shots(here, found) == ("010",)
