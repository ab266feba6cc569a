"""Damaged picture files never do worse than an error: a short run of the fuzzer, in its own process."""

import random

import pytest

import fuzz
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


@pytest.mark.parametrize(("kind", "count"), [("documents", 300), ("tables", 300), ("kept", 40), ("films", 12)])
def test_whatever_is_damaged_or_absurd_ends_in_words(capfd, kind, count):
    assert fuzz.main(count, kind) == 0
    assert f"{kind}: {count} inputs" in capfd.readouterr().out


# Films that once ended in an exception: what they hold is absurd, and may stand in a document.
@pytest.mark.parametrize("seed", [2005, 2030, 2166, 3257, 3328, 5462])
def test_absurd_films_that_were_found(seed):
    try:
        fuzz.try_film(random.Random(seed))
    except fuzz.PemloError as error:
        assert error.message


def test_each_kind_finds_what_is_wrong(capfd):
    def wrong(dice):
        raise ZeroDivisionError

    assert fuzz.run("films", wrong, 3, 0) == 3
    assert "films, seed 1: ZeroDivisionError()" in capfd.readouterr().out
