"""Walk at random through the window for an hour: nothing may break, and no step may hold the window.

./dev walks [minutes] [seed]    so many minutes (60 unless told) of random actions in a window on a small film with
                                pictures, none of which waits for what the one before began

What went wrong, warnings of Qt, and steps of over 200 ms of the window's own processor time are printed. A crash is
printed with every thread's lines.
"""

import faulthandler
import os
import random
import sys
import tempfile
import time
import traceback
from pathlib import Path

import numpy as np
from hypothesis import HealthCheck, Phase, seed, settings
from hypothesis.stateful import run_state_machine_as_test
from PySide6.QtCore import QtMsgType, qInstallMessageHandler
from PySide6.QtWidgets import QApplication

sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))

import walks
from exr import write_exr
from film import exact_trial, make_project, make_shot
from pemlo.app import film_work
from pemlo.app.document import Document
from pemlo.app.error_centre import ErrorCentre
from pemlo.app.preferences import Preferences
from pemlo.core.persistence.document import read_project, write_project
from pemlo.core.project.trials import Trial
from pemlo.gui.main_window import make_window
from photographs import gaussian, photograph

MINUTES = 60.0
STEPS = 60  # of one walk, before it is undone to its start
LONGEST_WAIT_S = 120.0


def film(folder: Path) -> Path:
    """Write a small film with pictures, and frames that came."""
    clean = photograph("astronaut", (96, 64))
    shots = tuple(make_shot(name, 48) for name in ("010", "020", "030"))
    trials = [exact_trial(shot.name, frame, samples) for shot in shots for frame, samples in ((5, 16), (40, 256))]
    for number, (frame, samples) in enumerate(((10, 4), (10, 16), (10, 256), (11, 16), (12, 16))):
        name = f"{samples}.{frame:04d}.exr"
        write_exr(folder / name, *gaussian(clean, 40 / samples**0.5, number))
        trials.append(Trial(shot="010", frame=frame, samples=samples, seconds=20 + 0.2 * samples, picture=name))
    for shot in shots:
        (folder / "r" / shot.name).mkdir(parents=True)
        for frame in range(1, 12):
            write_exr(folder / "r" / shot.name / f"{shot.name}.{frame:04d}.exr", np.asarray(clean, np.float32))
    path = folder / "film.pemlo"
    write_project(make_project(shots, tuple(trials), deadline="2031-04-21T13:00Z"), path)
    return path


def main(minutes: float = MINUTES, first_seed: int = 0) -> int:
    """Walk; return how often something went wrong."""
    faulthandler.enable()
    warnings: list[str] = []

    def hear(kind: QtMsgType, _context: object, message: str) -> None:
        if kind != QtMsgType.QtDebugMsg and "propagateSizeHints" not in message:
            warnings.append(message)
            print(f"Qt: {message}", flush=True)

    app = QApplication([])
    qInstallMessageHandler(hear)
    film_work.REST_MS = 10
    with tempfile.TemporaryDirectory() as name:
        os.environ["PEMLO_STATE_FOLDER"] = name
        path = film(Path(name))
        errors = ErrorCentre()
        bugs: list[str] = []
        errors.bug.connect(lambda *words: bugs.append(str(words)[:2000]))
        errors.install()
        window = make_window(Document(read_project(path), path), errors, Preferences())
        window.show()
        window.load_stages()
        for number in range(7):  # what is heavy is loaded once, and is not a step of a walk
            window.show_stage(number)
            app.processEvents()
        beat = walks.Heartbeat()
        wrong = _walk(app, window, beat, time.monotonic() + 60 * minutes, first_seed)
        beat.stop()
        print(f"{beat.turns} turns, the longest {1000 * beat.longest:.0f} ms of processor time")
        for doing, longest in beat.over.most_common(20):
            print(f"over 200 ms: {doing}: {longest} ms")
        for words in bugs:
            print(f"bug: {words}")
        window.document.history.set_clean()
        window.close()
        app.processEvents()
    return wrong + len(bugs) + len(warnings) + len(beat.over)


def _walk(app: QApplication, window: object, beat: walks.Heartbeat, until: float, number: int) -> int:
    def settle() -> None:
        begun = time.monotonic()
        walks.ask_again(window)
        while window.jobs.running.keys() - {"watch"} or not window.state.rests or window.dressing:
            app.processEvents()
            time.sleep(0.002)
            assert time.monotonic() - begun < LONGEST_WAIT_S, f"never rests: {window.jobs.running}"

    actions = 0
    wrong = 0

    class Timed(walks.Walk):
        pass

    Timed.window, Timed.settle, Timed.beat = window, staticmethod(settle), beat
    begun = time.monotonic()
    while time.monotonic() < until:
        number += 1
        machine = seed(random.Random(number).randrange(2**60))(Timed)  # noqa: S311 - no secret
        try:
            run_state_machine_as_test(
                machine,
                settings=settings(
                    max_examples=3, stateful_step_count=STEPS, deadline=None, database=None, phases=[Phase.generate],
                    suppress_health_check=list(HealthCheck),
                ),
            )  # fmt: skip
        except Exception as error:  # noqa: BLE001 - this is what is looked for
            wrong += 1
            where = "".join(traceback.format_tb(error.__traceback__))[-1500:]
            print(f"walk {number}: {error!r:.600}\n{where}", flush=True)
        if not walks.on_its_thread(window):
            wrong += 1
            print(f"walk {number}: something lives on another thread")
        actions = beat.actions
        print(f"{(time.monotonic() - begun) / 60:.1f} min, {actions} actions, {wrong} went wrong", flush=True)
    return wrong


if __name__ == "__main__":
    arguments = [float(sys.argv[1]) if len(sys.argv) > 1 else MINUTES, *map(int, sys.argv[2:3])]
    sys.exit(main(*arguments) > 0)
