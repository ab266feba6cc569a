"""Trials that are rendered from the window, and pictures that are dropped into it."""

import json
import math
from pathlib import Path

import numpy as np
import OpenImageIO as oiio
import psutil
import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLabel

from film import make_project, make_shot, well_timed
from pemlo.app.trial_queue import TrialQueue
from pemlo.app.trial_rows import RENDER
from pemlo.core.files.header import Header
from pemlo.core.persistence.document import read_project, write_project
from pemlo.gui.trials import presenter
from pemlo.gui.trials.dropped_pictures import NamesForm
from pemlo.gui.trials.trial_edits import LEFT_OUT_BY_HAND
from render_programs import ANSWERS, FAILS, HANGS, way_of
from window import cell, index_of, open_window, pick_lines, run_action, settle, type_in_cell

SHOT = make_shot("010", 48).replace(extra_columns=(("scene", "stairs"),), asked={"samples": 4})


def film_window(qtbot, tmp_path, project=None, code=ANSWERS):
    path = tmp_path / "film.pemlo"
    project = project or make_project(shots=(SHOT, make_shot("020", 50)), width=64, height=36)
    if code is not None:
        project = project.replace(render_ways=(way_of(tmp_path, code),))
    write_project(project, path)
    window = open_window(qtbot, project, path)
    run_action(window, "trials")
    return window


def rendered(qtbot, window, timeout=60_000):
    qtbot.waitUntil(lambda: not window.trial_queue.waiting, timeout=timeout)
    settle(qtbot, window)


def hanging(qtbot, tmp_path):
    """Return the renderer's process, once it is there."""

    def found():
        return [one for one in psutil.process_iter(["cmdline"]) if f"{tmp_path}/main.py" in (one.info["cmdline"] or [])]

    qtbot.waitUntil(lambda: bool(found()), timeout=10_000)
    return found()[0]


def in_form(window, fill):
    """Fill the form, press Render, and return what it said before."""
    run_action(window, "render")
    form = window.trials.renders.form
    assert form.isVisible()
    fill(form)
    said = form.words.text()
    form.go.click()
    return said


def test_the_real_renderer_renders_what_the_card_advises(qtbot, tmp_path):
    """Nothing is timed: she presses Render it, and has a trial with picture, noise and stage times, and a forecast."""
    window = film_window(qtbot, tmp_path, code=None)
    assert window.trials.card.render_it.isVisibleTo(window)
    window.trials.card.render_it.click()
    assert "Rendering frame" in window.trials.queue.waiting.text()
    rendered(qtbot, window, timeout=240_000)
    (trial,) = window.document.project.trials
    assert trial.left_out == ""
    assert trial.seconds == pytest.approx(sum(trial.stage_seconds().values()))
    assert trial.noise > 0
    assert len(trial.noise_shape) > 8
    assert trial.mean_samples == trial.samples
    assert (tmp_path / trial.picture).exists()
    assert (tmp_path / trial.picture.replace(".exr", ".small.jpg")).exists()
    assert window.verdict.headline.text().startswith("Makes")
    assert window.document.history.undo_text() == "Render a trial of 010"
    run_action(window, "undo")
    assert not window.document.project.trials
    run_action(window, "redo")
    run_action(window, "save")
    again = open_window(qtbot, read_project(tmp_path / "film.pemlo"), tmp_path / "film.pemlo")
    again.pick(("010",))
    run_action(again, "trials")
    pick_lines(again.trials.table, [0])
    run_action(again, "picture")
    settle(qtbot, again)
    assert again.trials.pictures.view.isVisible()
    assert "noise" in again.trials.pictures.view.words.text()
    whole = again.trials.pictures.view.canvas.picture
    share = trial.resolution_percent / 100
    assert (whole.width(), whole.height()) == (round(64 * share), round(36 * share))
    again.trials.pictures.view.close()
    # Its own picture, dropped in again, is the same trial.
    again.dropped.take([str(tmp_path / trial.picture)])
    settle(qtbot, again)
    dropped = dict(again.document.project.trials[1])
    for name, value in dict(trial).items():
        # The header holds 32 bits of each number.
        assert dropped[name] == (pytest.approx(value, rel=1e-6) if isinstance(value, float | tuple) else value), name


