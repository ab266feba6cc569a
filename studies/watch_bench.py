"""Speed and memory of watching: looking, learning, showing. Tables of `./dev bench`."""

import contextlib
import os
import sqlite3
import sys
import tempfile
import time
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))

import numpy as np
from PySide6.QtWidgets import QApplication

from film import make_project, make_shot
from pemlo.core.arrivals.arrival_snapshot import ArrivalSnapshot, arrival_snapshot
from pemlo.core.arrivals.folder_scanner import FolderScanner, ScanResult
from pemlo.core.arrivals.live_forecast import Known, know, live_forecast
from pemlo.core.arrivals.place import place_of
from pemlo.core.arrivals.scan import scan
from pemlo.core.arrivals.store import Store
from pemlo.core.arrivals.store_rows import FrameRow
from pemlo.core.forecast.completed_frames import machine_records
from pemlo.core.forecast.updated_posterior import learn
from pemlo.core.project.machines import Machine
from pemlo.core.project.project import Project
from pemlo.core.project.settings import FrameSettings
from pemlo.core.project.trials import Trial
from pemlo.demo import demo_project
from pemlo.gui.watch import presenter
from pemlo.gui.watch.frames_view import FramesView
from timing import least_seconds
from watched import Played

FILES, SECONDS = 100_000, 100.0


