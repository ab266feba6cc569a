"""The run sheet in the real window: hours that are dragged, nights, machines off, orders, what-ifs, undo in between."""

from datetime import timedelta

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QFileDialog, QLineEdit

from film import make_project, make_shot, well_timed
from pemlo.core.farm.calendar import spans_of
from pemlo.core.forecast.finish import finish_of
from pemlo.core.project.edits import set_machine, set_shot
from pemlo.core.project.machines import Machine
from window import open_window, run_action, settle, shared_window, undo_all, without_advice

NIGHTS = Machine(name="desk", count=3, hours="Mon-Fri 19:00-08:00", speed=0.02)
BLADE = Machine(name="blade", speed=0.055, frames_at_once=2, price_per_hour=2.0)


def film():
    shots = (
        make_shot("010", 60).replace(moves=("camera",)),
        make_shot("020", 40, keep=("light",)).replace(moves=("lights",)),
        make_shot("030", 30),
    )
    trials = tuple(one for name, last in (("010", 60), ("020", 40), ("030", 30)) for one in well_timed(name, (1, last)))
    return make_project(shots, trials, (NIGHTS, BLADE), deadline="2031-04-22T12:00Z")


@pytest.fixture(autouse=True)
def _quick(monkeypatch):
    without_advice(monkeypatch)


@pytest.fixture(scope="module")
def shared(qapp, tmp_path_factory):
    with shared_window(tmp_path_factory.mktemp("window"), film()) as window:
        yield window


@pytest.fixture
def window(qtbot, shared):
    undo_all(shared)
    shared.run_sheet.edits.forget()
    run_action(shared, "run sheet")
    shared.run_sheet.sheet.show_whole()
    shared.pick(("010",))
    settle(qtbot, shared)
    return shared


def place(sheet, row, hours):
    """Where an hour of a row is on the sheet."""
    return QPoint(round(sheet.scale.x(hours)), round(sheet.places.row_rect(row).center().y()))


def spans(window, number=0):
    project = window.document.project
    return spans_of(project.machines[number], "UTC", project.start, 3)


def test_it_shows_one_run_and_says_which_and_each_run_of_frames_reads(window):
    panel, project = window.run_sheet, window.document.project
    answer = window.state.answer
    found = finish_of(project, answer.fit, answer.draws)
    assert f"run {found.typical + 1} of 1" in panel.heading._beside.text()
    sheet = panel.sheet
    assert [row.label for row in sheet.rows] == ["desk × 3", "blade"]
    words = sheet.words_at(QPointF(place(sheet, 1, 0.02)), 1)
    assert words.startswith(("Shot 010, frame 1:", "Shot 010, frame 2:"))
    assert "on blade" in words
    assert "not free" in sheet.words_at(QPointF(place(sheet, 0, 4.0)), 0)
    # The trace says the same of every run that is drawn.
    assert sheet.runs.end.max() == pytest.approx(found.run.end[found.typical] / 3600)
    assert {job.shot.name for job in (found.jobs[k] for k in sheet.runs.job)} == {"010", "020", "030"}


def test_dragging_an_end_moves_the_verdict_while_it_goes_and_is_one_step_of_the_history(qtbot, window):
    sheet, before = window.run_sheet.sheet, window.verdict.headline.text()
    begin = place(sheet, 0, 9.0)
    QTest.mousePress(sheet, Qt.MouseButton.LeftButton, pos=begin)
    seen = set()
    for hours in (6.0, 3.0, 0.6):
        QTest.mouseMove(sheet, place(sheet, 0, hours))
        qtbot.waitUntil(lambda: window.state.current, timeout=30_000)
        seen.add(window.state.answer.forecast.hours_available)
    assert len(seen) == 3, "the verdict did not follow the hand"
    QTest.mouseRelease(sheet, Qt.MouseButton.LeftButton, pos=place(sheet, 0, 0.6))
    settle(qtbot, window)
    assert spans(window)[0][0] == pytest.approx(0.5, abs=0.26)
    assert spans(window)[1] == (33.0, 46.0), "another night moved too"
    assert window.verdict.headline.text() != before
    assert window.document.history.undo_text() == "Change the hours of desk"
    window.document.history.undo()
    assert spans(window)[0] == (9.0, 22.0)
    assert not window.document.history.can_undo()


