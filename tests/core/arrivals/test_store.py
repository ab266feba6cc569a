"""What arrived, kept beside the project: it survives, and can be thrown away."""

import os
import signal
import sqlite3
import subprocess
import sys
import textwrap

import pytest

from pemlo.core.arrivals.store import FinishRow, FrameRow, Store, store_path
from pemlo.core.errors import FileError


def row(frame, **more):
    return FrameRow(f"/r/{frame}.exr", "010", frame, "", "", 100, 1.5, 2.5, **more)


def test_what_was_put_is_there_when_it_is_opened_again(tmp_path):
    path = store_path(tmp_path / "my film.pemlo")
    assert path.name == "my film.arrivals.sqlite"
    with Store(path) as store:
        store.put([row(1), row(2, trouble="is black all over", seconds=3.25, early=True)])
        store.put([row(1, seconds=9.0)], gone=["/r/2.exr"])
        store.put_finish(FinishRow(10.0, 1, 5.0, 6.0, float("inf"), 0.5))
    with Store(path) as store:
        assert list(store.frames()) == [row(1, seconds=9.0)]
        assert store.finishes() == (FinishRow(10.0, 1, 5.0, 6.0, float("inf"), 0.5),)


def test_one_that_is_damaged_or_of_another_kind_is_made_anew(tmp_path):
    path = tmp_path / "a.sqlite"
    path.write_bytes(b"this is no database" * 100)
    with Store(path) as store:
        assert list(store.frames()) == []
        store.put([row(1)])
    with Store(path) as store:
        assert len(list(store.frames())) == 1


def test_where_nothing_can_be_written_that_is_said(tmp_path):
    with pytest.raises(FileError, match="cannot be written"):
        Store(tmp_path / "no" / "folder" / "a.sqlite")


def test_one_that_another_program_holds_is_not_thrown_away(tmp_path, monkeypatch):
    path = tmp_path / "a.sqlite"
    with Store(path) as store:
        store.put([row(1)])
    holder = sqlite3.connect(path)
    holder.execute("PRAGMA locking_mode=EXCLUSIVE")
    holder.execute("BEGIN EXCLUSIVE")
    connect = sqlite3.connect
    monkeypatch.setattr(sqlite3, "connect", lambda name, **more: connect(name, **{**more, "timeout": 0.05}))
    with pytest.raises(FileError, match="locked"):
        Store(path)
    holder.close()
    with Store(path) as store:
        assert list(store.frames()) == [row(1)]


def test_a_program_that_is_killed_loses_nothing_that_it_put(tmp_path):
    path = tmp_path / "a.sqlite"
    script = textwrap.dedent(f"""
        import sys, time
        from pathlib import Path
        from pemlo.core.arrivals.store import FrameRow, Store
        store = Store(Path({str(path)!r}))
        for frame in range(100000):
            store.put([FrameRow(f"/r/{{frame}}.exr", "010", frame, "", "", 100, 1.5, 2.5)])
            print(frame, flush=True)
    """)
    with subprocess.Popen([sys.executable, "-c", script], stdout=subprocess.PIPE, text=True) as process:
        said = [process.stdout.readline() for _ in range(200)]
        os.kill(process.pid, signal.SIGKILL)
        rest = process.stdout.read()
    told = int((said + rest.splitlines(keepends=True))[-1] if rest.endswith("\n") else said[-1])
    with Store(path) as store:
        there = sorted(one.frame for one in store.frames())
    assert there == list(range(len(there)))
    assert len(there) > min(told, 190)
