"""Write the pictures of docs/screenshots from the demo project.

./dev shots [folder] [width height]    ends with 1 and says what went wrong if there was any trouble or bug on the way
"""

import base64
import os
import re
import sys
import tempfile
from datetime import UTC, datetime, timedelta, tzinfo
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["PEMLO_STATE_FOLDER"] = tempfile.mkdtemp()
os.environ["XDG_CONFIG_HOME"] = tempfile.mkdtemp()

import numpy as np
from PySide6.QtCore import QEventLoop, QTimer
from PySide6.QtWidgets import QApplication

from pemlo.app import watcher
from pemlo.app.document import Document
from pemlo.app.error_centre import ErrorCentre
from pemlo.app.preferences import Preferences
from pemlo.core.film.film import Film
from pemlo.core.persistence.document import read_project, write_project
from pemlo.core.preflight.check_context import plan_row
from pemlo.core.preflight.pictures import DENOISER_LAYERS
from pemlo.core.project.edits import set_trial
from pemlo.core.project.project import Project
from pemlo.core.project.render_ways import RenderWay
from pemlo.core.trialrun import allowed
from pemlo.core.trialrun.small_renderer import small_renderer
from pemlo.demo import DEMO_FILE, demo_project
from pemlo.gui import project_files
from pemlo.gui.brief import start_page
from pemlo.gui.judge.viewer.placement import Mode
from pemlo.gui.main_window import MainWindow, make_window
from pemlo.gui.project_files import empty_project
from pemlo.gui.stages import BRIEF, HAND_OVER, JUDGE, RUN_SHEET, TRADE, TRIALS, WATCH
from pemlo.handover.case_facts import case_facts
from pemlo.handover.pages import case_page
from pemlo_simulators.farm.pictures import FilmPictures
from watched import Played

WRONG: list[str] = []  # every error that was told on the way
SOME_SAMPLES = 64
ENOUGH = 7  # trials that are done
PLAYED_PERCENT = 25  # of the frames in a row that the demo has
FOLDER = Path(__file__).parents[1] / "docs/screenshots"


class Monday(datetime):
    """A clock that stands: pictures of a film that begins now are the same whenever they are made."""

    @classmethod
    def now(cls, tz: tzinfo | None = None) -> "Monday":
        return cls(2031, 4, 21, 10, tzinfo=tz)


def watched() -> ErrorCentre:
    """Return a centre of errors that remembers all of them."""
    centre = ErrorCentre()
    centre.install()
    centre.bug.connect(WRONG.append)
    centre.trouble.connect(lambda message, hint: WRONG.append(f"{message} {hint}"))
    return centre


def wait(window: MainWindow) -> None:
    """Let the background work end, the hand rest, and everything be painted."""
    loop = QEventLoop()
    timer = QTimer()
    timer.timeout.connect(lambda: loop.quit() if rests(window) else None)
    timer.start(50)
    loop.exec()
    QApplication.processEvents()


def rests(window: MainWindow) -> bool:
    """Whether nothing is on its way."""
    said = window.stack.currentIndex() != TRADE or not window.trade.bargains.waits_for_rest
    still = said and not window.jobs.running.keys() - {watcher.WATCH} and window.state.rests
    return still and not window.dressing


def shoot_judge(window: MainWindow, folder: Path) -> None:
    """Write the other ways of looking at two pictures, in the Day theme."""
    judge = window.judge
    window.show_theme("Day")

    def keep(name: str) -> None:
        wait(window)
        window.grab().save(str(folder / f"judge-{name}.png"))

    noisy = next(
        one for one in judge.pair.among if one.trial and one.trial.samples == 32 and one.trial.denoise == "none"
    )
    judge.choosing.show_pair(noisy, None)
    wait(window)
    judge.shown.show_mode(Mode.BESIDE)
    judge.canvas.set_zoom(1.0)
    wait(window)
    judge.commands.fit()
    judge.commands.toggle_errors()
    keep("predicted")
    judge.commands.toggle_errors()
    judge.commands.next_marking()
    judge.marking.sheet.setFocus()
    keep("shots")
    for _ in range(2):
        judge.commands.next_marking()
    window.pick(("040",))
    window.show_stage(JUDGE)
    wait(window)
    run = [one for one in judge.pair.among if one.trial and one.trial.resolution_percent == PLAYED_PERCENT]
    judge.choosing.show_pair(run[0], run[2])
    wait(window)
    judge.player.measure_flicker()
    judge.shown.show_mode(Mode.BESIDE)
    judge.commands.fit()
    keep("sequence")
    window.pick(("070",))
    judge.shown.show_mode(Mode.SPLIT)


