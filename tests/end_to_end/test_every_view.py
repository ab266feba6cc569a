"""Every view of the demo, in both themes: none ends in an exception, says that something is wrong, or stays empty.

One window is walked from end to end, so that the film is weighed once.
"""

import builtins
import os
import threading
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtWidgets import QApplication, QComboBox, QDialog

from pemlo.core.files.small import read_for_display
from pemlo.demo import DEMO_FILE, demo_project
from pemlo.gui.handover.outputs_box import GROUPS
from pemlo.gui.handover.preview import PreviewDialog
from pemlo.gui.judge.viewer.overlays import MAPS
from pemlo.gui.judge.viewer.picture_row import ERRORS, LADDER, PICTURES
from pemlo.gui.judge.viewer.placement import Mode
from pemlo.gui.stages import BRIEF, HAND_OVER, JUDGE, RUN_SHEET, STAGES, TRADE, TRIALS
from pemlo.gui.trade.trial_card import TrialCard
from window import pick_lines, run_action, settle, shared_window

SHOTS = [shot.name for shot in demo_project().shots]
PICTURED = {trial.shot for trial in demo_project().trials if trial.picture}
THEMES = ("Day", "Dim")


def in_themes(shots):
    """Return each shot with a theme, the first with both: a theme paints all shots alike."""
    return [(shots[0], "Dim"), *((shot, "Day") for shot in shots)]


@pytest.fixture(scope="module")
def wrong():
    """Return a list to which every bug and all trouble goes."""
    return []


@pytest.fixture(scope="module")
def window(qapp, wrong, tmp_path_factory):
    with shared_window(tmp_path_factory.mktemp("walk"), demo_project()) as made, pytest.MonkeyPatch.context() as patch:
        tell_of_looks_at_the_disk(patch, wrong)
        made.errors.bug.disconnect()
        made.errors.bug.connect(wrong.append)
        made.errors.trouble.connect(lambda message, hint: wrong.append(f"{message} {hint}"))
        yield made


def tell_of_looks_at_the_disk(patch, wrong):
    """Tell of every look at the demo's pictures on the window's thread: they might lie on a slow share."""
    for module, name in ((os, "stat"), (os, "lstat"), (os, "scandir"), (os, "listdir"), (builtins, "open")):
        patch.setattr(module, name, watched(getattr(module, name), wrong))


def watched(look, wrong):
    def looked(path=".", *args, **more):
        if threading.current_thread() is threading.main_thread() and not isinstance(path, int):
            inside = str(DEMO_FILE.parent) in os.fspath(path)
            if inside and Path(os.fspath(path)).suffix in {".exr", ".jpg", ".png", ""}:
                wrong.append(f"{look.__name__} of {path} on the window's thread")
        return look(path, *args, **more)

    return looked


@pytest.fixture(autouse=True)
def nothing_goes_wrong(wrong):
    yield
    told = list(wrong)
    wrong.clear()
    assert not told


def colours_of(widget):
    """Return how many colours a view has: an empty one has a few."""
    image = widget.grab().toImage().scaled(160, 100)
    return len({image.pixel(x, y) for x in range(image.width()) for y in range(image.height())})


def open_on(qtbot, window, stage, shot, theme="Day"):
    if window.preferences.appearance.theme != theme:
        window.show_theme(theme)
    window.pick((shot,))
    window.show_stage(stage)
    settle(qtbot, window)


@pytest.mark.parametrize(("shot", "theme"), in_themes(SHOTS))
def test_brief_and_trials(qtbot, window, shot, theme):
    open_on(qtbot, window, BRIEF, shot, theme)
    assert window.brief.shots.model().rowCount() == len(SHOTS)
    assert window.brief.machines.model().rowCount() > 0
    assert window.brief.shots_model.rows[SHOTS.index(shot)].found.hours is not None
    assert window.verdict.headline.text()
    open_on(qtbot, window, TRIALS, shot, theme)
    trials = window.trials
    assert len(trials.model.rows) == len(window.document.project.trials_of(shot))
    assert trials.curves.ladder.isVisible()
    assert trials.curves.ladder.lines, "a ladder without a curve"
    assert all(np.isfinite(values).all() for _, values in trials.curves.ladder.lines)
    assert trials.curves.ladder.accessibleDescription()
    assert trials.curves.along.isVisible()
    assert colours_of(trials) > 20


