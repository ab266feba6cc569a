"""Folders that were not written are not listed again, and nothing is missed for longer than is said."""

import os
import time

import pytest

from film import make_project, make_shot
from pemlo.core.arrivals import scan as scanning
from pemlo.core.arrivals.folder_scanner import FolderScanner
from pemlo.core.arrivals.place import place_of
from pemlo.core.arrivals.scan import Remembered, scan
from pemlo.core.project.watching import Watching

PLACE = "r/{shot}/{shot}.{frame:04}.exr"
LONG_AGO = time.time() - 1000


def put(root, shot, frame, at=LONG_AGO, content=b"x"):
    path = root / "r" / shot / f"{shot}.{frame:04d}.exr"
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_bytes(content)
    os.utime(path, (at, at))
    return path


def rest(root):
    """Let all folders have been written long ago."""
    for folder in (root / "r").iterdir():
        os.utime(folder, (LONG_AGO, LONG_AGO))


@pytest.fixture
def looked(tmp_path, monkeypatch):
    """Two shots whose folders rest, what was remembered of them, and which folders are listed."""
    for shot in ("010", "020"):
        for frame in (1, 2, 3):
            put(tmp_path, shot, frame)
    rest(tmp_path)
    remembered, listed, scandir = Remembered(), [], os.scandir

    def listing(folder):
        listed.append(os.path.basename(folder))  # noqa: PTH119 - as scandir names it
        return scandir(folder)

    monkeypatch.setattr(scanning.os, "scandir", listing)
    first = look(tmp_path, remembered)
    assert len(first.arrivals) == 6
    listed.clear()
    return tmp_path, remembered, listed


def look(root, remembered):
    return scan(place_of(PLACE), root, None, remembered)


def test_folders_that_rest_are_not_listed_again(looked):
    root, remembered, listed = looked
    assert len(look(root, remembered).arrivals) == 6
    assert listed == ["r"], "only the folder of the folders"
    assert remembered.unchanged


def test_a_new_frame_is_seen_at_once_and_only_its_folder_is_listed(looked):
    root, remembered, listed = looked
    put(root, "020", 4)
    assert len(look(root, remembered).arrivals) == 7
    assert listed == ["r", "020"]
    assert not remembered.unchanged


def test_a_frame_that_may_still_be_written_has_its_folder_listed_again_and_again(looked):
    root, remembered, listed = looked
    path = put(root, "010", 4, at=time.time())
    look(root, remembered)
    os.utime(path.parent, (LONG_AGO, LONG_AGO))
    path.write_bytes(b"longer")
    assert {one.size for one in look(root, remembered).arrivals} == {1, 6}


def test_frames_and_folders_that_go_are_missed_at_once(looked):
    root, remembered, _ = looked
    (root / "r/010/010.0002.exr").unlink()
    assert len(look(root, remembered).arrivals) == 5
    for path in (root / "r/020").iterdir():
        path.unlink()
    (root / "r/020").rmdir()
    assert len(look(root, remembered).arrivals) == 2
    assert not remembered.unchanged


def test_a_frame_rendered_again_in_its_place_is_seen_within_the_half_minute(looked, monkeypatch):
    root, remembered, _ = looked
    path = root / "r/010/010.0002.exr"
    path.write_bytes(b"another")
    os.utime(path, (LONG_AGO + 1, LONG_AGO + 1))
    assert {one.size for one in look(root, remembered).arrivals} == {1}
    wall = time.time() + scanning.LISTED_AGAIN_S
    monkeypatch.setattr(scanning.time, "time", lambda: wall)
    assert {one.size for one in look(root, remembered).arrivals} == {1, 7}


def test_a_clock_that_was_put_back_trusts_nothing(looked, monkeypatch):
    root, remembered, listed = looked
    wall = time.time() - 3600
    monkeypatch.setattr(scanning.time, "time", lambda: wall)
    look(root, remembered)
    assert listed == ["r", "010", "020"]


def test_what_cannot_be_looked_at_is_said_at_every_look(looked):
    root, remembered, _ = looked
    (root / "r/010/010.0009.exr").symlink_to("nowhere")
    for later in (1, 2):
        os.utime(root / "r/010", (LONG_AGO + later, LONG_AGO + later))
        assert len(look(root, remembered).troubles) == 1


def test_a_look_that_finds_nothing_new_says_what_the_last_one_said(tmp_path):
    project = make_project((make_shot("010", 4),)).replace(watching=Watching(place=PLACE))
    for frame in (1, 2):
        put(tmp_path, "010", frame)
    rest(tmp_path)
    scanner, now = FolderScanner(tmp_path), time.time()
    first = scanner.look(project, now)
    again = scanner.look(project, now)
    assert first.changed
    assert not again.changed
    assert again.rows == first.rows
    put(tmp_path, "010", 3)
    third = scanner.look(project, now)
    assert third.changed
    assert len(third.rows["010"]) == 3
    # Another film looks anew, though its folders are the same.
    other = project.replace(shots=(make_shot("010", 4, samples=64),))
    assert scanner.look(other, now).rows == third.rows
