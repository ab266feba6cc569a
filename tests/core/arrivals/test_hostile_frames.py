"""Frames, logs and clocks that others wrote: one that is odd hides no others, ends no look, and teaches nothing wrong."""

import json
import os
import threading
from pathlib import Path

import numpy as np
import pytest

from film import make_project, make_shot
from frame_files import ramp, write
from limits import limited
from pemlo.cli.main import main
from pemlo.core.arrivals.arrival_snapshot import arrival_snapshot
from pemlo.core.arrivals.farm_clock import CLOCK_FILE, read_clock
from pemlo.core.arrivals.folder_scanner import FolderScanner
from pemlo.core.arrivals.live_forecast import know, live_forecast
from pemlo.core.arrivals.log_reader import LogReader, clock_time, pattern_of
from pemlo.core.arrivals.place import place_of
from pemlo.core.arrivals.scan import scan
from pemlo.core.arrivals.states import FrameState
from pemlo.core.arrivals.store import Store, store_path
from pemlo.core.errors import FileError
from pemlo.core.files.text_lines import LONGEST_LINE, ReadTo, first_lines, read_on
from pemlo.core.persistence.document import write_project
from pemlo.core.project.machines import Machine
from pemlo.core.project.trials import Trial
from pemlo.core.project.watching import LogExample, Watching

NOW = 2_000_000_000.0
PLACE = "r/{shot}/{shot}.{frame:04}.exr"


def film(frames=5, trials=(), machines=None, place=PLACE):
    made = make_project((make_shot("010", frames),), trials, machines or (Machine(name="desk"),), width=48, height=32)
    return made.replace(watching=Watching(place=place))


def put(root, name, at=NOW - 1000, **attributes):
    path = root / name
    path.parent.mkdir(parents=True, exist_ok=True)
    write(path, ramp(seed=len(name)), "half", **attributes)
    os.utime(path, (at, at))
    return path


def completed_frames(project, look):
    return arrival_snapshot(project, look, 0.0).states[0].of(FrameState.IN)


# Entries that cannot be read.


@pytest.fixture
def with_a_bad_link(tmp_path):
    for frame in (1, 3, 4, 5):
        put(tmp_path, f"r/010/010.{frame:04d}.exr")
    link = tmp_path / "r/010/010.0002.exr"
    link.symlink_to(link.name)
    return tmp_path


def test_a_link_to_itself_hides_no_other_frame(with_a_bad_link):
    found = scan(place_of(PLACE), with_a_bad_link)
    assert [one.found.frame for one in found.arrivals] == [1, 3, 4, 5]
    assert (found.whole, [Path(path).name for path in found.unread]) == (False, ["010.0002.exr"])
    assert "010.0002.exr cannot be looked at" in found.troubles[0]


def test_missing_says_that_it_could_not_look_at_all(with_a_bad_link, capsys):
    path = with_a_bad_link / "job.pemlo"
    write_project(film(), path)
    assert main(["missing", str(path), "--shot", "010"]) == 3
    said = capsys.readouterr()
    assert said.out == "2\n"
    assert "Not everything could be read" in said.err
    assert main(["missing", str(path), "--shot", "010", "--json"]) == 3
    assert json.loads(capsys.readouterr().out)["whole"] is False
    (with_a_bad_link / "r/010/010.0002.exr").unlink()
    assert main(["missing", str(path), "--shot", "010"]) == 0


def test_what_was_in_stays_in_while_it_cannot_be_looked_at(tmp_path):
    for frame in range(1, 6):
        put(tmp_path, f"r/010/010.{frame:04d}.exr")
    project = film()
    with Store(tmp_path / "a.sqlite") as store:
        scanner = FolderScanner(tmp_path, store)
        assert len(completed_frames(project, scanner.look(project, NOW))) == 5
        second = tmp_path / "r/010/010.0002.exr"
        second.unlink()
        second.symlink_to(second.name)
        look = scanner.look(project, NOW)
        assert completed_frames(project, look) == (1, 2, 3, 4, 5)
        assert any("cannot be looked at" in words for words in look.troubles)
        second.unlink()
        assert completed_frames(project, scanner.look(project, NOW)) == (1, 3, 4, 5)
    with Store(tmp_path / "a.sqlite") as store:
        assert len(store.frames()) == 4


