"""Tables that are brought in: files and long texts in the background, one after another, for the film that is there."""

import threading

import pytest

from pemlo.app.jobs import Jobs
from pemlo.app.table_reader import AT_ONCE, PASTED, TableReader
from pemlo.core.errors import InputError


@pytest.fixture
def made(qtbot):
    jobs, told = Jobs(), []
    reader = TableReader(jobs, told.append)
    yield reader, jobs, told
    jobs.shut_down()


def test_a_short_text_is_read_at_once_and_a_long_one_elsewhere(qtbot, made):
    tables, _, _ = made
    where, got = [], []

    def read(text, name, said):
        where.append(threading.current_thread() is threading.main_thread())
        return name, len(text)

    tables.take_pasted("x" * AT_ONCE, lambda: read, got.append)
    assert (where, got) == ([True], [(PASTED, AT_ONCE)])
    tables.take_pasted("x" * (AT_ONCE + 1), lambda: read, got.append)
    qtbot.waitUntil(lambda: len(got) == 2)
    assert where == [True, False]


def test_each_is_put_in_before_the_next_is_read(qtbot, made, tmp_path):
    """Trials may name shots of the table that was dropped with them."""
    tables, _, told = made
    film = []

    def reader():
        there = tuple(film)  # the film as it is when the turn comes
        return lambda text, name, said: (name, there)

    for name in ("a", "b", "c"):
        (tmp_path / name).write_text("x")
        tables.take_file(tmp_path / name, reader, film.append)
    tables.take_pasted("y", reader, film.append)
    qtbot.waitUntil(lambda: len(film) == 4)
    assert [name for name, _ in film] == ["a", "b", "c", PASTED]
    assert [len(there) for _, there in film] == [0, 1, 2, 3]
    assert not told


def test_one_that_cannot_be_read_or_put_in_holds_up_no_other(qtbot, made, tmp_path):
    tables, jobs, told = made
    failed, got = [], []
    jobs.failed.connect(lambda _, error: failed.append(str(error)))

    def refuses(_):
        raise InputError("not here")

    (tmp_path / "good").write_text("x")
    tables.take_file(tmp_path / "none", lambda: lambda text, name, said: text, got.append)
    tables.take_file(tmp_path / "good", lambda: lambda text, name, said: text, refuses)
    tables.take_file(tmp_path / "good", lambda: lambda text, name, said: text, got.append)
    qtbot.waitUntil(lambda: got == ["x"])
    assert len(failed) == 1
    assert [str(error) for error in told] == ["not here"]


def test_another_film_gets_nothing_of_them(qtbot, made, tmp_path):
    tables, _, _ = made
    held, got = threading.Event(), []

    def slow(text, name, said):
        held.wait(5)
        return text

    (tmp_path / "a").write_text("x")
    for _ in range(3):
        tables.take_file(tmp_path / "a", lambda: slow, got.append)
    tables.forget()
    held.set()
    tables.take_file(tmp_path / "a", lambda: lambda text, name, said: "new", got.append)
    qtbot.waitUntil(lambda: bool(got))
    qtbot.wait(50)
    assert got == ["new"]
