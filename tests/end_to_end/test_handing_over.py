"""Hand-over in the real window: mistakes found and mended, a first frame, files in a folder."""

import json
import shlex

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog, QLabel

from film import make_project, make_shot, well_timed
from frame_files import ramp, write
from handing_over import HandingOver, film, hand, quick_checks
from pemlo.core.persistence.document import read_project
from pemlo.core.preflight.check_context import plan_row
from pemlo.core.project.machines import Machine
from pemlo.gui.handover.preview import PreviewDialog
from window import open_window, run_action, settle, type_in_cell

__all__ = ["hand", "quick_checks"]

LACKING = {"commands.txt", "pictures.pdf", "pictures.html"}  # no template, and no trial with a picture


def test_a_mistake_is_typed_found_mended_and_undone(qtbot, hand):
    assert hand.wrong == set()
    assert hand.panel.launch.table.selected_lines() == [0]
    type_in_cell(qtbot, hand.panel.launch.table, 0, "last", "30")
    hand.wait()
    assert hand.wrong == {("range", "010")}
    assert "010 last" in hand.panel.launch.said.text()
    assert hand.panel.launch.model.index(0, 2).data() == "◆ 30"
    assert "1 not" in hand.panel.checks.said.text()
    hand.press("Set 010 to 1-40")
    assert hand.wrong == set()
    assert hand.project.launch[0].last == 40
    run_action(hand.window, "undo")
    hand.wait()
    assert hand.wrong == {("range", "010")}
    run_action(hand.window, "undo")
    hand.wait()
    assert hand.project == film()


def test_a_second_change_before_the_first_is_checked(qtbot, hand):
    hand.window.document.edit(
        "x", lambda project: project.replace(launch=(project.launch[0].replace(step=2), project.launch[1]))
    )
    hand.window.document.edit("y", lambda project: project.replace(launch=(project.launch[0].replace(step=1, samples=1), project.launch[1])))  # fmt: skip
    run_action(hand.window, "undo")
    hand.wait()
    assert hand.wrong == {("step", "010")}


def test_all_fine_is_said_with_what_was_checked(qtbot, hand):
    trials = [
        one.replace(memory_gib=1.0, disk_mib=1.0, picture="a.exr", mark="good enough", error=2.0)
        for one in well_timed("010", (1, 40))
    ]
    trials += [trial.replace(shot="020") for trial in trials]
    hand.window.document.edit("x", lambda project: project.replace(
        trials=tuple(trials), machines=(Machine(name="desk", memory_gib=64.0),),
        launch=tuple(row.replace(folder="") for row in project.launch)))  # fmt: skip
    hand.wait()
    said = " ".join(one.text() for one in hand.panel.checks.findings.findChildren(QLabel))
    assert said.startswith("All is fine. Checked: all shots, range, "), said
    assert hand.panel.checks.said.text() == "2 of 2 shots ready. The launch is checked."


def test_mend_all_is_one_step(hand):
    before = hand.project
    hand.window.document.edit("x", lambda project: project.replace(
        launch=tuple(row.replace(percent=50.0, samples=1) for row in project.launch)))  # fmt: skip
    hand.wait()
    assert len(hand.wrong) == 4
    QTest.mouseClick(hand.panel.checks.mend_all, Qt.MouseButton.LeftButton)
    hand.wait()
    assert hand.wrong == set()
    run_action(hand.window, "undo")
    run_action(hand.window, "undo")
    assert hand.project == before


def test_a_mark_picks_its_shot_and_lists_can_be_narrowed(qtbot, hand):
    hand.window.document.edit("x", lambda project: project.replace(
        launch=tuple(row.replace(samples=1) for row in project.launch)))  # fmt: skip
    hand.wait()
    states = hand.panel.checks.states
    QTest.mouseClick(states, Qt.MouseButton.LeftButton, pos=states.box_of(1).center().toPoint())
    assert hand.window.picked == ("020",)
    assert hand.panel.launch.table.selected_lines() == [1]
    hand.panel.checks.outcome.setCurrentIndex(1)
    hand.panel.checks.outcome.activated.emit(1)
    hand.panel.checks.whose.setCurrentIndex(1)
    hand.panel.checks.whose.activated.emit(1)
    assert len(hand.links("Set 020 to the plan")) == 1
    assert not hand.links("Set 010 to the plan")
    hand.press("Set 020 to the plan")
    said = [one.text() for one in hand.panel.checks.findings.findChildren(QLabel)]
    assert said == ["Nothing of the picked shots."]  # 010 is wrong all the same
    QTest.mouseClick(states, Qt.MouseButton.LeftButton, pos=QPoint(states.width() - 2, 2))  # beside all marks
    assert hand.window.picked == ("020",)


