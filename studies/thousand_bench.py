"""How the cost of a film grows with it: each part at 10, 100, 1 000 and 3 000 shots, and the law of its growth.

./dev thousand [shots …]     (half an hour; the last tables of docs/method/benchmarks.md)

The films are those of `thousand.py`: machines, trials and frames grow with the shots. The law is the power of the shots
with which the seconds grow from the last but one film to the last; 1.0 is in proportion, and n log n reads 1.1.
"""

import math
import os
import resource
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from pemlo.core.film import choices, values
from pemlo.core.film.film import Film
from pemlo.core.forecast.queue import queue_of
from pemlo.core.forecast.run_effect import exact_draws
from pemlo.core.persistence.document import read_project, write_project
from pemlo.core.trade.lever_edits import set_lever
from pemlo.core.trade.planning import plan_film
from thousand import thousand

SHOTS = (10, 100, 1000, 3000)
COMMANDS = (("estimate",), ("finish",), ("plan", "--goal", "hours"))
OVERHEAD_S = 0.05  # below it a time says nothing of growth
WINDOW = """
import sys, time
began = time.perf_counter()
from pathlib import Path
from PySide6.QtWidgets import QApplication, QScrollBar
from pemlo.app.document import Document
from pemlo.app.error_centre import ErrorCentre
from pemlo.app.preferences import Preferences
from pemlo.core.persistence.document import read_project
from pemlo.gui.main_window import make_window
app = QApplication([])
path = Path(sys.argv[1])
window = make_window(Document(read_project(path), path), ErrorCentre(), Preferences())
window.resize(1280, 800)
window.show()
app.processEvents()
painted = time.perf_counter() - began
window.load_stages()
def until(known):
    began, last, gap = time.perf_counter(), time.perf_counter(), 0.0
    while not known():
        app.processEvents()
        now = time.perf_counter()
        gap, last = max(gap, now - last), now
        time.sleep(0.001)
    return time.perf_counter() - began, gap
first, _ = until(lambda: window.state.answer is not None)
verdict, _ = until(lambda: window.state.current)
until(lambda: not window.jobs.running)
shown, scrolled = [], []
for stage in range(7):
    start = time.perf_counter()
    window.show_stage(stage)
    app.processEvents()
    shown.append(time.perf_counter() - start)
    if stage == 3:
        trade, gap = until(lambda: not window.jobs.running)
        levers, follow = [], 0.0
        for samples in (100, 101, 102, 103, 104):
            until(lambda: not window.jobs.running and window.state.rests and not window.trade.waits)
            start = time.perf_counter()
            window.trade.edits.move("samples", samples)
            app.processEvents()
            levers.append(time.perf_counter() - start)
            follow = max(follow, until(lambda: window.state.rests and not window.trade.waits)[1])
        lever = sorted(levers)[2]
    bars = [bar for bar in window.stack.panel(stage).findChildren(QScrollBar) if bar.isVisible() and bar.maximum()]
    for bar in bars:
        for number in range(40):
            start = time.perf_counter()
            bar.setValue(bar.minimum() + 3 * number * bar.singleStep())
            app.processEvents()
            scrolled.append(time.perf_counter() - start)
memory = int(open('/proc/self/statm').read().split()[1]) * 4096 / 2**20
step = sorted(scrolled)[len(scrolled) * 19 // 20] if scrolled else 0.0
opened = painted, painted + first, painted + first + verdict
print(*opened, max(shown), trade, gap, lever, follow, step, memory, flush=True)
import os
os._exit(0)
"""


def parts(path: Path) -> dict[str, float]:
    """Return the seconds of each part of the way from a file to a plan."""
    found: dict[str, float] = {}

    def timed(name: str, act: Callable[[], object]) -> object:
        began = time.perf_counter()
        made = act()
        found[name] = time.perf_counter() - began
        return made

    project = timed("opening", lambda: read_project(path))
    timed("saving", lambda: write_project(project, path))
    film = Film(project, path.parent)
    film.hold("bench")
    timed("fit", lambda: film.fit)
    timed("draws", lambda: film.draws)
    timed("first forecast, by hours poured", lambda: film.get(values.FIRST_FORECAST, film.run_input))
    fit, draws = film.known
    which = exact_draws(project, fit, draws)
    timed("queue", lambda: queue_of(project, fit, draws, which))
    timed("run, with its queue", lambda: film.run)
    options = timed(
        "what a plan may choose of every shot",
        lambda: tuple(film.get(choices.PLAN_OPTIONS, film.held_inputs[shot.name]) for shot in project.shots),
    )
    timed("the plan itself", lambda: plan_film(project, options, "hours", (fit, draws)))
    changed = film.with_project(set_lever(project, [project.shots[0].name], "samples", 100))
    timed("a lever: the film and its inputs", lambda: changed.hold("bench"))
    timed("a lever: the quick forecast", lambda: changed.get(values.QUICK_FORECAST, changed.run_input))
    return found


