"""What others write and the program reads: logs, stores, headers, places, lines, names; each damaged or made up.

Used by fuzz.py. A try may end in an error in words; it may not end otherwise, take two seconds, or leave a file outside
of its folder.
"""

import random
import shlex
import shutil
import sqlite3
from collections.abc import Callable
from contextlib import closing, suppress
from datetime import UTC, datetime
from pathlib import Path

from pemlo.core.arrivals.arrival_snapshot import arrival_snapshot
from pemlo.core.arrivals.folder_scanner import ScanResult
from pemlo.core.arrivals.frame_check import _said
from pemlo.core.arrivals.log_reader import LogReader, pattern_of
from pemlo.core.arrivals.place import FrameName, place_of
from pemlo.core.arrivals.scan import scan
from pemlo.core.arrivals.store import ENDING, FinishRow, Store
from pemlo.core.arrivals.store_rows import FrameRow
from pemlo.core.editing.edit import shot_name
from pemlo.core.errors import InputError
from pemlo.core.files.header import Header
from pemlo.core.files.safe_paths import inside
from pemlo.core.foreign import gives_orders, visible
from pemlo.core.project.film_line import EXAMPLE, film_of, read_film_line, understood
from pemlo.core.project.names import file_part, safe_name
from pemlo.core.project.project import Project
from pemlo.core.project.watching import LOG_FIELDS, LogExample
from pemlo.handover.command_lines import command_line, whole_shots

Try = Callable[[random.Random], None]
Damage = Callable[[str, random.Random], str]
PYTHONS = ("convert", "limit (", "invalid literal", "month must", "out of range")  # words that are not for people
MONDAY = datetime(2031, 4, 21, 10, tzinfo=UTC)
LINES = (
    "frame 12 of 010 took 4:02 on desk",
    "[2031-04-21 10:04:02] 010/12 done in 242.1 s, 300 samples, 3.1G, blade-3",
    "21:04:10 12 ended",
    "12;010;desk;1 h 4 m 2 s;2,048",
)
MARKS = {
    "frame": ("12",), "seconds": ("4:02", "242.1 s", "1 h 4 m 2 s"), "shot": ("010",), "samples": ("300", "2,048"),
    "machine": ("desk", "blade-3"), "memory": ("3.1G",), "ended": ("2031-04-21 10:04:02", "21:04:10"),
}  # fmt: skip
WORDS = (
    *EXAMPLE.replace(",", " ").split(), "1,440", "1.200", "-5", "frames", "shots", "of", "and", "each", "frame", "4:02",
    "1h", "due", "in", "3", "days", "next", "friday", "31", "february", "2031-99-99", "25:00", "pm", "fps", "1-2000000",
    "to",     "samples", "threshold", "0.01", "4k", "x", "×", "machines", "a", "second", "long", "film", "9" * 40,
    "½", "²", "١٢", "\u202e", "\x1b[2J",
)  # fmt: skip
LETTERS = "ab1-_. /\\\n\r\t\x00\x1b\u202e\u2028{}$`'\"#~*?<>|;&()!é夜\U0001f600\ud800"
PATTERNS = (
    "{shot}",
    "{frame}",
    "{frame:04}",
    "{layer}",
    "{take}",
    "/",
    ".",
    "_",
    "..",
    "~",
    "r",
    "{",
    "}",
    "{frame:9}",
    "\x1b",
)


def _text(dice: random.Random, most: int = 30) -> str:
    return "".join(dice.choice(LETTERS) for _ in range(dice.randint(0, most)))


def _example(dice: random.Random) -> LogExample:
    line = dice.choice(LINES)
    marks = []
    for field in LOG_FIELDS:
        text = next((one for one in MARKS.get(field, ()) if one in line), "")
        if text and (field == "frame" or dice.random() < 0.7):
            at = line.index(text)
            marks.append({"field": field, "begin": at, "end": at + len(text)})
    return LogExample.model_validate({"line": line, "marks": marks})