def test_an_undo_while_the_run_goes_on_leaves_the_sheet_of_the_film_as_it_stands(qtbot, window):
    panel = window.run_sheet
    panel.sheet.end_dragged.emit("desk", 22.0, "end", 23.5, True)
    assert spans(window)[0] == (9.0, 23.5)
    assert "on its way" in panel.heading._beside.text()  # the run that is shown is of the film before
    window.document.history.undo()
    panel.sheet.part_opened.emit("desk", 4.0)
    window.document.history.undo()
    settle(qtbot, window)
    answer = window.state.answer
    assert answer.project is window.document.project
    assert panel.sheet.found is answer.finish
    assert "on its way" not in panel.heading._beside.text()
    assert spans(window)[0] == (9.0, 22.0)


def test_a_double_click_opens_a_day_and_the_menu_closes_a_night(qtbot, window):
    sheet = window.run_sheet.sheet
    QTest.mouseDClick(sheet, Qt.MouseButton.LeftButton, pos=place(sheet, 0, 4.0))
    assert spans(window)[0] == (0.0, 22.0)  # Monday by day, from the start
    menu = window.run_sheet.menu_for("desk", 40.0)
    names = [action.text() for action in menu.actions()]
    assert names[:2] == ["Close desk here", "Usual hours"]
    menu.actions()[0].trigger()
    assert spans(window) == ((0.0, 22.0), (57.0, 70.0))
    menu.actions()[1].trigger()
    assert spans(window)[:2] == ((9.0, 22.0), (33.0, 46.0))
    settle(qtbot, window)


def test_machines_are_changed_switched_off_and_on_again_with_as_many_as_there_were(qtbot, window):
    panel = window.run_sheet
    QTest.mouseClick(panel.sheet, Qt.MouseButton.LeftButton, pos=QPoint(60, place(panel.sheet, 1, 1.0).y()))
    assert panel.bar.name.text() == "blade"
    QTest.mouseClick(panel.bar.at_once.more, Qt.MouseButton.LeftButton)
    assert window.document.project.machines[1].frames_at_once == 3
    panel.sheet.machine_picked.emit("desk")
    panel.bar.count.line.selectAll()
    QTest.keyClicks(panel.bar.count.line, "5")
    QTest.keyClick(panel.bar.count.line, Qt.Key.Key_Return)
    assert window.document.project.machines[0].count == 5
    QTest.mouseClick(panel.bar.switch, Qt.MouseButton.LeftButton)
    assert window.document.project.machines[0].count == 0
    assert panel.bar.switch.text() == "Switch on"
    settle(qtbot, window)
    assert panel.sheet.rows[0].detail == "switched off"
    QTest.mouseClick(panel.bar.switch, Qt.MouseButton.LeftButton)
    assert window.document.project.machines[0].count == 5
    settle(qtbot, window)


def test_with_every_machine_off_there_is_no_sheet_and_none_is_invented(qtbot, window):
    for name in ("desk", "blade"):
        window.run_sheet.edits.switch(name)
    settle(qtbot, window)
    assert "No machine has hours" in window.verdict.headline.text()
    window.run_sheet.edits.switch("blade")
    settle(qtbot, window)
    assert window.run_sheet.stage.isVisible()
    assert window.state.answer.finish is not None


def test_shots_are_dragged_into_another_order(qtbot, window):
    panel = window.run_sheet
    first, last = panel.order.chip(0).center().toPoint(), panel.order.chip(2).center().toPoint()
    QTest.mousePress(panel.order, Qt.MouseButton.LeftButton, pos=first)
    QTest.mouseMove(panel.order, panel.order.chip(1).center().toPoint())
    QTest.mouseMove(panel.order, last)
    QTest.mouseRelease(panel.order, Qt.MouseButton.LeftButton, pos=last)
    assert window.document.project.running.order == "by hand"
    assert panel.order.names == window.document.project.running.queue == ("020", "030", "010")
    settle(qtbot, window)
    runs, found = panel.sheet.runs, panel.sheet.found
    starts = {
        found.jobs[int(job)].shot.name: begin
        for job, begin in sorted(zip(runs.job, runs.begin, strict=True), key=lambda one: -one[1])
    }
    assert starts["020"] < starts["030"] < starts["010"]
    assert window.document.history.undo_text() == "Reorder shots"
    window.document.history.undo()
    assert window.document.project.running.order == "film"
    window.pick(("030",))
    QTest.mouseClick(panel.first, Qt.MouseButton.LeftButton)
    assert panel.order.names == ("030", "010", "020")
    panel.rule_choice.activated.emit(2)
    assert window.document.project.running.order == "longest"
    settle(qtbot, window)


