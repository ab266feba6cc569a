"""Trading picture for hours in the real window: levers, the frontier, the best plan, adopting and undoing."""

import re
import shutil

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication
from scipy.ndimage import gaussian_filter

from exr import write_exr
from film import make_project, make_shot, well_timed
from pemlo.core.farm.money import cost_curve
from pemlo.core.persistence.document import read_project, write_project
from pemlo.core.project.edits import set_asked, set_delivery, set_machine, set_shot, set_trial
from pemlo.core.project.trials import Trial
from pemlo.gui.trade.plans_dialog import PlansDialog
from photographs import gaussian, photograph
from window import forget, open_window, run_action, save_now, settle, shared_window, undo_all, without_advice

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


@pytest.fixture(autouse=True)
def _quick(monkeypatch):
    without_advice(monkeypatch)


@pytest.fixture(scope="module")
def shared(qapp, film, tmp_path_factory):
    with shared_window(tmp_path_factory.mktemp("window"), read_project(film), film) as window:
        yield window


@pytest.fixture
def window(qtbot, shared):
    """The window as it was opened: nothing changed, nothing planned, the first shot picked."""
    undo_all(shared)
    shared.trade.forget()
    shared.pick(("010",))
    run_action(shared, "trade")
    settle(qtbot, shared)
    return shared


def slide(qtbot, window, lever, text):
    """Put a lever to a value, as a drag does."""
    box = window.trade.boxes[lever]
    box.slider.setValue(box._row.texts.index(text))
    box.slider.sliderReleased.emit()
    settle(qtbot, window)


def hours(window):
    return window.state.answer.forecast.hours.middle


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
    assert window.state.answer.forecast.probability < 0.5
    QTest.mouseClick(window.trade.plan_box.search, Qt.MouseButton.LeftButton)
    settle(qtbot, window)
    box = window.trade.plan_box
    assert "to make it" in box.found.text()
    assert re.search(r"^(020, )?010(, |: )", box.changes.text(), re.MULTILINE)
    assert all(shot.plan is None for shot in window.document.project.shots), "nothing changes until it is adopted"
    QTest.mouseClick(box.take, Qt.MouseButton.LeftButton)
    settle(qtbot, window)
    assert window.state.answer.forecast.probability >= 0.85
    # Of the third shot no picture tells its look: it is as it was asked.
    assert [shot.plan is None for shot in window.document.project.shots] == [False, False, True]
    window.document.history.undo()
    settle(qtbot, window)
    assert window.state.answer.forecast.probability < 0.5


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
    assert " short." in box.found.text()
    assert box.take.isVisible()
    window.document.edit("Set error limit", lambda project: set_shot(project, "010", ceiling=30.0))
    settle(qtbot, window)
    assert "Out of date" in box.found.text()
    assert not box.take.isVisible()


def test_a_click_on_a_dot_takes_it_and_a_drag_goes_along_the_line(qtbot, window):
    chart = window.trade.hours.chart
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
    assert window.trade.side.preview.words[0].startswith("predicted: error")
    clean = window.trade.side.preview.grab().toImage()
    slide(qtbot, window, "samples", "8")
    assert window.trade.side.preview.grab().toImage() != clean
    assert float(window.trade.side.error.text().split()[0]) > 5
    window.pick(("030",))
    settle(qtbot, window)
    assert not window.trade.side.preview.isVisibleTo(window)
    assert "Error not measured" in window.trade.side.by_eye.says.text()
    assert "error not measured" in window.trade.hours.alone.text()


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
    assert "error limit 7.5 (by hand)" in window.trade.side.error.text()
    type_in(qtbot, window, "ceiling", "low")
    assert "is no ceiling" in window.problems.words
    save_now(window.document, tmp_path / "kept.pemlo")
    kept = read_project(tmp_path / "kept.pemlo").shot("010")
    assert kept.plan.samples == 64
    assert kept.pins == ("denoise",)
    assert (kept.ceiling, kept.weight) == (7.5, 3.0)


def type_in(qtbot, window, name, text):
    """Type a ceiling or a weight and press Enter."""
    field = window.trade.side.ceiling.fields[name]
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
    assert "Out of date" not in window.trade.plan_box.found.text()
    slide(qtbot, window, "samples", "181")
    assert "Out of date" in window.trade.plan_box.found.text(), "what is held stands elsewhere now"


