"""Shots in a folder of frames, as people have them."""

import os

import pytest

from pemlo.core.arrivals.place import place_of
from pemlo.core.arrivals.scan import scan
from pemlo.core.errors import FileError
from pemlo.core.files.found_shots import found_shots
from pemlo.core.project.settings import ShotSettings


def touch(folder, *names):
    folder.mkdir(parents=True, exist_ok=True)
    for name in names:
        (folder / name).write_bytes(b"")


def test_shots_and_ranges_come_from_the_names(tmp_path):
    touch(tmp_path, *(f"corridor.{n:04d}.exr" for n in range(1001, 1101)))
    touch(tmp_path, *(f"010_beauty_{n:04d}.png" for n in (1, 3, 5, 9)), "notes.txt", "poster.png")
    touch(tmp_path / "040", *(f"{n:05d}.exr" for n in range(1, 11)))
    found = {shot.name: shot for shot in found_shots(tmp_path).shots}
    assert set(found) == {"corridor", "010_beauty", "040"}
    assert (found["corridor"].first, found["corridor"].last, found["corridor"].missing) == (1001, 1100, 0)
    assert (found["010_beauty"].step, found["010_beauty"].missing) == (2, 1)
    assert found["040"].picture.parent.name == "040"
    assert found["corridor"].picture.is_file()


def test_runs_of_one_name_in_two_folders_are_two_shots(tmp_path):
    for folder in ("a", "b"):
        touch(tmp_path / folder, *(f"beauty.{n:03d}.exr" for n in range(1, 4)))
    assert [shot.name for shot in found_shots(tmp_path).shots] == ["b beauty", "beauty"]


def test_a_folder_without_frames_says_what_frames_are(tmp_path):
    touch(tmp_path, "poster.png", "table.csv")
    with pytest.raises(FileError, match="holds no frames") as caught:
        found_shots(tmp_path)
    assert "0001" in caught.value.hint
    with pytest.raises(FileError, match="cannot be read"):
        found_shots(tmp_path / "none")


def test_a_folder_of_twenty_thousand_files_is_read(tmp_path):
    touch(tmp_path, *(f"long.{n:06d}.exr" for n in range(1, 20_001)))
    (found,) = found_shots(tmp_path).shots
    assert (found.first, found.last, found.missing) == (1, 20_000, 0)


def frames(folder, *names):
    for name in names:
        (folder / name).write_bytes(b"")


def test_two_frames_far_apart_are_a_shot_of_all_between(tmp_path):
    frames(tmp_path, "a.0001.exr", "a.5000.exr")
    (found,) = found_shots(tmp_path).shots
    shot = found.shot(ShotSettings(samples=4))
    assert (shot.first, shot.last, shot.step, found.missing) == (1, 5000, 1, 4998)


def test_dates_are_no_frames_and_that_is_said(tmp_path):
    frames(tmp_path, "day.20310421.exr", "day.20310422.exr", "b.1.exr", "b.2.exr", "c.1.exr", "c.2000000.exr")
    found = found_shots(tmp_path)
    assert [shot.name for shot in found.shots] == ["b"]
    assert "day.20310421–20310422" in found.left_out[0] or "day.20310421–20310422" in found.left_out[1]
    assert all("left out" in words for words in found.left_out)
    assert len(found.left_out) == 2


def test_names_of_files_become_names_that_go(tmp_path):
    for name in (b"s\xff.1.exr", b"s\xff.2.exr", b"x\x1b[31m.1.exr", b"x\x1b[31m.2.exr", b"-rf.1.exr", b"-rf.2.exr"):
        (tmp_path / os.fsdecode(name)).write_bytes(b"")
    long = "y" * 100
    frames(tmp_path, f"{long}a.1.exr", f"{long}a.2.exr", f"{long}b.1.exr", f"{long}b.2.exr")
    names = [found.shot(ShotSettings(samples=4)).name for found in found_shots(tmp_path).shots]
    assert len(set(names)) == 5
    assert {"s", "x[31m", "rf"} <= set(names)


def test_folders_that_are_too_many_are_said(tmp_path):
    for number in range(510):
        (tmp_path / f"{number:03}").mkdir()
    frames(tmp_path / "000", "a.1.exr", "a.2.exr")
    assert found_shots(tmp_path).left_out == (f"Only the first 500 of 511 folders in {tmp_path.name} were read.",)


def test_a_folder_that_still_grows_is_known_by_its_newest_file(tmp_path):
    touch(tmp_path, *(f"a b.{n:04d}.exr" for n in range(1, 38)), *(f"old.{n}.png" for n in range(1, 5)))
    for n in range(1, 5):
        os.utime(tmp_path / f"old.{n}.png", (1e9, 1e9))
    for n in range(1, 38):  # the newest is not the highest: machines hand frames in as they end
        os.utime(tmp_path / f"a b.{n:04d}.exr", (2e9 - abs(n - 30), 2e9 - abs(n - 30)))
    grown, old = found_shots(tmp_path).shots
    assert (grown.name, grown.written, old.written) == ("a b", 2e9, 1e9)
    assert grown.grows(2e9 + 600)
    assert not grown.grows(2e9 + 4000)
    assert not old.grows(2e9)
    found = scan(place_of(grown.place), tmp_path)
    assert sorted(one.found.frame for one in found.arrivals) == list(range(1, 38))
    assert {one.found.frame for one in scan(place_of(old.place), tmp_path).arrivals} == {1, 2, 3, 4}


def test_a_name_that_no_place_can_have_is_not_watched(tmp_path):
    touch(tmp_path, "a{shot}.0001.exr", "a{shot}.0002.exr")
    (found,) = found_shots(tmp_path).shots
    assert found.place == ""
