"""Five people with a film, each counted: what a hand does from the first click to what they came for."""

from datetime import UTC, datetime

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractButton, QApplication, QLineEdit

from film import exact_seconds, exact_trial, make_project, make_shot
from pemlo.core.project.settings import FrameSettings
from pemlo.core.project.trials import GOOD
from pemlo.core.units import format_duration
from pemlo.demo import demo_project
from pemlo.gui.project_files import empty_project
from pemlo.gui.stages import STAGES
from pemlo.gui.table.lines import Group
from pemlo_simulators.renderer.exr import Channels, write_exr
from room import cut_texts, overlaps
from window import index_of, open_window, settle, type_in_cell, type_in_field, without_advice

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier
BRIEF, TRIALS, TRADE, RUN_SHEET, WATCH = 0, 1, 3, 4, 5


class Hand:
    """Does what a hand does, and counts it: a click, a key, or a text that is typed is one act each."""

    def __init__(self, qtbot, window):
        self.qtbot, self.window = qtbot, window
        self.clicks = self.acts = 0

    def click(self, widget, where=None, held=Qt.KeyboardModifier.NoModifier):
        assert widget.isVisibleTo(self.window), f"{widget.accessibleName()} is not in view"
        self.clicks, self.acts = self.clicks + 1, self.acts + 1
        QTest.mouseClick(widget, Qt.MouseButton.LeftButton, held, where or widget.rect().center())
        settle(self.qtbot, self.window)

    def stage(self, number):
        self.click(self.window.rail.buttons[number])

    def type(self, widget, text):
        self.acts += 1
        QTest.keyClicks(widget, text)

    def key(self, widget, key, held=Qt.KeyboardModifier.NoModifier):
        self.acts += 1
        QTest.keyClick(widget, key, held)
        settle(self.qtbot, self.window)

    def paste(self, table, text):
        QGuiApplication.clipboard().setText(text)
        self.key(table, Qt.Key.Key_V, CTRL)

    def cell(self, table, line, title, held=Qt.KeyboardModifier.NoModifier):
        """Click a cell."""
        index = index_of(table, line, title)
        table.scrollTo(index)
        self.click(table.viewport(), table.visualRect(index).center(), held)

    def type_over(self, table, text):
        """Type into the cells that are picked."""
        self.acts += 1
        QTest.keyClicks(table, text[:1])
        editor = table.viewport().findChild(QLineEdit)
        QTest.keyClicks(editor, text[1:])
        QTest.keyClick(editor, Qt.Key.Key_Return)
        QApplication.processEvents()
        settle(self.qtbot, self.window)

    def fill(self, name, text):
        """Type in a field of the brief."""
        self.acts += 1
        type_in_field(self.window, name, text)
        settle(self.qtbot, self.window)


def lay_out():
    """Let layouts that depend on each other settle."""
    for _ in range(10):
        QApplication.processEvents()


def test_six_shots_due_tomorrow_get_a_decision_that_the_program_proposed(qtbot, monkeypatch):
    without_advice(monkeypatch)
    window = open_window(qtbot, empty_project())
    hand = Hand(qtbot, window)
    start = window.brief.start
    # Nine to twenty-one hours are left, whenever this is read.
    due = "tomorrow 9:00" if datetime.now(UTC).astimezone().hour >= 12 else "today 21:00"
    hand.type(start.line, f"6 shots of 120 frames, one frame 4:02, 5:10 and 3:30, 2 machines, due {due}")
    hand.click(start.go)
    # By hand: 720 frames of some 4 minutes on two machines are a day, and there is a night.
    assert window.verdict.headline.text().startswith("Likely done")
    before = window.answer.forecast.probability
    hand.stage(RUN_SHEET)
    takes = window.run_sheet.side.takes
    qtbot.waitUntil(lambda: takes.try_it.isVisibleTo(window) and takes.try_it.isEnabled(), timeout=60_000)
    assert "more; chance" in takes.words.text()
    hand.click(takes.try_it)
    hand.click(takes.keep)
    assert window.answer.forecast.probability > max(before, 0.85)
    assert not window.problems.isVisibleTo(window), window.problems.words
    assert hand.clicks <= 15


ODD = "Name\tfrom\tto\tspp\tArtist\tRes\n" + "\n".join(
    f"sq{k // 10 + 1}_{10 * (k % 10 + 1):03}\t1\t{80 + k}\t256\tmine\t1920x1080" for k in range(40)
)
SECONDS = {samples: format_duration(exact_seconds(FrameSettings(samples=samples))) for samples in (256, 64)}
TIMES = "shot\tframe\tsamples\ttime\n" + "\n".join(
    f"sq{k // 3 + 1}_{10 * (k % 3 + 1):03}\t40\t{samples}\t{SECONDS[samples]}"
    for k in range(6)
    for samples in (256, 64)
)


