"""Hand-over in the real window: mistakes found and mended, a first frame, files in a folder, an edit, a movie."""

import json
import shlex

import av
import numpy as np
import OpenImageIO as oiio
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QImage
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog, QLabel, QPushButton

from film import make_project, make_shot, well_timed
from frame_files import ramp, write
from pemlo.app import launch_checker
from pemlo.core.persistence.document import read_project
from pemlo.core.preflight.finding import WRONG
from pemlo.core.preflight.situation import plan_row
from pemlo.core.project.machines import Machine
from pemlo.gui.handover.movie_form import MovieForm
from pemlo.gui.handover.movie_look import MovieLookDialog
from pemlo.gui.handover.preview import PreviewDialog
from pemlo.gui.judge.viewer.placement import Mode
from window import open_window, run_action, settle, type_in_cell, without_advice


@pytest.fixture(autouse=True)
def _quick(monkeypatch):
    without_advice(monkeypatch)
    monkeypatch.setattr(launch_checker, "REST_MS", 1)


def film():
    shots = (make_shot("010", 40), make_shot("020", 30))
    project = make_project(
        shots, well_timed("010", (1, 40)), (Machine(name="desk"), Machine(name="blade")), width=48, height=32
    )
    rows = tuple(
        plan_row(project, shot).changed(pattern="{shot}.{frame:04}.exr", folder=f"r/{shot.name}") for shot in shots
    )
    return project.changed(launch=rows)


class HandingOver:
    """A window on Hand-over."""

    def __init__(self, qtbot, project, path=None):
        self.qtbot = qtbot
        self.window = open_window(qtbot, project, path)
        run_action(self.window, "hand-over")
        self.panel = self.window.handover
        self.wait()

    def wait(self):
        settle(self.qtbot, self.window)
        self.qtbot.waitUntil(lambda: self.window.checker.rests, timeout=20_000)
        settle(self.qtbot, self.window)

    @property
    def project(self):
        return self.window.document.project

    @property
    def wrong(self):
        return {(one.check, one.shot) for one in self.panel.found.findings if one.outcome == WRONG}

    def links(self, words):
        return [one for one in self.panel.checks.findings.findChildren(QPushButton) if one.text() == words]

    def press(self, words):
        (link,) = self.links(words)
        QTest.mouseClick(link, Qt.MouseButton.LeftButton)
        self.wait()


@pytest.fixture
def hand(qtbot, tmp_path):
    return HandingOver(qtbot, film(), tmp_path / "job.pemlo")


def test_a_mistake_is_typed_found_mended_and_undone(qtbot, hand):
    assert hand.wrong == set()
    assert hand.panel.launch.table.selected_rows() == [0]
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
        "x", lambda project: project.changed(launch=(project.launch[0].changed(step=2), project.launch[1]))
    )
    hand.window.document.edit("y", lambda project: project.changed(launch=(project.launch[0].changed(step=1, samples=1), project.launch[1])))  # fmt: skip
    run_action(hand.window, "undo")
    hand.wait()
    assert hand.wrong == {("step", "010")}


def test_all_fine_is_said_with_what_was_checked(qtbot, hand):
    trials = [
        one.changed(memory_gib=1.0, disk_mib=1.0, picture="a.exr", mark="good enough", error=2.0)
        for one in well_timed("010", (1, 40))
    ]
    trials += [one.changed(shot="020") for one in trials]
    hand.window.document.edit("x", lambda project: project.changed(
        trials=tuple(trials), machines=(Machine(name="desk", memory_gib=64.0),)))  # fmt: skip
    hand.wait()
    said = " ".join(one.text() for one in hand.panel.checks.findings.findChildren(QLabel))
    assert said.startswith("All is fine. Checked: all shots, range, "), said
    assert hand.panel.checks.said.text() == "2 of 2 shots ready. The launch is checked."


def test_mend_all_is_one_step(hand):
    before = hand.project
    hand.window.document.edit("x", lambda project: project.changed(
        launch=tuple(row.changed(percent=50.0, samples=1) for row in project.launch)))  # fmt: skip
    hand.wait()
    assert len(hand.wrong) == 4
    QTest.mouseClick(hand.panel.checks.mend_all, Qt.MouseButton.LeftButton)
    hand.wait()
    assert hand.wrong == set()
    run_action(hand.window, "undo")
    run_action(hand.window, "undo")
    assert hand.project == before


