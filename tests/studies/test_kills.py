"""Programs that are killed while they write leave what was there, or what they wrote: a short run."""

import os

import pytest

import kills

WITHOUT_QT = os.environ.get("PEMLO_WITHOUT_QT") == "1"


@pytest.mark.filterwarnings("ignore:This process .* is multi-threaded:DeprecationWarning")
def test_saving_planning_and_watching_are_killed(capfd, monkeypatch):
    if WITHOUT_QT:  # the window's document is of the other run
        monkeypatch.setattr(kills, "_by_document", kills.write_project)
    assert kills.main(15) == 0
    said = capfd.readouterr().out
    assert "saving: 15 kills" in said
    assert "plan --adopt: 3 kills" in said
    assert "watch: 3 kills" in said


def test_a_document_that_is_cut_is_found(tmp_path):
    path = tmp_path / "film.pemlo"
    kills.write_project(kills.film(), path)
    assert kills.saved(path) == ""
    path.write_text(path.read_text()[:-40])
    assert kills.saved(path)
    kills.write_project(kills.film("New"), path)
    (tmp_path / "stray.txt").write_text("x")
    assert "stray.txt" in kills.saved(path)
