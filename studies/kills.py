"""Kill programs while they write: a document is the old one or the new one, and what was kept of frames is whole.

./dev kills [count]    so many kills of saving (1 000 unless told) from the command line and as many in the window's
                       document, a fifth as many of `plan --adopt` and of `watch`, at random moments

Each is a process of its own, killed with -9; what it leaves is read again. What went wrong is printed.
"""

import os
import random
import signal
import sqlite3
import sys
import tempfile
import time
from collections.abc import Callable
from contextlib import closing, redirect_stderr, redirect_stdout
from pathlib import Path

from pemlo.cli.main import main as command
from pemlo.core.arrivals.store import Store, store_path
from pemlo.core.persistence.document import read_project, to_text, write_project
from pemlo.core.project.delivery import Delivery
from pemlo.core.project.machines import Machine
from pemlo.core.project.project import Project
from pemlo.core.project.settings import ShotSettings
from pemlo.core.project.shots import Shot
from pemlo.core.project.trials import Trial
from pemlo.core.project.watching import Watching

COUNT = 1000
_SAVING = ".saving"
Work = Callable[[], None]


def film(title: str = "Old") -> Project:
    """Return a small film that can be planned and watched."""
    shots = tuple(Shot(name=name, first=1, last=20, asked=ShotSettings(samples=256)) for name in ("010", "020"))
    trials = tuple(
        Trial(shot=shot.name, frame=frame, samples=samples, seconds=samples * 2.0 + 40)
        for shot in shots
        for frame, samples in ((1, 256), (20, 64))
    )
    delivery = Delivery(deadline="2031-04-21T18:00Z", timezone="UTC", width=64, height=36)
    made = Project(title=title, start="2031-04-21T10:00Z", delivery=delivery, shots=shots, trials=trials,
                   machines=(Machine(name="desk"),))  # fmt: skip
    return made.replace(watching=Watching(place="r/{shot}/{shot}.{frame:04}.exr"))


def _child(work: Work) -> int:
    """Begin work in a process of its own, and return its number."""
    child = os.fork()
    if child:
        return child
    code = 1
    try:
        with open(os.devnull, "w") as nowhere, redirect_stdout(nowhere), redirect_stderr(nowhere):  # noqa: PTH123
            work()
        code = 0
    finally:
        os._exit(code)


def killed_after(work: Work, seconds: float) -> bool:
    """Run work in a process of its own and kill it; return whether it was still at it."""
    child = _child(work)
    time.sleep(seconds)
    os.kill(child, signal.SIGKILL)
    _, status = os.waitpid(child, 0)
    assert os.WIFSIGNALED(status) or status == 0, "the work itself goes wrong"
    return os.WIFSIGNALED(status)


def takes(work: Work) -> float:
    """Return how long work takes in a process of its own, s."""
    begun = time.monotonic()
    child = _child(work)
    _, status = os.waitpid(child, 0)
    assert status == 0, "the work itself goes wrong"
    return time.monotonic() - begun


def _saves_for_ever(path: Path, save: Callable[[Project, Path], None]) -> Work:
    def work() -> None:
        texts = film("Old"), film("New")
        for number in range(10_000):
            save(texts[number % 2], path)

    return work


def saved(path: Path) -> str:
    """Return what is wrong with a document that was being saved; empty if nothing is."""
    try:
        title = read_project(path).title
    except Exception as error:  # noqa: BLE001 - this is what is looked for
        return repr(error)
    if title not in {"Old", "New"} or path.read_text() != to_text(film(title)):
        return "is neither the old nor the new one"
    strays = [one.name for one in path.parent.iterdir() if one != path and not one.name.endswith(_SAVING)]
    return f"leaves {strays}" if strays else ""


def _kill(kind: str, count: int, work: Work, longest: float, wrong_with: Callable[[], str], dice: random.Random) -> int:
    bad = at_it = 0
    begun = time.monotonic()
    for number in range(count):
        at_it += killed_after(work, dice.uniform(0.0, longest))
        words = wrong_with()
        if words:
            bad += 1
            print(f"{kind}, kill {number}: {words}")
    took = time.monotonic() - begun
    print(f"{kind}: {count} kills in {took:.0f} s, {at_it} while it worked, {bad} went wrong")
    return bad