def shoot_trade(window: MainWindow, folder: Path) -> None:
    """Write the trade stage with a plan, of a shot and of the film."""
    trade = window.trade
    window.pick(("070",))
    window.show_stage(TRADE)
    wait(window)
    trade.plan_box.search.click()
    wait(window)
    trade.plan_box.take.click()
    window.show_theme("Day")
    wait(window)
    window.grab().save(str(folder / "trade-plan-day.png"))
    trade.hours.scopes["film"].click()
    wait(window)
    window.grab().save(str(folder / "trade-film-day.png"))
    trade.hours.scopes["shot"].click()
    if folder == FOLDER:
        write_case(window)
    window.document.history.undo()
    wait(window)


def write_case(window: MainWindow) -> None:
    """Write the case of the demo with its plan, for the README."""
    facts = case_facts(Film(window.document.project, DEMO_FILE.parent), Monday.now(UTC))
    (FOLDER.parent / "case.html").write_text(without_letters(case_page(facts)))


def without_letters(page: str) -> str:
    """Return a page whose pictures stand in hexadecimal: the letters of base64 spell words by chance."""

    def hexadecimal(found: re.Match[str]) -> str:
        return found[1] + "," + re.sub("(..)", r"%\1", base64.b64decode(found[2]).hex())

    return re.sub(r"(data:image/\w+);base64,([\w+/=]+)", hexadecimal, page)


def shoot_run_sheet(window: MainWindow, folder: Path) -> None:
    """Write the run sheet of the film as asked."""
    window.show_theme("Day")
    window.pick(("070",))
    window.show_stage(RUN_SHEET)
    wait(window)
    window.grab().save(str(folder / "runsheet-day.png"))


class Turned:
    """A clock that is turned by hand, in place of that on the wall."""

    def __init__(self, project: Project) -> None:
        self.project, self.at = project, 0.0

    def __call__(self) -> float:
        return self.project.start.timestamp() + self.at


def shoot_watch(folder: Path, size: tuple[int, int]) -> None:
    """Write Watch early, at half and done, and with what goes wrong; the small farm's frames are really there."""
    runs = (
        ("", ((0.06, "watch-early-day", "010"), (1.0, "watch-done-dim", "070"))),
        (
            "slow:blade@30h, lost:010/20, truncated:010/31, size:020/5, black:030/7",
            ((0.64, "watch-alarms-day", "070"),),
        ),
    )
    pictures = FilmPictures(demo_project())
    for faults, moments in runs:
        with tempfile.TemporaryDirectory() as home:
            run = Played(demo_project(), Path(home), faults=faults, seed=4, pictures=pictures)
            film = Path(home) / "tide_clock.pemlo"
            write_project(run.project, film)
            clock = Turned(run.project)
            window = make_window(Document(read_project(film), film), watched(), Preferences())
            window.watcher.wall = clock
            window.resize(*size)
            window.show()
            window.load_stages()
            wait(window)
            window.show_stage(WATCH)
            shares = np.unique([share for last, *_ in moments for share in (*np.linspace(0.02, last, 14), last)])
            names = {share: (name, shot) for share, name, shot in moments}
            for share in shares:
                clock.at = run.at_share(share)
                run.play(clock.at)
                look_on(window, clock.at)
                if share in names:
                    name, shot = names[share]
                    window.pick((shot,))
                    window.show_theme("Dim" if name.endswith("dim") else "Day")
                    window.problems.clear()
                    look_on(window, clock.at)
                    wait(window)
                    window.grab().save(str(folder / f"{name}.png"))
            window.document.history.set_clean()
            window.close()
            QApplication.processEvents()


def look_on(window: MainWindow, at: float) -> None:
    """Have the window look, until it has seen all that came."""
    loop, timer = QEventLoop(), QTimer()

    def see() -> None:
        last = window.watcher.last
        if (
            last is not None
            and abs(last.live_forecast.snapshot.now - at) < 1
            and not last.live_forecast.snapshot.look.unchecked
        ):
            loop.quit()
        else:
            window.watcher.look()

    timer.timeout.connect(see)
    timer.start(50)
    loop.exec()


