"""Speed of planning a film of 60 shots: with 500 options each, and in the window with the demo's pictures.

Tables of `./dev bench`.
"""

import os
import tempfile

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["PEMLO_STATE_FOLDER"] = tempfile.mkdtemp()
os.environ["XDG_CONFIG_HOME"] = tempfile.mkdtemp()

import statistics
import time
from collections.abc import Callable, Sequence

import numpy as np
from PySide6.QtWidgets import QApplication

from pemlo.app.document import Document
from pemlo.app.error_centre import ErrorCentre
from pemlo.app.preferences import Preferences
from pemlo.core.film.choices import OPTIONS
from pemlo.core.film.memo import bytes_of
from pemlo.core.project.project import Project
from pemlo.core.project.shots import Shot
from pemlo.core.trade.best_plan import PlanRequest, best_plan
from pemlo.core.trade.options import Options
from pemlo.core.trade.prices import steps_from
from pemlo.core.trade.savings import saving_steps, savings
from pemlo.core.trade.waterfall import ShotWaterfall, film_waterfall
from pemlo.core.units import MIB
from pemlo.demo import DEMO_FILE, demo_project
from pemlo.gui.main_window import make_window
from pemlo.gui.stages import TRADE
from plan_study import CONFIDENCE, made_up
from shots import wait

SHOTS, TIMES = 60, 5
BUDGET_STEPS = 400


def film() -> list[Options]:
    dice = np.random.default_rng(11)
    return [one for _ in range(3) for one in made_up(dice)][:SHOTS]


def timed(work: Callable[[], object], times: int = TIMES) -> float:
    """Return the median milliseconds of some runs, after one to warm up."""
    work()
    taken = []
    for _ in range(times):
        began = time.perf_counter()
        work()
        taken.append(1000 * (time.perf_counter() - began))
    return statistics.median(taken)


def plain_search(options: Sequence[Options], there: float) -> float:
    """Return the least sum of squares in the hours there are, trying every option on a grid of hours; plain Python."""
    step = there / BUDGET_STEPS
    best = [0.0] * (BUDGET_STEPS + 1)
    for shot_options in options:
        pairs = [
            (int(np.ceil(h / step)), e * e) for h, e in zip(shot_options.middle_hours, shot_options.error, strict=True)
        ]
        after = [float("inf")] * (BUDGET_STEPS + 1)
        for cost, square in pairs:
            for budget in range(cost, BUDGET_STEPS + 1):
                value = best[budget - cost] + square
                after[budget] = min(after[budget], value)
        best = after
    return best[-1]


def large_film() -> Project:
    """Return the demo film six times over, with its pictures."""
    demo, shots, trials = demo_project(), [], []
    for letter in "abcdef":
        shots += [shot.replace(name=shot.name + letter) for shot in demo.shots]
        trials += [trial.replace(shot=trial.shot + letter) for trial in demo.trials]
    return demo.replace(shots=tuple(shots), trials=tuple(trials))


def dragged_in_window() -> None:
    """Drag a lever, and the whole film along its frontier, and print what that takes."""
    app = QApplication([])
    window = make_window(Document(large_film(), DEMO_FILE), ErrorCentre(), Preferences())
    window.resize(1280, 800)
    window.show()
    window.load_stages()
    wait(window)
    began = time.perf_counter()
    window.show_stage(TRADE)
    wait(window)
    weighing = time.perf_counter() - began
    trade = window.trade
    slider, said, painted = trade.boxes["samples"].slider, [], []

    def take(move: Callable[[], None]) -> None:
        start = time.perf_counter()
        move()
        said.append(1000 * (time.perf_counter() - start))
        app.processEvents()
        painted.append(1000 * (time.perf_counter() - start))

    for _ in range(20):
        take(lambda: slider.setValue(slider.value() - 1))
    lever = statistics.median(said), statistics.median(painted)
    wait(window)
    trade.hours.scopes["film"].click()
    wait(window)
    said, painted = [], []
    middle = len(trade.film.points) // 2
    for place in range(middle - 8, middle + 8, 2):
        take(lambda place=place: trade.hours.chart.taken.emit(place))  # type: ignore[misc]
    film_drag = statistics.median(said), statistics.median(painted)
    print("\n| in the window, 60 shots with their pictures | all said | painted too |")
    print("|---|---|---|")
    print(f"| a lever is dragged by a step | {lever[0]:.0f} ms | {lever[1]:.0f} ms |")
    print(f"| the film is dragged along its frontier by a step | {film_drag[0]:.0f} ms | {film_drag[1]:.0f} ms |")
    print(f"| all shots weighed for the first time, in the background | {weighing:.0f} s | |")
    memo = window.state.memo
    held = sum(bytes_of(memo.peek(OPTIONS, one)) for one in window.state.film.options_inputs.values())
    count = sum(len(memo.peek(OPTIONS, one).settings) for one in window.state.film.options_inputs.values())
    print(f"| what they could be: {count} options | {held / MIB:.0f} MiB | |")
    window.document.history.set_clean()
    window.close()


def main() -> None:
    options = film()
    asked = float(sum(shot_options.middle_hours[0] for shot_options in options))
    wishes = [PlanRequest("picture", share * asked, CONFIDENCE) for share in (0.4, 0.6, 0.8)]
    exact = [timed(lambda wish=wish: best_plan(options, wish)) for wish in wishes]  # type: ignore[misc]
    plain = timed(lambda: plain_search(options, 0.6 * asked), 1)
    falls = [
        ShotWaterfall(shot_options.shot, ("samples", "denoise"), shot_options.hours[[0, 5, 9]])
        for shot_options in options
    ]
    dragged = timed(lambda: film_waterfall(falls))
    price = timed(lambda: steps_from(options[0], 40))
    shots = [
        Shot(name=shot_options.shot, first=1, last=100, asked=shot_options.settings[0]) for shot_options in options
    ]
    steps = [step for shot, one in zip(shots, options, strict=True) for step in saving_steps(shot, one, 40)]
    ranked = timed(lambda: savings(steps, 0.0, 5))
    print(f"\n| a film of {SHOTS} shots with {len(options[0].settings)} options each | median | against plain Python |")
    print("|---|---|---|")
    print(f"| every option on a grid of {BUDGET_STEPS} hours, plain Python, least squares only | {plain:.0f} ms | 1 |")
    for wish, taken in zip(wishes, exact, strict=True):
        share = wish.available_h / asked
        print(f"| the exact plan, {share:.0%} of the hours as asked there | {taken:.0f} ms | {taken / plain:.3f} |")
    print(f"| while a lever is dragged: the fall of the film | {dragged:.1f} ms | |")
    print(
        f"| the steps of the shot that is dragged, and which of all give most for least | {price + ranked:.1f} ms | |"
    )

    dragged_in_window()


if __name__ == "__main__":
    main()