def film(shots: int, frames: int) -> Project:
    made = make_project(tuple(make_shot(f"{k:03d}", frames) for k in range(shots)))
    asked = FrameSettings.model_validate(made.shots[0].asked.frame_fields())
    trials = tuple(
        Trial(shot=shot.name, frame=frames // 2, seconds=SECONDS, **asked.frame_fields()) for shot in made.shots[:5]
    )
    return made.replace(trials=trials, machines=tuple(Machine(name=f"m{k}", count=4) for k in range(5)))


def half_in(project: Project) -> ArrivalSnapshot:
    """Half of a film's frames, as if they had come from twenty slots."""
    dice = np.random.default_rng(0)
    start, number, rows = project.start.timestamp(), 0, {}
    settings = FrameSettings.model_validate(project.shots[0].asked.frame_fields()).model_dump_json()
    most = sum(shot.frame_count for shot in project.shots) // 2
    for shot in project.shots:
        mine = []
        for frame in range(shot.first, shot.last + 1):
            if number == most:
                break
            at = start + number * SECONDS / 20
            mine.append(
                FrameRow(f"/r/{shot.name}/{frame}.exr", shot.name, frame, "", "", 10**6, at, at, source="header",
                         seconds=SECONDS * float(np.exp(0.04 * dice.standard_normal())), machine=f"m{number % 5}",
                         settings=settings, brightness=0.4, noise=0.1, digest=f"{number:x}")
            )  # fmt: skip
            number += 1
        rows[shot.name] = tuple(mine)
    return arrival_snapshot(
        project, ScanResult(rows, frozenset(), 0, (), {}, (), changed=True), number * SECONDS / 20 + 1
    )


def knows(project: Project) -> Known:
    found = know(project)
    assert found is not None
    return found


def scans() -> None:
    with tempfile.TemporaryDirectory() as folder:
        home = Path(folder) / "r" / "070"
        home.mkdir(parents=True)
        for frame in range(FILES):
            (home / f"070.{frame:06d}.exr").touch()
        plain = least_seconds(lambda: [entry.stat() for entry in os.scandir(home)])
        own = least_seconds(lambda: scan(place_of("r/{shot}/{shot}.{frame:06}.exr"), Path(folder)))
        print(f"\n| a folder of {FILES:,} files | seconds | against os.scandir with stat |".replace(",", " "))
        print("|---|---|---|")
        print(f"| looked through | {own:.2f} | {own / plain:.1f} times |")
        again, more = _looked_again(Path(folder), home)
        print(f"| looked through again, nothing new | {again:.2f} | {again / plain:.1f} times |")
        print(f"| looked through again, 100 new | {more:.2f} | {more / plain:.1f} times |")
        with Store(Path(folder) / "a.sqlite") as store:
            rows = [FrameRow(str(home / f"{k}"), "070", k, "", "", 1, 1.0, 1.0) for k in range(FILES)]
            put, read = least_seconds(lambda: store.put(rows), 1), least_seconds(lambda: list(store.frames()), 1)
        size = (Path(folder) / "a.sqlite").stat().st_size / FILES
        print(f"| kept beside the project, and read again | {put:.2f} and {read:.2f} | {size:.0f} bytes a frame |")


def large_store() -> None:
    """A store of a million frames of a thousand shots on 125 machines, against all of its rows as SQLite gives them."""
    settings = FrameSettings(samples=256).model_dump_json()
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "large.sqlite"
        with Store(path) as store:
            for shot in range(1000):
                store.put(
                    FrameRow(f"/r/{shot:04d}/{shot:04d}.{k:04d}.exr", f"{shot:04d}", k, "", "", 10**6 + k, 1.7e9 + k,
                             1.7e9 + k, source="header", seconds=100.0 + k, machine=f"m{k % 125}", settings=settings,
                             brightness=0.4, noise=0.1, digest=f"{1000 * shot + k:032x}", memory_gib=3.5)
                    for k in range(1000)
                )  # fmt: skip

        def plain() -> None:
            with contextlib.closing(sqlite3.connect(path)) as made:
                made.execute("SELECT * FROM frames").fetchall()

        def own() -> None:
            with Store(path) as store:
                store.frames()

        whole, taken, size = least_seconds(plain, 2), least_seconds(own, 2), path.stat().st_size
    print("\n| a store of 1 000 000 frames | seconds | against its rows from SQLite |")
    print("|---|---|---|")
    print(f"| opened, every row checked | {taken:.1f} | {taken / whole:.1f} times |")
    print(f"| of {size / 1e6:.0f} MB | | |")


def _looked_again(folder: Path, home: Path) -> tuple[float, float]:
    """Return the seconds of a look that finds nothing new, and of one that finds a hundred frames, all known before."""
    old = time.time() - 1000
    rows = []
    for path in home.iterdir():
        os.utime(path, (old, old))
        seen = path.stat()
        frame = int(path.name.split(".")[1])
        rows.append(FrameRow(str(path), "070", frame, "", "", seen.st_size, seen.st_mtime, seen.st_mtime))
    os.utime(home, (old, old))
    with Store(folder / "looks.sqlite") as store:
        store.put(rows)
    project = make_project((make_shot("070", FILES),))
    project = project.replace(watching=project.watching.replace(place="r/{shot}/{shot}.{frame:06}.exr"))
    with Store(folder / "looks.sqlite") as store:
        scanner = FolderScanner(folder, store)
        scanner.look(project, time.time())
        again = least_seconds(lambda: scanner.look(project, time.time()), 3)
        for frame in range(100):
            (home / f"070.{frame + FILES:06d}.exr").write_bytes(b"not a picture")
        more = least_seconds(lambda: scanner.look(project, time.time()), 1)
    return again, more


def way_to_the_screen() -> None:
    with tempfile.TemporaryDirectory() as folder:
        run = Played(demo_project(), Path(folder), seed=3)
        view = FramesView()
        view.resize(760, 230)
        at = run.at_share(0.5)
        run.seen(at)
        known = run.known

        def one_more() -> None:
            nonlocal at
            at = run.run.coming[run._next].at + 1.0  # noqa: SLF001 - the next frame that comes
            view.show_rows(presenter.mark_rows(run.seen(at)))
            view.grab()

        first = run.scanner
        plain = least_seconds(lambda: first.look(run.project, run.project.start.timestamp() + at), 3)
        taken = least_seconds(one_more, 6)
        assert known is not None
        print("\n| the demo at half, one frame more | milliseconds | against a look alone |")
        print("|---|---|---|")
        print(f"| folders are looked through, nothing new | {1000 * plain:.0f} | 1 |")
        print(f"| from its file to its mark: checked, learned from, run, shown | {1000 * taken:.0f} | "
              f"{taken / plain:.0f} times |")  # fmt: skip


def learning() -> None:
    print("\n| learning from frames that are in | milliseconds | against twenty a shot |")
    print("|---|---|---|")
    few = 0.0
    for frames in (40, 1000):
        project = film(10, frames)
        snapshot, known = half_in(project), knows(project)
        records = machine_records(project, snapshot.frames, 0.0)
        taken = least_seconds(lambda: learn(project, known.fit, known.draws, snapshot.frames, records))  # noqa: B023 - called at once
        few = few or taken
        print(
            f"| {len(snapshot.frames):,} frames of 10 shots | {1000 * taken:.0f} | {taken / few:.1f} times |".replace(
                ",", " "
            )
        )


def showing() -> None:
    print("\n| marks of a film, half of them in | order | draw | one frame more | repaint | MiB of the picture |")
    print("|---|---|---|---|---|---|")
    for shots, frames in ((10, 100), (100, 1000)):
        project = film(shots, frames)
        found = live_forecast(half_in(project), knows(project))
        view = FramesView()
        view.resize(900, 600)
        rows = presenter.mark_rows(found)
        order = least_seconds(lambda: presenter.mark_rows(found))  # noqa: B023 - called at once

        def drawn() -> None:
            view._drawn = None  # noqa: SLF001, B023 - as if it were the first time
            view.show_rows(rows)  # noqa: B023

        whole, paint = least_seconds(drawn), least_seconds(view.grab)
        again = least_seconds(lambda: view.show_rows(rows))  # noqa: B023
        mib = view._image.sizeInBytes() / 2**20 if view._image is not None else 0.0  # noqa: SLF001
        times = " | ".join(f"{1000 * one:.1f} ms" for one in (order, whole, again, paint))
        print(f"| {shots * frames:,} frames | {times} | {mib:.1f} |".replace(",", " "), flush=True)


def main() -> None:
    app = QApplication([])
    scans()
    large_store()
    way_to_the_screen()
    learning()
    showing()
    del app


if __name__ == "__main__":
    main()
    sys.stdout.flush()
    os._exit(0)  # nothing is left to be put away, and the library of pictures takes long over it
