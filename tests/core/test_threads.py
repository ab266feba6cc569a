"""Work on several threads: order, and what is left undone when nobody asks any more."""

import threading
import time

import pytest

from pemlo.core.threads import in_order


def test_results_come_in_the_order_of_the_items_whichever_is_done_first():
    def work(number):
        time.sleep(0.02 if number % 2 == 0 else 0.0)
        return number**2

    assert list(in_order(range(7), work)) == [(number, number**2) for number in range(7)]
    assert list(in_order([], work)) == []


def test_two_are_worked_on_at_once():
    both = threading.Barrier(2, timeout=5)
    assert len(list(in_order(range(4), lambda _: both.wait()))) == 4


def test_whoever_stops_asking_leaves_the_rest_undone():
    done = []
    asked = in_order(range(50), done.append)
    next(asked)
    asked.close()
    assert len(done) < 10


def test_an_error_comes_with_its_item():
    def work(number):
        if number == 2:
            raise ValueError("two")
        return number

    asked = in_order(range(9), work)
    assert [next(asked), next(asked)] == [(0, 0), (1, 1)]
    with pytest.raises(ValueError, match="two"):
        next(asked)
