"""No pattern can be made to search for ever: each is tried on lines that were made to mislead it, under a limit of time.

A pattern that is tried in more than one way on the same letters takes time that grows with their square, or without
end. Every pattern of the program is found in its source, so that a new one is tried without being listed.
"""

import re

import pytest

from limits import limited
from patterns import LETTERS, LIMIT_S, PIECES, found_patterns, hostile_lines, try_on_hostile_lines
from pemlo.core.arrivals.log_reader import clock_time, pattern_of
from pemlo.core.arrivals.place import place_of
from pemlo.core.errors import InputError
from pemlo.core.persistence.table import number, whole_number
from pemlo.core.project.due import read_due
from pemlo.core.project.guesses import read_time
from pemlo.core.project.watching import LogExample
from pemlo.core.units import parse_duration

FOUND, MADE_LATER = found_patterns("pemlo/core", "pemlo_simulators", "pemlo/cli")


@pytest.mark.parametrize(("where", "pattern", "method"), FOUND, ids=[one[0] for one in FOUND])
def test_a_pattern_ends_on_lines_that_mislead_it(where, pattern, method):
    try_on_hostile_lines(pattern, method)


def test_patterns_that_are_made_later_are_known():
    """Those of one line and of deadlines stand in rows, which are tried; those of places are tried below."""
    assert {
        "core/project/due.py",
        "core/project/film_line.py",
        "core/numerals.py",
        "core/arrivals/place.py",
    } == MADE_LATER
    assert len(FOUND) > 60
    assert len([one for one in FOUND if "film_line" in one[0] or "due" in one[0]]) > 15


def test_a_pattern_that_does_not_end_is_found():
    with pytest.raises(TimeoutError):
        try_on_hostile_lines(re.compile(r"(?:\s*\d+\s*[a-z]?)*x"), "search")


def example(line, **marks):
    fields = [
        {"field": name, "begin": line.index(text), "end": line.index(text) + len(text)} for name, text in marks.items()
    ]
    return LogExample(line=line, marks=fields)


EXAMPLES = [
    example("frame 12 of 010 took 4:02 on desk", frame="12", shot="010", seconds="4:02", machine="desk"),
    example("12 17.5s", frame="12", seconds="17.5s"),
    example("[2031-04-21 10:04:02] 12 ends, 300 samples, 3.1G", ended="2031-04-21 10:04:02", frame="12", samples="300", memory="3.1G"),
    example("a.b.c.12.d.e.f 3 h 4 m 5 s", frame="12", seconds="3 h 4 m 5 s"),
]  # fmt: skip


@pytest.mark.parametrize("one", EXAMPLES, ids=lambda one: one.line)
def test_lines_of_a_log_are_read_or_not_at_once(one):
    pattern = pattern_of(one, [one.line])
    for line in hostile_lines():
        with limited(LIMIT_S, of_processor=True):
            pattern.read(line)
            pattern.read(f"frame 12 of {line[:9000]} took {line[:900]} on")
    with limited(LIMIT_S, of_processor=True):
        pattern_of(one, [line[:10_000] for line in hostile_lines()][:60])


@pytest.mark.parametrize(
    "text",
    [
        "{shot}_{layer}_{take}_{frame}.exr",
        "{shot}{layer}{take}{frame}",
        "{shot}{shot}{layer}{layer}{frame}.e",
        "{shot}.{shot}.{take}.{take}.{frame:04}.exr",
    ],
)
def test_names_of_files_are_read_at_once(text):
    place = place_of(text)
    with limited(5 * LIMIT_S, of_processor=True):
        for piece in PIECES:
            place.read((piece * 255)[:255])
            place.read((piece * 251)[:251] + ".exr")


@pytest.mark.parametrize("read", [parse_duration, number, whole_number, clock_time, lambda text: read_time(text, 10.0)])
def test_what_reads_one_thing_refuses_a_book_at_once(read):
    for line in hostile_lines():
        with limited(LIMIT_S, of_processor=True):
            try:
                read(line)
            except (InputError, ValueError) as error:
                assert len(str(error)) < 500
                assert "limit" not in str(error)
                assert "convert" not in str(error)


def test_deadlines_are_read_at_once():
    from datetime import UTC, datetime

    for line in list(hostile_lines())[::5]:
        with limited(LIMIT_S, of_processor=True):
            assert read_due(f"{line} due {line}"[: 2 * LETTERS], datetime(2031, 4, 21, tzinfo=UTC), "UTC")[0] is None