def command(words: tuple[str, ...], path: Path) -> tuple[float, float]:
    """Return the seconds of a whole command, and the MiB that it took at most."""
    program = Path(sys.executable).with_name("pemlo")
    began = time.perf_counter()
    process = subprocess.Popen([program, *words, path], stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    _, _, usage = os.wait4(process.pid, 0)
    return time.perf_counter() - began, usage.ru_maxrss / 1024


def first_answer(path: Path) -> float:
    """Return the seconds until `estimate` says something: of a small film that is the end."""
    program = Path(sys.executable).with_name("pemlo")
    began = time.perf_counter()
    with subprocess.Popen([program, "estimate", path], stdout=subprocess.DEVNULL, stderr=subprocess.PIPE) as process:
        assert process.stderr is not None
        process.stderr.readline()
        took = time.perf_counter() - began
        process.kill()
    return took


def window(path: Path) -> list[float]:
    """Return what opening a film in the window takes; see `WINDOW`."""
    environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
    said = subprocess.run(
        [sys.executable, "-c", WINDOW, path], capture_output=True, text=True, check=True, env=environment
    )
    return [float(one) for one in said.stdout.split()]


def row(name: str, cells: list[str], seconds: list[float], shots: tuple[int, ...]) -> None:
    """Print a row with the law of its growth."""
    law = "–"
    if len(shots) > 1 and seconds[-2] > OVERHEAD_S:
        law = f"{math.log(seconds[-1] / seconds[-2]) / math.log(shots[-1] / shots[-2]):.2f}"
    print(f"| {name} | {' | '.join(cells)} | {law} |", flush=True)


def main(shots: tuple[int, ...]) -> None:
    """Print the tables."""
    with tempfile.TemporaryDirectory() as folder:
        paths = [Path(folder) / f"{count}.pemlo" for count in shots]
        for count, path in zip(shots, paths, strict=True):
            write_project(thousand(count), path)
        head = " | ".join(f"{count:,} shots".replace(",", " ") for count in shots)
        line = "|---" * (len(shots) + 2) + "|"
        print(f"| whole commands: seconds, MiB | {head} | power |\n{line}")
        for words in COMMANDS:
            took = [command(words, path) for path in paths]
            row(f"`{' '.join(words)}`", [f"{s:.1f}, {mib:.0f}" for s, mib in took], [s for s, _ in took], shots)
        said = [first_answer(path) for path in paths]
        row("`estimate`, first answer", [f"{one:.1f}" for one in said], said, shots)
        print(f"\n| seconds of | {head} | power |\n{line}")
        of_parts = [parts(path) for path in paths]
        for name in of_parts[0]:
            seconds = [one[name] for one in of_parts]
            row(name, [f"{one:.2f}" for one in seconds], seconds, shots)
        print(f"\n| the window, offscreen | {head} | power |\n{line}")
        shown = [window(path) for path in paths]
        names = ("first paint, with the program's start, s", "first answer, s", "verdict from every draw, s",
                 "the slowest stage comes up, s", "Trade knows every shot, s",
                 "the longest wait of the window meanwhile, s", "a lever in Trade, to its paint, s",
                 "the longest wait until the film has followed, s", "a step of scrolling, 19 of 20, s",
                 "memory, MiB")  # fmt: skip
        for number, name in enumerate(names):
            seconds = [one[number] for one in shown]
            row(name, [f"{one:.0f}" if name.endswith("MiB") else f"{one:.3g}" for one in seconds], seconds, shots)
    print(f"\nThe bench itself took {resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024:.0f} MiB.")


if __name__ == "__main__":
    main(tuple(int(one) for one in sys.argv[1:]) or SHOTS)
