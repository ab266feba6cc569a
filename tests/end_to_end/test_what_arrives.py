"""What others wrote, in the real window: shots that are gone, pictures that are not there, a disk that is slow."""

import os
import threading
import time

import pytest
from PySide6.QtCore import Qt, QThread
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QApplication, QFileDialog

from film import make_project, make_shot
from limits import limited
from pemlo.core.files import text_lines
from pemlo.core.project.edits import remove_shots, set_delivery
from pemlo.core.project.trials import Trial
from pemlo.gui.judge.comparison_picture import whole_pictures
from pemlo.gui.judge.viewer.painting import Sizes
from pemlo.gui.stages import TRIALS, WATCH
from pemlo.gui.watch.farm_form import FarmWanted
from watching_window import Watched
from window import open_window, run_action, settle, without_advice


@pytest.fixture(autouse=True)
def _quick(monkeypatch):
    without_advice(monkeypatch)


def test_a_shot_that_is_gone_can_be_clicked_until_the_next_look(qtbot, monkeypatch, tmp_path):
    made = Watched(qtbot, monkeypatch, tmp_path, "black:020/5")
    made.go_to(made.played.at_share(0.6))
    window, panel = made.window, made.panel
    alarm = next(one for one in made.found.alarms if one.shot == "020")
    panel.frames.show_alarm(alarm)
    assert window.picked == ("020",)
    watcher_looks = window.watcher.look
    monkeypatch.setattr(window.watcher, "look", lambda: None)
    window.document.edit("Remove shot", lambda project: remove_shots(project, ["020"]))
    for act in (
        lambda: panel.frames.show_alarm(alarm),
        lambda: panel.frames._on_frame("020", 3),
        lambda: panel.frames.view.frame_picked.emit("020", 3),
        lambda: panel.side.numbers.picked.emit(list(panel.side.model.rows[1:2])),
        panel.frames.copy,
        panel.frames.play,
        lambda: panel._again("020", (3,)),
    ):
        act()
        assert "020" not in window.picked
    monkeypatch.setattr(window.watcher, "look", watcher_looks)
    qtbot.waitUntil(lambda: made.found is not None, timeout=30_000)
    assert [shot.shot for shot in made.found.shots] == ["010", "030"]
    assert window.picked in (("010",), ("030",))
    for number in range(len(window.rail.buttons)):
        window.show_stage(number)
    window.document.history.undo()
    qtbot.waitUntil(lambda: made.found is not None and len(made.found.shots) == 3, timeout=30_000)


def test_a_comparison_is_off_while_no_picture_is_shown_and_says_why(qtbot, monkeypatch):
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: pytest.fail("a file is asked for"))
    trials = (Trial(shot="010", frame=1, samples=64, seconds=1, picture="gone.png"),)
    window = open_window(qtbot, make_project((make_shot("010", 8),), trials))
    for stage in ("brief", "judge"):
        run_action(window, stage)
        settle(qtbot, window)
        window.menus.menus["Project"].aboutToShow.emit()
        shown = {action.name: made for made, action in window.menus.shown}
        for name in ("out comparison", "out whole comparison"):
            assert not shown[name].isEnabled()
            assert "Choose two pictures in Judge first" in shown[name].toolTip()
            run_action(window, name)  # as by a shortcut
            assert "No pictures are shown" in window.problems.words
    # A picture on one side alone is written, and the side without one is left out.
    canvas = window.judge.canvas
    image = QImage(8, 8, QImage.Format.Format_RGB32)
    image.fill(Qt.GlobalColor.white)
    canvas.show_pictures({"right": Sizes((image,))})
    canvas.placement.names = {"difference"}
    assert not whole_pictures(canvas).isNull()


def test_the_small_farm_is_followed_without_the_window_waiting_for_the_disk(qtbot, monkeypatch, tmp_path):
    """Saving takes two seconds on a slow disk: an edit while the small farm runs does not wait for it."""
    window = open_window(
        qtbot, make_project((make_shot("010", 8),), (Trial(shot="010", frame=1, samples=64, seconds=100),))
    )
    run_action(window, "watch")
    farm = window.farm
    window.watch.sources.begin_farm(FarmWanted(tmp_path / "farm", 10.0, "", 0))
    qtbot.waitUntil(lambda: farm._process is not None, timeout=20_000)
    synced = os.fsync
    where, written = [], threading.Event()

    def slow(number):
        where.append(QThread.currentThread() is QApplication.instance().thread())
        time.sleep(0.5)
        synced(number)
        written.set()

    monkeypatch.setattr(os, "fsync", slow)
    before = time.process_time(), time.monotonic()
    window.document.edit("Set confidence", lambda project: project.replace(shots=(project.shots[0].replace(last=9),)))
    took = time.monotonic() - before[1]
    qtbot.waitUntil(written.is_set, timeout=20_000)
    qtbot.waitUntil(lambda: '"last": 9' in (tmp_path / "farm" / "film.pemlo").read_text(), timeout=20_000)
    assert where
    assert not any(where)
    assert took < 60  # it ends; that it does not wait is held by the thread that wrote
    farm.stop()
    assert not farm.running