def test_a_picture_that_cannot_be_read_says_which(qtbot, film, tmp_path):
    folder = tmp_path / "damaged"
    shutil.copytree(film.parent, folder)
    (folder / "010-1024.exr").write_bytes(b"no picture")
    window = open_window(qtbot, read_project(folder / film.name), folder / film.name)
    run_action(window, "trade")
    settle(qtbot, window)
    assert "010-1024.exr" in window.trade.side.preview.words[0]


def test_a_mark_for_the_look_moves_the_ceiling_of_other_shots(qtbot, window):
    project = window.document.project
    first = next(k for k, one in enumerate(project.trials) if one.shot == "010" and one.picture.endswith("010-16.exr"))

    def change(project):
        for name in ("010", "020"):
            project = set_shot(project, name, look="night")
        return set_trial(project, first, mark="good enough", error=9.5, mark_for="look")

    window.document.edit("Mark", change)
    window.pick(("020",))
    settle(qtbot, window)
    assert "error limit 9.5 (marks)" in window.trade.side.error.text()


def test_plans_are_kept_compared_and_taken_again(qtbot, window):
    slide(qtbot, window, "samples", "64")
    planned = window.document.project.shots
    QTest.mouseClick(window.trade.plan_box.compare, Qt.MouseButton.LeftButton)
    dialog = window.trade.findChild(PlansDialog)
    settle(qtbot, window)
    assert [dialog.table.item(row, 0).text() for row in range(2)] == ["as asked", "now"]
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