def test_files_in_the_way_are_found_and_another_folder_mends_it(hand, tmp_path):
    folder = tmp_path / "r" / "010"
    folder.mkdir(parents=True)
    (folder / "010.0007.exr").write_bytes(b"")
    hand.window.checker.ask()
    hand.wait()
    assert hand.wrong == {("overwriting", "010")}
    hand.press("Write 010 into r/010/new")
    assert hand.wrong == set()


def test_the_plan_itself_can_be_mended_too(qtbot, tmp_path):
    folder = tmp_path / "r"
    folder.mkdir()
    (folder / "010.0007.exr").write_bytes(b"")
    project = film().replace(launch=(), watching={"place": "r/{shot}.{frame:04}.exr"})
    hand = HandingOver(qtbot, project, tmp_path / "job.pemlo")
    assert hand.wrong == {("overwriting", "010")}
    hand.press("Write 010 into r/new")
    assert hand.wrong == set()
    assert [row.shot for row in hand.project.launch] == ["010"]


def test_own_lines_are_added_ticked_and_kept_for_all_films(qtbot, hand):
    lines = hand.panel.checks.lines
    lines.always.setChecked(True)
    QTest.keyClicks(lines.line, "sound is off")
    QTest.keyClick(lines.line, Qt.Key.Key_Return)
    hand.wait()
    assert hand.wrong == {("own", "")}
    hand.press("Tick off “sound is off”")
    assert hand.wrong == set()
    assert hand.project.own_checks[0].done
    assert hand.window.preferences.own_lines == ["sound is off"]
    hand.window.files.may_leave = lambda: True
    run_action(hand.window, "new")
    assert [one.words for one in hand.project.own_checks] == ["sound is off"]
    hand.window.preferences.own_lines = ["sound is off", "disk is empty", "mail is sent"]
    before = hand.project
    lines.show_lines(())
    lines.show_lines(before.own_checks)
    lines.usual.click()
    assert [one.words for one in hand.project.own_checks] == ["sound is off", "disk is empty", "mail is sent"]
    run_action(hand.window, "undo")
    assert hand.project.own_checks == before.own_checks


def test_the_first_frame_is_held_against_the_plan(hand, tmp_path):
    hand.window.pick(("010",))
    other = write(tmp_path / "020_night.0001.exr", ramp((24, 16)), "half")
    stray = write(tmp_path / "stray.exr", ramp(), "half")
    hand.panel.first_frames.take([other, stray])
    assert "stray.exr" in hand.window.problems.words
    hand.wait()
    assert hand.wrong == {("first frame", "020")}
    hand.window.checker.first_frames.pop("020")
    hand.window.checker.ask()
    slow = write(tmp_path / "010.0020.exr", ramp(), "half", pemlo__scene="x", pemlo__seconds=9000.0, pemlo__samples=16)
    hand.panel.first_frames.take([slow])
    hand.wait()
    said = [finding.words for finding in hand.panel.found.findings if finding.check == "first frame"]
    assert any("took 2 h 30 m" in words for words in said)
    assert any("samples 16, planned 256" in words for words in said)
    write(tmp_path / "010.0020.exr", ramp((24, 16)), "half")
    hand.window.checker.ask()
    hand.wait()
    assert [finding.words for finding in hand.panel.found.findings if finding.check == "first frame"] == [
        "The first frame of 010 is 24×16 px, and 48×32 are planned."
    ]
    hand.window.checker.first_frames.pop("010")
    hand.window.checker.ask()
    hand.wait()
    assert hand.wrong == set()


def test_a_launch_is_pasted_dropped_and_read_from_a_header(qtbot, hand, tmp_path):
    table = "shot\tfirst\tlast\tsamples\n010\t1\t40\t16\n"
    hand.panel.launch.table.pasted.emit(table)
    hand.wait()
    assert hand.wrong == {("settings", "010")}
    path = tmp_path / "launch.csv"
    path.write_text("shot,first,last,pattern\n010,1,39,{shot}.{frame:04}.exr\n")
    hand.window.dropped.take([str(path)])
    hand.wait()
    assert hand.wrong == {("range", "010")}
    path.write_text("shot,first,last,pattern\n999,1,39,x\n")
    hand.window.run(lambda: hand.window.dropped.take([str(path)]))
    hand.wait()
    assert "no shot 999" in hand.window.problems.words
    assert hand.wrong == {("range", "010")}
    frame = write(tmp_path / "a.exr", ramp(), "half", pemlo__scene="x", pemlo__samples=16, pemlo__seconds=3.0)
    hand.panel.launch.take_header("010", frame)
    assert hand.project.launch[-1].samples == 16