def test_a_mark_picks_its_shot_and_lists_can_be_narrowed(qtbot, hand):
    hand.window.document.edit("x", lambda project: project.changed(
        launch=tuple(row.changed(samples=1) for row in project.launch)))  # fmt: skip
    hand.wait()
    states = hand.panel.checks.states
    QTest.mouseClick(states, Qt.MouseButton.LeftButton, pos=states.box_of(1).center().toPoint())
    assert hand.window.picked == ("020",)
    assert hand.panel.launch.table.selected_rows() == [1]
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
    project = film().changed(launch=(), watching={"place": "r/{shot}.{frame:04}.exr"})
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
    hand.panel.take_first_frames([other, stray])
    assert "stray.exr" in hand.window.problems.words
    hand.wait()
    assert hand.wrong == {("first frame", "020")}
    hand.window.checker.drop_first_frame("020")
    slow = write(tmp_path / "010.0020.exr", ramp(), "half", pemlo__scene="x", pemlo__seconds=9000.0, pemlo__samples=16)
    hand.panel.take_first_frames([slow])
    hand.wait()
    said = [one.words for one in hand.panel.found.findings if one.check == "first frame"]
    assert any("took 2 h 30 m" in words for words in said)
    assert any("samples 16, planned 256" in words for words in said)
    write(tmp_path / "010.0020.exr", ramp((24, 16)), "half")
    hand.window.checker.ask()
    hand.wait()
    assert [one.words for one in hand.panel.found.findings if one.check == "first frame"] == [
        "The first frame of 010 is 24×16 px, and 48×32 are planned."
    ]
    hand.window.checker.drop_first_frame("010")
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
            assert (page.width(), page.height()) == pytest.approx((794, 1123), abs=2)
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
        tick.setChecked(key != "commands.txt")
    assert hand.window.preferences.usual_outputs == [key for key in hand.panel.outputs.ticks if key != "commands.txt"]
    QTest.mouseClick(hand.panel.outputs.all, Qt.MouseButton.LeftButton)
    settle(qtbot, hand.window)
    assert sorted(one.name for one in out.iterdir()) == sorted(hand.window.preferences.usual_outputs)
    assert (out / "case.pdf").read_bytes().startswith(b"%PDF")
    assert json.loads((out / "settings.json").read_text())[0]["shot"] == "010"
    assert "BEGIN:VCALENDAR" in (out / "run.ics").read_text()
    assert hand.panel.outputs.said.text().startswith("13 files written in out.")


def test_a_folder_that_cannot_be_written_loses_nothing(qtbot, hand, tmp_path):
    hand.panel.hand_over(tmp_path / "nowhere")
    settle(qtbot, hand.window)
    assert "cannot be saved" in hand.window.problems.words
    assert hand.project == film()


def test_a_movie_of_trial_frames_is_written_and_stopping_leaves_nothing(qtbot, hand, tmp_path):
    frames = tmp_path / "r"
    frames.mkdir()
    for frame in range(1, 41):
        assert oiio.ImageBuf(np.full((64, 96, 3), 90, np.uint8)).write(str(frames / f"010.{frame:04}.png"))
    from pemlo.core.handover.movie.codecs import offered

    form = MovieForm(hand.window, hand.project, offered(), ("010",), None, hand.window.outs)
    qtbot.addWidget(form)
    form.source.setCurrentText("frames elsewhere")
    form.place.setText("r/{shot}.{frame:04}.png")
    form.shots.setCurrentIndex(1)
    form.timecode.setText("10:00:00:99")
    form.begin.click()
    assert "Timecode" in form.wrong.text()
    form.timecode.setText("10:00:00:00")
    wish, path = form.wish, tmp_path / "review.mp4"
    hand.window.outs.movie(wish, path, lambda made: hand.panel._say_movie(path, made))
    settle(qtbot, hand.window)
    with av.open(str(path)) as file:
        assert file.streams.video[0].frames == 40
    assert hand.panel.outputs.said.text() == "review.mp4: 40 frames."
    path.unlink()
    hand.window.outs.movie(wish, path, lambda made: None)
    hand.window.jobs.stop("review movie")
    settle(qtbot, hand.window)
    qtbot.waitUntil(lambda: not list(tmp_path.glob(".pemlo-*")), timeout=10_000)
    assert not path.exists()
    assert "review movie" in hand.window.jobs.not_done