def logs(folder: Path, damaged: Damage) -> Try:
    """Return a try of a log that somebody else writes, is read on, and is written anew."""
    path = folder / "log"

    def attempt(dice: random.Random) -> None:
        try:
            example = _example(dice)
        except ValueError as error:  # no time was marked
            raise InputError("no example") from error
        text = "\n".join(damaged(example.line, dice) for _ in range(dice.randint(1, 12)))
        path.write_bytes(text.encode("utf-8", "surrogateescape") if dice.random() < 0.5 else dice.randbytes(200))
        reader = LogReader(path, [pattern_of(example, text.splitlines()[:20])])
        for _ in range(2):
            for one in reader.read_on():
                assert one.seconds is not None
                assert 0 < one.seconds <= 1e11
                assert abs(one.frame) < 10**9
            with path.open("ab" if dice.random() < 0.8 else "wb") as file:
                file.write(damaged(example.line, dice).encode("utf-8", "replace") + b"\n")

    return attempt


def stores(folder: Path, project: Project) -> Try:
    """Return a try of a store that was damaged, or holds what cannot be."""
    good, path = folder / "good.sqlite", folder / f"job{ENDING}"
    row = FrameRow("/r/1.exr", project.shots[0].name, 1, "", "", 100, 1.9e9, 1.9e9, seconds=12.0, source="header")
    with Store(good) as store:
        store.put([row._replace(path=f"/r/{k}.exr", frame=k) for k in range(40)])
        store.put_finish(FinishRow(10.0, 1, 5.0, 6.0, 7.0, 0.5))
    with closing(sqlite3.connect(good)) as made:
        made.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    data = good.read_bytes()
    columns = [*FrameRow._fields]
    odd = (None, "x", "", b"\xff", -1, 2**62, 1e300, float("inf"), "[" * 3000, '{"samples": 0}', 0.5, "\x1b")

    def attempt(dice: random.Random) -> None:
        for left in folder.glob(f"job{ENDING}*"):
            left.unlink()
        found = bytearray(data)
        if dice.random() < 0.5:
            for _ in range(dice.randint(1, 8)):
                at = dice.randrange(len(found))
                found[at : at + dice.randint(1, 40)] = dice.randbytes(dice.randint(1, 40))
            path.write_bytes(found)
        else:
            path.write_bytes(found)
            with closing(sqlite3.connect(path)) as made, suppress(sqlite3.Error):
                for _ in range(dice.randint(1, 3)):
                    values = dice.choice(odd), dice.randrange(40)
                    made.execute(f"UPDATE frames SET {dice.choice(columns)} = ? WHERE frame = ?", values)  # noqa: S608
                column = dice.choice(("at", "frames", "high", "chance"))
                made.execute(f"UPDATE finishes SET {column} = ?", (dice.choice(odd),))  # noqa: S608
                made.commit()
        with Store(path) as store:
            rows = store.frames()
            store.finishes()
            mine = tuple(row for row in rows if row.shot == project.shots[0].name)
            look = ScanResult({project.shots[0].name: mine}, frozenset(), 0, (), {}, (), changed=True)
            snapshot = arrival_snapshot(project, look, 1000.0)
            assert (snapshot.frames.seconds[snapshot.frames.timed] <= 1e10).all()
            store.put([row])

    return attempt


def headers(damaged: Damage) -> Try:
    """Return a try of what a picture's header says."""
    good = {
        "pemlo:scene": "stairs", "pemlo:frame": "12", "pemlo:seconds": "242.1", "pemlo:machine": "desk",
        "pemlo:samples": "256", "pemlo:min_samples": "16", "pemlo:noise_threshold": "0.01", "pemlo:denoise": "frame",
        "pemlo:resolution_percent": "50", "pemlo:region": "10,10,50,50", "pemlo:full_width": "100",
        "pemlo:full_height": "100", "pemlo:read_back": "prepare", "pemlo:noise_shape": "-1;0;1", "pemlo:split": "4,1,2",
        "pemlo:switches": "motion blur", "pemlo:memory_gib": "3.5", "pemlo:seed": "7", "pemlo:mean_samples": "100",
    }  # fmt: skip

    def attempt(dice: random.Random) -> None:
        said = dict(good)
        for name in dice.sample(sorted(said), dice.randint(1, 6)):
            said[name] = damaged(said[name], dice) if dice.random() < 0.7 else _text(dice)
        names = (
            {}
            if dice.random() < 0.7
            else {field: dice.choice(sorted(said)) for field in ("seconds", "samples", "frame")}
        )
        if names:
            said.pop("pemlo:scene", None)
        header = Header(Path(f"{_text(dice, 8)}.{dice.choice(('12', '9' * 30, ''))}.exr"), 100, 100, ("R",), said, 1.0)
        found, words = _said(header, names)
        assert 0 < found.get("seconds", 1.0) <= 1e10
        assert not any(gives_orders(word) for word in words)

    return attempt


