"""Review movies and comparisons in the real window: seen, written, stopped."""

import av
import numpy as np
import OpenImageIO as oiio
import pytest
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QFileDialog

from film import make_project, make_shot, well_timed
from handing_over import hand, quick_checks
from pemlo.core.project.machines import Machine
from pemlo.gui.handover.movie_form import MovieForm, MovieLookDialog
from pemlo.gui.judge.viewer.placement import Mode
from window import open_window, run_action, settle

__all__ = ["hand", "quick_checks"]


def test_a_movie_of_trial_frames_is_written_and_stopping_leaves_nothing(qtbot, hand, tmp_path):
    frames = tmp_path / "r"
    frames.mkdir()
    for frame in range(1, 41):
        assert oiio.ImageBuf(np.full((64, 96, 3), 90, np.uint8)).write(str(frames / f"010.{frame:04}.png"))
    from pemlo.handover.movie.codecs import offered

    form = MovieForm(hand.window, hand.project, offered(), ("010",), None, hand.window.exports)
    qtbot.addWidget(form)
    form.source.setCurrentText("frames elsewhere")
    form.place.setText("r/{shot}.{frame:04}.png")
    form.shots.setCurrentIndex(1)
    form.timecode.setText("10:00:00:99")
    form.begin.click()
    assert "Timecode" in form.wrong.text()
    form.timecode.setText("10:00:00:00")
    wish, path = form.wish, tmp_path / "review.mp4"
    hand.window.exports.movie(wish, path, lambda made: hand.panel.giving._say_movie(path, made))
    settle(qtbot, hand.window)
    with av.open(str(path)) as file:
        assert file.streams.video[0].frames == 40
    assert hand.panel.outputs.said.text() == "review.mp4: 40 frames."
    path.unlink()
    hand.window.exports.movie(wish, path, lambda made: None)
    hand.window.jobs.stop("review movie")
    settle(qtbot, hand.window)
    qtbot.waitUntil(lambda: not list(tmp_path.glob(".pemlo-*")), timeout=10_000)
    assert not path.exists()
    assert "review movie" in hand.window.jobs.not_done


def test_pictures_of_a_movie_are_seen_before_it_is_written(qtbot, hand, tmp_path):
    """Any picture at its real size with its words; the last that is asked for; why there is none."""
    from pemlo.handover.movie.codecs import offered

    (tmp_path / "r").mkdir()
    for frame in range(1, 31):
        codes = np.full((240, 480, 3), 60 + frame, np.uint8)
        assert oiio.ImageBuf(codes).write(str(tmp_path / "r" / f"010.{frame:04}.png"))
    form = MovieForm(hand.window, hand.project, offered(), ("010",), None, hand.window.exports)
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
        "010, frame 1: picture 1 of 40, 10 slates for missing frames. 480×240 px, 1.7 s; before it is encoded."
    )
    seen.which.setValue(38)
    seen.which.setValue(11)  # before the other is there
    settle(qtbot, hand.window)
    assert seen.picture.pixmap().toImage().pixelColor(240, 60).red() == 72
    (tmp_path / "r").rename(tmp_path / "away")
    seen.which.setValue(15)
    settle(qtbot, hand.window)
    assert seen.picture.text().startswith("No frame is finished")
    assert not seen.said.text()  # and nothing of the picture before
    (tmp_path / "away").rename(tmp_path / "r")
    seen.which.setValue(20)
    seen.accept()  # before it is there
    settle(qtbot, hand.window)
    form.place.setText("nowhere/{shot}.{frame:04}.png")
    form.look()
    settle(qtbot, hand.window)
    (seen,) = form.findChildren(MovieLookDialog)
    assert seen.picture.text().startswith("No frame is finished")
    seen.accept()


def test_a_movie_has_finished_frames_beside_those_elsewhere_where_shots_have_their_own_place(qtbot, hand, tmp_path):
    from pemlo.handover.movie.codecs import offered

    for folder, code in (("r", 90), ("before", 200)):
        (tmp_path / folder).mkdir()
        for frame in range(1, 41):
            picture = oiio.ImageBuf(np.full((64, 96, 3), code, np.uint8))
            assert picture.write(str(tmp_path / folder / f"010.{frame:04}.png"))
    hand.window.document.edit("x", lambda project: project.replace(shots=tuple(
        shot.replace(place="r/{shot}.{frame:04}.png") for shot in project.shots)))  # fmt: skip
    form = MovieForm(hand.window, hand.project, offered(), ("010",), None, hand.window.exports)
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
    hand.window.exports.movie(form.wish, path, lambda made: None)
    settle(qtbot, hand.window)
    with av.open(str(path)) as file:
        picture = next(file.decode(video=0)).to_ndarray(format="rgb24")
    assert picture.shape[:2] == (64, 192)
    assert picture[32, 48] == pytest.approx([200] * 3, abs=2)
    assert picture[32, 144] == pytest.approx([90] * 3, abs=2)


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
    project = project.replace(trials=tuple(
        trial.replace(frame=1, picture=f"{number}.png", samples=64 * (number + 1)) for number, trial in enumerate(project.trials[:2])
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