def test_frames_of_a_listing_that_broke_off_are_kept(tmp_path, monkeypatch):
    for frame in range(1, 6):
        put(tmp_path, f"r/010/010.{frame:04d}.exr")
    project, scanner = film(), FolderScanner(tmp_path)
    assert len(completed_frames(project, scanner.look(project, NOW))) == 5
    listing = os.scandir

    class BreaksOff:
        def __init__(self, path):
            self.inner, self.count = listing(path), 0

        def __enter__(self):
            return self

        def __exit__(self, *_):
            self.inner.close()

        def __iter__(self):
            return self

        def __next__(self):
            self.count += 1
            if self.count > 2:
                raise OSError(5, "Input/output error")
            return next(self.inner)

    monkeypatch.setattr(os, "scandir", BreaksOff)
    look = scanner.look(project, NOW)
    assert completed_frames(project, look) == (1, 2, 3, 4, 5)
    assert any("cannot be read to its end" in words for words in look.troubles)


def test_a_pipe_and_a_name_that_is_no_text_are_said(tmp_path):
    home = tmp_path / "r/010"
    put(tmp_path, "r/010/010.0001.exr")
    os.mkfifo(home / "010.0002.exr")
    odd = tmp_path / "r" / os.fsdecode(b"0\xff")
    odd.mkdir()
    (odd / f"{odd.name}.0003.exr").write_text("x")
    with limited(10):
        look = FolderScanner(tmp_path).look(film(), NOW)
    assert completed_frames(film(), look) == (1,)
    said = " ".join(look.troubles)
    assert "but is a pipe or a device" in said
    assert "cannot be read: its name is not UTF-8" in said
    said.encode()


def test_a_place_may_go_up_and_home(tmp_path, monkeypatch):
    put(tmp_path, "r/010/010.0001.exr")
    (tmp_path / "film").mkdir()
    monkeypatch.setenv("HOME", str(tmp_path))
    for place in (f"../{PLACE}", f"~/{PLACE}", f"../film/../{PLACE}"):
        found = scan(place_of(place), tmp_path / "film")
        assert ([one.found.frame for one in found.arrivals], found.troubles) == ([1], ()), place


def test_a_number_of_twenty_digits_is_no_frame_and_ends_nothing(tmp_path):
    put(tmp_path, "r/010/010.0001.exr")
    put(tmp_path, f"r/010/010.{'9' * 20}.exr")
    put(tmp_path, f"r/010/010.{'9' * 12}.exr")
    project = film()
    with Store(store_path(tmp_path / "job.pemlo")) as store:
        scanner = FolderScanner(tmp_path, store)
        assert completed_frames(project, scanner.look(project, NOW)) == (1,)
        assert completed_frames(project, scanner.look(project, NOW)) == (1,)


# Headers.

HEADER = {
    "pemlo:scene": "stairs",
    "pemlo:frame": 1,
    "pemlo:seconds": 12.5,
    "pemlo:samples": 256,
    "pemlo:machine": "desk",
}


@pytest.mark.parametrize(
    ("attributes", "words"),
    [
        ({"pemlo:read_back": "x"}, "read_back"), ({"pemlo:noise": "inf"}, "noise"), ({"pemlo:samples": "nan"}, "samples"),
        ({"pemlo:seed": "9" * 400}, "seed"), ({"pemlo:region": "x"}, "region"), ({"pemlo:machine": "desk"}, ""),
        ({"pemlo:memory_gib": "-5"}, "memory_gib"), ({"pemlo:denoise": "a\x1b[2J"}, "denoise"),
    ],
)  # fmt: skip
def test_one_field_that_cannot_be_read_throws_nothing_else_away(tmp_path, attributes, words):
    made = {**HEADER, **attributes}
    put(tmp_path, "r/010/010.0001.exr", **{name.replace(":", "__"): value for name, value in made.items()})
    look = FolderScanner(tmp_path).look(film(), NOW)
    (row,) = look.rows["010"]
    assert (row.seconds, row.source, row.machine) == (12.5, "header", "desk")
    assert words in row.differs
    assert bool(row.differs) == bool(words)
    assert "\x1b" not in row.differs


@pytest.mark.parametrize("value", ["1,000", "1e300", "-3", "0", "nan", "9" * 400, "4:02:61", ""])
def test_seconds_that_cannot_be_read_are_not_known(tmp_path, value):
    made = {**HEADER, "pemlo:seconds": value}
    put(tmp_path, "r/010/010.0001.exr", **{name.replace(":", "__"): text for name, text in made.items()})
    (row,) = FolderScanner(tmp_path).look(film(), NOW).rows["010"]
    assert row.seconds == -1.0
    assert "seconds" in row.differs or not value


@pytest.mark.parametrize("size", ["²x²", "-5x3", "9" * 400 + "x1", "x", "1x1x1"])
def test_a_size_that_a_header_claims_is_a_size_or_nothing(tmp_path, size):
    put(tmp_path, "r/010/010.0001.exr", pemlo__stand_in_of="48x32", pemlo__stand_in_size=size)
    look = FolderScanner(tmp_path).look(film(), NOW)
    assert len(look.rows["010"]) == 1