def test_what_it_takes_is_tried_kept_and_dropped(qtbot, window):
    panel = window.run_sheet
    project = window.document.project
    assert window.state.answer.forecast.probability < 0.9, "the film is too easy to show anything"
    names = [panel.side.takes.ways.itemText(k) for k in range(panel.side.takes.ways.count())]
    assert names[:3] == ["more of desk", "days round the clock of desk", "more of blade"]
    assert names[3:] == ["rented hours, cheapest first"]
    panel.side.takes.ways.setCurrentIndex(2)
    settle(qtbot, window)
    least = panel.side.takes.way.least
    assert f"blade: {least.extra} more; chance" in panel.side.takes.words.text()
    QTest.mouseClick(panel.side.takes.try_it, Qt.MouseButton.LeftButton)
    assert window.document.project.machines[1].count == 1 + least.extra
    settle(qtbot, window)
    assert window.state.answer.forecast.probability >= 0.9
    assert panel.side.takes.tried.text() == f"Tried now: {least.extra} more of blade."
    QTest.mouseClick(panel.side.takes.drop, Qt.MouseButton.LeftButton)
    assert window.document.project.machines == project.machines
    settle(qtbot, window)
    panel.side.takes.ways.setCurrentIndex(2)
    settle(qtbot, window)
    QTest.mouseClick(panel.side.takes.try_it, Qt.MouseButton.LeftButton)
    QTest.mouseClick(panel.side.takes.keep, Qt.MouseButton.LeftButton)
    assert not panel.side.takes.tried.isVisible()
    assert window.document.project.machines[1].count == 1 + least.extra
    settle(qtbot, window)


def test_machines_are_rented_for_no_longer_than_is_needed(qtbot, window):
    panel = window.run_sheet
    blade = window.document.project.machines[1]
    window.document.edit("More", lambda p: set_machine(p, blade.name, count=8))
    settle(qtbot, window)
    as_entered = sum(use.cost or 0.0 for use in panel.sheet.found.machines)
    panel.side.takes.ways.setCurrentIndex(panel.side.takes.ways.count() - 1)
    settle(qtbot, window)
    way = panel.side.takes.way
    assert way.kind == "rent"
    assert way.least is not None
    words = panel.side.takes.words.text()
    assert words.startswith("Rent ")
    assert "of blade for" in words
    QTest.mouseClick(panel.side.takes.try_it, Qt.MouseButton.LeftButton)
    assert window.document.project.machines[1].most_hours == way.least.extra
    settle(qtbot, window)
    # What the card said is what the run says of it.
    assert window.state.answer.forecast.probability == way.least.probability >= 0.9
    assert sum(use.cost or 0.0 for use in panel.sheet.found.machines) == pytest.approx(way.least.cost)
    assert way.least.cost <= as_entered
    QTest.mouseClick(panel.side.takes.keep, Qt.MouseButton.LeftButton)
    settle(qtbot, window)


def test_what_is_tried_and_undone_is_tried_no_more(qtbot, window):
    panel = window.run_sheet
    panel.side.takes.ways.setCurrentIndex(0)
    settle(qtbot, window)
    QTest.mouseClick(panel.side.takes.try_it, Qt.MouseButton.LeftButton)
    window.document.history.undo()  # before anything of it was run
    settle(qtbot, window)
    assert not panel.side.takes.drop.isVisible()
    assert panel.side.takes.try_it.isVisible()


def test_what_is_kept_wrongly_is_an_error_with_a_way_out(qtbot, window):
    panel = window.run_sheet
    rows = {row.shot: row for row in panel.kept.model.rows}
    assert (rows["010"].state, rows["020"].state) == ("could be kept", "wrong")
    assert "1 kept wrongly" in panel.kept.heading._beside.text()
    panel.kept.table.selectRow(1)
    assert not panel.kept.keep_it.isEnabled()
    QTest.mouseClick(panel.kept.keep_none, Qt.MouseButton.LeftButton)
    assert window.document.project.shot("020").settings.keep == ()
    settle(qtbot, window)
    panel.kept.table.selectRow(0)
    QTest.mouseClick(panel.kept.keep_it, Qt.MouseButton.LeftButton)
    settle(qtbot, window)
    assert window.document.project.shot("010").settings.keep == ("prepare", "light")
    assert panel.kept.model.rows[0].state == "kept"
    assert panel.sheet.runs.fills.sum() > 0
    assert sum(machine.warming_hours for machine in panel.sheet.found.machines) > 0