def _by_document(project: Project, path: Path) -> None:
    from pemlo.app.document import Document  # noqa: PLC0415 - Qt, in the child alone

    document = Document(project, path)
    save = document.to_save(path)
    document.on_saved(save, save.write())


def main(count: int = COUNT, seed: int = 0) -> int:
    """Kill; return how often something was wrong."""
    dice = random.Random(seed)  # noqa: S311 - no secret
    bad = 0
    with tempfile.TemporaryDirectory() as name:
        top = Path(name)
        for kind, save in (("saving", write_project), ("saving in the window's document", _by_document)):
            folder = top / kind
            folder.mkdir()
            path = folder / "film.pemlo"
            write_project(film(), path)
            bad += _kill(kind, count, _saves_for_ever(path, save), 0.03 if save is write_project else 0.3,
                         lambda path=path: saved(path), dice)  # fmt: skip
            write_project(film(), path)  # takes away what the killed ones left
            left = [one.name for one in folder.iterdir() if one != path]
            if left:
                bad += 1
                print(f"{kind}: {len(left)} files stay behind")
        bad += _adopting(top, max(count // 5, 1), dice)
        bad += _watching(top, max(count // 5, 1), dice)
    return bad


def _adopting(top: Path, count: int, dice: random.Random) -> int:
    folder = top / "plan"
    folder.mkdir()
    path = folder / "film.pemlo"
    before = to_text(film())

    def work() -> None:
        path.write_text(before)
        command(["plan", str(path), "--adopt", "--set", "010.samples=128"])

    longest = takes(work)
    after = path.read_text()
    if after == before:
        print("plan --adopt changes nothing: nothing is tried")
        return 1

    def wrong() -> str:
        text = path.read_text()
        # A kill before the old film was put back leaves the new one of the run before.
        return "" if text in (before, after, "") else "is neither the old nor the adopted plan"

    def put_back() -> None:
        command(["plan", str(path), "--adopt", "--set", "010.samples=128"])

    def fresh() -> str:
        words = wrong()
        path.write_text(before)
        return words

    path.write_text(before)
    return _kill("plan --adopt", count, put_back, longest * 1.1, fresh, dice)


def _watching(top: Path, count: int, dice: random.Random) -> int:
    import numpy as np  # noqa: PLC0415 - with it

    from pemlo_simulators.renderer.exr import Channels, write_exr  # noqa: PLC0415 - heavy to load

    folder = top / "watch"
    project = film()
    path = folder / "film.pemlo"
    for shot in project.shots:
        (folder / "r" / shot.name).mkdir(parents=True)
        for frame in range(1, 21):
            pixels = np.random.default_rng(frame).random((36, 64, 3), np.float32)
            write_exr(folder / "r" / shot.name / f"{shot.name}.{frame:04d}.exr", Channels(("R", "G", "B"), pixels, {}))
    write_project(project, path)

    def work() -> None:
        command(["watch", str(path), "--once", "--now", "2031-04-21T12:00"])

    longest = takes(work)
    there = {str(one) for one in (folder / "r").rglob("*.exr")}

    def wrong() -> str:
        file = store_path(path)
        try:
            with Store(file) as store:
                rows = store.frames()
        except Exception as error:  # noqa: BLE001 - this is what is looked for
            return repr(error)
        if Path(f"{file}.damaged").exists():
            return "its store was found damaged"
        if not {row.path for row in rows} <= there:
            return "its store names frames that never came"
        with closing(sqlite3.connect(file)) as made:
            if made.execute("PRAGMA integrity_check").fetchone()[0] != "ok":
                return "its store is not whole"
        if dice.random() < 0.2:
            for ending in ("", "-wal", "-shm"):
                Path(f"{file}{ending}").unlink(missing_ok=True)
        return "" if read_project(path) == project else "its film is another"

    return _kill("watch", count, work, longest * 1.1, wrong, dice)


if __name__ == "__main__":
    sys.exit(main(int(sys.argv[1]) if len(sys.argv) > 1 else COUNT) > 0)
