"""What arrived, kept beside the project: it survives, and can be thrown away."""

import contextlib
import json
import os
import signal
import sqlite3
import subprocess
import sys
import textwrap

import pytest

from pemlo.core.arrivals.store import FinishRow, Store, store_path
from pemlo.core.arrivals.store_rows import KIND, NAMES, FrameRow
from pemlo.core.errors import FileError
from pemlo.core.project.settings import FrameSettings


def row(frame, **more):
    return FrameRow(f"/r/{frame}.exr", "010", frame, "", "", 100, 1.5, 2.5)._replace(**more)


def test_what_was_put_is_there_when_it_is_opened_again(tmp_path):
    path = store_path(tmp_path / "my film.pemlo")
    assert path.name == "my film.arrivals.sqlite"
    with Store(path) as store:
        store.put([row(1), row(2, trouble="is black all over", seconds=3.25, early=True)])
        store.put([row(1, seconds=9.0)], gone=["/r/2.exr"])
        store.put_finish(FinishRow(10.0, 1, 5.0, 6.0, float("inf"), 0.5))
    with Store(path) as store:
        assert store.frames() == (row(1, seconds=9.0),)
        assert store.finishes() == (FinishRow(10.0, 1, 5.0, 6.0, float("inf"), 0.5),)


def test_one_that_is_damaged_is_put_aside_and_made_anew(tmp_path):
    path = tmp_path / "a.sqlite"
    with Store(path) as store:
        store.put([row(number) for number in range(200)])
    data = bytearray(path.read_bytes())
    data[1000:] = b"\xff" * (len(data) - 1000)
    path.write_bytes(data)
    with Store(path) as store:
        assert store.frames() == ()
        store.put([row(1)])
    assert (tmp_path / "a.sqlite.damaged").read_bytes() == bytes(data)
    with Store(path) as store:
        assert store.frames() == (row(1),)


def test_one_whose_own_words_are_damaged_is_put_aside(tmp_path):
    """The message of the library is then no text, and raises what is no error of a database."""
    path = tmp_path / "a.sqlite"
    Store(path).close()
    with contextlib.closing(sqlite3.connect(path)) as made:
        made.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    for damaged in (b"CREATE TABL\xff frames", b"CREATE TABLE \xed\xf8rames", b'CREATE TABLE "\xb5\xff\xff\xffs'):
        data = path.read_bytes()
        at = data.index(b"CREATE TABLE frames")
        path.write_bytes(data[:at] + damaged + data[at + len(damaged) :])
        with Store(path) as store:
            assert store.frames() == ()
            store.put([row(1)])
        with contextlib.closing(sqlite3.connect(path)) as made:
            made.execute("PRAGMA wal_checkpoint(TRUNCATE)")


@pytest.mark.parametrize("data", [b"this is no database" * 100, b"x", json.dumps({"a": 1}).encode(), b"\0" * 4096])
def test_a_file_that_is_no_store_is_left_as_it_is(tmp_path, data):
    path = tmp_path / "a.sqlite"
    path.write_bytes(data)
    with pytest.raises(FileError, match=r"is not a frame store of Pemlo: it is no database. It was left"):
        Store(path)
    assert path.read_bytes() == data
    assert [one.name for one in tmp_path.iterdir()] == ["a.sqlite"]


def bookkeeping(path):
    with contextlib.closing(sqlite3.connect(path)) as made:
        made.execute("CREATE TABLE bills (cost REAL)")
        made.execute("INSERT INTO bills VALUES (91)")
        made.commit()
    return path.read_bytes()


def test_the_database_of_another_program_is_left_as_it_is(tmp_path):
    path = tmp_path / "a.sqlite"
    before = bookkeeping(path)
    with pytest.raises(FileError, match="it has other tables"):
        Store(path)
    assert path.read_bytes() == before
    assert [one.name for one in tmp_path.iterdir()] == ["a.sqlite"]


@pytest.mark.parametrize("ending", ["", "-wal", "-shm"])
def test_nothing_is_written_through_a_link(tmp_path, ending):
    other = tmp_path / "bills.sqlite"
    before = bookkeeping(other)
    (tmp_path / f"a.sqlite{ending}").symlink_to(other)
    with pytest.raises(FileError, match="is a link"):
        Store(tmp_path / "a.sqlite")
    assert other.read_bytes() == before