def test_a_farm_that_cannot_begin_says_why_and_can_be_tried_again(qtbot, tmp_path):
    window = open_window(
        qtbot, make_project((make_shot("010", 8),), (Trial(shot="010", frame=1, samples=64, seconds=100),))
    )
    run_action(window, "watch")
    (tmp_path / "file").write_text("no folder")
    window.watch.sources.begin_farm(FarmWanted(tmp_path / "file", 10.0, "", 0))
    qtbot.waitUntil(lambda: bool(window.problems.words), timeout=20_000)
    assert "The small farm cannot write into file" in window.problems.words
    assert not window.farm.running
    window.watch.sources.begin_farm(FarmWanted(tmp_path / "farm", 10.0, "", 0))
    window.document.edit("Later", lambda project: set_delivery(project, confidence=0.8))  # before it has begun
    qtbot.waitUntil(lambda: window.farm._process is not None, timeout=20_000)
    assert window.document.project.watching.place.startswith(str(tmp_path / "farm"))
    window.farm.stop()


def test_a_folder_of_hostile_names_is_shown_and_ends_nothing(qtbot, tmp_path):
    home = tmp_path / "r"
    home.mkdir()
    for name in (b"a\x1b[31m.1.exr", "b\u202e.1.exr".encode(), b"c\xff.1.exr", b"<img src='x'>.1.exr", b"-rf.1.exr"):
        (tmp_path / "r" / os.fsdecode(name)).write_bytes(b"")
    window = open_window(qtbot, make_project((make_shot("010", 8),)))
    window.show_stage(WATCH)
    window.watch.edits.watch_farm(f"{home}/{{shot}}.{{frame}}.exr")
    qtbot.waitUntil(lambda: window.watch.found is not None, timeout=20_000)
    said = " ".join(alarm.words for alarm in window.watch.found.alarms)
    assert "which the brief does not have" in said
    assert "its name is not UTF-8" in said


def test_the_log_form_takes_hostile_lines(qtbot, tmp_path):
    from pemlo.gui.watch.log_form import LogForm

    path = tmp_path / "log"
    lines = [
        "frame 12 took 4:02",
        "frame 13 took 1" + "1" * 400,
        "a\x1b[2J\u2029b\u2028",
        "\U0001f600 frame 14 took 4:02",
        "x" * text_lines.LONGEST_LINE,
    ]
    path.write_text("\n".join(lines * 300) + "\n")
    window = open_window(qtbot, make_project())
    with limited(10):
        form = LogForm(window, path, "log")
        qtbot.addWidget(form)
        assert form.text.document().blockCount() == len(form._lines)
        cursor = form.text.textCursor()
        for text, field in (("12", "frame"), ("4:02", "seconds")):
            at = lines[0].index(text)
            cursor.setPosition(at)
            cursor.setPosition(at + len(text), cursor.MoveMode.KeepAnchor)
            form.text.setTextCursor(cursor)
            form.mark(field)
    assert "lines are read" in form.found.text()
    assert form.take.isEnabled()


def test_trials_that_are_pasted_while_a_table_is_read_come_after_it(qtbot, tmp_path):
    """Trials had a reader of their own: what began second stopped what began first."""
    window = open_window(qtbot, make_project(shots=(make_shot("010", first=1, last=9000),)))
    window.show_stage(TRIALS)
    settle(qtbot, window)
    window.trials.pick(("010",))
    held, got = threading.Event(), []

    def slow(text, *_):
        held.wait(10)
        return text

    (tmp_path / "first.csv").write_text("machine\n")
    window.tables.take_file(tmp_path / "first.csv", lambda: slow, got.append)
    before = len(window.document.project.trials)
    window.trials.edits.paste("010", "".join(f"{frame}\t60\n" for frame in range(1, 4001)))
    assert not got
    held.set()
    qtbot.waitUntil(lambda: len(window.document.project.trials) == before + 4000, timeout=30_000)
    assert got == ["machine\n"]


def test_a_theme_that_fails_half_way_leaves_a_window_that_paints(qtbot, monkeypatch):
    window = open_window(qtbot, make_project())

    def fails():
        raise RuntimeError("this step fails")

    monkeypatch.setattr("pemlo.gui.dressing.theme_steps", lambda *_: (lambda: None, fails))
    with qtbot.capture_exceptions() as caught:
        window.show_theme("Dim")
        assert not window.updatesEnabled()
        monkeypatch.setattr("pemlo.gui.dressing.theme_steps", lambda *_: ())
        qtbot.waitUntil(lambda: not window.dressing, timeout=5000)
    assert window.updatesEnabled()
    assert len(caught) == 1
