"""Edits that cannot be, or want to be more than an edit: each is refused with its line or its clip, in words for people."""

import json

import opentimelineio as otio
import pytest

from film import make_project, make_shot
from pemlo.core.editing.changed_edit import edit_change
from pemlo.core.editing.read_edit import edit_from_cmx, edit_from_otio
from pemlo.core.errors import InputError

DISSOLVE = "001  010  V  D  012  00:00:00:00 00:00:01:00 00:00:00:00 00:00:01:00\n"
BLACK = "001  BL  V  C  00:00:00:00 00:00:00:00 00:00:00:00 00:00:00:00\n"


@pytest.mark.parametrize("names", ["", "* FROM CLIP NAME: 010\n* TO CLIP NAME: 020\n"])
def test_a_dissolve_from_nothing_is_refused_and_takes_no_shot_away(names):
    with pytest.raises(InputError, match=r"line 2: is a dissolve or a wipe with no event before it"):
        edit_from_cmx(f"TITLE: X\n{DISSOLVE}{names}", 24)


@pytest.mark.parametrize("names", ["", "* FROM CLIP NAME: BLACK\n* TO CLIP NAME: 010\n"])
def test_a_film_that_begins_out_of_black_is_read(names):
    (shot,) = edit_from_cmx(f"TITLE: X\n{BLACK}{DISSOLVE}{names}", 24).shots
    assert (shot.name, shot.count) == ("010", 24)


def timeline(rate=24.0, start=1.0, frames=48.0, begins=None, scalar=None, name="010"):
    film = otio.schema.Timeline("reel")
    if begins is not None:
        film.global_start_time = otio.opentime.RationalTime(begins, 24)
    track = otio.schema.Track("V1", kind=otio.schema.TrackKind.Video)
    clip = otio.schema.Clip(name, source_range=otio.opentime.TimeRange(
        otio.opentime.RationalTime(start, rate), otio.opentime.RationalTime(frames, rate)))  # fmt: skip
    if scalar is not None:
        clip.effects.append(otio.schema.LinearTimeWarp(time_scalar=scalar))
    track.append(clip)
    film.tracks.append(track)
    return film.to_json_string()


@pytest.mark.parametrize(
    ("fields", "words"),
    [({"frames": -5}, "-5 frames long"), ({"frames": 0}, "0 frames long"), ({"frames": 2e6}, "frames long"),
     ({"rate": -24}, "runs at -24 frames a second"), ({"rate": 0}, "runs at 0|cannot be"), ({"rate": 1e308}, "frames a second"),
     ({"start": 1e12}, r"begins at frame 1e\+12"), ({"scalar": 1e300}, "is retimed by"), ({"name": ""}, "has no name"),
     ({"name": "\x1b\u202e"}, "has no name")],
)  # fmt: skip
def test_clips_that_cannot_be_are_named(fields, words):
    with pytest.raises(InputError, match=words) as caught:
        edit_from_otio(timeline(**fields))
    said = str(caught.value)
    assert said.startswith("edit.otio, clip ")
    assert not {"\x1b", "\u202e"} & set(said)


def test_an_edit_that_begins_before_its_clock_is_read():
    edit = edit_from_otio(timeline(begins=-100))
    assert edit.shots[0].count == 48
    assert edit_change(make_project((make_shot("010", 48),)), edit).project.shots[0].frame_count == 48


@pytest.mark.parametrize(
    "text", ["[" * 100_000, "{}", '{"OTIO_SCHEMA": "Timeline.999"}', '"x"', json.dumps({"a": "b" * 10_000})]
)
def test_what_is_no_timeline_is_refused_in_our_words(text):
    with pytest.raises(InputError) as caught:
        edit_from_otio(text)
    assert not any(word in str(caught.value) for word in ("recursion", "Error", "NoneType", "OTIO_SCHEMA", "decoding"))


def test_a_name_with_folders_becomes_one_that_goes():
    assert edit_from_otio(timeline(name="../../seq/010.mov")).shots[0].name == ".._.._seq_010"


def test_frames_that_no_shot_can_have_are_said_with_the_shot():
    edit = edit_from_otio(timeline(start=9_000_000.0, frames=900_000.0))
    with pytest.raises(InputError, match="Shot 020"):
        edit_change(
            make_project((make_shot("010"),)),
            edit_from_otio(timeline(name="020", frames=999_999)),
            first_frame=9_900_000,
        )
    assert edit.shots[0].first == 9_000_000
