"""Times that nobody took, as people type them."""

import pytest

from pemlo.core.errors import InputError
from pemlo.core.project.guesses import read_time


@pytest.mark.parametrize(
    ("text", "seconds"),
    [
        ("~4:02", 242), ("about 4 m", 240), ("≈17.4", 17.4), ("a third", 100), ("a third of the time", 100),
        ("1/3", 100), ("half", 150), ("40 %", 120), ("40% of it", 120), ("0.4x", 120), ("×2", 600), ("twice", 600),
        ("two thirds", 200),
    ],
)  # fmt: skip
def test_guesses_and_shares(text, seconds):
    found, assumed = read_time(text, 300.0)
    assert (found, assumed) == (pytest.approx(seconds), True)


@pytest.mark.parametrize("text", ["4:02", "4m02", "242", "1h03", "2", "1"])
def test_what_was_timed_is_no_guess(text):
    assert not read_time(text, 300.0)[1]


@pytest.mark.parametrize(("text", "base"), [("a third", None), ("soon", 300.0), ("0 %", 300.0), ("", 300.0)])
def test_what_is_neither_is_refused(text, base):
    with pytest.raises(InputError):
        read_time(text, base)