def test_a_ladder_lands_step_by_step(qtbot, tmp_path):
    window = film_window(qtbot, tmp_path)

    def fill(form):
        form.fields["frames"].setText("1, 48")
        form.fields["samples"].setText("16")
        form.fields["size"].setText("50")
        form._ladder()

    assert in_form(window, fill) == "6 frames, each a trial when it is done"
    rendered(qtbot, window)
    trials = window.document.project.trials
    assert [(t.frame, t.samples) for t in trials] == [(1, 4), (48, 4), (1, 8), (48, 8), (1, 16), (48, 16)]
    assert {t.resolution_percent for t in trials} == {50}
    assert [cell(window.trials.table, row, "noise") for row in (0, 5)] == ["50 %", "25 %"]


def test_a_part_of_the_frame_counts_as_what_it_is(qtbot, tmp_path):
    window = film_window(qtbot, tmp_path)
    in_form(window, lambda form: form.fields["region"].setText("0,0,9,9"))
    rendered(qtbot, window)
    (trial,) = window.document.project.trials
    width, height = window.document.project.size_of(window.document.project.shots[0])
    assert trial.region_percent == pytest.approx(100 * 81 / (width * height), rel=1e-3)
    assert cell(window.trials.table, 0, "region") == f"{trial.region_percent:g} %"
    assert not window.verdict.headline.text().startswith("Time one frame of shot")


def test_wrong_fields_keep_the_form_open_and_say_why(qtbot, tmp_path):
    window = film_window(qtbot, tmp_path)
    assert "is not in shot 010" in in_form(window, lambda form: form.fields["frames"].setText("99"))
    assert not window.trial_queue.waiting
    assert window.trials.renders.form.isVisible()
    assert not window.trials.renders.form.go.isEnabled()
    window.trials.renders.form.fields["frames"].setText("9")
    window.trials.renders.form.go.click()
    assert len(window.trial_queue.waiting) == 1
    assert not window.trials.renders.form.isVisible()
    rendered(qtbot, window)


def test_a_renderer_that_crashes_is_a_message_and_nothing_more(qtbot, tmp_path):
    window = film_window(qtbot, tmp_path, code=FAILS)
    window.trials.card.render_it.click()
    rendered(qtbot, window)
    assert "exit status 7. It said last: the last words" in window.problems.words
    assert not window.document.project.trials
    assert not window.trials.queue.rendering.isVisibleTo(window)


def test_shots_without_a_scene_are_not_offered_to_be_rendered(qtbot, tmp_path):
    window = film_window(qtbot, tmp_path, code=None)
    window.pick(("020",))
    window.trials.card.show_shot("020")
    assert not window.trials.card.render_it.isVisibleTo(window)
    run_action(window, "render")
    assert "How a frame of 020 is rendered is not said yet" in window.problems.words


def test_trials_are_left_out_and_taken_in_by_hand(qtbot, tmp_path):
    project = make_project(trials=well_timed())
    window = film_window(qtbot, tmp_path, project)
    run_action(window, "leave out")
    assert "No trial is picked" in window.problems.words
    before = window.verdict.detail.text()
    pick_lines(window.trials.table, [0, 1])
    run_action(window, "leave out")
    settle(qtbot, window)
    assert [t.left_out for t in window.document.project.trials[:3]] == [LEFT_OUT_BY_HAND, LEFT_OUT_BY_HAND, ""]
    assert window.state.answer.fit.timed_trials == len(project.trials) - 2
    pick_lines(window.trials.table, [0, 1])
    run_action(window, "leave out")
    settle(qtbot, window)
    assert window.document.project.trials == project.trials
    assert window.verdict.detail.text() == before


