"""Patterns of the window end on lines that mislead them, as those of the core."""

import pytest

from patterns import found_patterns, try_on_hostile_lines

FOUND, MADE_LATER = found_patterns("pemlo/gui", "pemlo/app")


@pytest.mark.parametrize(("where", "pattern", "method"), FOUND, ids=[one[0] for one in FOUND])
def test_a_pattern_ends_on_lines_that_mislead_it(where, pattern, method):
    try_on_hostile_lines(pattern, method)


def test_patterns_that_are_made_later_are_of_names_alone():
    assert {"gui/watch/place_form.py"} == MADE_LATER