def test_forty_pasted_shots_are_timed_planned_held_adopted_undone_and_due_again(qtbot, monkeypatch):
    without_advice(monkeypatch)
    window = open_window(qtbot, empty_project())
    hand = Hand(qtbot, window)
    QGuiApplication.clipboard().setText(ODD)
    paste = next(one for one in window.brief.start.findChildren(QAbstractButton) if one.text() == "Paste a table")
    hand.click(paste)
    assert len(window.document.project.shots) == 40
    assert "“Artist”" in window.problems.words, "what was not used is named"
    hand.stage(TRIALS)
    hand.paste(window.trials.table, TIMES)
    assert len(window.document.project.trials) == 12
    (line,) = [k for k, row in enumerate(window.trials.model.rows) if row.trial.samples == 64]
    hand.cell(window.trials.table, line, "samples")
    links = window.trials._table_heading.findChildren(QAbstractButton)
    hand.click(next(link for link in links if link.text() == "Good enough"))
    hand.stage(BRIEF)
    hand.cell(window.brief.machines, 0, "hours")
    hand.type_over(window.brief.machines, "Mon-Fri 19:00-08:00, Sat-Sun all day")
    hand.cell(window.brief.machines, 0, "count")
    hand.type_over(window.brief.machines, "4")
    hand.stage(TRADE)
    trade = window.trade
    qtbot.waitUntil(lambda: trade.stage.isVisibleTo(window), timeout=60_000)
    hand.click(trade.boxes["most_seconds"].pin)
    assert window.document.project.shot("sq1_010").pins == ("most_seconds",)
    hand.click(trade.plan_box.cheapest)
    hand.click(trade.plan_box.take)
    assert window.document.project.shot("sq1_010").plan.samples == 64
    hand.acts += 1
    undo = next(one for one, action in window.menus.shown if action.name == "undo")
    undo.trigger()  # Ctrl+Z
    settle(qtbot, window)
    assert window.document.project.shot("sq1_010").plan is None
    hand.stage(BRIEF)
    hand.fill("deadline", "in 3 weeks")
    assert window.document.project.deadline_h == pytest.approx(21 * 24, abs=1)
    assert hand.clicks <= 25


def test_the_demo_is_walked_and_nothing_is_half_drawn(qtbot, monkeypatch):
    without_advice(monkeypatch)
    window = open_window(qtbot, demo_project())
    window.load_stages()
    settle(qtbot, window)
    hand = Hand(qtbot, window)
    for number in range(len(STAGES)):
        QTest.mouseClick(window.rail.buttons[number], Qt.MouseButton.LeftButton)
        lay_out()
        assert window.stack.currentIndex() == number
        assert cut_texts(window) + overlaps(window) == [], f"{STAGES[number].title} as it first appears"
        settle(qtbot, window)
        lay_out()
        assert cut_texts(window) + overlaps(window) == [], f"{STAGES[number].title} once all of it is known"
        likely = round(window.answer.forecast.hours.middle)
        assert f"Likely {likely} (" in window.verdict.detail.text(), "every stage stands under the same number"
    assert hand.acts == 0


def test_a_folder_that_grows_says_when_it_is_done(qtbot, tmp_path, monkeypatch):
    without_advice(monkeypatch)
    random = np.random.default_rng(7)
    (tmp_path / "010").mkdir()
    for frame in range(1, 13):
        pixels = random.random((18, 32, 3), np.float32)
        write_exr(tmp_path / f"010/010.{frame:04}.exr", Channels(("R", "G", "B"), pixels, {}))
    window = open_window(qtbot, make_project((), width=32, height=18))
    hand = Hand(qtbot, window)
    hand.acts += 2  # the folder is chosen: a button, and the question for it
    window.folder.take(tmp_path / "010")
    qtbot.waitUntil(lambda: bool(window.document.project.shots))
    settle(qtbot, window)
    monkeypatch.setattr(window.folder, "ask_last", lambda _shot: 40)
    hand.click(window.problems.acts[-1])
    assert window.document.project.shots[0].last == 40
    hand.stage(TRIALS)
    hand.type(window.trials.entry.inputs["frame"], "6")
    hand.type(window.trials.entry.inputs["seconds"], "4:02")
    hand.key(window.trials.entry.inputs["seconds"], Qt.Key.Key_Return)
    hand.stage(WATCH)

    def seen():
        live = window.watch.found
        return live is not None and live.shots and live.shots[0].done_count == 12

    qtbot.waitUntil(seen, timeout=60_000)
    live = window.watch.found
    assert len(live.snapshot.of("010").frames) == 40
    # By hand: 28 frames are left, of 4 min 02 s each: under two hours.
    left = 28 * 242 / 3600
    hours_left = live.shots[0].hours_left
    assert hours_left.low < left < hours_left.high
    assert window.verdict.headline.text().startswith("On track")
    assert hand.acts <= 20


