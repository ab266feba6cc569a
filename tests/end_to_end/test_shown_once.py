"""One step of a lever shows each panel once for each thing that becomes known, and paints no more of the window."""

from collections import Counter

import pytest
from PySide6.QtCore import QEvent, QObject
from PySide6.QtWidgets import QApplication

from film import exact_trial, make_project, make_shot
from pemlo.core.project.edits import set_shot
from pemlo.gui.stages import RUN_SHEET, TRADE, TRIALS
from window import open_window, settle

# What becomes known of a step: that it is older, a quick forecast, one of every run; and what a run leads to.
MOST_PAINTS = {TRADE: 8, RUN_SHEET: 14}  # five and nine on a quiet machine


class Paints(QObject):
    """Counts how often a window is painted, and how often methods are called."""

    def __init__(self, window):
        super().__init__()
        self.shown = window.centralWidget().widget()  # all that is in the window
        self.paints, self.calls = 0, Counter()
        QApplication.instance().installEventFilter(self)

    def eventFilter(self, what, event):
        self.paints += what is self.shown and event.type() == QEvent.Type.Paint
        return False

    def count(self, where, name):
        call = getattr(where, name)

        def counted(*given, **named):
            self.calls[name] += 1
            return call(*given, **named)

        setattr(where, name, counted)


@pytest.fixture
def window(qtbot):
    shots = tuple(make_shot(f"{number:03d}", 40, samples=256) for number in range(10, 70, 10))
    trials = tuple(exact_trial(shot.name, frame, n) for shot in shots for frame, n in ((5, 16), (30, 256)))
    return open_window(qtbot, make_project(shots, trials))


def step(qtbot, window, stage, samples):
    window.show_stage(stage)
    settle(qtbot, window)
    for _ in range(10):
        QApplication.processEvents()
    paints = Paints(window)
    paints.count(window.trade, "_refresh")
    shot = window.document.project.shots[0]
    planned = shot.settings.replace(samples=samples)
    window.document.edit("Move", lambda project: set_shot(project, shot.name, plan=planned))
    settle(qtbot, window)
    for _ in range(10):
        QApplication.processEvents()
    QApplication.instance().removeEventFilter(paints)
    return paints


def test_a_step_of_a_lever_shows_trade_once_and_paints_little(qtbot, window):
    step(qtbot, window, TRADE, 200)
    paints = step(qtbot, window, TRADE, 180)
    assert paints.calls["_refresh"] == 1
    assert 1 <= paints.paints <= MOST_PAINTS[TRADE]


def test_a_step_of_a_lever_paints_little_of_the_run_sheet(qtbot, window):
    step(qtbot, window, RUN_SHEET, 200)
    paints = step(qtbot, window, RUN_SHEET, 180)
    assert paints.calls["_refresh"] == 0, "nobody looks at Trade"
    assert 1 <= paints.paints <= MOST_PAINTS[RUN_SHEET]


def test_a_note_asks_for_nothing_and_an_undo_is_known_at_once(qtbot, window):
    window.show_stage(TRADE)
    settle(qtbot, window)
    fit, forecast = window.state.answer.fit, window.state.answer.forecast
    options = window.trade.planner.options_of("010")
    trial = window.document.project.trials[0]
    window.show_stage(TRIALS)
    window.document.edit("Note", lambda p: p.replace(trials=(trial.replace(note="soft"), *p.trials[1:])))
    assert window.state.current
    assert window.state.answer.project is window.document.project
    assert (window.state.answer.fit, window.state.answer.forecast) == (fit, forecast)
    assert not window.jobs.running
    window.show_stage(TRADE)
    assert window.trade.planner.options_of("010") is options
    shot = window.document.project.shots[0]
    window.document.edit("Ask", lambda p: set_shot(p, "010", asked=shot.asked.replace(samples=99)))
    assert not window.state.current
    window.document.history.undo()
    assert window.state.current
    assert window.state.answer.forecast is forecast
    settle(qtbot, window)


def test_the_line_at_the_bottom_names_what_can_be_undone_now(qtbot, window):
    shot = window.document.project.shots[0]
    for name, samples in (("First", 99), ("Second", 98)):
        planned = shot.asked.replace(samples=samples)
        window.document.edit(name, lambda p, planned=planned: set_shot(p, "010", plan=planned))
        settle(qtbot, window)
        assert window.background._words.text().endswith(f"Undo: {name}")
    window.document.history.undo()  # known at once
    assert window.background._words.text().endswith("Undo: First")
    window.document.history.undo()
    assert "Undo" not in window.background._words.text()
    settle(qtbot, window)


def test_curves_are_drawn_anew_only_for_what_they_show(qtbot, window, monkeypatch):
    from pemlo.gui.trials import plots

    window.load_stages()
    window.show_stage(TRIALS)
    settle(qtbot, window)
    drawn, draw = [], plots.draw_ladder
    monkeypatch.setattr(plots, "draw_ladder", lambda *shown: drawn.append(shown) or draw(*shown))
    trial = window.document.project.trials[0]
    words = window.trials.curves.ladder_heading._beside.text()

    def change(**fields):
        window.document.edit("Trial", lambda p: p.replace(trials=(trial.replace(**fields), *p.trials[1:])))
        settle(qtbot, window)
        return len(drawn)

    assert change(note="soft") == 0
    assert window.trials.curves.ladder_heading._beside.text() == words, "what it says stays"
    assert change(noise=0.02) == 1
    assert change(noise=0.02, seconds=2 * trial.seconds) > 1
