"""A folder into which frames still come is not taken for a whole shot unasked."""

import numpy as np
import pytest

from film import make_project
from pemlo_simulators.renderer.exr import Channels, write_exr
from window import open_window, settle

BLACK = Channels(("R", "G", "B"), np.full((9, 16, 3), 0.2, np.float32), {})


@pytest.fixture
def window(qtbot, tmp_path):
    (tmp_path / "010").mkdir()
    for frame in range(1, 13):
        write_exr(tmp_path / f"010/010.{frame:04}.exr", BLACK)
    made = open_window(qtbot, make_project(()))
    made.folder.take(tmp_path / "010")
    qtbot.waitUntil(lambda: bool(made.document.project.shots))
    settle(qtbot, made)
    return made


def test_it_is_asked_whether_it_is_complete_and_watched_at_once(window, monkeypatch):
    (shot,) = window.document.project.shots
    assert (shot.first, shot.last) == (1, 12)
    assert window.problems.words.startswith("010 may still be rendering: its newest file came")
    assert "how many samples they have is not known" in window.problems.words
    monkeypatch.setattr(window.folder, "ask_last", lambda one: 40)
    window.problems.acts[-1].click()
    (shot,) = window.document.project.shots
    assert (shot.first, shot.last) == (1, 40)
    assert shot.place.endswith("010/010.{frame:04}.exr")
    assert window.watcher.wanted
    window.document.history.undo()
    assert window.document.project.shots[0].last == 12


def test_whoever_says_nothing_keeps_what_was_taken(window, monkeypatch):
    monkeypatch.setattr("pemlo.gui.brief.frames_folder.QInputDialog.getInt", lambda *_: (12, False))
    window.problems.acts[-1].click()
    assert window.document.project.shots[0].place == ""