def test_pictures_of_a_movie_are_seen_before_it_is_written(qtbot, hand, tmp_path):
    """Any picture at its real size with its words; the last that is asked for; why there is none."""
    from pemlo.core.handover.movie.codecs import offered

    (tmp_path / "r").mkdir()
    for frame in range(1, 31):
        codes = np.full((240, 480, 3), 60 + frame, np.uint8)
        assert oiio.ImageBuf(codes).write(str(tmp_path / "r" / f"010.{frame:04}.png"))
    form = MovieForm(hand.window, hand.project, offered(), ("010",), None, hand.window.outs)
    qtbot.addWidget(form)
    form.source.setCurrentText("frames elsewhere")
    form.place.setText("r/{shot}.{frame:04}.png")
    form.shots.setCurrentIndex(1)
    form.look()
    (seen,) = form.findChildren(MovieLookDialog)
    settle(qtbot, hand.window)
    image = seen.picture.pixmap().toImage()
    assert (image.width(), image.height()) == (480, 240)
    assert image.pixelColor(240, 60).red() == 61
    assert seen.said.text() == (
        "010, frame 1: picture 1 of 40, 10 slates for what is missing. 480×240 px, 1.7 s; before it is encoded."
    )
    seen.which.setValue(38)
    seen.which.setValue(11)  # before the other is there
    settle(qtbot, hand.window)
    assert seen.picture.pixmap().toImage().pixelColor(240, 60).red() == 72
    seen.which.setValue(20)
    seen.accept()  # before it is there
    settle(qtbot, hand.window)
    form.place.setText("nowhere/{shot}.{frame:04}.png")
    form.look()
    settle(qtbot, hand.window)
    (seen,) = form.findChildren(MovieLookDialog)
    assert seen.picture.text().startswith("No finished frame is there")
    seen.accept()


def test_a_movie_has_finished_frames_beside_those_elsewhere_where_shots_have_their_own_place(qtbot, hand, tmp_path):
    from pemlo.core.handover.movie.codecs import offered

    for folder, code in (("r", 90), ("before", 200)):
        (tmp_path / folder).mkdir()
        for frame in range(1, 41):
            picture = oiio.ImageBuf(np.full((64, 96, 3), code, np.uint8))
            assert picture.write(str(tmp_path / folder / f"010.{frame:04}.png"))
    hand.window.document.edit("x", lambda project: project.changed(shots=tuple(
        shot.changed(place="r/{shot}.{frame:04}.png") for shot in project.shots)))  # fmt: skip
    form = MovieForm(hand.window, hand.project, offered(), ("010",), None, hand.window.outs)
    qtbot.addWidget(form)
    form.source.setCurrentText("frames elsewhere")
    form.beside.setCurrentText("finished frames")
    form.shots.setCurrentIndex(1)
    form.begin.click()
    assert form.wrong.text().startswith("Where the frames lie is empty.")
    form.place.setText("before/{shot}.{frame:04}.png")
    form.width_.setText("9²")
    form.begin.click()
    assert "no width" in form.wrong.text()
    form.width_.setText("96")
    for tick in form.burned.values():
        tick.setChecked(False)
    path = tmp_path / "both.mp4"
    hand.window.outs.movie(form.wish, path, lambda made: None)
    settle(qtbot, hand.window)
    with av.open(str(path)) as file:
        picture = next(file.decode(video=0)).to_ndarray(format="rgb24")
    assert picture.shape[:2] == (64, 192)
    assert picture[32, 48] == pytest.approx([200] * 3, abs=2)
    assert picture[32, 144] == pytest.approx([90] * 3, abs=2)


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


