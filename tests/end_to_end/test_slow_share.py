"""Pictures that change on the disk: what is shown of them comes after, and nothing waits for it."""

import os
import time
from pathlib import Path

import pytest

from exr import write_exr
from film import exact_trial, make_project
from pemlo.app import file_facts
from pemlo.core.files.written import when_written
from pemlo.core.persistence.document import read_project, write_project
from pemlo.core.project.edits import set_trial
from pemlo.gui.judge.viewer.picture_row import ERRORS
from pemlo.gui.stages import JUDGE, TRADE, TRIALS
from photographs import gaussian, photograph
from window import open_window, pick_lines, settle, without_advice

OWN_MEMO = True

SIZE = (96, 64)


@pytest.fixture
def film(tmp_path, monkeypatch):
    """A film of one shot with a noisy picture and a clean one."""
    without_advice(monkeypatch)
    monkeypatch.setattr(file_facts, "OLD_S", 0.0)
    clean = photograph("astronaut", SIZE)
    trials = []
    for samples in (16, 256):
        write_exr(tmp_path / f"n{samples}.exr", *gaussian(clean, 24 / samples**0.5, samples))
        trials.append(exact_trial("010", 5, samples).replace(picture=f"n{samples}.exr"))
    write_project(make_project(trials=tuple(trials)), tmp_path / "film.pemlo")
    return tmp_path / "film.pemlo"


@pytest.fixture
def window(qtbot, film):
    return open_window(qtbot, read_project(film), film)


class Slow:
    """A disk that answers only when a test lets it."""

    def __init__(self, monkeypatch):
        self.stopped, self._look = True, when_written
        monkeypatch.setattr("pemlo.gui.main_window.when_written", self.find)

    def find(self, path, before):
        while self.stopped:
            time.sleep(0.001)
        return self._look(path, before)


def error(window):
    return next(one.text for one in window.judge.sheet.lines.shown if one.name == "error")


def test_a_picture_that_is_written_anew_is_measured_anew(qtbot, window, film):
    window.show_stage(JUDGE)
    settle(qtbot, window)
    before = error(window)
    write_exr(film.parent / "n16.exr", *gaussian(photograph("astronaut", SIZE), 24, 7))
    os.utime(film.parent / "n16.exr", ns=(1, 1))
    window.show_stage(JUDGE)
    qtbot.waitUntil(lambda: not window.jobs.running and error(window) != before)
    assert float(error(window).split()[0]) > 2 * float(before.split()[0])


def test_a_picture_that_is_gone_is_shown_no_more(qtbot, window, film):
    window.show_stage(JUDGE)
    settle(qtbot, window)
    assert [one.path.name for one in window.judge.pair.among] == ["n16.exr", "n256.exr"]
    (film.parent / "n16.exr").unlink()
    window.show_stage(JUDGE)
    qtbot.waitUntil(lambda: [one.path.name for one in window.judge.pair.among] == ["n256.exr"])
    settle(qtbot, window)
    window.show_stage(TRIALS)
    pick_lines(window.trials.table, [0])
    window.trials.show_picture()
    settle(qtbot, window)
    assert "n16.exr is not there any more" in window.problems.words
    assert not hasattr(window.trials.pictures, "view")


def test_a_share_that_does_not_answer_holds_nothing_up(qtbot, monkeypatch, film):
    slow = Slow(monkeypatch)
    window = open_window(qtbot, read_project(film), film)
    window.show_stage(JUDGE)
    assert window.judge.empty.text() == "Looking for the pictures of 010 …"
    window.show_stage(TRADE)
    assert window.trade.planner.finding_out
    assert window.trade.planner.options_of("010") is None
    window.show_stage(JUDGE)
    slow.stopped = False
    settle(qtbot, window)
    assert window.judge.pair.left.path.name == "n16.exr"
    window.show_stage(TRADE)
    settle(qtbot, window)
    assert window.trade.planner.appearance_of("010") is not None


def test_another_film_is_opened_while_the_share_does_not_answer(qtbot, monkeypatch, film):
    slow = Slow(monkeypatch)
    window = open_window(qtbot, read_project(film), film)
    window.show_stage(JUDGE)
    window.files.new()
    slow.stopped = False
    settle(qtbot, window)
    assert not window.judge.row.any
    assert window.judge.empty.text().startswith("No trial of the film has a picture yet.")


def test_frames_beside_a_file_are_looked_for_while_it_is_shown(qtbot, window, film):
    clean = photograph("astronaut", SIZE)
    for frame in (3, 4, 5):
        write_exr(film.parent / f"run.{frame:04d}.exr", gaussian(clean, 3, frame)[0])
    window.show_stage(JUDGE)
    window.judge.choosing.show_files([film.parent / "run.0004.exr"])
    settle(qtbot, window)
    assert window.judge.pair.left.path == Path(film.parent / "run.0004.exr")
    qtbot.waitUntil(lambda: sorted(window.judge.player.runs["left"].paths) == [3, 4, 5])
    window.judge.pages.show(ERRORS)
    settle(qtbot, window)


def test_a_look_of_other_pictures_is_not_told_while_the_new_one_is_found(qtbot, window):
    window.show_stage(TRADE)
    settle(qtbot, window)
    planner = window.trade.planner
    before = planner.appearance_of("010")
    assert before is not None
    window.document.edit("Leave out", lambda p: set_trial(p, 0, left_out="by hand"))
    qtbot.waitUntil(lambda: planner.state is not None and planner.weighing)
    assert planner.appearance_of("010") is None
    settle(qtbot, window)
    assert planner.appearance_of("010") is not None
    assert planner.appearance_of("010") is not before