@pytest.mark.parametrize("order", [
    "CREATE TRIGGER x AFTER INSERT ON frames BEGIN DELETE FROM finishes; END", "CREATE VIEW y AS SELECT 1",
    "CREATE INDEX z ON frames (shot)",
])  # fmt: skip
def test_a_store_with_more_in_it_than_ours_is_not_used(tmp_path, order):
    path = tmp_path / "a.sqlite"
    Store(path).close()
    with contextlib.closing(sqlite3.connect(path)) as made:
        made.execute(order)
    with pytest.raises(FileError, match="other tables"):
        Store(path)


CANNOT_BE = {
    "a text where a number stands": {"frame": "twelve"}, "bytes where a text stands": {"shot": b"\xff"},
    "a blob": {"path2": b"\xff\xfe"}, "seconds that no frame takes": {"seconds": 1e12}, "no date": {"ended": 1e300},
    "settings that are damaged": {"settings": "{"}, "settings that are none": {"settings": '{"samples": -1}'},
    "deep settings": {"settings": "[" * 100_000}, "a size below zero": {"size": -1}, "a side that no picture has": {"width": 10**9},
    "a frame that no shot has": {"frame": 2**62}, "nothing": {"modified": None}, "a long text": {"digest": "x" * 100_000},
    "half a truth": {"readable": 7}, "a note for null": {"machine": None},
}  # fmt: skip


@pytest.mark.parametrize("what", CANNOT_BE)
def test_a_row_that_cannot_be_is_looked_at_anew(tmp_path, what):
    path = tmp_path / "a.sqlite"
    others = [row(2, brightness=float("nan"), take="b", machine="n1"), row(3, take="b", machine="n1")]
    with Store(path) as store:
        store.put([row(1), *(one._replace(shot="020") for one in others)])
    ((name, value),) = CANNOT_BE[what].items()
    with contextlib.closing(sqlite3.connect(path)) as made:
        spoil(made, name.rstrip("2"), value)
        made.commit()
    with Store(path) as store:
        assert [frame.frame for frame in store.frames()] == [2, 3]


def spoil(made, name, value):
    """Write something where the first frame has it: in its own row, or where it shares it with others."""
    if name in NAMES:
        made.execute(f"UPDATE names SET name = ? WHERE id = (SELECT {name} FROM frames WHERE frame = 1)", (value,))
    elif name in KIND:
        made.execute(f"UPDATE kinds SET {name} = ? WHERE id = (SELECT kind FROM frames WHERE frame = 1)", (value,))
    else:
        made.execute(f"UPDATE frames SET {name} = ? WHERE frame = 1", (value,))


@pytest.mark.parametrize("number", [77, None, "x"])
@pytest.mark.parametrize("name", [*NAMES, "kind"])
def test_a_row_of_a_name_or_kind_that_is_not_there_is_looked_at_anew(tmp_path, name, number):
    path = tmp_path / "a.sqlite"
    with Store(path) as store:
        store.put([row(1), row(2)])
    with contextlib.closing(sqlite3.connect(path)) as made:
        made.execute(f"UPDATE frames SET {name} = ? WHERE frame = 1", (number,))
        made.commit()
    with Store(path) as store:
        assert store.frames() == (row(2),)


def test_two_who_write_one_store_share_no_numbers(tmp_path):
    """A window and a command that watch the same film: what either calls a machine is another's nowhere."""
    path = tmp_path / "a.sqlite"
    with Store(path) as mine, Store(path) as other:
        mine.put([row(1, machine="n1", take="a")])
        other.put([row(2, machine="n2", take="b")])
        mine.put([row(3, machine="n2", take="b")])
    with Store(path) as store:
        assert [(one.frame, one.machine, one.take) for one in store.frames()] == [
            (1, "n1", "a"), (2, "n2", "b"), (3, "n2", "b")]  # fmt: skip


def test_after_what_could_not_be_written_all_else_can(tmp_path):
    path = tmp_path / "a.sqlite"
    with Store(path) as store:
        with pytest.raises(FileError):
            store.put([row(1, machine="new"), row(2, machine="\udcff")])
        store.put([row(1, machine="new")])
        assert store.frames() == ()  # as it was when it was opened
    with Store(path) as store:
        assert store.frames() == (row(1, machine="new"),)