def test_coming_closer_keeps_the_hour_under_the_mouse_and_keys_do_the_same(window):
    sheet = window.run_sheet.sheet
    at = place(sheet, 1, 10.0)
    hours = sheet.scale.hours(at.x())
    wheel = QWheelEvent(QPointF(at), sheet.mapToGlobal(QPointF(at)), QPoint(), QPoint(0, 240), Qt.MouseButton.NoButton,
                        Qt.KeyboardModifier.ControlModifier, Qt.ScrollPhase.NoScrollPhase, False)  # fmt: skip
    QApplication.sendEvent(sheet, wheel)
    assert sheet.scale.hours(at.x()) == pytest.approx(hours)
    assert sheet.scale.last_h - sheet.scale.first_h < 0.7 * sheet.scale.whole_h
    assert window.tape._shown == (sheet.scale.first_h, sheet.scale.last_h)
    window.show_stage(0)
    assert window.tape._shown is None
    window.show_stage(4)
    shown = sheet.scale.first_h
    QTest.keyClick(sheet, Qt.Key.Key_Right)
    assert sheet.scale.first_h > shown
    QTest.keyClick(sheet, Qt.Key.Key_0)
    assert (sheet.scale.first_h, sheet.scale.last_h) == (0.0, sheet.scale.whole_h)
    for _ in range(60):
        QTest.keyClick(sheet, Qt.Key.Key_Plus)
    assert sheet.scale.last_h > sheet.scale.first_h
    sheet.grab()  # at its closest it can be painted


def test_groups_fold_and_unfold(window):
    sheet = window.run_sheet.sheet
    QTest.mouseClick(sheet, Qt.MouseButton.LeftButton, pos=QPoint(20, place(sheet, 0, 1).y()))
    assert [row.label for row in sheet.rows] == ["desk 1", "desk 2", "desk 3", "blade"]
    assert [len(row.slots) for row in sheet.rows] == [1, 1, 1, 2]
    QTest.keyClick(sheet, Qt.Key.Key_Return)
    assert len(sheet.rows) == 2


def test_a_date_of_a_shot_shows_its_chance_and_a_better_order_can_be_taken(qtbot, window):
    panel, project = window.run_sheet, window.document.project
    end = panel.sheet.found.shots["030"].low
    due = project.start + timedelta(hours=0.7 * end)
    window.document.edit("Date", lambda p: set_shot(p, "030", due=due))
    settle(qtbot, window)
    assert any("Shot 030, due" in panel.side.dates.itemAt(k).widget().text() for k in range(panel.side.dates.count()))
    assert panel.side.take_order.isVisible()
    QTest.mouseClick(panel.side.take_order, Qt.MouseButton.LeftButton)
    settle(qtbot, window)
    assert window.document.project.running.order in ("due", "by hand", "shortest")
    assert panel.sheet.found.dates[0].probability > 0.9


def test_nothing_timed_shows_what_comes_first(qtbot):
    window = open_window(qtbot, make_project())
    run_action(window, "run sheet")
    panel = window.run_sheet
    assert not panel.stage.isVisible()
    assert panel.nothing.isVisible()
    panel.trials_wanted.emit()
    assert window.rail.buttons[1].isChecked()


def test_a_thousand_machines_and_two_hundred_shots_are_drawn(qtbot):
    shots = tuple(make_shot(f"{k:03d}", 5) for k in range(200))
    machines = (Machine(name="farm", count=1000, speed=0.1), *(Machine(name=f"desk {k}") for k in range(40)))
    window = open_window(qtbot, make_project(shots, well_timed("000", (1, 5)), machines))
    run_action(window, "run sheet")
    settle(qtbot, window)
    sheet = window.run_sheet.sheet
    assert sheet.rows[0].label == "farm × 1000"
    assert len(sheet.rows[0].slots) == 24
    assert sheet.bar.isVisible()
    sheet.fold("farm")
    assert len(sheet.rows) == 1040
    sheet.bar.setValue(sheet.bar.maximum())
    sheet.grab()