def three_hundred():
    names = [
        f"{sequence}_{10 * k:03}" for sequence in ("quay", "lamp", "tunnel", "roof", "stairs") for k in range(1, 61)
    ]
    return make_project(shots=tuple(make_shot(name, 50 + k % 7, samples=256) for k, name in enumerate(names)))


def test_three_hundred_shots_are_found_filtered_changed_grouped_and_undone(qtbot, monkeypatch):
    without_advice(monkeypatch)
    window = open_window(qtbot, three_hundred())
    hand, table = Hand(qtbot, window), window.brief.shots
    find = next(one for one, action in window.menus.shown if action.name == "filter")
    hand.acts += 1
    find.trigger()  # Ctrl+F
    assert window.brief.filter.hasFocus() or window.brief.filter.isVisible()
    hand.type(window.brief.filter, "tunnel")
    assert len(table.table.shown_rows) == 60
    hand.cell(table, 0, "samples")
    hand.cell(table, 39, "samples", SHIFT)
    hand.type_over(table, "64")
    project = window.document.project
    assert sum(shot.asked.samples == 64 for shot in project.shots) == 40
    assert all(shot.name.startswith("tunnel") for shot in project.shots if shot.asked.samples == 64)
    hand.key(window.brief.filter, Qt.Key.Key_Escape)
    assert len(table.table.shown_rows) == 300
    hand.acts += 1
    window.document.history.undo()
    assert all(shot.asked.samples == 256 for shot in window.document.project.shots)
    hand.acts += 1
    window.brief.groups.setCurrentIndex(1)
    window.brief.groups.activated.emit(1)
    table.arranging.fold_all()
    assert [line.name for line in table.table.lines if isinstance(line, Group)] == [
        *("quay", "lamp", "tunnel", "roof", "stairs"),
    ]
    assert table.table.rowCount() == 5
    assert [words for _, _, words in window.strip._above] == ["quay", "lamp", "tunnel", "roof", "stairs"]
    type_in_cell(qtbot, table, 3, "denoise", "frame")
    assert sum(shot.asked.denoise == "frame" for shot in window.document.project.shots) == 60
    where = QPoint(
        table.visualRect(index_of(table, 0, "shot")).left() + 8,
        table.visualRect(index_of(table, 0, "shot")).center().y(),
    )
    hand.click(table.viewport(), where)
    assert table.table.rowCount() == 65
    assert hand.acts <= 25


@pytest.mark.nightly
def test_three_hundred_shots_are_planned(qtbot, monkeypatch):
    """Half a minute on two cores, and so at night."""
    without_advice(monkeypatch)
    film = three_hundred()
    good = exact_trial("quay_010", 20, 64, mark=GOOD, mark_for="look")
    window = open_window(qtbot, film.replace(trials=(exact_trial("quay_010", 20, 256), good)))
    hand = Hand(qtbot, window)
    hand.stage(TRADE)
    qtbot.waitUntil(lambda: window.trade.stage.isVisibleTo(window), timeout=120_000)
    hand.click(window.trade.plan_box.cheapest)
    qtbot.waitUntil(lambda: window.trade.plan_box.take.isVisibleTo(window), timeout=120_000)
    hand.click(window.trade.plan_box.take)
    assert window.document.project.shot("quay_010").plan.samples == 64
    assert hand.clicks == 3


def test_tab_reads_trade_from_what_to_do_to_the_levers(qtbot, monkeypatch):
    without_advice(monkeypatch)
    window = open_window(qtbot, demo_project())
    window.show_stage(TRADE)
    settle(qtbot, window)
    trade = window.trade
    order = [trade.plan_box.search]
    while len(order) < 2000 and order[-1] is not trade.boxes["samples"].slider:
        order.append(order[-1].nextInFocusChain())
    places = [order.index(one) for one in (trade.plan_box.search, trade.plan_box.cheapest, trade.hours.chart)]
    assert places == sorted(places)
    assert trade.shares.accessibleDescription().startswith("010: 11.2 machine-hours, error ")  # retakes counted
    assert order[-1] is trade.boxes["samples"].slider
