"""Looking into folders again and again: what is new, what is written, what is gone, and what must not be lost."""

import os
import shutil

import pytest

from film import make_project, make_shot
from frame_files import ramp, write
from pemlo.core.arrivals.arrival_snapshot import arrival_snapshot
from pemlo.core.arrivals.folder_scanner import FolderScanner
from pemlo.core.arrivals.states import FrameState
from pemlo.core.arrivals.store import Store
from pemlo.core.project.machines import Machine
from pemlo.core.project.watching import Watching

SIZE = (48, 32)
NOW = 2_000_000_000.0


def film(*shots, place="r/{shot}/{shot}.{frame:04}.exr", **watching):
    machines = (Machine(name="desk"), Machine(name="blade", count=3))
    made = make_project(shots or (make_shot("010", 8), make_shot("020", 5)), machines=machines, width=48, height=32)
    return made.replace(watching=Watching(place=place, **watching))


def put(root, name, at=NOW - 1000, **attributes):
    path = root / name
    path.parent.mkdir(parents=True, exist_ok=True)
    write(path, ramp(seed=hash(name) % 1000), "half", **attributes)
    os.utime(path, (at, at))
    return path


def states(project, look):
    snapshot = arrival_snapshot(project, look, 0.0)
    return {one.shot: [FrameState(int(s)).name for s in one.state] for one in snapshot.states}


def test_frames_come_in_one_look_after_another(tmp_path):
    project, scanner = film(), FolderScanner(tmp_path)
    put(tmp_path, "r/010/010.0001.exr")
    first = scanner.look(project, NOW)
    assert first.changed
    assert states(project, first)["010"] == ["IN", *["WAITING"] * 7]
    assert not scanner.look(project, NOW).changed
    put(tmp_path, "r/020/020.0005.exr")
    second = scanner.look(project, NOW)
    assert second.changed
    assert states(project, second)["020"][-1] == "IN"


def test_nothing_is_written_into_the_folders(tmp_path):
    project = film()
    put(tmp_path, "r/010/010.0001.exr")
    before = sorted((str(path), path.stat().st_mtime_ns) for path in tmp_path.rglob("*"))
    FolderScanner(tmp_path).look(project, NOW)
    assert sorted((str(path), path.stat().st_mtime_ns) for path in tmp_path.rglob("*")) == before


