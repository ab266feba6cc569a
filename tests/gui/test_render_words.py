"""What is typed to render trials, what lands, and what dropped pictures become. No widgets."""

from pathlib import Path

import pytest

from film import make_project, make_shot
from pemlo.app import picture_places
from pemlo.core.errors import InputError
from pemlo.core.files.header import Header
from pemlo.core.persistence.trial_header import our_fields
from pemlo.core.project.record import build
from pemlo.core.project.settings import FrameSettings
from pemlo.core.project.trials import FIRST_RUN, Trial
from pemlo.gui.trials import render_words
from pemlo.gui.trials.dropped_words import dropped_trials, guessed_names

SHOT = make_shot("010").replace(extra_columns=(("scene", "stairs"),))
PROJECT = make_project(shots=(SHOT, make_shot("020", 50, noise_threshold=0.05, min_samples=8)))


def typed(**changes):
    return {**render_words.beginning(FrameSettings(samples=64), 41), **changes}


def asked(**changes):
    return render_words.wanted(PROJECT, SHOT, typed(**changes))


def test_one_frame_is_what_the_form_begins_with():
    assert asked() == (render_words.RenderRequest(41, FrameSettings(samples=64)),)


def test_a_ladder_goes_over_all_frames_cheapest_step_first():
    found = asked(frames="1,100", samples="32, 8; 16", size="50", denoise="frame", keep="light")
    assert [(one.settings.samples, one.frame) for one in found] == [
        (8, 1), (8, 100), (16, 1), (16, 100), (32, 1), (32, 100)
    ]  # fmt: skip
    assert {one.settings.replace(samples=1) for one in found} == {
        FrameSettings(samples=1, resolution_percent=50, denoise="frame", keep=("light",))
    }


def test_caps_splits_switches_and_saves_are_typed():
    (one,) = asked(cap="4:02", split="4, 1, 1", switches="motion blur, soft filter", saves="2")
    wanted = FrameSettings(
        samples=64, most_seconds=242, split=(4, 1, 1), switches=("motion blur", "soft filter"), saves=2
    )
    assert one.settings == wanted
    again = render_words.wanted(PROJECT, SHOT, render_words.beginning(wanted, 41))
    assert again == (one,)


def test_thresholds_fall():
    found = asked(samples="256", thresholds="0.02, 0.08", least="4", region="0,0,200,100")
    assert [one.settings.noise_threshold for one in found] == [0.08, 0.02]
    assert {(one.settings.min_samples, one.settings.samples, one.region) for one in found} == {
        (4, 256, (0, 0, 200, 100))
    }


@pytest.mark.parametrize(
    ("change", "where"),
    [
        ({"frames": "0"}, "Frames"), ({"frames": "101"}, "Frames"), ({"frames": "x"}, "frames"), ({"frames": ""}, "(?i)frames"),
        ({"samples": ""}, "Samples"), ({"samples": "many"}, "Samples"), ({"samples": "0"}, "samples"),
        ({"thresholds": "0"}, "threshold"), ({"size": "0"}, "resolution"), ({"size": ""}, "Size"),
        ({"region": "1,2,3"}, "Region"), ({"region": "0,0,9999,9"}, "Region"), ({"region": "9,0,3,9"}, "Region"),
        ({"keep": "trace"}, "Keep"), ({"cap": "soon"}, "soon"), ({"split": "4,1"}, "Split"), ({"saves": "many"}, "Saves"), ({"frames": "1-100", "samples": "1,2,4"}, "300 frames"),
        ({"samples": "4", "thresholds": "0.1", "least": "8"}, "min samples"),
    ],
)  # fmt: skip
def test_wrong_fields_are_named(change, where):
    with pytest.raises(InputError, match=where):
        asked(**change)


HEADER = {
    "scene": "stairs", "frame": 41, "full_width": 64, "samples": 64, "min_samples": 64, "noise_threshold": 0.0,
    "mean_samples": 64.0, "seed": "3", "denoise": "none", "resolution_percent": 100.0, "machine": "desk",
    "first_run": 0, "region": "whole", "read_back": "nothing", "seconds": 4.5, "prepare_seconds": 0.5,
    "light_seconds": 0.25, "trace_seconds": 3.5, "denoise_seconds": 0.0, "write_seconds": 0.25, "noise": 0.08,
    "noise_shape": "-2 -1 0",
}  # fmt: skip


