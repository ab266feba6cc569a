"""Shots in a folder of frames, as people have them."""

import pytest

from pemlo.core.errors import FileError
from pemlo.core.files.found_shots import found_shots


def touch(folder, *names):
    folder.mkdir(parents=True, exist_ok=True)
    for name in names:
        (folder / name).write_bytes(b"")


def test_shots_and_ranges_come_from_the_names(tmp_path):
    touch(tmp_path, *(f"corridor.{n:04d}.exr" for n in range(1001, 1101)))
    touch(tmp_path, *(f"010_beauty_{n:04d}.png" for n in (1, 3, 5, 9)), "notes.txt", "poster.png")
    touch(tmp_path / "040", *(f"{n:05d}.exr" for n in range(1, 11)))
    found = {shot.name: shot for shot in found_shots(tmp_path)}
    assert set(found) == {"corridor", "010_beauty", "040"}
    assert (found["corridor"].first, found["corridor"].last, found["corridor"].missing) == (1001, 1100, 0)
    assert (found["010_beauty"].step, found["010_beauty"].missing) == (2, 1)
    assert found["040"].picture.parent.name == "040"
    assert found["corridor"].picture.is_file()


def test_runs_of_one_name_in_two_folders_are_two_shots(tmp_path):
    for folder in ("a", "b"):
        touch(tmp_path / folder, *(f"beauty.{n:03d}.exr" for n in range(1, 4)))
    assert [shot.name for shot in found_shots(tmp_path)] == ["b beauty", "beauty"]


def test_a_folder_without_frames_says_what_frames_are(tmp_path):
    touch(tmp_path, "poster.png", "table.csv")
    with pytest.raises(FileError, match="holds no frames") as caught:
        found_shots(tmp_path)
    assert "0001" in caught.value.hint
    with pytest.raises(FileError, match="cannot be read"):
        found_shots(tmp_path / "none")


def test_a_folder_of_twenty_thousand_files_is_read(tmp_path):
    touch(tmp_path, *(f"long.{n:06d}.exr" for n in range(1, 20_001)))
    (found,) = found_shots(tmp_path)
    assert (found.first, found.last, found.missing) == (1, 20_000, 0)