def test_a_file_that_grows_is_being_written_until_it_rests(tmp_path):
    project, scanner = film(), FolderScanner(tmp_path)
    whole = put(tmp_path, "whole.exr").read_bytes()
    path = tmp_path / "r/010/010.0001.exr"
    path.parent.mkdir(parents=True)
    for part in (0, 200, len(whole) // 2):
        path.write_bytes(whole[:part])
        os.utime(path, (NOW - 1, NOW - 1 + part / 1e6))
        assert states(project, scanner.look(project, NOW))["010"][0] == "WRITING"
    # It rests and cannot be read: it is broken, and says why.
    look = scanner.look(project, NOW)
    assert states(project, look)["010"][0] == "BROKEN"
    path.write_bytes(whole)
    os.utime(path, (NOW + 5, NOW + 5))
    assert states(project, scanner.look(project, NOW + 6))["010"][0] == "IN"


def test_an_empty_file_of_long_ago_is_broken_at_the_first_look(tmp_path):
    project = film()
    path = tmp_path / "r/010/010.0003.exr"
    path.parent.mkdir(parents=True)
    path.touch()
    os.utime(path, (NOW - 500, NOW - 500))
    snapshot = arrival_snapshot(project, FolderScanner(tmp_path).look(project, NOW), 0.0)
    assert snapshot.of("010").why == {3: "has no bytes"}


def test_a_look_has_a_budget_and_goes_on_in_the_next(tmp_path):
    project, scanner = film(), FolderScanner(tmp_path)
    for frame in range(1, 9):
        put(tmp_path, f"r/010/010.{frame:04d}.exr", NOW - 1000 + frame)
    look = scanner.look(project, NOW, budget_s=0.0)
    assert (len(look.rows["010"]), look.unchecked) == (1, 7)
    while look.unchecked:
        look = scanner.look(project, NOW, budget_s=0.0)
    assert len(look.rows["010"]) == 8


def test_a_folder_that_is_away_loses_nothing(tmp_path):
    project = film()
    for frame in range(1, 6):
        put(tmp_path, f"r/010/010.{frame:04d}.exr")
        put(tmp_path, f"r/020/020.{frame:04d}.exr")
    scanner = FolderScanner(tmp_path)
    scanner.look(project, NOW)
    for away in ("r/010", "r"):
        (tmp_path / away).rename(tmp_path / "unmounted")
        look = scanner.look(project, NOW)
        assert states(project, look)["010"].count("IN") == 5
        assert any("nothing is lost" in words for words in look.troubles)
        (tmp_path / "unmounted").rename(tmp_path / away)
        assert scanner.look(project, NOW).troubles == ()
    # An empty folder in its place, as where nothing is mounted.
    shutil.move(tmp_path / "r", tmp_path / "kept")
    (tmp_path / "r").mkdir()
    look = scanner.look(project, NOW)
    assert states(project, look)["010"].count("IN") == 5
    assert any("are gone" in words for words in look.troubles)
    (tmp_path / "r").rmdir()
    # And a link in its place.
    (tmp_path / "r").symlink_to(tmp_path / "kept")
    assert states(project, scanner.look(project, NOW))["010"].count("IN") == 5


def test_a_frame_that_was_deleted_is_missing_again(tmp_path):
    project, scanner = film(), FolderScanner(tmp_path)
    paths = [put(tmp_path, f"r/010/010.{frame:04d}.exr") for frame in (1, 2, 3)]
    scanner.look(project, NOW)
    paths[1].unlink()
    assert states(project, scanner.look(project, NOW))["010"][:3] == ["IN", "WAITING", "IN"]


def test_names_with_spaces_letters_of_all_kinds_and_strange_numbers(tmp_path):
    shots = (make_shot("sjö ö 1", 3), make_shot("x", 3).replace(first=-2, last=0),
             make_shot("y", 2).replace(first=1_000_001, last=1_000_002))  # fmt: skip
    project = film(*shots, place="my renders/{shot}/fråme {frame:04} of {shot}.exr")
    put(tmp_path, "my renders/sjö ö 1/fråme 0002 of sjö ö 1.exr")
    put(tmp_path, "my renders/x/fråme -0001 of x.exr")
    put(tmp_path, "my renders/y/fråme 1000002 of y.exr")
    found = states(project, FolderScanner(tmp_path).look(project, NOW))
    assert found == {"sjö ö 1": ["WAITING", "IN", "WAITING"], "x": ["WAITING", "IN", "WAITING"], "y": ["WAITING", "IN"]}


def test_two_shots_in_one_folder(tmp_path):
    one, other = make_shot("010", 3), make_shot("020", 3).replace(first=11, last=13)
    apart = film(one, other, place="r/{frame:04}.exr")
    put(tmp_path, "r/0002.exr")
    put(tmp_path, "r/0012.exr")
    assert states(apart, FolderScanner(tmp_path).look(apart, NOW)) == {
        "010": ["WAITING", "IN", "WAITING"], "020": ["WAITING", "IN", "WAITING"]
    }  # fmt: skip
    both = film(one, other.replace(first=1, last=3), place="r/{frame:04}.exr")
    look = FolderScanner(tmp_path).look(both, NOW)
    assert any("may be of several shots" in words and "{shot}" in words for words in look.troubles)
    own = film(one, other.replace(first=1, last=3, place="other/{frame:04}.exr"), place="r/{frame:04}.exr")
    put(tmp_path, "other/0003.exr")
    assert states(own, FolderScanner(tmp_path).look(own, NOW))["020"] == ["WAITING", "WAITING", "IN"]


def test_what_is_no_frame_is_named(tmp_path):
    project = film()
    put(tmp_path, "r/999/999.0001.exr")
    (tmp_path / "r/010/010.0001.exr").mkdir(parents=True)
    look = FolderScanner(tmp_path).look(project, NOW)
    assert any("name a shot 999" in words for words in look.troubles)
    assert any("is a folder" in words for words in look.troubles)


@pytest.mark.skipif(os.geteuid() == 0, reason="root reads everything")
def test_a_file_that_may_not_be_read_is_named(tmp_path):
    project = film()
    put(tmp_path, "r/010/010.0001.exr").chmod(0)
    snapshot = arrival_snapshot(project, FolderScanner(tmp_path).look(project, NOW), 0.0)
    assert snapshot.of("010").why[1]


def test_of_two_takes_the_later_counts(tmp_path):
    project = film(place="r/{shot}_v{take}/{frame:04}.exr")
    put(tmp_path, "r/010_v1/0001.exr")
    put(tmp_path, "r/010_v2/0001.exr", NOW - 2000)
    snapshot = arrival_snapshot(project, FolderScanner(tmp_path).look(project, NOW), 0.0)
    assert snapshot.of("010").rows[0].take == "2"


def test_what_is_kept_is_there_after_a_restart_and_is_made_again_without(tmp_path):
    project = film()
    for frame in range(1, 6):
        put(tmp_path, f"r/010/010.{frame:04d}.exr")
    with Store(tmp_path / "a.sqlite") as store:
        FolderScanner(tmp_path, store).look(project, NOW)
    with Store(tmp_path / "a.sqlite") as store:
        assert len(list(store.frames())) == 5
        look = FolderScanner(tmp_path, store).look(project, NOW, budget_s=0.0)
        assert look.unchecked == 0  # nothing had to be read anew
        assert states(project, look)["010"].count("IN") == 5
    for path in tmp_path.glob("a.sqlite*"):
        path.unlink()
    with Store(tmp_path / "a.sqlite") as store:
        assert states(project, FolderScanner(tmp_path, store).look(project, NOW))["010"].count("IN") == 5


def test_names_of_the_header_are_given_once(tmp_path):
    project = film(header_names=(("seconds", "my:time"), ("machine", "my:host")))
    put(tmp_path, "r/010/010.0001.exr", my__time="4:02", my__host="Blade-2")
    snapshot = arrival_snapshot(project, FolderScanner(tmp_path).look(project, NOW), 0.0)
    assert snapshot.frames.seconds.tolist() == [242.0]
    assert snapshot.frames.machine.tolist() == [1]  # one of three that are called blade
    assert snapshot.sources["010", 1] == "header"


def test_a_log_says_what_headers_do_not(tmp_path):
    line = "ok f1 010 4m02s desk"
    marks = [{"field": name, "begin": line.index(text), "end": line.index(text) + len(text)}
             for name, text in (("frame", "1"), ("shot", "010"), ("seconds", "4m02s"), ("machine", "desk"))]  # fmt: skip
    project = film(logs=({"path": "a.log", "examples": [{"line": line, "marks": marks}]},))
    put(tmp_path, "r/010/010.0001.exr")
    put(tmp_path, "r/010/010.0002.exr")
    scanner = FolderScanner(tmp_path)
    assert any("a.log" in words for words in scanner.look(project, NOW).troubles)
    (tmp_path / "a.log").write_text("ok f1 010 4m02s desk\n")
    snapshot = arrival_snapshot(project, scanner.look(project, NOW), 0.0)
    assert snapshot.frames.seconds[0] == 242.0
    assert (snapshot.sources["010", 1], snapshot.sources["010", 2]) == ("log", "")
    with (tmp_path / "a.log").open("a") as file:
        file.write("ok f2 010 1m00s blade\n")
    snapshot = arrival_snapshot(project, scanner.look(project, NOW), 0.0)
    assert snapshot.frames.seconds.tolist() == [242.0, 60.0]
    assert snapshot.frames.machine.tolist() == [0, 1]


def test_frames_to_be_rendered_again_count_once_they_are_newer(tmp_path):
    project = film(again=({"shot": "010", "frames": "1-2", "since": "2033-05-18T03:20:00Z"},))  # NOW - 800
    put(tmp_path, "r/010/010.0001.exr", NOW - 1000)
    put(tmp_path, "r/010/010.0002.exr", NOW - 10)
    found = states(project, FolderScanner(tmp_path).look(project, NOW))
    assert found["010"][:2] == ["AGAIN", "IN"]


def test_another_place_forgets_what_came_to_the_first(tmp_path):
    project, scanner = film(), FolderScanner(tmp_path)
    for frame in range(1, 6):
        put(tmp_path, f"r/010/010.{frame:04d}.exr")
    scanner.look(project, NOW)
    put(tmp_path, "new/010/0002.exr")
    elsewhere = film(place="new/{shot}/{frame:04}.exr")
    look = scanner.look(elsewhere, NOW)
    assert states(elsewhere, look)["010"] == ["WAITING", "IN", *["WAITING"] * 6]
    assert look.troubles == ()


def test_a_link_that_leads_nowhere_is_named(tmp_path):
    put(tmp_path, "r/010/010.0001.exr")
    (tmp_path / "r/010/010.0002.exr").symlink_to(tmp_path / "gone.exr")
    look = FolderScanner(tmp_path).look(film(), NOW)
    assert any("010.0002.exr cannot be looked at" in words for words in look.troubles)


def test_frames_of_a_first_pass_do_not_count_for_the_final_one(tmp_path):
    sets = ({"name": "few", "settings": {"samples": 16}},)
    early = film().replace(sets=sets, running={"first_pass": {"settings": "few"}})
    scanner = FolderScanner(tmp_path)
    put(tmp_path, "r/010/010.0001.exr")
    snapshot = arrival_snapshot(early, scanner.look(early, NOW), 0.0)
    assert snapshot.of("010").count(FrameState.IN) == 1
    assert snapshot.frames.rendered_with[0].samples == 16
    approved = early.replace(shots=tuple(shot.replace(approval="approved") for shot in early.shots))
    assert states(approved, scanner.look(approved, NOW))["010"][0] == "WAITING"
    put(tmp_path, "r/010/010.0001.exr", NOW - 5)
    assert states(approved, scanner.look(approved, NOW + 100))["010"][0] == "IN"


@pytest.mark.parametrize(("gap", "copies"), [(0.001, 8), (2.0, 0)])
def test_files_of_a_moment_were_copied_even_where_nothing_was_timed(tmp_path, gap, copies):
    """A copy of twelve files within a moment was read as frames of 0.00 s, all done this minute."""
    project = film().replace(machines=(Machine(name="desk"),))
    for frame in range(1, 9):
        put(tmp_path, f"r/010/010.{frame:04}.exr", at=NOW - 1000 + gap * frame)
    snapshot = arrival_snapshot(project, FolderScanner(tmp_path).look(project, NOW), 0.0)
    assert (snapshot.copied["010"].count if snapshot.copied else 0) == copies
    assert snapshot.frames.timed.any() == (copies == 0)