def test_looking_at_everything_that_can_be_handed_over(qtbot, hand):
    hand.panel.outputs.template.setText("render {shot} -s {first} -e {last} -m {machine}")
    for group in ("Settings sheet", "Command lines", "The case", "Run sheet", "Tables"):
        from pemlo.gui.handover.outputs_box import GROUPS

        hand.panel.outputs.look_wanted.emit(next(one for one in GROUPS if one.name == group))
        settle(qtbot, hand.window)
        (shown,) = [one for one in hand.panel.findChildren(PreviewDialog) if one.isVisible()]
        if shown.pages:
            page = shown.pages[0].pixmap()
            # A4 at 96 dots an inch: 210 by 297 mm.
            sides = (1123, 794) if group == "Settings sheet" else (794, 1123)  # the sheet's table lies on its side
            assert (page.width(), page.height()) == pytest.approx(sides, abs=2)
        else:
            assert shown.text.toPlainText().strip()
        if group == "Command lines":
            lines = shown.text.toPlainText().splitlines()
            assert [shlex.split(line)[1] for line in lines] == sorted(shlex.split(line)[1] for line in lines)
            assert all(line.startswith("render 0") for line in lines)
        shown.close()
        qtbot.waitUntil(lambda: not [one for one in hand.panel.findChildren(PreviewDialog) if one.isVisible()])


def test_a_template_that_cannot_be_says_so_beside_its_field(hand):
    field = hand.panel.outputs.template
    field.setText("render {nothing}")
    field.editingFinished.emit()
    assert "{nothing}" in hand.panel.outputs.wrong.text()
    field.setText("render {shot}")
    field.editingFinished.emit()
    assert not hand.panel.outputs.wrong.isVisible()
    assert hand.window.preferences.command_template == "render {shot}"


def test_all_that_is_usual_goes_into_a_folder(qtbot, hand, tmp_path, monkeypatch):
    out = tmp_path / "out"
    out.mkdir()
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_: str(out))
    for key, tick in hand.panel.outputs.ticks.items():
        tick.setChecked(key not in LACKING)
    assert hand.window.preferences.usual_outputs == [key for key in hand.panel.outputs.ticks if key not in LACKING]
    QTest.mouseClick(hand.panel.outputs.all, Qt.MouseButton.LeftButton)
    settle(qtbot, hand.window)
    assert sorted(one.name for one in out.iterdir()) == sorted(hand.window.preferences.usual_outputs)
    assert (out / "case.pdf").read_bytes().startswith(b"%PDF")
    assert json.loads((out / "settings.json").read_text())[0]["shot"] == "010"
    assert "BEGIN:VCALENDAR" in (out / "run.ics").read_text()
    assert hand.panel.outputs.said.text().startswith("13 files written in out.")


def test_a_folder_that_cannot_be_written_loses_nothing(qtbot, hand, tmp_path):
    hand.panel.giving.hand_over(tmp_path / "nowhere")
    settle(qtbot, hand.window)
    assert "cannot be saved" in hand.window.problems.words
    assert hand.project == film()


def test_the_whole_project_is_weighed_and_packed(qtbot, hand, tmp_path, monkeypatch):
    asked = []
    monkeypatch.setattr(
        QFileDialog, "getSaveFileName", lambda _, title, *more: asked.append(title) or (str(tmp_path / "all"), "")
    )
    QTest.mouseClick(hand.panel.outputs.pack, Qt.MouseButton.LeftButton)
    settle(qtbot, hand.window)
    settle(qtbot, hand.window)
    assert "0 MiB" in asked[0]
    assert read_project(tmp_path / "all" / "job.pemlo") == hand.project


def test_nothing_to_hand_over_teaches_the_next_step(qtbot):
    hand = open_window(qtbot, make_project(()))
    run_action(hand, "hand-over")
    settle(qtbot, hand)
    assert hand.handover.nothing.isVisible()
    assert not hand.handover.stage.isVisible()


def test_the_first_frame_is_rendered_as_it_is_launched_and_held_against_the_plan(qtbot, tmp_path):
    shot = make_shot("010", 48).replace(extra_columns=(("scene", "stairs"),), asked={"samples": 16})
    project = make_project(
        (shot, make_shot("020", 10)), well_timed("010", (1, 40)), (Machine(name="desk"),), width=64, height=36
    )
    launched = project.replace(launch=(plan_row(project, shot).replace(samples=4),))
    hand = HandingOver(qtbot, launched, tmp_path / "job.pemlo")
    hand.window.pick(("020",))
    QTest.mouseClick(hand.panel.checks.render_it, Qt.MouseButton.LeftButton)
    assert "How a frame of 020 is rendered is not said" in hand.window.problems.words
    hand.window.pick(("010",))
    QTest.mouseClick(hand.panel.checks.render_it, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: not hand.window.trial_queue.waiting, timeout=60_000)
    hand.wait()
    trial = hand.project.trials[-1]
    assert (trial.samples, trial.frame) == (4, 24)
    said = [finding.words for finding in hand.panel.found.findings if finding.check == "first frame"]
    assert any("samples 4, planned 16" in words for words in said), said
