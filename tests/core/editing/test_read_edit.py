"""Edits: written by OpenTimelineIO, and by hand after the CMX 3600 layout (from memory)."""

import opentimelineio as otio
import pytest
from opentimelineio.opentime import RationalTime, TimeRange

from pemlo.core.editing.apart import read_edit_apart
from pemlo.core.editing.read_edit import edit_from_cmx, edit_from_otio, read_edit
from pemlo.core.errors import FileError, InputError

REEL = """TITLE: REEL 2
FCM: NON-DROP FRAME

001  S010     V     C        01:00:00:00 01:00:04:00 01:00:00:00 01:00:04:00
* FROM CLIP NAME: 010.mov
002  S020     V     C        00:00:10:00 00:00:12:00 01:00:04:00 01:00:08:00
M2   S020             012.0                00:00:10:00
* FROM CLIP NAME: 020
003  S020     V     C        00:00:12:00 00:00:12:00 01:00:08:00 01:00:08:00
003  S040     V     D    024 00:00:10:00 00:00:14:00 01:00:08:00 01:00:12:00
* FROM CLIP NAME: 020
* TO CLIP NAME: 040
004  BL       V     C        00:00:00:00 00:00:01:00 01:00:12:00 01:00:13:00
005  S050     A     C        00:00:10:00 00:00:12:00 01:00:10:00 01:00:12:00
006  S060     V     C        00:00:10:00 00:00:12:00 01:00:13:00 01:00:15:00
"""


def lines(*events, head="TITLE: X\n"):
    return head + "".join(f"{event}\n" for event in events)


def event(number, reel, source, record, kind="C"):
    return f"{number:03d}  {reel}  V  {kind}  {source[0]} {source[1]} {record[0]} {record[1]}"


def test_a_list_by_hand():
    edit = edit_from_cmx(REEL, 24)
    shots = {shot.name: shot for shot in edit.shots}
    assert list(shots) == ["010", "020", "040", "S060"], "a clip without a name goes by its reel; sound is no shot"
    assert (shots["010"].first, shots["010"].last, shots["010"].at_s) == (86_400, 86_495, 3600)
    # At 12 frames of 24 a second: four seconds and the dissolve of one need half as many frames.
    assert (shots["020"].first, shots["020"].count, shots["020"].speeds) == (240, 60, (0.5,))
    assert (shots["040"].first, shots["040"].count) == (240, 96)
    assert edit.left_aside == ("black (004)",)


@pytest.mark.parametrize(("fps", "end"), [(24, "00:00:02:12"), (25, "00:00:02:12"), (30, "00:00:02:12"), (29.97, "00:00:02:12")])  # fmt: skip
def test_rates(fps, end):
    text = lines(event(1, "S010", ("00:00:00:00", end), ("01:00:00:00", "01:" + end[3:])))
    [shot] = edit_from_cmx(text, fps).shots
    assert shot.count == 2 * round(fps) + 12


def test_drop_frame_by_its_line_and_by_its_sign():
    by_sign = lines(event(1, "A1", ("00:00:00;00", "00:01:00;02"), ("01:00:00;00", "01:01:00;02")))
    by_line = lines(event(1, "A1", ("00:00:00:00", "00:01:00:02"), ("01:00:00:00", "01:01:00:02")), head="FCM: DROP FRAME\n")  # fmt: skip
    for text in (by_sign, by_line):
        edit = edit_from_cmx(text, 24)
        assert edit.fps == 30000 / 1001
        assert edit.shots[0].count == 1800


def test_a_frame_that_stands_and_one_backwards():
    text = lines(
        event(1, "A1", ("00:00:01:00", "00:00:01:01"), ("00:00:00:00", "00:00:02:00")),
        "M2   A1             000.0                00:00:01:00", "* FROM CLIP NAME: 010 FF", "* FREEZE FRAME",
        event(2, "A2", ("00:00:10:00", "00:00:12:00"), ("00:00:02:00", "00:00:06:00")),
        "M2   A2            -012.0                00:00:10:00", "* FROM CLIP NAME: 020",
    )  # fmt: skip
    stands, back = edit_from_cmx(text, 24).shots
    assert (stands.first, stands.count, stands.speeds) == (24, 1, (0.0,))
    assert (back.last, back.count, back.speeds) == (240, 48, (-0.5,))


@pytest.mark.parametrize(
    ("text", "line", "what"),
    [
        (lines(event(1, "A", ("00:0x:00:00", "00:00:01:00"), ("00:00:00:00", "00:00:01:00"))), 2, "no timecode"),
        (lines(event(1, "A", ("00:00:00:00", "00:00:01:30"), ("00:00:00:00", "00:00:01:00"))), 2, "ends with 23"),
        (lines("001  A  V  C  00:00:00:00 00:00:01:00 00:00:00:00"), 2, "7 columns"),
        (lines(event(1, "A", ("00:00:02:00", "00:00:01:00"), ("00:00:00:00", "00:00:01:00"))), 2, "ends before it begins"),
        (lines(event(1, "A", ("00:00:00:00", "00:00:01:00"), ("00:00:00:00", "00:00:01:00"), "K B")), 2, "neither D nor W"),
        (lines(event(1, "A", ("00:00:00:00", "00:00:01:00"), ("00:00:00:00", "00:00:01:00")),
               event(2, "B", ("00:00:00:00", "00:00:01:00"), ("00:00:01:00", "00:00:03:00")),
               event(3, "C", ("00:00:00:00", "00:00:01:00"), ("00:00:03:00", "00:00:04:00"))), 3, "duration"),
        ("shot,first,last\n", 1, "no line of an edit list"),
    ],
)  # fmt: skip
def test_broken_lists_say_their_line(text, line, what):
    with pytest.raises(InputError) as caught:
        edit_from_cmx(text, 24, "reel.edl")
    assert f"reel.edl, line {line}" in str(caught.value)
    assert what in str(caught.value)


