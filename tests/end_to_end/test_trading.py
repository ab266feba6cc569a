"""Trading picture for hours in the real window: levers, the frontier, the best plan, adopting and undoing."""

import shutil

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from scipy.ndimage import gaussian_filter

from exr import write_exr
from film import make_project, make_shot, well_timed
from pemlo.core.persistence.document import read_project, write_project
from pemlo.core.plan.edits import set_shot, set_trial
from pemlo.core.plan.trials import Trial
from pemlo.gui.trade.plans_dialog import PlansDialog
from photographs import gaussian, photograph
from window import open_window, run_action, settle

SIZE = (160, 104)


@pytest.fixture(scope="module")
def film(tmp_path_factory):
    """A film of three shots in a folder: of two there are pictures, and the deadline is near."""
    folder = tmp_path_factory.mktemp("film")
    clean = photograph("astronaut", SIZE)
    trials = []
    for shot, level in (("010", 40), ("020", 24)):
        trials += well_timed(shot, frames=(1, 25, 50))
        for samples in (16, 1024):
            name = f"{shot}-{samples}.exr"
            write_exr(folder / name, *gaussian(clean, level / samples**0.5, samples))
            trials.append(Trial(shot=shot, frame=25, samples=samples, seconds=20 + 0.21 * samples, picture=name))
        for seed in (1, 2):
            soft = gaussian_filter(clean, (0.7, 0.7, 0)) + 0.2 * (gaussian(clean, level / 4, seed)[0] - clean)
            name = f"{shot}-d{seed}.exr"
            write_exr(folder / name, soft)
            trials.append(Trial(shot=shot, frame=25, samples=16, seconds=26, denoise="frame", seed=seed, picture=name))
    trials += well_timed("030", frames=(1, 25))
    shots = tuple(make_shot(name, 50) for name in ("010", "020", "030"))
    path = folder / "film.pemlo"
    write_project(make_project(shots, tuple(trials), deadline="2031-04-21T12:40Z"), path)
    return path


@pytest.fixture
def window(qtbot, film):
    window = open_window(qtbot, read_project(film), film)
    run_action(window, "trade")
    settle(qtbot, window)
    return window


def slide(qtbot, window, lever, text):
    """Put a lever to a value, as a drag does."""
    box = window.trade.boxes[lever]
    box.slider.setValue(box._row.texts.index(text))
    box.slider.sliderReleased.emit()
    settle(qtbot, window)


def hours(window):
    return window.forecaster.answer.forecast.hours.p50


def test_a_lever_moves_the_plan_the_verdict_and_what_is_said_beside_it(qtbot, window):
    before = hours(window)
    slide(qtbot, window, "samples", "64")
    assert window.document.project.shot("010").plan.samples == 64
    assert hours(window) < before
    box = window.trade.boxes["samples"]
    assert box.value.text() == "64"
    assert box.back.text() == "asked 256"
    assert "◂ −" in box.steps.text()
    assert "▸ +" in box.steps.text()
    QTest.mouseClick(box.back, Qt.MouseButton.LeftButton)
    settle(qtbot, window)
    assert window.document.project.shot("010").plan is None
    assert hours(window) == pytest.approx(before)


def test_a_drag_is_one_step_of_the_history(qtbot, window):
    box = window.trade.boxes["samples"]
    box.slider.setSliderDown(True)
    for at in range(box.slider.value() - 1, box.slider.value() - 9, -1):
        box.slider.setValue(at)
    box.slider.setSliderDown(False)
    settle(qtbot, window)
    assert window.document.project.shot("010").plan is not None
    window.document.history.undo()
    settle(qtbot, window)
    assert window.document.project.shot("010").plan is None
    assert box.value.text() == "256"


def test_keys_move_a_lever(qtbot, window):
    slider = window.trade.boxes["samples"].slider
    slider.setFocus()
    QTest.keyClick(slider, Qt.Key.Key_Left)
    settle(qtbot, window)
    assert window.document.project.shot("010").plan.samples < 256


def test_several_shots_go_together(qtbot, window):
    window.pick(("010", "020", "030"))
    assert "all shots" in window.trade.levers_heading._beside.text()
    slide(qtbot, window, "resolution_percent", "50 %")
    assert {shot.plan.resolution_percent for shot in window.document.project.shots} == {50.0}
    window.document.history.undo()
    assert all(shot.plan is None for shot in window.document.project.shots)


