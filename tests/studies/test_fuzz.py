"""Damaged picture files never do worse than an error: a short run of the fuzzer, in its own process."""

import random

import fuzz_pictures


def test_damaged_files_are_read_or_refused(capfd):
    assert fuzz_pictures.main(0.0, at_least=60) == 0
    said = capfd.readouterr().out
    files, refused = int(said.split()[0]), int(said.split("read, ")[1].split()[0])
    assert files == 60
    assert 0 < refused < files


def test_damage_changes_the_file():
    dice = random.Random(1)
    data = bytes(range(200))
    assert all(fuzz_pictures.damage(data, dice) != data for _ in range(50))