def typed(form, name, text):
    """Type in a field of a form and leave it with Enter."""
    made = form.inputs[name]
    line = made if isinstance(made, QLineEdit) else made.lineEdit()
    line.setText(text)
    QTest.keyClick(line, Qt.Key.Key_Return)


def test_rules_dates_and_sets_are_typed_and_wrong_ones_say_so(qtbot, window):
    run_action(window, "rules")
    dialog = window.run_sheet.dialog
    typed(dialog.film, "chunk", "5")
    typed(dialog.film, "dispatch", "12 s")
    typed(dialog.film, "disk", "2 GiB")
    typed(dialog.film, "closing", "it starts again in the next")
    running = window.document.project.running
    assert (running.chunk, running.dispatch_seconds, running.disk_gib, running.starts_again) == (5, 12.0, 2.0, True)
    typed(dialog.film, "chunk", "0")
    assert "1 or more" in dialog.film._wrong["chunk"].text()
    typed(dialog.film, "first pass", "review")
    assert "no set is called so" in dialog.film._wrong["first pass"].text()
    typed(dialog.shot, "due", "2031-04-22 06:00")
    typed(dialog.shot, "after", "040")
    assert "neither a shot nor a look" in dialog.shot._wrong["after"].text()
    typed(dialog.shot, "after", "030")
    assert window.document.project.shot("010").after == ("030",)
    settle(qtbot, window)
    found = window.state.answer.finish
    assert found.dates[0].what == "010"
    assert found.shots["010"].middle > found.shots["030"].middle
    dialog.name.setText("review")
    QTest.mouseClick(dialog.keep, Qt.MouseButton.LeftButton)
    settle(qtbot, window)
    assert "machine-hours for all shots" in dialog.set_words.text()
    typed(dialog.film, "first pass", "review")
    typed(dialog.film, "first due", "2031-04-21 23:00")
    settle(qtbot, window)
    assert [date.what for date in window.state.answer.finish.dates] == ["first pass", "010"]
    window.pick(("020", "030"))
    QTest.mouseClick(dialog.put, Qt.MouseButton.LeftButton)
    assert window.document.project.shot("020").settings.keep == ("light",)  # what belongs to the shot stays
    QTest.mouseClick(dialog.forget, Qt.MouseButton.LeftButton)
    assert len(window.document.project.sets) == 1, "a set that the first pass has cannot be forgotten"
    typed(dialog.film, "first pass", "none")
    QTest.mouseClick(dialog.forget, Qt.MouseButton.LeftButton)
    assert window.document.project.sets == ()
    dialog.close()
    settle(qtbot, window)


def test_the_run_is_written_for_calendars_and_tables(qtbot, window, monkeypatch, tmp_path):
    for name, file in (("out calendar", "run.ics"), ("out hours", "hours.csv")):
        path = tmp_path / file
        monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_, path=path: (str(path), ""))
        run_action(window, name)
    assert (tmp_path / "run.ics").read_text().startswith("BEGIN:VCALENDAR")
    assert (tmp_path / "hours.csv").read_text().startswith("machine,begin,end")
    window.run_sheet.edits.set_count("desk", 7)
    run_action(window, "out hours")  # the run of the film as it stands is not there yet
    assert "not known yet" in window.problems.words
    settle(qtbot, window)


def test_speeds_come_from_one_frame_timed_on_two_machines(qtbot, window):
    project = window.document.project
    window.brief.machine_edits.measure()
    assert "Time one frame with the same settings on two machines" in window.problems.words
    one = project.trials[0]
    more = (
        one.replace(machine="desk", seconds=100.0),
        one.replace(machine="blade", seconds=25.0),
        one.replace(seconds=1.0),
    )
    window.document.edit("x", lambda p: p.replace(trials=(*(t.replace(left_out="other") for t in p.trials), *more)))
    window.brief.machine_edits.measure()
    assert [machine.speed for machine in window.document.project.machines] == [0.01, 0.04]
    settle(qtbot, window)


def test_machines_that_are_too_many_to_run_are_said_in_place_of_a_sheet(qtbot):
    machines = (Machine(name="farm", count=30_000),)
    window = open_window(qtbot, make_project((make_shot("010", 60),), well_timed("010", (1, 60)), machines))
    run_action(window, "run sheet")
    settle(qtbot, window)
    assert "at most 20000 can be run here" in window.run_sheet.heading._beside.text()
    assert "Makes Thursday 18:00" in window.verdict.headline.text()