def test_the_best_plan_is_found_adopted_and_undone(qtbot, window):
    assert window.forecaster.answer.forecast.odds < 0.5
    QTest.mouseClick(window.trade.plan_box.search, Qt.MouseButton.LeftButton)
    settle(qtbot, window)
    box = window.trade.plan_box
    assert "to make it" in box.found.text()
    assert "010: " in box.changes.text()
    assert all(shot.plan is None for shot in window.document.project.shots), "nothing changes until it is adopted"
    QTest.mouseClick(box.take, Qt.MouseButton.LeftButton)
    settle(qtbot, window)
    assert window.forecaster.answer.forecast.odds >= 0.85
    # Of the third shot no picture tells its look: it is as it was asked.
    assert [shot.plan is None for shot in window.document.project.shots] == [False, False, True]
    window.document.history.undo()
    settle(qtbot, window)
    assert window.forecaster.answer.forecast.odds < 0.5


def test_what_is_held_stays_in_a_plan(qtbot, window):
    slide(qtbot, window, "samples", "215")
    window.trade.boxes["samples"].pin.click()
    settle(qtbot, window)
    assert window.document.project.shot("010").pins == ("samples",)
    QTest.mouseClick(window.trade.plan_box.search, Qt.MouseButton.LeftButton)
    settle(qtbot, window)
    QTest.mouseClick(window.trade.plan_box.take, Qt.MouseButton.LeftButton)
    settle(qtbot, window)
    assert window.document.project.shot("010").settings.samples == 215


def test_a_plan_of_an_earlier_state_says_so_and_cannot_be_adopted(qtbot, window):
    QTest.mouseClick(window.trade.plan_box.missing, Qt.MouseButton.LeftButton)
    settle(qtbot, window)
    box = window.trade.plan_box
    assert "missing" in box.found.text()
    assert box.take.isVisible()
    window.document.edit("Set ceiling", lambda project: set_shot(project, "010", ceiling=30.0))
    settle(qtbot, window)
    assert "earlier state" in box.found.text()
    assert not box.take.isVisible()


def test_a_click_on_a_dot_takes_it_and_a_drag_goes_along_the_line(qtbot, window):
    chart = window.trade.frontier
    shown = chart._shown
    dot = next(
        one
        for one in shown.dots
        if one not in shown.line
        and chart._inside().contains(chart.point(one.hours, one.error))
        and chart._nearest(chart.point(one.hours, one.error), shown.line)[0] > 4
        and chart._nearest(chart.point(one.hours, one.error), [shown.plan])[0] > 20
    )
    QTest.mouseClick(chart, Qt.MouseButton.LeftButton, pos=chart.point(dot.hours, dot.error).toPoint())
    settle(qtbot, window)
    taken = window.document.project.shot("010").settings
    near = chart._nearest(chart.point(dot.hours, dot.error), chart._shown.dots)[1]
    assert taken == window.trade.planner.options_of("010").settings[near.place]
    start = chart._shown.line[len(chart._shown.line) // 2]
    end = chart._shown.line[-3]
    first, last = (chart.point(one.hours, one.error).toPoint() for one in (start, end))
    QTest.mousePress(chart, Qt.MouseButton.LeftButton, pos=first)
    QTest.mouseMove(chart, last)
    QTest.mouseRelease(chart, Qt.MouseButton.LeftButton, pos=last)
    settle(qtbot, window)
    among = {window.trade.planner.options_of("010").settings[one.place] for one in chart._shown.line}
    assert window.document.project.shot("010").settings in among
    window.document.history.undo()
    assert window.document.project.shot("010").settings == taken


def test_the_look_follows_the_levers(qtbot, window):
    assert window.trade.look.words[0].startswith("predicted: error")
    clean = window.trade.look.grab().toImage()
    slide(qtbot, window, "samples", "8")
    assert window.trade.look.grab().toImage() != clean
    assert float(window.trade.error.text().split()[0]) > 5
    window.pick(("030",))
    settle(qtbot, window)
    assert "No trial of this shot" in window.trade.look.words[0]
    assert "Not known" in window.trade.error.text()
    assert "no picture" in window.trade.frontier_heading._beside.text()


def test_shots_are_picked_on_the_strip_of_shares(qtbot, window):
    shares = window.trade.shares
    QTest.mouseClick(shares, Qt.MouseButton.LeftButton, pos=shares.column(1).center().toPoint())
    assert window.picked == ("020",)


def test_nothing_timed_says_what_to_do(qtbot):
    window = open_window(qtbot, make_project())
    run_action(window, "trade")
    settle(qtbot, window)
    assert not window.trade.stage.isVisible()
    assert "Time one frame" in window.trade.empty.text()


def test_plans_pins_and_ceilings_are_kept_in_the_file(qtbot, window, tmp_path):
    slide(qtbot, window, "samples", "64")
    window.trade.boxes["denoise"].pin.click()
    type_in(qtbot, window, "ceiling", "7.5")
    type_in(qtbot, window, "weight", "3")
    assert "ceiling 7.5 (by hand)" in window.trade.error.text()
    type_in(qtbot, window, "ceiling", "low")
    assert "is no ceiling" in window.problems.words
    window.document.save(tmp_path / "kept.pemlo")
    kept = read_project(tmp_path / "kept.pemlo").shot("010")
    assert kept.plan.samples == 64
    assert kept.pins == ("denoise",)
    assert (kept.ceiling, kept.weight) == (7.5, 3.0)


def type_in(qtbot, window, name, text):
    """Type a ceiling or a weight and press Enter."""
    field = window.trade.ceiling.fields[name]
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, text)
    QTest.keyClick(field, Qt.Key.Key_Return)
    settle(qtbot, window)


