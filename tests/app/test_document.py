"""The document with its history, jobs, recovery and errors."""

import json
import threading
import time

import pytest

from film import exact_trial, make_project, well_timed
from film_state_of import state_of
from limits import until_stopped
from pemlo.app import recovery as recovery_module
from pemlo.app.document import Document
from pemlo.app.error_centre import ErrorCentre
from pemlo.app.jobs import Jobs
from pemlo.app.recovery import Recovery, folder, left_behind
from pemlo.core.errors import FileError, InputError
from pemlo.core.persistence.document import to_text
from pemlo.core.project.edits import add_trials, set_asked, set_delivery, set_project
from window import save_now


@pytest.fixture
def document(qapp):
    return Document(make_project())


@pytest.fixture
def jobs(qapp):
    made = Jobs()
    yield made
    made.shut_down()


def set_title(text):
    return lambda project: set_project(project, title=text)


def test_undo_and_redo_swap_and_are_named(document):
    heard = []
    document.changed.connect(heard.append)
    document.edit("Set film", set_title("One"))
    document.edit("Set film", set_title("Two"))
    assert document.history.undo_text() == "Set film"
    document.history.undo()
    assert document.project.title == "One"
    document.history.undo()
    assert document.project == make_project()
    document.history.redo()
    assert document.project.title == "One"
    assert heard == [frozenset({"title"})] * 5


def test_a_change_that_is_refused_leaves_no_trace(document):
    with pytest.raises(InputError):
        document.edit("Set odds", lambda project: set_delivery(project, confidence=7))
    assert document.history.count() == 0
    assert not document.unsaved


def test_a_change_that_changes_nothing_is_no_step(document):
    document.edit("Set film", set_title("Test film"))
    assert document.history.count() == 0


def test_a_gesture_is_one_step_and_vanishes_if_it_ends_where_it_began(document):
    for samples in (200, 150, 100):
        document.edit("Samples", lambda p, n=samples: set_asked(p, ["010"], samples=n), gesture="drag 1")
    assert document.history.count() == 1
    document.history.undo()
    assert document.project.shots[0].asked.samples == 256
    for samples in (200, 256):
        document.edit("Samples", lambda p, n=samples: set_asked(p, ["010"], samples=n), gesture="drag 2")
    assert document.history.count() == 0


def test_saved_and_unsaved(document, tmp_path):
    path = tmp_path / "film.pemlo"
    document.edit("Set film", set_title("One"))
    assert document.unsaved
    save_now(document, path)
    assert not document.unsaved
    document.history.undo()
    assert document.unsaved
    document.open(path)
    assert document.project.title == "One"
    assert document.history.count() == 0


def test_a_file_that_cannot_be_read_leaves_what_is_open(document, tmp_path):
    before = document.project
    with pytest.raises(FileError):
        document.open(tmp_path / "none.pemlo")
    assert document.project is before


def test_the_newest_request_wins(jobs, qtbot):
    started, go = threading.Event(), threading.Event()
    found = []

    def slow(monitor):
        started.set()
        go.wait(5)
        monitor.step(0.5, "half")
        return "old"

    jobs.submit("key", "Slow", slow, found.append)
    assert started.wait(5)
    jobs.submit("key", "Quick", lambda monitor: "new", found.append)
    go.set()
    qtbot.waitUntil(lambda: bool(found), timeout=5000)
    qtbot.wait(50)
    assert found == ["new"]


def test_stopped_work_tells_nothing_and_errors_are_reported(jobs, qtbot):
    found, failed = [], []
    jobs.failed.connect(lambda key, error: failed.append((key, type(error))))

    jobs.submit("endless", "Endless", until_stopped, found.append)
    assert jobs.running == {"endless": "Endless"}
    jobs.cancel("endless")
    assert jobs.running == {}
    jobs.submit("broken", "Broken", lambda monitor: 1 / 0, found.append)
    qtbot.waitUntil(lambda: bool(failed), timeout=5000)
    assert failed == [("broken", ZeroDivisionError)]
    assert found == []


