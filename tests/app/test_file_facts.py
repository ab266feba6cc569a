"""What is known of files: found on another thread, kept, and asked for anew."""

import os
import threading
from pathlib import Path

import pytest

from pemlo.app import file_facts, jobs
from pemlo.app.file_facts import FileFacts
from pemlo.app.jobs import Jobs
from pemlo.core.files.written import when_written
from pemlo.gui.common.background_bar import BackgroundBar

A, B = Path("a"), Path("b")


class Disk:
    """Facts that a test sets, found as slowly as it wants."""

    def __init__(self):
        self.facts, self.asked, self.go = {}, [], threading.Event()
        self.go.set()

    def find(self, path, before):
        self.asked.append((path, before, threading.current_thread() is threading.main_thread()))
        assert self.go.wait(20)
        return self.facts.get(path)


@pytest.fixture
def work(qapp):
    made = Jobs()
    yield made
    made.shut_down()


@pytest.fixture
def disk():
    return Disk()


@pytest.fixture
def facts(work, disk):
    return FileFacts(work, "facts", disk.find)


def test_a_fact_comes_later_and_is_kept(qtbot, work, disk, facts):
    disk.facts[A] = 7
    with qtbot.waitSignal(facts.changed):
        assert facts.of(A) is None
        assert not facts.known([A])
    assert facts.of(A) == 7
    assert facts.known([A])
    assert disk.asked == [(A, None, False)], "asked once, and not on the window's thread"


def test_that_there_is_nothing_is_a_fact_too(qtbot, disk, facts):
    with qtbot.waitSignal(facts.changed):
        assert not facts.known([A, B])
    assert facts.known([A, B])
    assert facts.of(A) is None


def test_an_old_fact_is_told_while_it_is_asked_for_anew(qtbot, monkeypatch, work, disk, facts):
    monkeypatch.setattr(file_facts, "OLD_S", 0.0)
    heard = []
    disk.facts[A] = 1
    facts.of(A)
    qtbot.waitUntil(lambda: not work.running)
    facts.changed.connect(lambda: heard.append(disk.facts[A]))
    assert facts.of(A) == 1
    qtbot.waitUntil(lambda: not work.running)
    assert heard == [], "nothing is new"
    disk.facts[A] = 2
    assert facts.of(A) == 1
    qtbot.waitUntil(lambda: heard == [2])
    assert [before for _, before, _ in disk.asked] == [None, 1, 1]


def test_what_is_wanted_while_the_disk_is_slow_comes_after(qtbot, work, disk, facts):
    disk.go.clear()
    disk.facts |= {A: 1, B: 2}
    facts.of(A)
    qtbot.waitUntil(lambda: len(disk.asked) == 1)
    assert facts.of(B) is None
    disk.go.set()
    qtbot.waitUntil(lambda: facts.known([A, B]) and not work.running)
    assert (facts.of(A), facts.of(B)) == (1, 2)


def test_what_was_forgotten_does_not_come_back(qtbot, work, disk, facts):
    disk.go.clear()
    disk.facts[A] = 1
    facts.of(A)
    qtbot.waitUntil(lambda: len(disk.asked) == 1)
    facts.forget()
    disk.facts[A] = 2
    disk.go.set()
    facts.of(A)
    qtbot.waitUntil(lambda: facts.known([A]) and not work.running)
    assert facts.of(A) == 2


def test_a_slow_disk_is_shown_and_a_quick_one_is_not(qtbot, monkeypatch, work, disk, facts):
    bar = BackgroundBar(work)
    qtbot.addWidget(bar)
    disk.go.clear()
    facts.of(A)
    assert "Looking" not in bar._words.text()
    monkeypatch.setattr(jobs, "SHOWN_AFTER_S", 0.0)
    facts.forget()
    facts.of(A)
    qtbot.waitUntil(lambda: bar._words.text() == "Looking for files")
    disk.go.set()
    qtbot.waitUntil(lambda: not work.running)


def test_when_a_file_was_written(tmp_path):
    file = tmp_path / "a.png"
    assert when_written(file) is None
    file.write_text("x")
    os.utime(file, ns=(5, 7_000_000_000))
    assert when_written(file) == 7_000_000_000
    assert when_written(tmp_path) is None
    assert when_written(Path("a\0b")) is None