def test_an_adopted_plan_is_still_the_one_that_was_found(qtbot, window):
    slide(qtbot, window, "samples", "215")
    window.trade.boxes["samples"].pin.click()
    settle(qtbot, window)
    QTest.mouseClick(window.trade.plan_box.search, Qt.MouseButton.LeftButton)
    settle(qtbot, window)
    QTest.mouseClick(window.trade.plan_box.take, Qt.MouseButton.LeftButton)
    settle(qtbot, window)
    assert "earlier state" not in window.trade.plan_box.found.text()
    slide(qtbot, window, "samples", "181")
    assert "earlier state" in window.trade.plan_box.found.text(), "what is held stands elsewhere now"


def test_a_picture_that_cannot_be_read_says_which(qtbot, film, tmp_path):
    folder = tmp_path / "damaged"
    shutil.copytree(film.parent, folder)
    (folder / "010-1024.exr").write_bytes(b"no picture")
    window = open_window(qtbot, read_project(folder / film.name), folder / film.name)
    run_action(window, "trade")
    settle(qtbot, window)
    assert "010-1024.exr" in window.trade.look.words[0]


def test_a_mark_for_the_look_moves_the_ceiling_of_other_shots(qtbot, window):
    project = window.document.project
    first = next(k for k, one in enumerate(project.trials) if one.shot == "010" and one.picture == "010-16.exr")

    def change(project):
        for name in ("010", "020"):
            project = set_shot(project, name, look="night")
        return set_trial(project, first, mark="good enough", error=9.5, mark_for="look")

    window.document.edit("Mark", change)
    window.pick(("020",))
    settle(qtbot, window)
    assert "ceiling 9.5 (marks)" in window.trade.error.text()


def test_plans_are_kept_compared_and_taken_again(qtbot, window):
    slide(qtbot, window, "samples", "64")
    planned = window.document.project.shots
    QTest.mouseClick(window.trade.plan_box.compare, Qt.MouseButton.LeftButton)
    dialog = window.trade.findChild(PlansDialog)
    settle(qtbot, window)
    assert [dialog.table.item(row, 0).text() for row in range(2)] == ["as asked", "as it stands"]
    assert not dialog.keep.isEnabled()
    QTest.keyClicks(dialog.name, "few samples")
    QTest.mouseClick(dialog.keep, Qt.MouseButton.LeftButton)
    settle(qtbot, window)
    assert dialog.table.item(2, 0).text() == "few samples"
    hours = [float(dialog.table.item(row, 1).text().split()[0]) for row in range(3)]
    assert hours[0] > hours[1] == hours[2]
    assert dialog.table.item(2, 3).text().startswith("010: ")
    window.document.edit("Put back", lambda project: set_shot(project, "010", plan=None))
    dialog.table.selectRow(2)
    QTest.mouseClick(dialog.take, Qt.MouseButton.LeftButton)
    settle(qtbot, window)
    assert window.document.project.shots == planned
    dialog.table.selectRow(2)
    QTest.mouseClick(dialog.drop, Qt.MouseButton.LeftButton)
    settle(qtbot, window)
    assert window.document.project.plans == ()
    window.document.history.undo()
    assert [plan.name for plan in window.document.project.plans] == ["few samples"]
    dialog.accept()