def shoot_by_eye(folder: Path, size: tuple[int, int]) -> None:
    """Write the empty window, and a film of typed times and marks without any picture in Trials."""
    window = make_window(Document(empty_project()), watched(), Preferences())
    window.resize(*size)
    window.show()
    window.load_stages()
    window.show_theme("Day")
    wait(window)
    start = window.brief.start
    start.line.setText("3 shots of 100, 80 and 60 frames, 1920×1080, 256 samples, one frame 4:02, due sunday 12:00")
    wait(window)
    window.grab().save(str(folder / "start-day.png"))
    start.go.click()
    wait(window)
    window.show_stage(TRIALS)
    for samples, seconds, note in (("64", "1:10", "shadow edge soft, fine"), ("32", "0:40", "sparks on the wall")):
        typed = {"frame": "50", "samples": samples, "seconds": seconds}
        for name, field in window.trials.entry.inputs.items():
            field.setText(typed.get(name, ""))
        window.trials.entry.inputs["seconds"].returnPressed.emit()
        last = window.trials.model.rows[-1].index
        window.trials.table.pick(lambda row, last=last: row.index == last)
        window.document.edit("Note", lambda p, note=note: set_trial(p, len(p.trials) - 1, note=note))  # type: ignore[misc]
        (window.trials.mark_good if samples == "64" else window.trials.mark_bad)()
        wait(window)
    window.show_theme("Dim")
    wait(window)
    window.grab().save(str(folder / "trials-marks-dim.png"))
    window.document.history.set_clean()
    window.close()


# A renderer that somebody might have: the small one, which has no light for one of the scenes.
DRAW = """
import sys
if sys.argv[sys.argv.index("--scene") + 1] == "harbour":
    print("harbour.scn: light 3 has no map")
    sys.exit(3)
sys.argv[0] = "pemlo"
from pemlo.__main__ import main
sys.exit(main())
"""
PASTED = "draw quay.scn --frame 0012 --samples 64 --noise 0.05 --threads 8 --size 1920x1080 --out tests/quay.0012.png"


def own_way(folder: Path) -> RenderWay:
    """Return a way that runs the renderer, allowed here."""
    (folder / "draw.py").write_text(DRAW)
    small = small_renderer()
    command = f"{sys.executable} -I {folder / 'draw.py'} render {small.command.split(' render ', 1)[1]}"
    way = small.replace(name="draw", command=command, machines=({"machine": "desk"},))
    allowed.allow(way, folder)
    return way


def shoot_own_renderer(folder: Path, size: tuple[int, int]) -> None:
    """Write the page of a way, the queue at work while time is spent, and with a trial that failed."""
    home = Path(tempfile.gettempdir()) / "film"
    home.mkdir(exist_ok=True)
    demo = demo_project()
    delivery = demo.delivery.replace(width=480, height=270, deadline=demo.start + timedelta(hours=14))
    shots = tuple(shot.replace(plan=None) for shot in demo.shots)
    film = demo.replace(delivery=delivery, shots=shots, trials=(), render_ways=(own_way(home),))
    path = home / "tide_clock.pemlo"
    write_project(film, path)
    window = make_window(Document(read_project(path), path), watched(), Preferences())
    window.resize(*size)
    window.show()
    window.load_stages()
    window.show_theme("Day")
    window.show_stage(TRIALS)
    wait(window)
    renders = window.trials.renders
    renders.ways.edit()
    form = renders.ways.way_form
    form.name.setText("draw")
    form.command.setPlainText(PASTED)
    form.click_learn()
    texts = {
        "said": "threshold none = 0\ndenoise frame = --clean 1\ndenoise none =",
        "output": "frame [frame:12]: traced in [seconds:42.3 s], peak [memory:3.1 GiB]",
        "machines": "desk\nblade = reach blade --", "untouched": "final",
    }  # fmt: skip
    for name, text in texts.items():
        form.inputs[name].setPlainText(text)
    QApplication.processEvents()
    form.grab().save(str(folder / "trials-way-day.png"))
    form.reject()
    window.trial_queue.spend(film.render_ways[0], 40.0)
    loop, timer = QEventLoop(), QTimer()
    timer.timeout.connect(lambda: loop.quit() if enough(window) else None)
    timer.start(50)
    loop.exec()
    window.pick(("100",))
    QApplication.processEvents()
    window.grab().save(str(folder / "trials-queue-day.png"))
    window.trial_queue.stop()
    window.show_theme("Dim")
    wait(window)
    window.trials.queue.table.pick(lambda line: line.row.state == "failed")
    wait(window)
    window.grab().save(str(folder / "trials-failed-dim.png"))
    window.document.history.set_clean()
    window.close()


def enough(window: MainWindow) -> bool:
    """Whether the queue shows all that it can: frames that are done and under way, and others after them."""
    states = [row.state for row in window.trial_queue.rows]
    under_way = "running" in states and "planned" in states
    return not window.trial_queue.busy or (under_way and states.count("landed") >= ENOUGH)


