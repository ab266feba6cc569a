"""Each value is made once, however many ask; what is stopped is stopped only when nobody wants it."""

import threading
import time

import numpy as np
import pytest

from pemlo.core.errors import InputError
from pemlo.core.film.memo import Memo, Value
from pemlo.core.progress import Cancelled

PATIENCE_S = 10


class Gate:
    """Work that waits until it is let go, and counts how often it was begun."""

    def __init__(self):
        self.begun, self.open, self.count = threading.Event(), threading.Event(), 0

    def make(self, given, maker):
        self.count += 1
        self.begun.set()
        while not self.open.wait(0.005):
            maker.step(0.5, "waiting")
        return given * 2


class Stops:
    """A monitor that stops the work once it is told to."""

    def __init__(self):
        self.stopped = False

    def step(self, fraction, text):
        if self.stopped:
            raise Cancelled


class Asker(threading.Thread):
    """Asks for a value on a thread of its own."""

    def __init__(self, memo, value, given):
        super().__init__(daemon=True)
        self.memo, self.value, self.given, self.monitor = memo, value, given, Stops()
        self.found = None
        self.start()

    def run(self):
        try:
            self.found = self.memo.get(self.value, self.given, self.monitor)
        except (Cancelled, ValueError) as error:
            self.found = error

    def end(self):
        self.join(PATIENCE_S)
        assert not self.is_alive()
        return self.found


def waiting(memo):
    return sum(flight.waiting for flight in memo._flights.values())


def until(true):
    end = time.monotonic() + PATIENCE_S
    while not true():
        assert time.monotonic() < end
        time.sleep(0.005)


def test_a_value_that_many_ask_for_at_once_is_made_once():
    memo, gate = Memo(), Gate()
    value = Value("double", gate.make)
    askers = [Asker(memo, value, 21) for _ in range(8)]
    until(lambda: waiting(memo) == 7)
    gate.open.set()
    assert [one.end() for one in askers] == [42] * 8
    assert gate.count == 1
    assert memo.get(value, 21) == 42
    assert gate.count == 1


def test_who_stops_does_not_stop_what_others_want():
    memo, gate = Memo(), Gate()
    value = Value("double", gate.make)
    first = Asker(memo, value, 1)
    assert gate.begun.wait(PATIENCE_S)
    second, third = Asker(memo, value, 1), Asker(memo, value, 1)
    until(lambda: waiting(memo) == 2)
    first.monitor.stopped = second.monitor.stopped = True
    assert isinstance(second.end(), Cancelled)
    gate.open.set()
    assert third.end() == 2
    assert gate.count == 1


def test_what_nobody_wants_any_more_ends_and_is_made_anew_when_it_is_asked_for_again():
    memo, gate = Memo(), Gate()
    value = Value("double", gate.make)
    askers = [Asker(memo, value, 1) for _ in range(3)]
    until(lambda: waiting(memo) == 2)
    for one in askers:
        one.monitor.stopped = True
    assert all(isinstance(one.end(), Cancelled) for one in askers)
    assert not memo.has(value.key(1))
    gate.open.set()
    assert memo.get(value, 1) == 2
    assert gate.count == 2


def test_trouble_is_kept_and_a_bug_is_not():
    memo, tries = Memo(), []

    def make(given, maker):
        tries.append(given)
        raise InputError("No shot.") if given else ValueError("a bug")

    value = Value("wrong", make)
    for _ in range(2):
        with pytest.raises(InputError, match=r"No shot\."):
            memo.get(value, 1)
        with pytest.raises(ValueError, match="a bug"):
            memo.get(value, 0)
    assert tries == [1, 0, 0]
    assert (memo.peek(value, 1), str(memo.trouble(value, 1))) == (None, "No shot.")
    assert (memo.peek(value, 0), memo.trouble(value, 0)) == (None, None)


def test_who_waits_hears_of_a_bug_too():
    memo, gate = Memo(), Gate()

    def make(given, maker):
        gate.make(given, maker)
        raise ValueError("a bug")

    askers = [Asker(memo, Value("wrong", make), 1) for _ in range(2)]
    until(lambda: waiting(memo) == 1)
    gate.open.set()
    assert [str(one.end()) for one in askers] == ["a bug"] * 2


def test_what_is_held_stays_and_the_rest_gives_way_the_oldest_first():
    memo = Memo(most_bytes=2500)
    value = Value("array", lambda given, maker: np.zeros(given))
    sizes = (100, 101, 102, 103, 104)  # of 8 bytes each: three fit
    memo.hold(memo, [value.key(100)])
    for size in sizes:
        memo.get(value, size)
        assert memo.peek(value, 100) is not None
    assert [size for size in sizes if memo.peek(value, size) is not None] == [100, 102, 103, 104]
    memo.get(value, 102)
    memo.get(value, 105)
    assert [size for size in (*sizes, 105) if memo.peek(value, size) is not None] == [100, 102, 104, 105]
    memo.let_go(memo)
    assert [size for size in (*sizes, 105) if memo.peek(value, size) is not None] == [102, 104, 105]
    assert memo.bytes <= 2500


def test_nothing_is_made_on_the_thread_of_a_window():
    memo = Memo()
    value = Value("double", lambda given, maker: 2 * given)
    memo.never_on(threading.get_ident())
    with pytest.raises(RuntimeError, match="double is made on the thread of a window"):
        memo.get(value, 1)
    assert Asker(memo, value, 1).end() == 2
    assert memo.get(value, 1) == 2, "what is there can be had anywhere"


def test_a_window_does_not_wait_for_what_others_make():
    memo, gate = Memo(), Gate()
    value = Value("double", gate.make)
    asker = Asker(memo, value, 3)
    assert gate.begun.wait(PATIENCE_S)
    memo.never_on(threading.get_ident())
    with pytest.raises(RuntimeError, match="on the thread of a window"):
        memo.get(value, 3)
    gate.open.set()
    assert asker.end() == 6


def test_what_takes_no_time_may_be_made_anywhere():
    memo = Memo()
    memo.never_on(threading.get_ident())
    assert memo.get(Value("half", lambda given, maker: given / 2, at_once=True), 3) == 1.5


def test_a_value_is_made_of_others():
    memo = Memo()
    one = Value("one", lambda given, maker: given + 1)
    two = Value("two", lambda given, maker: 10 * maker.get(one, given))
    assert memo.get(two, 4) == 50
    assert memo.peek(one, 4) == 5


def test_what_nobody_holds_is_reckoned_right_however_holders_come_and_go():
    """Random holds, releases, values and values that are forgotten, against a count of everything anew."""
    dice = np.random.default_rng(3)
    value = Value("row", lambda given, _: np.zeros(given))
    memo, held = Memo(most_bytes=10**9), {}
    holders = [object() for _ in range(4)]
    for _ in range(300):
        given, holder = int(dice.integers(1, 30)), int(dice.integers(4))
        act = dice.integers(4)
        if act == 0:
            memo.get(value, given)
        elif act == 1:
            held[holder] = {int(one) for one in dice.integers(1, 30, 6)}
            memo.hold(holders[holder], [value.key(one) for one in held[holder]])
        elif act == 2:
            held.pop(holder, None)
            memo.let_go(holders[holder])
        else:
            memo.forget(value.key(given))
        kept = set().union(*held.values()) if held else set()
        spare = sum(8 * one for one in range(1, 30) if memo.has(value.key(one)) and one not in kept)
        assert memo._spare_bytes == spare