OLD = """
CREATE TABLE frames (path TEXT PRIMARY KEY, shot TEXT, frame INTEGER, layer TEXT, take TEXT, size INTEGER,
 modified REAL, ended REAL, trouble TEXT, readable INTEGER, seconds REAL, source TEXT, machine TEXT, settings TEXT,
 differs TEXT, width INTEGER, height INTEGER, brightness REAL, noise REAL, digest TEXT, early INTEGER,
 memory_gib REAL) WITHOUT ROWID;
CREATE TABLE finishes (at REAL PRIMARY KEY, frames INTEGER, low REAL, middle REAL, high REAL, chance REAL);
INSERT INTO finishes VALUES (10.0, 1, 5.0, 6.0, 7.0, 0.5);
PRAGMA user_version=2;
"""


def old_store(path, rows):
    with contextlib.closing(sqlite3.connect(path)) as made:
        made.executescript(OLD)
        made.executemany(f"INSERT INTO frames VALUES ({', '.join('?' * len(FrameRow._fields))})", rows)
        made.commit()


def test_a_store_of_an_older_pemlo_is_taken_over_whole(tmp_path):
    path = tmp_path / "a.sqlite"
    settings = FrameSettings(samples=64).model_dump_json()
    rows = [
        row(k, machine=f"n{k % 2}", settings=settings, take="b" * (k % 3), noise=0.5, memory_gib=2.5) for k in range(9)
    ]
    old_store(path, rows)
    with Store(path) as store:
        assert store.frames() == tuple(rows)
        assert [one.at for one in store.finishes()] == [10.0]
        store.put([row(9)])
    with Store(path) as store:
        assert len(store.frames()) == 10
    assert [one.name for one in tmp_path.iterdir()] == ["a.sqlite"]


def test_of_a_damaged_store_of_an_older_pemlo_what_can_be_is_taken_over(tmp_path):
    path = tmp_path / "a.sqlite"
    old_store(path, [row(1), ("/r/2.exr", b"\xff", *row(2)[2:]), row(3, seconds=1e12)])
    with Store(path) as store:
        assert store.frames() == (row(1),)


def test_a_finish_that_cannot_be_is_passed_over(tmp_path):
    path = tmp_path / "a.sqlite"
    with Store(path) as store:
        store.put_finish(FinishRow(10.0, 1, 5.0, 6.0, float("inf"), 0.5))
    with contextlib.closing(sqlite3.connect(path)) as made:
        made.execute("INSERT INTO finishes VALUES (11, 'x', 1, 2, 3, 0.5)")
        made.execute("INSERT INTO finishes VALUES (12, 3, 1, 2, 3, 7)")
        made.commit()
    with Store(path) as store:
        assert [one.at for one in store.finishes()] == [10.0]


def test_a_store_with_other_columns_is_put_aside(tmp_path):
    path = tmp_path / "a.sqlite"
    with contextlib.closing(sqlite3.connect(path)) as made:
        made.execute("CREATE TABLE frames (path TEXT PRIMARY KEY, colour TEXT)")
        made.execute("PRAGMA user_version=2")
    with Store(path) as store:
        store.put([row(1)])
    assert (tmp_path / "a.sqlite.damaged").exists()


def test_what_does_not_go_into_it_is_said(tmp_path):
    with Store(tmp_path / "a.sqlite") as store:
        with pytest.raises(FileError, match="does not go into it"):
            store.put([row(2**70)])
        with pytest.raises(FileError, match="does not go into it"):
            store.put([row(1, machine="\udcff")])


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
        assert store.frames() == (row(1),)


def test_a_program_that_is_killed_loses_nothing_that_it_put(tmp_path):
    path = tmp_path / "a.sqlite"
    script = textwrap.dedent(f"""
        import sys, time
        from pathlib import Path
        from pemlo.core.arrivals.store import Store
        from pemlo.core.arrivals.store_rows import FrameRow
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
        there = sorted(frame.frame for frame in store.frames())
    assert there == list(range(len(there)))
    assert len(there) > min(told, 190)