def launched(project: Project) -> Project:
    """Return a film whose launch is typed, as planned."""
    layers = (*DENOISER_LAYERS, "motion")
    rows = tuple(
        plan_row(project, shot).replace(pattern="{shot}.{frame:04}.exr", folder=f"renders/{shot.name}", layers=layers)
        for shot in project.shots
    )
    return project.replace(launch=rows)


def with_mistakes(project: Project) -> Project:
    """Return the demo with a launch in which some things are wrong, and two lines to tick off."""
    wrong = {
        "010": {"last": 140}, "030": {"percent": 50.0}, "050": {"samples": 8}, "070": {"pattern": "{shot}.mp4"},
        "080": {"denoise": "none"}, "100": {"region": "100,100 400,300"},
    }  # fmt: skip
    film = launched(project)
    rows = tuple(row.replace(**wrong.get(row.shot, {})) for row in film.launch)
    lines = ({"words": "The light rig of 060 is the new one"}, {"words": "Caches are on the fast disk", "done": True})
    return film.replace(launch=rows, own_checks=lines)


def all_fine(project: Project) -> Project:
    """Return the demo with two days more, all shots timed and marked, and a launch as planned."""
    trials = list(project.trials)
    for name, like in (("020", "010"), ("090", "080")):
        one = next(trial for trial in trials if trial.shot == like and trial.samples >= SOME_SAMPLES)
        trials.append(one.replace(shot=name, frame=project.shot(name).first, picture="", mark="", error=None))
    marked = {
        name: next(k for k, one in enumerate(trials) if one.shot == name)
        for name in (shot.name for shot in project.shots)
    }
    for place in marked.values():
        trials[place] = trials[place].replace(mark="good enough", error=3.0)
    deadline = project.delivery.deadline + timedelta(days=2)
    lines = ({"words": "The light rig of 060 is the new one", "done": True},)
    film = project.replace(trials=tuple(trials), delivery=project.delivery.replace(deadline=deadline))
    return launched(film).replace(own_checks=lines)


def shoot_hand_over(folder: Path, size: tuple[int, int]) -> None:
    """Write Hand-over with mistakes and with all fine, and the case of the demo as one page."""
    for make, name, theme in (
        (with_mistakes, "handover-mistakes-day", "Day"), (all_fine, "handover-fine-dim", "Dim"),
    ):  # fmt: skip
        with tempfile.TemporaryDirectory() as home:
            film = Path(home) / "tide_clock.pemlo"
            made = make(demo_project())
            for row in made.launch:
                (film.parent / row.folder).mkdir(parents=True, exist_ok=True)
            write_project(made, film)
            window = make_window(Document(read_project(film), film), watched(), Preferences())
            window.resize(*size)
            window.show()
            window.load_stages()
            wait(window)
            window.show_theme(theme)
            window.pick(("070",))
            window.show_stage(HAND_OVER)
            wait(window)
            while not window.checker.rests:
                wait(window)
            window.grab().save(str(folder / f"{name}.png"))
            window.document.history.set_clean()
            window.close()
            QApplication.processEvents()


def main() -> None:
    folder = Path(sys.argv[1]) if len(sys.argv) > 1 else FOLDER
    folder.mkdir(parents=True, exist_ok=True)
    project_files.datetime = start_page.datetime = Monday  # type: ignore[attr-defined]
    app = QApplication([])
    window = make_window(Document(demo_project()), watched(), Preferences())
    window.resize(*(map(int, sys.argv[2:4]) if len(sys.argv) > 3 else (1280, 800)))
    window.show()
    window.brief.shots.setFocus()
    window.load_stages()
    wait(window)
    for theme in ("Day", "Dim"):
        window.show_theme(theme)
        for stage, name in ((BRIEF, "brief"), (TRIALS, "trials"), (JUDGE, "judge")):
            window.pick(("070",))
            window.show_stage(stage)
            wait(window)
            if theme == "Day":
                window.grab().save(str(folder / f"{name}-{theme.lower()}.png"))
    shoot_judge(window, folder)
    shoot_trade(window, folder)
    shoot_run_sheet(window, folder)
    window.document.history.set_clean()
    window.close()
    shoot_by_eye(folder, (window.width(), window.height()))
    shoot_own_renderer(folder, (window.width(), window.height()))
    shoot_watch(folder, (window.width(), window.height()))
    shoot_hand_over(folder, (window.width(), window.height()))
    app.quit()
    for one in WRONG:
        print(one, file=sys.stderr)
    sys.exit(1 if WRONG else 0)


if __name__ == "__main__":
    main()