def landed_trial(shot, settings, header, picture):
    """What a picture of the small renderer becomes."""
    said = our_fields({name: str(value) for name, value in header.items()}, "The rendered frame")
    del said["scene"]
    return build(Trial, {**settings.frame_fields(), **said, "shot": shot, "picture": picture}, "The rendered frame")


def test_what_lands_is_the_trial_with_its_times():
    trial = landed_trial("010", FrameSettings(samples=64), HEADER, "pictures/a.exr")
    assert (trial.seconds, trial.stage_seconds()["trace"], trial.machine) == (4.5, 3.5, "desk")
    assert (trial.noise, trial.noise_shape, trial.picture, trial.left_out) == (0.08, (-2, -1, 0), "pictures/a.exr", "")


def test_kept_data_that_were_not_there_yet_are_not_said_to_have_been_used():
    settings = FrameSettings(samples=64, keep=("light",))
    assert landed_trial("010", settings, HEADER, "a.exr").keep == ()
    assert landed_trial("010", settings, {**HEADER, "read_back": "light"}, "a.exr").keep == ("light",)


def test_first_runs_are_left_out_and_parts_of_frames_say_how_large_they_are():
    def landed(**change):
        return landed_trial("010", FrameSettings(samples=64), {**HEADER, **change}, "a.exr")

    assert landed(first_run=1).left_out
    part = landed(region="0,0,16,9", full_width=64, full_height=36)
    assert (part.left_out, part.region_percent) == ("", 6.25)


def ours(name="any_0007.exr", **changes):
    return Header(Path("/films") / name, 64, 36, (), {f"pemlo:{k}": str(v) for k, v in {**HEADER, **changes}.items()})


def test_dropped_pictures_of_ours_go_to_the_shot_of_their_scene():
    trials, problems = dropped_trials([ours(), ours(first_run=1)], {}, PROJECT, "020")
    assert not problems
    assert [(t.shot, t.frame, t.left_out, t.picture) for t in trials] == [
        ("010", 41, "", "/films/any_0007.exr"), ("010", 41, FIRST_RUN, "/films/any_0007.exr")
    ]  # fmt: skip


def test_dropped_pictures_of_others_go_to_the_picked_shot_with_what_it_asks():
    other = Header(Path("/r/beauty.0012.exr"), 64, 36, (), {"render/Time": "0:12", "Samples": "32"})
    names = guessed_names(other) | {"seconds": "render/Time"}
    assert names == {"seconds": "render/Time", "samples": "Samples"}
    (trial,), problems = dropped_trials([other], names, PROJECT, "020")
    assert not problems
    assert (trial.shot, trial.frame, trial.seconds, trial.samples, trial.noise_threshold) == ("020", 12, 12.0, 32, None)
    assert trial.picture == "/r/beauty.0012.exr"


@pytest.mark.parametrize(
    ("header", "shown", "words"),
    [
        (Header(Path("a.exr"), 1, 1, (), {"t": "9"}), "010", "no frame"),
        (Header(Path("a_1.exr"), 1, 1, (), {"t": "9", "s": "099"}), "010", "099, which is not in the brief"),
        (Header(Path("a_1.exr"), 1, 1, (), {"t": "9"}), "", "none is picked"),
        (Header(Path("a_1.exr"), 1, 1, (), {}), "010", "seconds: is missing"),
        (Header(Path("a_1.exr"), 1, 1, (), {"t": "soon"}), "010", "soon"),
    ],
)
def test_what_makes_no_trial_is_said_and_the_others_are_taken(header, shown, words):
    trials, problems = dropped_trials([header, ours()], {"seconds": "t", "shot": "s"}, PROJECT, shown)
    assert [trial.shot for trial in trials] == ["010"]
    assert words in str(problems[0])


def test_pictures_are_found_beside_the_project(tmp_path):
    film = tmp_path / "film.pemlo"
    folder = picture_places.folder_for(film)
    trial = landed_trial("010", FrameSettings(samples=64), HEADER, "film pictures/a.exr")
    assert picture_places.named_picture(trial, film) == folder / "a.exr"
    folder.mkdir()
    assert picture_places.small_of(folder / "a.exr", film) is None
    (folder / "a.small.jpg").touch()
    assert picture_places.small_of(folder / "a.exr", film) == folder / "a.small.jpg"