def test_all_broken_lines_at_once():
    text = lines(*(event(k, "A", ("00:00:00:99", "00:00:01:00"), ("00:00:00:00", "00:00:01:00")) for k in range(1, 4)))
    with pytest.raises(InputError) as caught:
        edit_from_cmx(text, 24)
    assert [problem.where.rpartition(" ")[2] for problem in caught.value.problems] == ["2", "3", "4"]


def clip(name, start, count, rate=24.0, **more):
    return otio.schema.Clip(name, source_range=TimeRange(RationalTime(start, rate), RationalTime(count, rate)), **more)


def timeline(*clips, begins=86_400):
    made = otio.schema.Timeline("reel", global_start_time=RationalTime(begins, 24.0))
    track = otio.schema.Track("V1", kind=otio.schema.TrackKind.Video)
    track.extend(clips)
    made.tracks.append(track)
    return made


def test_a_file_of_opentimelineio(tmp_path):
    slow = clip("020", 1, 100)
    slow.effects.append(otio.schema.LinearTimeWarp(time_scalar=0.5))
    off = clip("030", 1, 10)
    off.enabled = False
    film = timeline(
        clip("010", 1001, 48), otio.schema.Gap(duration=RationalTime(24, 24.0)), slow, clip("010", 1101, 20), off
    )
    sound = otio.schema.Track("A1", kind=otio.schema.TrackKind.Audio)
    sound.append(clip("voice", 0, 500))
    film.tracks.append(sound)
    path = tmp_path / "reel.otio"
    otio.adapters.write_to_file(film, str(path))
    edit = read_edit(path, 24)
    first, second = edit.shots
    assert (first.name, first.first, first.last, first.times, first.at_s) == ("010", 1001, 1120, 2, 3600)
    assert (second.name, second.first, second.count, second.at_s) == ("020", 1, 50, 3603)
    assert edit.left_aside == ("030 (switched off)",)


def test_transitions_need_frames_on_both_sides():
    dissolve = otio.schema.Transition(in_offset=RationalTime(6, 24.0), out_offset=RationalTime(10, 24.0))
    film = timeline(clip("010", 100, 48), dissolve, clip("020", 200, 48))
    edit = edit_from_otio(otio.adapters.write_to_string(film, "otio_json"))
    assert [(shot.first, shot.last) for shot in edit.shots] == [(100, 157), (194, 247)]


def test_what_opentimelineio_writes_as_an_edit_list_is_read_as_its_own_file():
    film = timeline(clip("010", 1, 48), clip("020", 11, 24))
    as_list = edit_from_cmx(otio.adapters.write_to_string(film, "cmx_3600", rate=24), 24)
    as_file = edit_from_otio(otio.adapters.write_to_string(film, "otio_json"))
    assert [(shot.name, shot.first, shot.last) for shot in as_list.shots] == [
        (shot.name, shot.first, shot.last) for shot in as_file.shots
    ]


@pytest.mark.parametrize(("text", "what"), [("{", "line 1"), ("{}", "no timeline"), ("[1]", "."), ('{"OTIO_SCHEMA": "Clip.2"}', "no OpenTimelineIO file")])  # fmt: skip
def test_files_that_are_no_edit(text, what):
    with pytest.raises(InputError, match=what):
        edit_from_otio(text)


def test_files_that_cannot_be_read(tmp_path):
    with pytest.raises(FileError, match="cannot be opened"):
        read_edit(tmp_path / "none.edl", 24)
    picture = tmp_path / "picture.edl"
    picture.write_bytes(bytes(range(256)))
    with pytest.raises(InputError, match="not text"):
        read_edit(picture, 24)


def test_clips_without_a_name_or_a_range():
    nameless = timeline(clip("", 1, 10))
    with pytest.raises(InputError, match="no name"):
        edit_from_otio(otio.adapters.write_to_string(nameless, "otio_json"))
    rangeless = timeline(otio.schema.Clip("010"))
    with pytest.raises(InputError, match="clip 010"):
        edit_from_otio(otio.adapters.write_to_string(rangeless, "otio_json"))


def test_what_ends_the_reader_ends_a_process_of_its_own(tmp_path):
    good = otio.adapters.write_to_string(timeline(clip("010", 1, 48)), "otio_json")
    path = tmp_path / "reel.otio"
    path.write_text(good)
    assert read_edit_apart(path, 24) == read_edit(path, 24)
    # This one ends the compiled reader with a broken memory access; if a newer one refuses it, that is as well.
    film = timeline(clip("010", 1, 48), otio.schema.Transition(in_offset=RationalTime(3, 24.0), out_offset=RationalTime(4, 24.0)), clip("020", 1, 9))  # fmt: skip
    text = otio.adapters.write_to_string(film, "otio_json")
    at = text.index('"in_offset"')
    text = text[:at] + text[at:].replace("RationalTime.1", "RationalTme.1", 1)
    path.write_text(text)
    with pytest.raises(InputError, match=r"reel\.otio"):
        read_edit_apart(path, 24)
    with pytest.raises(FileError, match="cannot be opened"):
        read_edit_apart(tmp_path / "none.edl", 24)
    broken = tmp_path / "broken.edl"
    broken.write_text("hello\n")
    with pytest.raises(InputError) as caught:
        read_edit_apart(broken, 24)
    assert str(caught.value.problems[0]).startswith("broken.edl, line 1: “hello”")