def test_a_picture_that_breaks_its_reader_is_one_frame_less(tmp_path, monkeypatch):
    for frame in (1, 2):
        put(tmp_path, f"r/010/010.{frame:04d}.exr")

    def breaks(picture, *_):
        if "0002" in picture.path.name:
            raise UnicodeDecodeError("utf-8", b"\xff", 0, 1, "invalid start byte")
        return ()

    from pemlo.core.files.picture_file import PictureFile

    whole = PictureFile.channels
    monkeypatch.setattr(PictureFile, "channels", lambda self, *a: breaks(self) or whole(self, *a))
    project = film()
    snapshot = arrival_snapshot(project, FolderScanner(tmp_path).look(project, NOW), 0.0)
    assert snapshot.states[0].of(FrameState.IN) == (1,)
    assert snapshot.states[0].why[2] == "is damaged and cannot be read to its end"


# Files with the times of a copy.


def copied(tmp_path, count=10, gap=2.0, **film_fields):
    project = film(400, (Trial(shot="010", frame=200, samples=256, seconds=242.0),), **film_fields)
    start = project.start.timestamp()
    for frame in range(1, count + 1):
        put(tmp_path, f"r/010/010.{frame:04d}.exr", at=start + 3600 + gap * frame)
    now = start + 3600 + gap * count + 600
    look = FolderScanner(tmp_path).look(project, now)
    known = know(project)
    snapshot = arrival_snapshot(project, look, now - start, known.shortest_gaps)
    return project, live_forecast(snapshot, known)


def test_times_of_a_copy_teach_nothing_and_are_said(tmp_path):
    project, found = copied(tmp_path)
    assert found.snapshot.done_count == 10
    assert not found.snapshot.frames.timed.any()
    assert set(found.snapshot.sources.values()) == {""}
    (alarm,) = [one for one in found.alarms if "copy" in one.words]
    assert "10 frames of 010 are dated 2.0 s apart" in alarm.words
    before = live_forecast(
        arrival_snapshot(project, FolderScanner(tmp_path / "none").look(project, 0.0), 4220.0), know(project)
    )
    assert found.probability <= before.probability + 0.02
    assert found.shots[0].now.middle == pytest.approx(before.shots[0].now.middle, rel=0.1)


def test_real_times_of_files_are_still_learned_from(tmp_path):
    _, found = copied(tmp_path, gap=150.0)
    assert found.snapshot.frames.timed.sum() == 9
    assert not [alarm for alarm in found.alarms if "copy" in alarm.words]


def test_many_machines_may_bring_frames_fast(tmp_path):
    _, found = copied(tmp_path, gap=6.0, machines=(Machine(name="blade", count=40),))
    assert not [alarm for alarm in found.alarms if "copy" in alarm.words]


def test_the_command_line_says_it_too(tmp_path, capsys):
    project, _ = copied(tmp_path)
    write_project(project, tmp_path / "job.pemlo")
    assert main(["watch", str(tmp_path / "job.pemlo"), "--once", "--now", "2031-04-21T11:10"]) == 0
    said = capsys.readouterr().out
    assert "these are the times of a copy, so they are not used" in said
    assert "2.0 s a frame" not in said


# Logs.


def example(line, **marks):
    fields = [
        {"field": name, "begin": line.index(text), "end": line.index(text) + len(text)} for name, text in marks.items()
    ]
    return LogExample(line=line, marks=fields)


TOOK = example("frame 12 took 4:02", frame="12", seconds="4:02")


def reader(path, one=TOOK):
    return LogReader(path, [pattern_of(one)])


@pytest.mark.parametrize(
    "line",
    [
        "frame 12 took " + "1" * 400,
        "frame " + "9" * 400 + " took 4:02",
        "frame 12 took " + "1" * 28,
        "frame 12 took 1 1 1 1 1 1 1 1 1 1 1 1 1 1 x",
        "frame 12 took " + "1," * 4000,
    ],
)
def test_a_line_that_is_odd_is_passed_over_at_once(tmp_path, line):
    path = tmp_path / "log"
    path.write_text(f"{line}\nframe 13 took 4:02\n")
    with limited(2):
        found = reader(path).read_on()
    assert [one.frame for one in found if one.seconds == 242] == [13]
    assert all(one.seconds <= 1e10 for one in found)


@pytest.mark.parametrize("text", ["0001-01-01 10:00:00", "9999-12-31 23:59:59", "1800-01-01T00:00", "1" * 400])
def test_a_year_that_no_log_has_is_no_time(text):
    with pytest.raises(ValueError, match=r"year of a log|no time of day"):
        clock_time(text)