LIST = """TITLE: REEL
001  A1  V  C  00:00:00:00 00:00:02:00 01:00:00:00 01:00:02:00
* FROM CLIP NAME: 010
002  A2  V  C  00:00:00:00 00:00:01:00 01:00:02:00 01:00:03:00
* FROM CLIP NAME: 030
"""


def test_a_changed_edit_is_shown_before_it_is_taken_and_undone_in_one_step(qtbot, hand, tmp_path):
    path = tmp_path / "reel.edl"
    path.write_text(LIST)
    before = hand.project
    hand.window.dropped.take([str(path)])
    qtbot.waitUntil(lambda: hand.window.edits.form is not None, timeout=20_000)
    form = hand.window.edits.form
    settle(qtbot, hand.window)
    assert form.words.text() == "reel.edl: 1 new, 1 gone, 1 longer; 2 frames more."
    cells = [[form.table.item(row, column).text() for column in range(5)] for row in range(form.table.rowCount())]
    assert cells == [["010", "▸ longer", "1-40", "1-48", "+8"], ["030", "+ new", "", "1-24", "+24"],
                     ["020", "× gone", "1-30", "", "−30"]]  # fmt: skip
    assert "Machine-hours:" in form.effect.text()
    assert hand.project == before
    form.handles.line.setText("4")
    form.handles.line.editingFinished.emit()
    form.keep.setChecked(True)
    settle(qtbot, hand.window)
    form.go.click()
    settle(qtbot, hand.window)
    assert [shot.name for shot in hand.project.shots] == ["010", "030", "020"]
    assert hand.project.edited.name == "reel.edl"
    assert {shot.handles for shot in hand.project.shots} == {4}
    hand.wait()
    assert [one.row.shot for one in hand.panel.launch.model.rows] == ["010", "030", "020"]
    assert hand.window.answer.project is hand.project
    run_action(hand.window, "undo")
    hand.wait()
    assert hand.project == before
    assert [one.row.shot for one in hand.panel.launch.model.rows] == ["010", "020"]


def test_an_edit_that_is_not_taken_is_forgotten(qtbot, hand, tmp_path):
    path = tmp_path / "reel.edl"
    path.write_text(LIST)
    before = hand.project
    hand.window.dropped.take([str(path)])
    qtbot.waitUntil(lambda: hand.window.edits.form is not None, timeout=20_000)
    gone = hand.window.edits.form
    gone.reject()
    QTest.qWait(20)
    assert hand.window.edits.form is None
    hand.window.brief.add_shot()
    hand.wait()
    assert len(hand.panel.launch.model.rows) == len(before.shots) + 1


def test_a_film_begins_with_an_edit(qtbot, tmp_path, monkeypatch):
    path = tmp_path / "reel.edl"
    path.write_text(LIST)
    window = open_window(qtbot, make_project(()))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(path), ""))
    (offer,) = (one for one in window.brief.start.findChildren(QPushButton) if one.text() == "Open an edit…")
    offer.click()
    qtbot.waitUntil(lambda: window.edits.form is not None, timeout=20_000)
    settle(qtbot, window)
    assert window.edits.form.words.text() == "reel.edl: 2 new; 72 frames more."
    assert "Time one frame" in window.edits.form.effect.text()
    window.edits.form.go.click()
    settle(qtbot, window)
    assert [(shot.name, shot.first, shot.last) for shot in window.document.project.shots] == [
        ("010", 1, 48),
        ("030", 1, 24),
    ]
    assert not window.brief.start.isVisible()


def test_a_broken_edit_says_its_line(qtbot, hand, tmp_path):
    path = tmp_path / "reel.edl"
    path.write_text(LIST.replace("00:00:02:00", "00:00:02:99", 1))
    hand.window.dropped.take([str(path)])
    settle(qtbot, hand.window)
    assert "reel.edl, line 2" in hand.window.problems.words
    assert hand.window.edits.form is None


def test_nothing_to_hand_over_teaches_the_next_step(qtbot):
    hand = open_window(qtbot, make_project(()))
    run_action(hand, "hand-over")
    settle(qtbot, hand)
    assert hand.handover.nothing.isVisible()
    assert not hand.handover.stage.isVisible()