def places(folder: Path) -> Try:
    """Return a try of a place, and of names of files in it."""
    home = folder / "watched"
    for name in ("010.0001.exr", "010.0002.exr", "a/010_1.exr", "a/020_2.exr", "notes.txt"):
        (home / name).parent.mkdir(parents=True, exist_ok=True)
        (home / name).write_bytes(b"x")
    (home / "010.0003.exr").symlink_to("010.0003.exr")

    def attempt(dice: random.Random) -> None:
        pattern = "".join(dice.choice(PATTERNS) for _ in range(dice.randint(1, 9)))
        try:
            place = place_of(pattern)
        except ValueError as error:
            raise InputError(str(error)) from error
        place.read(_text(dice) + dice.choice(("", ".0001.exr", "9" * 300)))
        made = place.path(FrameName("010", dice.randint(-5, 9999), "beauty", "2"))
        with suppress(ValueError):
            assert inside(folder, made).resolve().is_relative_to(folder.resolve())
        if dice.random() < 0.2 and not pattern.startswith(("/", "~", "..")):
            found = scan(place, home)
            assert all(visible(words) == words for words in found.troubles)

    return attempt


def lines(project: Project) -> Try:
    """Return a try of a film in one line."""
    empty = project.replace(shots=(), trials=(), plans=(), launch=(), cards=())

    def attempt(dice: random.Random) -> None:
        words = [dice.choice(WORDS) for _ in range(dice.randint(1, 14))]
        text = dice.choice((" ", ", ", "")).join(words) + (_text(dice, 6) if dice.random() < 0.3 else "")
        found = read_film_line(text, MONDAY, dice.choice(("UTC", "Europe/Lisbon")))
        understood(found, str)
        for problem in found.problems:
            assert not any(
                word in problem for word in ("convert", "limit (", "invalid literal", "month must", "out of range")
            )
        film_of(found, empty)

    return attempt


def names(folder: Path, project: Project) -> Try:
    """Return a try of a name: as a shot, as a part of a path, as an argument of a shell."""

    def attempt(dice: random.Random) -> None:
        text = _text(dice, dice.choice((3, 12, 70)))
        safe = safe_name(text)
        assert not safe or file_part(safe) == safe
        assert safe_name(shot_name(text)) == shot_name(text)
        try:
            name = file_part(text.strip())
        except ValueError as error:
            raise InputError(str(error)) from error
        if not 0 < len(name) <= 60:
            raise InputError("no name")
        inside(folder, f"{name}/{name}.0001.exr")
        shot = project.shots[0].replace(name=name)
        film = project.replace(shots=(shot,), trials=(), plans=(), launch=(), cards=())
        template = f"render {dice.choice(('', '-x ', '#', 'a#', '$', '`', '$(', chr(34)))}{{shot}} {{first}}"
        line = command_line(template, film, whole_shots(film)[0])
        assert any(shot.name in word for word in shlex.split(line, comments=False))

    return attempt


def sandbox(folder: Path) -> Path:
    """Return a folder of its own, in one in which nothing else may appear."""
    shutil.rmtree(folder / "outer", ignore_errors=True)
    inner = folder / "outer" / "inner"
    inner.mkdir(parents=True)
    return inner


def strays(inner: Path) -> list[str]:
    """Return what lies beside a sandbox: nothing may."""
    return sorted(one.name for one in inner.parent.iterdir() if one != inner)