def test_a_date_in_year_one_ends_nothing(tmp_path):
    one = example("frame 12 done 2031-04-21 10:04:02", frame="12", ended="2031-04-21 10:04:02")
    begin = example("frame 12 begun 2031-04-21 10:00:00", frame="12", begun="2031-04-21 10:00:00")
    path = tmp_path / "log"
    path.write_text(
        "frame 1 begun 0001-01-01 00:00:01\nframe 1 done 0001-01-01 00:00:09\nframe 2 begun 2031-04-21 10:00:00\nframe 2 done 2031-04-21 10:01:00\n"
    )
    found = LogReader(path, [pattern_of(one), pattern_of(begin)]).read_on()
    assert [(line.frame, line.seconds) for line in found] == [(2, 60.0)]


def test_a_pipe_a_device_and_a_folder_are_no_logs(tmp_path):
    os.mkfifo(tmp_path / "pipe")
    for path in (tmp_path / "pipe", tmp_path, "/dev/zero"):
        with limited(2), pytest.raises(FileError, match="is no file"):
            first_lines(tmp_path / path)
    with pytest.raises(FileError, match="cannot be read"):
        first_lines(tmp_path / "none")
    with pytest.raises(FileError, match="its name cannot be one"):
        first_lines(tmp_path / "a\x00b")


def test_a_file_without_ends_of_lines_is_read_in_parts_and_once(tmp_path):
    path = tmp_path / "log"
    with path.open("wb") as file:
        file.write(b"frame 1 took 4:02\n")
        file.seek(300 * 2**20)
        file.write(b"x\nframe 2 took 4:02\n")
    log, seen = reader(path), []
    for _ in range(8):
        with limited(5):
            seen += log.read_on()
    assert [one.frame for one in seen] == [1, 2]
    assert log.too_long == 1
    assert len(first_lines(path)) == 1


def test_a_log_that_was_copied_and_emptied_is_read_from_its_begin(tmp_path):
    path = tmp_path / "log"
    path.write_text("".join(f"frame {n} took 4:02\n" for n in range(1, 4)))
    log = reader(path)
    assert len(log.read_on()) == 3
    path.write_text("".join(f"frame {n} took 4:{n:02d}\n" for n in range(11, 18)))  # longer than before, the same file
    assert [one.frame for one in log.read_on()] == list(range(11, 18))
    assert log.frames_read == 7
    with path.open("a") as file:
        file.write("frame 20 took 1:00\n")
    assert [one.frame for one in log.read_on()] == [20]


@pytest.mark.parametrize("cut", [1, 7, 9_999, 10_001, 25_000])
def test_lines_are_the_same_however_they_are_cut(tmp_path, monkeypatch, cut):
    monkeypatch.setattr("pemlo.core.files.text_lines._PART", cut)
    random = np.random.default_rng(1)
    lines = [b"x" * int(length) for length in random.integers(0, 300, 60)]
    lines[20:20] = [b"y" * (LONGEST_LINE + 5), b"z" * LONGEST_LINE]
    path = tmp_path / "log"
    path.write_bytes(b"\n".join(lines) + b"\n")
    place, seen, long = ReadTo(), [], 0
    for _ in range(100):
        found = read_on(path, place, 2 * LONGEST_LINE + cut)
        seen += found.lines
        long += found.too_long
        place = found.place
        if not found.more:
            break
    assert seen == [line.decode() for line in lines if len(line) <= LONGEST_LINE]
    assert long == 1


def test_a_log_is_read_while_it_is_written(tmp_path):
    path = tmp_path / "log"
    path.touch()
    log, seen, done = reader(path), [], threading.Event()

    def write_on():
        with path.open("a") as file:
            for number in range(1, 2001):
                file.write(f"frame {number} took 4:02\n")
                if number % 7 == 0:
                    file.flush()
        done.set()

    writer = threading.Thread(target=write_on)
    writer.start()
    while not done.is_set():
        seen += log.read_on()
    writer.join()
    seen += log.read_on()
    assert [one.frame for one in seen] == list(range(1, 2001))


# The clock of the small farm.


@pytest.mark.parametrize("text", ["[" * 100_000, "{}", '{"start": 1}', "x" * 10_000_000,
                                  '{"start": "2031-04-21T10:00:00+00:00", "speed": 1e308, "reached": 1e308, "told": 0}',
                                  '{"start": "2031-04-21T10:00:00", "speed": NaN, "reached": 1, "told": 0}'])  # fmt: skip
def test_a_clock_that_cannot_be_is_no_clock(tmp_path, text):
    (tmp_path / CLOCK_FILE).write_text(text)
    found = read_clock(tmp_path)
    assert found is None or found.now(NOW)
    (tmp_path / CLOCK_FILE).unlink()
    os.mkfifo(tmp_path / CLOCK_FILE)
    with limited(2):
        assert read_clock(tmp_path) is None
