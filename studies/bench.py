"""Measure speed and memory, each beside a reference in the same run, as a table.

    ./dev bench

The reference is NumPy's own work on this machine, now: the median time to solve 200 systems of 64 unknowns and to draw
a million normal numbers. Ratios to it carry over to other machines; milliseconds do not.
"""

import os
import resource
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable

import numpy as np

from pemlo.core.cost.draws import draw_film
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.cost.next_trial import advise
from pemlo.core.film.film import Film
from pemlo.core.film.values import FIT, QUICK_FORECAST
from pemlo.core.persistence.document import from_text, to_text
from pemlo.core.project.delivery import Delivery
from pemlo.core.project.edits import set_delivery, set_machine
from pemlo.core.project.machines import Machine
from pemlo.core.project.project import Project
from pemlo.core.project.settings import FrameSettings, ShotSettings
from pemlo.core.project.shots import Shot
from pemlo.core.project.trials import Trial
from pemlo.core.trade.lever_edits import set_lever

BARE = """
import time
began = time.perf_counter()
from PySide6.QtWidgets import QApplication, QLabel, QMainWindow
app = QApplication([])
window = QMainWindow()
window.setCentralWidget(QLabel("bare"))
window.resize(1280, 800)
window.show()
app.processEvents()
print(1000 * (time.perf_counter() - began))
"""
WINDOW = """
import sys, time
began = time.perf_counter()
from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication
from pemlo.app.document import Document
from pemlo.app.error_centre import ErrorCentre
from pemlo.app.preferences import Preferences
from pemlo.demo import demo_project
from pemlo.gui.main_window import make_window
app = QApplication([])
window = make_window(Document(demo_project()), ErrorCentre(), Preferences())
window.show()
app.processEvents()
painted = time.perf_counter()
first = int(open('/proc/self/statm').read().split()[1]) * 4096 / 2**20
window.load_stages()
gaps, last = [], time.perf_counter()
while window.jobs.running or not window.state.current:
    app.processEvents()
    now = time.perf_counter()
    gaps.append(now - last)
    last = now
ready = time.perf_counter()
memory = int(open('/proc/self/statm').read().split()[1]) * 4096 / 2**20
print(1000 * (painted - began), 1000 * (ready - began), 1000 * max(gaps), memory, first)
window.close()
"""


def film(shots: int, frames: int, trials: int) -> Project:
    """Return a film with trials spread over its shots, and 20 machines of three kinds."""
    random = np.random.default_rng(0)
    made = tuple(
        Shot(
            name=f"{n:04d}",
            first=1,
            last=frames,
            asked=ShotSettings(samples=256)
            if n % 2
            else ShotSettings(samples=512, min_samples=16, noise_threshold=0.01, denoise="frame"),
        )
        for n in range(shots)
    )
    timed = []
    for n in range(trials):
        shot = made[n % shots]
        percent = float(random.choice([25, 50, 100]))
        settings = FrameSettings(samples=int(random.choice([16, 64, 256])), resolution_percent=percent)
        seconds = (20 + settings.samples * 0.3 * (percent / 100) ** 2) * np.exp(random.normal(0, 0.2))
        timed.append(
            Trial(shot=shot.name, frame=int(random.integers(1, frames)), seconds=seconds, **settings.frame_fields())
        )
    night = "Mon-Fri 19:00-08:00, Sat-Sun all day"
    return Project(
        title="Bench",
        start="2031-04-21T10:00Z",
        delivery=Delivery(deadline="2031-05-01T18:00Z", timezone="Europe/Lisbon"),
        shots=made,
        trials=tuple(timed),
        machines=(
            Machine(name="desk", count=14, hours=night),
            Machine(name="blade", count=5, speed=1.5, frames_at_once=2),
            Machine(name="old", count=1, speed=0.5),
        ),
    )


def median_ms(work: Callable[[], object], repeats: int) -> float:
    times = []
    for _ in range(repeats):
        began = time.perf_counter()
        work()
        times.append(time.perf_counter() - began)
    return 1000 * statistics.median(times)