def test_pictures_of_others_are_asked_for_once(qtbot, tmp_path, monkeypatch):
    """He drops frames of another renderer: the names are asked for once, and remembered for the next window."""
    files = []
    for frame in (1, 30):
        spec = oiio.ImageSpec(32, 18, 3, "half")
        spec.attribute("studio/elapsed", "0:01:30")
        spec.attribute("studio/host", "blade 7")
        path = tmp_path / f"beauty.{frame:04d}.exr"
        out = oiio.ImageOutput.create(str(path))
        out.open(str(path), spec)
        out.write_image(np.full((18, 32, 3), 0.3, np.float32))
        out.close()
        files.append(str(path))
    window = film_window(qtbot, tmp_path)
    asked = []

    def answer(form):
        asked.append(form)
        assert not form.go.isEnabled()
        form.boxes["seconds"].setCurrentText("studio/elapsed")
        form.boxes["machine"].setCurrentText("studio/host")
        assert form.go.isEnabled()
        return True

    monkeypatch.setattr(NamesForm, "exec", answer)
    (tmp_path / "notes.exr").write_text("no picture")
    whole = Path(files[0]).read_bytes()
    (tmp_path / "beauty.0040.exr").write_bytes(whole[: len(whole) * 3 // 4])
    window.dropped.take([str(tmp_path / "beauty.0040.exr"), *files, str(tmp_path / "notes.exr")])
    settle(qtbot, window)
    assert [(t.frame, t.seconds, t.machine) for t in window.document.project.trials] == [
        (1, 90.0, "blade 7"), (30, 90.0, "blade 7")
    ]  # fmt: skip
    assert "notes.exr" in window.problems.words
    assert "beauty.0040.exr: " in window.problems.words
    run_action(window, "trials")
    small = index_of(window.trials.table, 0, "")
    qtbot.waitUntil(lambda: small.data(Qt.ItemDataRole.DecorationRole) is not None)  # a small copy was made
    assert sorted(p.name for p in tmp_path.glob("*.jpg")) == [], "and not beside somebody else's pictures"
    window.document.history.set_clean()
    again = film_window(qtbot, tmp_path)
    again.dropped.take(files[:1])
    settle(qtbot, again)
    assert len(asked) == 1
    assert len(again.document.project.trials) == 1
    assert json.loads(again.preferences._store.value("picture names")) == {
        "seconds": "studio/elapsed", "machine": "studio/host"
    }  # fmt: skip


def test_the_queue_of_a_closed_window_is_gone(qtbot, tmp_path):
    window = film_window(qtbot, tmp_path, code=HANGS)
    window.trials.card.render_it.click()
    process = hanging(qtbot, tmp_path)
    window.close()
    assert not process.is_running()
    assert isinstance(window.trial_queue, TrialQueue)
    assert not window.trial_queue.waiting


def test_another_project_forgets_what_was_being_rendered(qtbot, tmp_path):
    """He opens another film with a shot of the same name while a frame of the first is under way."""
    window = film_window(qtbot, tmp_path, code=HANGS)
    window.trials.card.render_it.click()
    process = hanging(qtbot, tmp_path)
    other = make_project(shots=(SHOT,), width=64, height=36)
    write_project(other, tmp_path / "other.pemlo")
    window.dropped.take([str(tmp_path / "other.pemlo")])
    settle(qtbot, window)
    assert window.document.project.shots == other.shots
    assert not window.trial_queue.waiting
    qtbot.waitUntil(lambda: not process.is_running(), timeout=5_000)
    assert not window.document.project.trials
    assert not window.trials.queue.rendering.isVisibleTo(window)


def test_stop_in_the_line_at_the_bottom_stops_the_whole_ladder(qtbot, tmp_path):
    window = film_window(qtbot, tmp_path, code=HANGS)
    in_form(window, lambda form: form.fields["samples"].setText("4, 8, 16"))
    assert len(window.trial_queue.waiting) == 3
    assert "2 more" in window.trials.queue.waiting.text()
    qtbot.waitUntil(
        lambda: [key for key in window.jobs.running if key.startswith(RENDER)] == list(window.jobs.running),
        timeout=20_000,
    )
    window.background._stop.click()
    assert not window.trial_queue.waiting
    settle(qtbot, window)
    assert not window.document.project.trials
    window.trials.card.render_it.click()
    assert len(window.trial_queue.waiting) == 1


def test_the_form_begins_with_the_picked_trial(qtbot, tmp_path):
    picked = well_timed()[2].replace(denoise="frame", keep=("light",), noise_threshold=0.1, min_samples=4)
    window = film_window(qtbot, tmp_path, make_project(shots=(SHOT,), trials=(picked,)), code=None)
    pick_lines(window.trials.table, [0])
    run_action(window, "render")
    typed = window.trials.renders.form.typed()
    assert typed == {
        "frames": str(picked.frame), "samples": "64", "thresholds": "0.1", "least": "4", "size": "50",
        "denoise": "frame", "keep": "light", "region": "", "cap": "", "split": "1,1,1", "switches": "", "saves": "0",
    }  # fmt: skip
    window.trials.renders.form._ladder()
    assert window.trials.renders.form.typed()["thresholds"] == "0.8, 0.4, 0.2, 0.1"
    assert window.trials.renders.form.words.text() == "4 frames, each a trial when it is done"
    window.trials.renders.form.fields["samples"].setText("none")
    window.trials.renders.form._ladder()
    assert "none" in window.trials.renders.form.words.text()
    window.trials.renders.form.reject()


def test_a_shot_is_given_a_scene_in_the_brief(qtbot, tmp_path):
    window = film_window(qtbot, tmp_path, make_project(shots=(make_shot("010", 48),), width=64, height=36), code=None)
    assert not window.trials.card.render_it.isVisibleTo(window)
    run_action(window, "brief")
    type_in_cell(qtbot, window.brief.shots, 0, "scene", "clock")
    settle(qtbot, window)
    run_action(window, "trials")
    assert window.trials.card.render_it.isVisibleTo(window)
    window.trials.card.render_it.click()
    rendered(qtbot, window)
    assert len(window.document.project.trials) == 1
    run_action(window, "undo")
    run_action(window, "undo")
    assert not window.trials.card.render_it.isVisibleTo(window)


@pytest.mark.parametrize("which", ["seconds", "noise"])
def test_a_click_on_a_dot_picks_its_trial(qtbot, tmp_path, which):
    """Dots of the noise have a scale of their own, at the right: each must be hit."""
    trials = tuple(trial.replace(noise=3.0 / trial.samples) for trial in well_timed(frames=(1,)))
    window = film_window(qtbot, tmp_path, make_project(shots=(SHOT,), trials=trials))
    window.load_stages()
    settle(qtbot, window)
    plot = window.trials.curves.ladder
    answer = window.state.answer
    ladder = presenter.ladder(answer.project, answer.project.shots[0], answer.fit, answer.draws)
    noise = which == "noise"
    dot = (ladder.noise.dots if noise else ladder.dots)[3]
    window.trials.table.clearSelection()
    at = plot.place(math.log10(dot.x), math.log10(dot.y), right=noise).toPoint()
    QTest.mouseClick(plot, Qt.MouseButton.LeftButton, pos=at)
    assert [window.trials.model.rows[row].index for row in window.trials.table.selected_lines()] == [dot.index]


def test_how_many_trials_are_left_out_is_said_above_the_table(qtbot, tmp_path):
    window = film_window(qtbot, tmp_path, make_project(trials=well_timed()))
    pick_lines(window.trials.table, [0, 1])
    run_action(window, "leave out")
    assert any("16 timed, 2 left out" in one.text() for one in window.trials.findChildren(QLabel))


def test_the_form_for_names_guesses_what_is_plain_and_shows_what_it_says(qtbot):
    header = Header(
        Path("beauty.0001.exr"), 32, 18, ("R",), {"studio/Samples": "64", "renderTime": "0:10", "min_samples": "8"}
    )
    form = NamesForm(None, header, {"seconds": "gone"})
    qtbot.addWidget(form)
    assert form.names() == {"min_samples": "min_samples"}
    assert not form.go.isEnabled()
    form.boxes["seconds"].setCurrentText("renderTime")
    assert form._said["seconds"].text() == "0:10"
    assert form.names() == {"min_samples": "min_samples", "seconds": "renderTime"}
    assert form.go.isEnabled()
    form.boxes["seconds"].setCurrentIndex(0)
    assert not form.go.isEnabled()