def test_progress_comes_at_most_twenty_times_a_second(jobs, qtbot):
    told = []
    jobs.progressed.connect(told.append)

    def work(monitor):
        end = time.monotonic() + 0.5
        while time.monotonic() < end:
            monitor.step((0.5 - (end - time.monotonic())) / 0.5, "on")

    done = []
    jobs.submit("key", "Work", work, done.append)
    qtbot.waitUntil(lambda: bool(done), timeout=5000)
    assert 1 <= len(told) <= 11
    assert told[-1].seconds_left is not None


def test_a_forecast_follows_every_change_and_the_fit_only_what_it_reads(document, jobs, qtbot):
    state = state_of(document, jobs)
    document.edit("Add", lambda project: add_trials(project, well_timed()))
    qtbot.waitUntil(lambda: state.current and bool(state.advice), timeout=20_000)
    first = state.answer
    document.edit("Odds", lambda project: set_delivery(project, confidence=0.8))
    assert not state.current
    qtbot.waitUntil(lambda: state.current, timeout=20_000)
    assert state.answer.fit is first.fit
    document.edit("Add", lambda project: add_trials(project, [exact_trial("020", 5, 16)]))
    qtbot.waitUntil(lambda: state.current, timeout=20_000)
    assert state.answer.fit is not first.fit
    assert {one.shot for one in state.advice} <= {"010", "020"}


def test_a_copy_is_kept_while_there_is_unsaved_work(document, jobs, qtbot, tmp_path):
    recovery = Recovery(document, jobs)
    document.edit("Set film", set_title("Precious"))
    recovery.keep()
    qtbot.waitUntil(lambda: recovery.file.exists() and not jobs.running, timeout=5000)
    assert left_behind() == [], "the process that keeps it is alive"
    orphan = folder() / "99999999-1.kept"
    recovery.file.rename(orphan)
    (folder() / "99999998-1.kept").write_text("{broken")
    found = left_behind()
    assert [kept.project.title for kept in found] == ["Precious"]
    assert found[0].path is None
    recovery.keep()
    qtbot.waitUntil(lambda: recovery.file.exists() and not jobs.running, timeout=5000)
    save_now(document, tmp_path / "film.pemlo")
    qtbot.waitUntil(lambda: not recovery.file.exists(), timeout=5000)
    assert json.loads(orphan.read_text())["path"] == ""


def test_a_copy_on_its_way_is_forgotten_with_the_rest(document, jobs, qtbot, tmp_path, monkeypatch):
    begun, go_on = threading.Event(), threading.Event()

    def slowly(project):
        begun.set()
        go_on.wait(5)
        return to_text(project)

    monkeypatch.setattr(recovery_module, "to_text", slowly)
    recovery = Recovery(document, jobs)
    document.edit("Set film", set_title("Precious"))
    recovery.keep()
    qtbot.waitUntil(begun.is_set, timeout=5000)
    save_now(document, tmp_path / "film.pemlo")
    go_on.set()
    jobs.shut_down()
    assert list(folder().glob("*")) == []


def test_garbage_is_freed_on_the_gui_thread_only(jobs, qtbot):
    """A widget that is freed on another thread takes the process down."""
    freed = []

    class Ring:
        def __init__(self):
            self.me = self

        def __del__(self):
            freed.append(threading.current_thread())

    def allocate(monitor):
        return [[number] for number in range(200_000)]

    for number in range(4):
        for _ in range(1000):
            Ring()
        jobs.submit(str(number), "Allocating", allocate, lambda _: None)
    qtbot.waitUntil(lambda: not jobs.running and len(freed) == 4000, timeout=20_000)
    assert set(freed) == {threading.main_thread()}


def test_errors_are_told_by_kind(qapp, capsys):
    centre = ErrorCentre()
    told, bugs = [], []
    centre.trouble.connect(lambda message, hint: told.append((message, hint)))
    centre.bug.connect(bugs.append)
    centre.report(InputError("wrong", "do it so"))
    centre.report(ValueError("odd"))
    assert told == [("wrong", "do it so")]
    assert "ValueError: odd" in bugs[0]
    assert "ValueError: odd" in capsys.readouterr().err