def reference_ms() -> float:
    random = np.random.default_rng(0)
    matrices, right = random.standard_normal((200, 64, 64)) + 64 * np.eye(64), random.standard_normal((200, 64, 1))
    return median_ms(lambda: (np.linalg.solve(matrices, right), random.standard_normal(1_000_000)), 9)


def quick_forecast(film: Film) -> None:
    film.get(QUICK_FORECAST, film.run_input)


def what_ifs(rows: list[tuple[str, float]]) -> None:
    project = film(60, 200, 150)
    known = fit(fit_input(project))
    counter, film_now = iter(range(10_000)), Film(project)
    film_now.memo.put(FIT, film_now.fit_input, known)
    changes = {
        "a lever of one shot": lambda: set_lever(project, [project.shots[7].name], "samples", 100 + next(counter)),
        "a lever of every shot": lambda: set_lever(
            project, [s.name for s in project.shots], "samples", 100 + next(counter)
        ),
        "a machine's hours": lambda: set_machine(
            project, "desk", hours=f"Mon-Fri 19:{next(counter) % 60:02d}-08:00, Sat-Sun all day"
        ),
        "the deadline": lambda: set_delivery(project, deadline=f"2031-05-01T17:{next(counter) % 60:02d}+00:00"),
    }
    for name, change in changes.items():
        rows.append(
            (
                f"what if: {name}, 60 shots of 200 frames",
                median_ms(lambda c=change: quick_forecast(film_now.with_project(c())), 15),
            )
        )


def refits(rows: list[tuple[str, float]]) -> None:
    project = film(200, 500, 500)
    rows.append(("fit, 200 shots and 500 trials", median_ms(lambda: fit(fit_input(project)), 3)))
    known = fit(fit_input(project))
    rows.append(("draws for them", median_ms(lambda: draw_film(known, project), 3)))
    rows.append(("advice for them (in the background)", median_ms(lambda: advise(known, project), 1)))
    text = to_text(project)
    rows.append(("open and save them", median_ms(lambda: to_text(from_text(text, "bench")), 3)))


def windows() -> list[tuple[str, str]]:
    """Return how long windows take to come up, beside bare ones in the same run."""
    rows: list[tuple[float, str, str]] = []
    with tempfile.TemporaryDirectory() as folder:
        env = {**os.environ, "PYTHONPYCACHEPREFIX": f"{folder}/cache", "QT_QPA_PLATFORM": "offscreen",
               "XDG_CONFIG_HOME": folder, "PEMLO_STATE_FOLDER": folder}  # fmt: skip
        env.pop("PYTHONDONTWRITEBYTECODE", None)

        def run(code: str) -> list[float]:
            out = subprocess.run([sys.executable, "-c", code], env=env, capture_output=True, text=True, check=True)
            return list(map(float, out.stdout.split()))

        for name in ("cold (no bytecode yet)", *["warm"] * 5):
            (bare,), (painted, ready, gap, memory, first) = run(BARE), run(WINDOW)
            words = f"painted {painted:.0f} ms with {first:.0f} MiB, {painted / bare:.1f} times a bare window; "
            words += f"all ready {ready:.0f} ms, longest gap {gap:.0f} ms, {memory:.0f} MiB"
            rows.append((painted / bare, f"window up, {name}", words))
    cold, *warm = rows
    middle = sorted(warm)[len(warm) // 2]
    return [cold[1:], middle[1:]]


def main() -> None:
    reference = reference_ms()
    rows: list[tuple[str, float]] = []
    what_ifs(rows)
    refits(rows)
    print("| what | median | against the reference |")
    print("|---|---|---|")
    print(f"| reference: 200 systems of 64, and a million normals | {reference:.0f} ms | 1 |")
    for name, value in rows:
        print(f"| {name} | {value:.0f} ms | {value / reference:.2f} |")
    for name, words in windows():
        print(f"| {name} | {words} | |")
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    print(f"| memory of the core at its most, 200 shots and 500 trials | {peak:.0f} MiB | |")
    print(f"\nPython {sys.version.split()[0]}, NumPy {np.__version__}, {os.cpu_count()} processors")


if __name__ == "__main__":
    main()
