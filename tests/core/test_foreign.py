"""What others wrote is shown with nothing in it that gives orders to a terminal or a window."""

import unicodedata

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pemlo.core.foreign import LONGEST_SHOWN, shown, visible


@given(st.text())
def test_nothing_that_gives_orders_is_left(text):
    left = {unicodedata.category(one) for one in visible(text).replace("\r\n", "").replace("\n", "").replace("\t", "")}
    assert not left & {"Cc", "Cf", "Cs", "Zl", "Zp"}


@given(st.text(st.characters(categories=["L", "N", "P", "S", "Zs"])))
def test_what_can_be_seen_stays(text):
    assert visible(text) == text


@pytest.mark.parametrize(
    ("text", "words"), [("a\rb", "a\\x0db"), ("a\r\nb", "a\r\nb"), ("\x9b31m", "\\x9b31m"), ("\udcff", "\\udcff")]
)
def test_each_stands_by_its_number(text, words):
    assert visible(text) == words


@given(st.text(max_size=1000))
def test_a_name_in_a_sentence_is_short_and_in_one_line(text):
    assert len(shown(text)) <= LONGEST_SHOWN
    assert len(shown(text).splitlines()) <= 1