def test_the_first_frame_is_rendered_as_it_is_launched_and_held_against_the_plan(qtbot, tmp_path):
    shot = make_shot("010", 48).changed(extra_columns=(("scene", "stairs"),), asked={"samples": 16})
    project = make_project(
        (shot, make_shot("020", 10)), well_timed("010", (1, 40)), (Machine(name="desk"),), width=64, height=36
    )
    launched = project.changed(launch=(plan_row(project, shot).changed(samples=4),))
    hand = HandingOver(qtbot, launched, tmp_path / "job.pemlo")
    hand.window.pick(("020",))
    QTest.mouseClick(hand.panel.checks.render_it, Qt.MouseButton.LeftButton)
    assert "no scene" in hand.window.problems.words
    hand.window.pick(("010",))
    QTest.mouseClick(hand.panel.checks.render_it, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: not hand.window.renderings.waiting, timeout=60_000)
    hand.wait()
    trial = hand.project.trials[-1]
    assert (trial.samples, trial.frame) == (4, 24)
    said = [one.words for one in hand.panel.found.findings if one.check == "first frame"]
    assert any("samples 4, planned 16" in words for words in said), said


def test_a_comparison_is_written_with_words_below(qtbot, tmp_path, monkeypatch):
    from pemlo.demo import demo_project

    window = open_window(qtbot, demo_project())
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(tmp_path / "pair"), ""))
    window.pick(("060",))
    run_action(window, "judge")
    settle(qtbot, window)
    canvas = window.judge.canvas.size()
    run_action(window, "out comparison")
    settle(qtbot, window)
    picture = QImage(str(tmp_path / "pair.png"))
    assert picture.width() == canvas.width()
    words = picture.height() - canvas.height()
    assert words >= 80  # what it is, both pictures, what was measured
    below = {picture.pixelColor(x, y).lightness() for x in range(400) for y in range(canvas.height(), picture.height())}
    assert max(below) > 200
    assert min(below) < 100
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(tmp_path / "nowhere" / "a.png"), ""))
    run_action(window, "out comparison")
    settle(qtbot, window)
    assert "cannot be written" in window.problems.words


def test_a_whole_comparison_has_every_pixel_whatever_the_window_has_room_for(qtbot, tmp_path, monkeypatch):
    codes = np.random.default_rng(4).integers(0, 256, (2, 900, 1400, 3)).astype(np.uint8)
    project = make_project((make_shot("010", 8),), well_timed("010", (1, 8)), (Machine(name="desk"),))
    project = project.changed(trials=tuple(
        trial.changed(frame=1, picture=f"{number}.png", samples=64 * (number + 1)) for number, trial in enumerate(project.trials[:2])
    ))  # fmt: skip
    for number in range(2):
        assert oiio.ImageBuf(np.ascontiguousarray(codes[number])).write(str(tmp_path / f"{number}.png"))
    window = open_window(qtbot, project, tmp_path / "job.pemlo")
    window.resize(1280, 800)
    run_action(window, "judge")
    settle(qtbot, window)
    canvas = window.judge.canvas
    canvas.say("", "")
    canvas.set_zoom(4.0)
    canvas.spot = None
    for mode, width in ((Mode.BESIDE, 2802), (Mode.SPLIT, 1400)):
        canvas.show_mode(mode)
        monkeypatch.setattr(
            QFileDialog, "getSaveFileName", lambda *_, mode=mode: (str(tmp_path / f"{mode.name}.png"), "")
        )
        run_action(window, "out whole comparison")
        settle(qtbot, window)
        picture = QImage(str(tmp_path / f"{mode.name}.png"))
        assert (picture.width(), picture.height() > 900) == (width, True)
        for x, y in ((3, 5), (600, 450), (20, 899)):
            assert picture.pixelColor(x, y).getRgb()[:3] == tuple(codes[0, y, x])
            assert picture.pixelColor(width - 1 - x, y).getRgb()[:3] == tuple(codes[1, y, 1399 - x])
    assert canvas.placement.zoom == 4.0