@pytest.mark.parametrize("shot", sorted(PICTURED))
def test_pictures_in_judge_are_those_of_their_files(qtbot, window, shot):
    open_on(qtbot, window, JUDGE, shot)
    judge = window.judge
    judge.pages.show(PICTURES)
    settle(qtbot, window)
    for mode in Mode:
        judge.shown.show_mode(mode)
        settle(qtbot, window)
        assert colours_of(judge.canvas) > 40, mode
    judge.shown.show_mode(Mode.SWAP)
    judge.commands.fit()
    settle(qtbot, window)
    shown = judge.canvas._sizes["left"].images[0]
    with ThreadPoolExecutor(1) as reader:
        file = reader.submit(read_for_display, judge.reader.request.left, 100_000).result()
    assert (shown.width(), shown.height()) == file.shape[1::-1]
    for x, y in ((shown.width() // 3, shown.height() // 2), (shown.width() // 2, shown.height() // 4)):
        assert np.abs(np.array(shown.pixelColor(x, y).getRgb()[:3]) - file[y, x].astype(int)).max() <= 2
    for name in MAPS:
        judge.controls.map.setCurrentText(name)
        judge.shown.show_map()
        settle(qtbot, window)
        assert colours_of(judge.canvas) > 40, name
    judge.controls.map.setCurrentIndex(0)
    judge.shown.show_map()


@pytest.mark.parametrize(("shot", "theme"), in_themes(sorted(PICTURED)))
def test_the_other_pages_of_judge(qtbot, window, shot, theme):
    open_on(qtbot, window, JUDGE, shot, theme)
    judge = window.judge
    judge.pages.show(LADDER)
    settle(qtbot, window)
    assert colours_of(judge.ladder) > 40
    judge.pages.show(ERRORS)
    settle(qtbot, window)
    settle(qtbot, window)
    plot = judge.errors.plot
    assert plot.isVisible()
    assert f"frame {judge.errors._trial.frame}" in judge.errors.about.text().lower()
    assert plot.dots
    assert all(np.isfinite(values).all() for _, values in plot.lines)
    assert plot.accessibleDescription().startswith("error against the reference")
    judge.pages.show(PICTURES)


@pytest.mark.parametrize(("shot", "theme"), in_themes(SHOTS))
def test_trade(qtbot, window, shot, theme):
    open_on(qtbot, window, TRADE, shot, theme)
    trade = window.trade
    qtbot.waitUntil(lambda: trade.stage.isVisibleTo(window), timeout=60_000)
    known = trade.planner.options_of(shot).known
    for card in trade.findChildren(TrialCard):
        assert card.words.text() or not card.isVisible(), "a trial to render, without a trial"
    for of_film in (False, True):
        trade.hours.scopes["film" if of_film else "shot"].click()
        settle(qtbot, window)
        if of_film or known:
            assert colours_of(trade.hours.chart) > 5
        else:
            assert "error not measured" in trade.hours.alone.text()
            assert trade.hours.ways.found is not None
    trade.hours.scopes["ways"].click()
    settle(qtbot, window)
    assert trade.hours.ways.found.about == shot
    assert "machine-hours" in trade.hours.ways.text
    trade.hours.scopes["shot"].click()
    assert len(trade.waterfall._bars) >= 2
    assert any(box.isVisibleTo(window) for box in trade.boxes.values())
    assert len(trade.shares._shares) == len(SHOTS)
    if shot in PICTURED and known:
        assert trade.side.preview._images, "the predicted look has its pictures"


@pytest.mark.parametrize("theme", THEMES)
def test_plans_of_every_goal_and_their_comparison(qtbot, window, theme):
    open_on(qtbot, window, TRADE, SHOTS[0], theme)
    for search in (window.trade.plan_box.search, window.trade.plan_box.missing):
        search.click()
        settle(qtbot, window)
        assert window.trade.plan.found is not None
    window.trade.plan.compare_plans(window.trade)
    settle(qtbot, window)
    (dialog,) = [one for one in window.trade.findChildren(QDialog) if one.isVisible()]
    assert colours_of(dialog) > 5
    dialog.close()


@pytest.mark.parametrize("theme", THEMES)
def test_the_run_sheet(qtbot, window, theme):
    open_on(qtbot, window, RUN_SHEET, SHOTS[0], theme)
    panel = window.run_sheet
    assert panel.stage.isVisible()
    assert colours_of(panel) > 20
    runs, found = panel.sheet.runs, panel.sheet.found
    assert {found.jobs[int(job)].shot.name for job in runs.job} == set(SHOTS)
    assert [len(row.slots) for row in panel.sheet.rows] == [1, 1, 1]
    assert len(panel.kept.model.rows) == len(SHOTS)
    assert panel.side.takes.words.text() != "Not known yet."
    assert panel.side.holds.text()
    assert colours_of(panel.sheet) > 10
    for closer in (4, 16, 0.001):
        panel.sheet.zoom(closer)
        assert colours_of(panel.sheet) > 4
    run_action(window, "rules")
    settle(qtbot, window)
    assert colours_of(panel.dialog) > 3
    panel.dialog.close()


@pytest.mark.parametrize("theme", THEMES)
def test_hand_over(qtbot, window, theme):
    open_on(qtbot, window, HAND_OVER, SHOTS[0], theme)
    panel = window.handover
    qtbot.waitUntil(lambda: window.checker.rests, timeout=20_000)
    assert panel.stage.isVisible()
    assert {finding.shot for finding in panel.found.findings} == {"", *SHOTS}
    assert len(panel.launch.model.rows) == len(SHOTS)
    assert panel.checks.said.text().startswith("0 of 10 shots ready")
    for part in (panel.checks, panel.checks.states, panel.launch, panel.outputs):
        assert colours_of(part) > 3
    for number in range(panel.checks.outcome.count()):
        panel.checks.outcome.setCurrentIndex(number)
        panel.checks.outcome.activated.emit(number)
        assert colours_of(panel.checks.findings) > 3
    panel.checks.outcome.setCurrentIndex(0)
    for group in (GROUPS[0], GROUPS[2]) if theme == "Day" else ():  # paper is the same in both
        panel.giving.look(group)
        settle(qtbot, window)
        (shown,) = [one for one in panel.findChildren(PreviewDialog) if one.isVisible()]
        assert len(shown.pages) >= 2
        assert colours_of(shown.pages[0]) > 20
        shown.close()
        QApplication.processEvents()


@pytest.mark.parametrize("name", ["help", "keys", "find"])
@pytest.mark.parametrize("stage", range(len(STAGES)))
def test_dialogs(qtbot, window, name, stage):
    window.show_stage(stage)
    run_action(window, name)
    settle(qtbot, window)
    opened = [one for one in QApplication.topLevelWidgets() if one.isVisible() and one is not window]
    opened = [one for one in opened if not isinstance(one, QComboBox)]
    assert len(opened) == 1
    assert colours_of(opened[0]) > 3
    opened[0].close()
    QApplication.processEvents()


def test_the_form_of_a_render_and_the_picture_of_a_trial(qtbot, window):
    open_on(qtbot, window, TRIALS, "070")
    window.trials.ask_to_render()
    settle(qtbot, window)
    assert window.trials.renders.form.isVisible()
    window.trials.renders.form.close()
    pick_lines(window.trials.table, [0])
    window.trials.show_picture()
    settle(qtbot, window)
    assert colours_of(window.trials.pictures.view) > 40
    window.trials.pictures.view.close()