def test_the_films_plan_is_dragged_along_its_frontier_in_one_step(qtbot, window):
    hours_box, chart = window.trade.hours, window.trade.hours.chart
    QTest.mouseClick(hours_box.scopes["film"], Qt.MouseButton.LeftButton)
    settle(qtbot, window)
    points = window.trade.film.points
    assert len(points) > 10
    ends = [chart.point(one.hours, one.ratio).toPoint() for one in (points[len(points) // 3], points[len(points) // 2])]
    QTest.mousePress(chart, Qt.MouseButton.LeftButton, pos=ends[0])
    first = {shot.name: shot.settings for shot in window.document.project.shots}
    QTest.mouseMove(chart, ends[1])
    QTest.mouseRelease(chart, Qt.MouseButton.LeftButton, pos=ends[1])
    settle(qtbot, window)
    then = {shot.name: shot.settings for shot in window.document.project.shots}
    assert first != then
    wanted = window.trade.film.settings_of(
        min(range(len(points)), key=lambda k: abs(points[k].hours - chart._shown.plan.hours))
    )
    assert then == wanted
    # The plan stands on the frontier, all shots about as near to their ceilings.
    assert chart._shown.plan.hours == pytest.approx(points[len(points) // 2].hours, rel=0.1)
    assert max(
        share.ratio for share in window.trade._shares(window.document.project) if share.ratio == share.ratio
    ) == (pytest.approx(chart._shown.plan.error))
    window.document.history.undo()
    assert all(shot.plan is None for shot in window.document.project.shots), "the drag is one step"
    QTest.mouseClick(hours_box.scopes["shot"], Qt.MouseButton.LeftButton)
    assert "each dot a way" in hours_box.heading._beside.text()


def test_what_money_buys_is_another_scale_of_the_same_plans(qtbot, window):
    """It is there once a machine has a price; a budget is its limit, and a click takes the plan."""
    hours_box, chart = window.trade.hours, window.trade.hours.chart
    assert not hours_box.scopes["cost"].isVisibleTo(hours_box)
    name = window.document.project.machines[0].name
    window.document.edit("Price", lambda p: set_machine(p, name, price_per_hour=2.0))
    window.document.edit("Currency", lambda p: set_delivery(p, currency="EUR", budget=1.0))
    settle(qtbot, window)
    QTest.mouseClick(hours_box.scopes["film"], Qt.MouseButton.LeftButton)
    settle(qtbot, window)
    by_hours = chart._shown
    QTest.mouseClick(hours_box.scopes["cost"], Qt.MouseButton.LeftButton)
    settle(qtbot, window)
    shown, curve = chart._shown, cost_curve(window.document.project)
    assert shown.names[0] == "cost of the film, EUR"
    assert [one.error for one in shown.line] == [one.error for one in by_hours.line]
    assert shown.line[0].hours == pytest.approx(curve.at(by_hours.line[0].hours))
    assert (shown.left, shown.limits[0]) == (1.0, "budget")
    point = shown.line[len(shown.line) // 2]
    at = chart.point(point.hours, point.error).toPoint()
    QTest.mouseClick(chart, Qt.MouseButton.LeftButton, pos=at)
    settle(qtbot, window)
    assert chart._shown.plan.hours == pytest.approx(point.hours, rel=0.1)
    window.document.edit("No price", lambda p: set_machine(p, name, price_per_hour=None))
    settle(qtbot, window)
    assert hours_box.scope == "film"
    assert not hours_box.scopes["cost"].isVisibleTo(hours_box)


def test_what_is_held_stays_on_the_films_frontier(qtbot, window):
    slide(qtbot, window, "denoise", "frame")
    window.trade.boxes["denoise"].pin.click()
    window.trade.hours.scopes["film"].click()
    settle(qtbot, window)
    film = window.trade.film
    assert {film.settings_of(place)["010"].denoise for place in range(len(film.points))} == {"frame"}


def test_a_cap_a_split_and_saves_are_levers_too(qtbot, window):
    before = hours(window)
    box = window.trade.boxes["most_seconds"]
    slide(qtbot, window, "most_seconds", box._row.texts[4])
    assert window.document.project.shot("010").plan.most_seconds is not None
    assert hours(window) < before
    assert not window.trade.boxes["split"].isVisibleTo(window), "nothing but one ray each was ever tried"
    assert not window.trade.boxes["saves"].isVisibleTo(window), "no machine loses frames"
    machines = (window.document.project.machines[0].replace(loss_percent=30),)
    window.document.edit("Break", lambda project: project.replace(machines=machines))
    settle(qtbot, window)
    assert window.trade.planner.options_of("010").settings[-1].saves > 0, "weighed anew with what pays"
    before = hours(window)
    slide(qtbot, window, "saves", "3 times")
    assert hours(window) < before


def test_marks_stand_on_the_frontier(qtbot, window):
    trials = [k for k, trial in enumerate(window.document.project.trials) if trial.shot == "010" and trial.picture]
    for index, mark, error in ((trials[0], "not good enough", 9.0), (trials[2], "good enough", 6.0)):
        change = {"mark": mark, "error": error}
        window.document.edit("Mark", lambda project, i=index, c=change: set_trial(project, i, **c))
    settle(qtbot, window)
    shown = window.trade.hours.chart._shown.marks
    assert [(one.passed, one.error) for one in shown] == [(False, 9.0), (True, 6.0)]
    assert shown[0].hours == pytest.approx(50 * (20 + 2.07 * (2 + 1.6)) / 3600, rel=0.15)
    assert shown[1].words.endswith("1024 samples: good enough") or "frame: good enough" in shown[1].words


def test_a_shot_that_was_never_seen_offers_the_trial_that_tells(qtbot, window):
    window.pick(("030",))
    settle(qtbot, window)
    card = window.trade.side.first
    assert "To weigh these settings" in card.words.text()
    assert not card.render_it.isVisibleTo(window), "it has no scene that could be rendered here"
    window.document.edit("Scene", lambda p: set_shot(p, "030", extra_columns=(("scene", "stairs"),)))
    settle(qtbot, window)
    asked = []
    window.trade.trial_wanted.disconnect()
    window.trade.trial_wanted.connect(asked.append)
    QTest.mouseClick(card.render_it, Qt.MouseButton.LeftButton)
    assert (asked[0].shot, asked[0].frame, asked[0].settings.samples) == ("030", 26, 16)
    window.pick(("010",))
    settle(qtbot, window)
    assert not card.isVisibleTo(window)


def test_the_look_is_moved_enlarged_and_judged_with_all_tools(qtbot, window):
    look = window.trade.side.preview
    slide(qtbot, window, "samples", "16")
    box, times = look.part(SIZE, (0, 0, 16, 16))
    QTest.mousePress(look, Qt.MouseButton.LeftButton, pos=QPoint(100, 50))
    QTest.mouseMove(look, QPoint(60, 30))
    QTest.mouseRelease(look, Qt.MouseButton.LeftButton, pos=QPoint(60, 30))
    settle(qtbot, window)
    assert look.part(SIZE, (0, 0, 16, 16))[0] != box
    at = QPointF(50, 50)
    turned = QWheelEvent(
        at, look.mapToGlobal(at), QPoint(), QPoint(0, 120), Qt.MouseButton.NoButton, Qt.KeyboardModifier.NoModifier,
        Qt.ScrollPhase.NoScrollPhase, False,
    )  # fmt: skip
    QApplication.sendEvent(look, turned)
    settle(qtbot, window)
    assert look.part(SIZE, (0, 0, 16, 16))[1] > times
    QTest.mouseDClick(look, Qt.MouseButton.LeftButton, pos=QPoint(50, 50))
    settle(qtbot, window)
    assert look.part(SIZE, look._wanted[0].pictures.worst)[1] == times
    QTest.mouseClick(window.trade.side.in_judge, Qt.MouseButton.LeftButton)
    settle(qtbot, window)
    settle(qtbot, window)
    assert window.judge.isVisibleTo(window)
    left, right = window.judge.pair.left, window.judge.pair.right
    assert left.name.startswith("predicted, no render: 16 samples")
    assert right.path.name == "010-1024.exr"
    # It errs as it was predicted to.
    said = float(window.trade.side.error.text().split()[0])
    assert window.judge.findings.found.measured.error.total.middle == pytest.approx(said, rel=0.1)


def test_what_passed_stands_beside_the_look(qtbot, window):
    side = window.trade.side
    assert not side.beside.isVisibleTo(window)
    index = next(k for k, one in enumerate(window.document.project.trials) if one.picture.endswith("010-16.exr"))
    window.document.edit("Mark", lambda p: set_trial(p, index, mark="good enough", error=9.0))
    settle(qtbot, window)
    QTest.mouseClick(side.beside, Qt.MouseButton.LeftButton)
    settle(qtbot, window)
    assert side.preview.words[1].startswith("passed: 16 samples")
    QTest.mouseClick(side.beside, Qt.MouseButton.LeftButton)
    settle(qtbot, window)
    assert side.preview.words[1].startswith("reference")


def test_the_shot_that_is_looked_at_is_weighed_first_and_shown_at_once(qtbot, window):
    planner, seen = window.trade.planner, []
    window.pick(("020",))
    forget(window, "options")

    def known():
        return {name for name in ("010", "020", "030") if planner.options_of(name) is not None}

    planner.changed.connect(lambda: seen.append((known(), window.trade.stage.isVisibleTo(window))))
    window.trade.show_project(window.document.project, window.state.answer)
    settle(qtbot, window)
    assert seen[0][1]
    assert "020" in seen[0][0]
    assert seen[-1][0] == {"010", "020", "030"}


def test_what_hours_buy_for_the_film_is_there_again_after_an_undo_before_it_has_settled(qtbot, window):
    QTest.mouseClick(window.trade.hours.scopes["film"], Qt.MouseButton.LeftButton)
    settle(qtbot, window)
    before = window.trade.film.points
    window.document.edit("Set samples", lambda project: set_asked(project, ["020"], samples=64))
    window.trade.film.ask()
    assert window.trade.film.points == ()
    run_action(window, "undo")
    settle(qtbot, window)
    assert window.trade.film.points == before
    QTest.mouseClick(window.trade.hours.scopes["shot"], Qt.MouseButton.LeftButton)


def test_hours_are_only_offered_where_some_are_left_for_the_wanted_chance(qtbot, window):
    def offered():
        bargains = window.trade.bargains
        return not bargains.waits_for_rest and any("With the spare hours" in words for words in bargains.shown)

    slide(qtbot, window, "samples", "16")
    settle(qtbot, window)
    assert window.trade.planner.hours_left() > 0
    qtbot.waitUntil(offered, timeout=60_000)
    machine = window.document.project.machines[0]
    window.document.edit("Slow", lambda p: p.replace(machines=(machine.replace(speed=machine.speed / 500),)))
    settle(qtbot, window)
    qtbot.waitUntil(lambda: window.trade.planner.hours_left() < 0, timeout=60_000)
    qtbot.waitUntil(lambda: not window.trade.bargains.waits_for_rest and not offered(), timeout=60_000)
