"""What a plan changes, in words: shots that change alike are one line."""

from math import nan

from pemlo.core.project.settings import ShotSettings
from pemlo.words.plans import Change, changes_alike

ASKED, HALF = ShotSettings(samples=256), ShotSettings(samples=128)


def test_shots_that_change_alike_are_one_line_with_their_sum():
    found = [Change(f"{n:03}", ASKED, HALF, 12.0, 3.0, 4.0 + n) for n in range(10)]
    found.append(Change("far", ASKED, ShotSettings(samples=64), 5.0, nan, nan, passed=True))
    first, last = changes_alike(found, 30)
    assert (first.count, first.hours, first.error) == (10, "−120 h", "13.0 levels at most")
    assert first.shots == "000, 001, 002, 003, 004, 005, 006, 007 and 2 more"
    assert (last.shots, last.hours, last.error) == ("far", "−5 h", "passes by its marks")


def test_an_error_that_is_not_known_of_one_is_said_of_all():
    found = [Change("010", ASKED, HALF, 1.0, 2.0, 3.0), Change("020", ASKED, HALF, 1.0, nan, nan)]
    assert changes_alike(found, 5)[0].error == "not all measured"
    assert changes_alike(found, 2)[0].shots == "all 2 shots"
