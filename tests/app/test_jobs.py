"""Background work: what it says of the time that is left, and what preferences keep."""

import gc
import threading
import time
from functools import partial

import pytest

from limits import until_stopped
from pemlo.app import jobs as jobs_module
from pemlo.app.jobs import Jobs
from pemlo.app.preferences import Preferences


class Clock:
    """A clock that goes only when it is told to."""

    def __init__(self):
        self.now = 100.0

    def monotonic(self):
        return self.now


@pytest.fixture
def told(monkeypatch):
    clock, heard = Clock(), []
    monkeypatch.setattr(jobs_module, "time", clock)
    watch = jobs_module._Watch("key", heard.append)

    def step(after, fraction):
        clock.now += after
        watch.step(fraction, "at work")
        return heard[-1].seconds_left

    return step


def test_the_time_left_is_that_of_the_rest_at_the_pace_so_far(told):
    assert told(1, 0.0) is None
    assert told(1, 0.1) is None, "one mark shows no pace"
    assert told(10, 0.3) == pytest.approx(35)
    assert told(10, 0.5) == pytest.approx(25)
    assert told(25, 1.0) == pytest.approx(0)


def test_a_slow_start_is_not_taken_for_the_pace(told):
    told(90, 0.0)
    told(1, 0.01)
    assert told(5, 0.06) == pytest.approx(94)


def test_a_pace_that_is_hardly_seen_tells_nothing(told):
    told(1, 0.1)
    assert told(60, 0.11) is None


def test_stopping_one_key_leaves_the_others_and_is_told(qtbot):
    made, stopped, done = Jobs(), [], []
    made.cancelled.connect(stopped.append)

    made.submit("one", "One", until_stopped, done.append)
    made.submit("two", "Two", lambda _: 2, done.append)
    qtbot.waitUntil(lambda: done == [2], timeout=5_000)
    made.cancel("one")
    made.cancel("nobody")
    assert stopped == ["one"]
    assert not made.running
    made.shut_down()
    assert done == [2]


class Held:
    """Says on which thread it goes."""

    gone = None

    def __init__(self, gone):
        self.gone = gone

    def __del__(self):
        self.gone.append(threading.current_thread() is threading.main_thread())


def fails(held, _monitor):
    raise ValueError(held)


def ends(_held, _monitor):
    time.sleep(0.02)


def is_stopped(_held, monitor):
    until_stopped(monitor)


@pytest.mark.parametrize("how", ["let be", "cancelled", "overtaken"])
@pytest.mark.parametrize("work", [fails, ends, is_stopped])
def test_what_work_holds_goes_on_the_thread_of_the_window(qtbot, work, how):
    """A widget that went on another thread would take the process with it."""
    made, gone = Jobs(), []
    for _ in range(20):
        made.submit("key", "Work", partial(work, Held(gone)), lambda _: None)
        qtbot.wait(2)
        if how == "cancelled":
            made.cancel("key")
    if work is is_stopped:
        made.cancel("key")
    qtbot.waitUntil(lambda: not made._alive, timeout=5000)
    made.shut_down()
    gc.collect()
    assert len(gone) == 20
    assert all(gone)


def test_what_never_began_goes_with_the_jobs(qtbot):
    made, gone = Jobs(), []
    for number in range(12):
        made.submit(f"key {number}", "Work", partial(ends, Held(gone)), lambda _: None)
    made.shut_down()
    gc.collect()
    assert len(gone) == 12
    assert all(gone)


def test_names_of_pictures_are_remembered_and_nonsense_is_passed_over(qapp):
    assert Preferences().picture_names == {}
    Preferences().picture_names = {"seconds": "studio/elapsed"}
    assert Preferences().picture_names == {"seconds": "studio/elapsed"}
    for nonsense in ("{", "[1, 2]", "7"):
        Preferences()._store.setValue("picture names", nonsense)
        assert Preferences().picture_names == {}
