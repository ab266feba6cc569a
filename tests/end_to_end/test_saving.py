"""Saving, saving elsewhere, and what others do to the file meanwhile: nothing is lost, nothing overwritten unasked."""

import json
import os
import threading

import pytest
from PySide6.QtGui import QPixmap
from PySide6.QtWidgets import QFileDialog, QMessageBox

from film import exact_trial, make_project, well_timed
from pemlo.app.picture_places import named_picture
from pemlo.app.recovery import folder, left_behind
from pemlo.core.persistence.document import read_project, to_text, write_project
from pemlo.demo import demo_project
from window import open_window, run_action, settle, without_advice

OWN_MEMO = True


def save_as(window, monkeypatch, path):
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(path), ""))
    run_action(window, "save as")


def pictures_there(window):
    project, path = window.document.project, window.document.path
    named = [named_picture(trial, path) for trial in project.trials]
    return sum(one is not None and one.is_file() for one in named)


@pytest.fixture
def film(tmp_path):
    """A film with two pictures: one beside it, one elsewhere."""
    here, there = tmp_path / "film", tmp_path / "renders"
    trials = []
    for number, place in enumerate((here, there)):
        place.mkdir()
        picture = QPixmap(8, 8)
        picture.fill("teal")
        picture.save(str(place / f"{number}.png"))
        name = f"{number}.png" if place == here else str(place / f"{number}.png")
        trials.append(exact_trial("010", 5 + number, 16).replace(picture=name))
    write_project(make_project(trials=tuple(trials)), here / "film.pemlo")
    return here / "film.pemlo"


def test_saved_elsewhere_all_pictures_are_found_and_after_undo_too(qtbot, film, tmp_path, monkeypatch):
    without_advice(monkeypatch)
    window = open_window(qtbot, read_project(film), film)
    assert pictures_there(window) == 2
    window.document.edit("Set film", lambda project: project.replace(title="Moved"))
    (tmp_path / "elsewhere").mkdir()
    save_as(window, monkeypatch, tmp_path / "elsewhere" / "moved.pemlo")
    assert pictures_there(window) == 2
    run_action(window, "undo")
    settle(qtbot, window)
    assert pictures_there(window) == 2
    again = open_window(qtbot, read_project(window.document.path), window.document.path)
    assert pictures_there(again) == 2
    assert read_project(film).trials[0].picture == "0.png", "what was there is as it was"


def test_the_demo_saved_elsewhere_keeps_its_pictures(qtbot, tmp_path, monkeypatch):
    without_advice(monkeypatch)
    window = open_window(qtbot, demo_project())
    before = pictures_there(window)
    assert before > 40
    save_as(window, monkeypatch, tmp_path / "mine.pemlo")
    assert pictures_there(window) == before
    again = open_window(qtbot, read_project(tmp_path / "mine.pemlo"), tmp_path / "mine.pemlo")
    assert pictures_there(again) == before


def test_a_new_film_has_no_pictures_of_the_demo(qtbot, monkeypatch):
    without_advice(monkeypatch)
    name = next(trial.picture for trial in read_project_of_demo().trials if trial.picture)
    window = open_window(qtbot, make_project(trials=(exact_trial("010", 5, 16).replace(picture=name),)))
    assert pictures_there(window) == 0


def read_project_of_demo():
    from pemlo.demo import DEMO_FILE

    return read_project(DEMO_FILE)


@pytest.mark.parametrize(("typed", "written"), [("film", "film.pemlo"), ("film v1.2", "film v1.2.pemlo")])
def test_an_ending_that_is_added_asks_before_it_overwrites(qtbot, tmp_path, monkeypatch, typed, written):
    without_advice(monkeypatch)
    path = tmp_path / written
    path.write_text("precious")
    window = open_window(qtbot, make_project(trials=well_timed()))
    asked = []
    monkeypatch.setattr(window.files.saving, "ask_replace", lambda path: bool(asked.append(path)))
    save_as(window, monkeypatch, tmp_path / typed)
    assert asked == [path]
    assert path.read_text() == "precious"
    monkeypatch.setattr(window.files.saving, "ask_replace", lambda path: True)
    save_as(window, monkeypatch, tmp_path / typed)
    assert read_project(path) == window.document.project


@pytest.mark.parametrize("answer", [QMessageBox.StandardButton.Cancel, QMessageBox.StandardButton.Save,
                                    QMessageBox.StandardButton.Open])  # fmt: skip
def test_what_a_colleague_saved_meanwhile_is_not_overwritten_unasked(qtbot, film, tmp_path, monkeypatch, answer):
    without_advice(monkeypatch)
    window = open_window(qtbot, read_project(film), film)
    window.document.edit("Set film", lambda project: project.replace(title="Mine"))
    write_project(read_project(film).replace(title="A colleague's"), film)
    asked = []
    monkeypatch.setattr(window.files.saving, "ask_changed", lambda error: asked.append(error.message) or answer)
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(film.with_name("mine.pemlo")), ""))
    run_action(window, "save")
    assert asked == ["film.pemlo was changed by somebody else since you opened it."]
    over = answer == QMessageBox.StandardButton.Save
    assert read_project(film).title == ("Mine" if over else "A colleague's")
    assert film.with_name("mine.pemlo").exists() == (answer == QMessageBox.StandardButton.Open)
    assert window.document.unsaved == (answer == QMessageBox.StandardButton.Cancel)
    if over:
        window.document.edit("Set film", lambda project: project.replace(title="Again"))
        run_action(window, "save")
        assert len(asked) == 1, "one's own save is no change by somebody else"


def test_a_copy_is_offered_though_its_process_number_is_used_again(tmp_path):
    folder().mkdir(parents=True)
    text = json.dumps({"path": "", "text": to_text(make_project().replace(title="Lost"))})
    (folder() / f"{os.getpid()}-1.kept").write_text(text)
    (folder() / "2-2.kept").write_text("[" * 200_000)
    assert [kept.project.title for kept in left_behind()] == ["Lost"]


def test_a_recovered_copy_stays_until_its_replacement_is_written(qtbot, monkeypatch):
    without_advice(monkeypatch)
    folder().mkdir(parents=True)
    kept = folder() / "1-1.kept"
    kept.write_text(json.dumps({"path": "", "text": to_text(make_project().replace(title="Lost"))}))
    window = open_window(qtbot, make_project())
    window.files._recover(left_behind()[0])
    assert kept.exists(), "the new copy is only on its way"
    settle(qtbot, window)
    assert not kept.exists()
    assert window.recovery.file.exists()


def test_what_is_typed_while_a_slow_disk_writes_is_neither_lost_nor_taken_for_saved(qtbot, film, monkeypatch):
    without_advice(monkeypatch)
    window = open_window(qtbot, read_project(film), film)
    begun, go_on = threading.Event(), threading.Event()

    def slowly(project, path):
        begun.set()
        assert go_on.wait(20)
        write_project(project, path)

    monkeypatch.setattr("pemlo.app.document.write_project", slowly)

    def title(words):
        window.document.edit("Set film", lambda project: project.replace(title=words))

    def save():
        window.run(next(action for action in window.actions_table if action.name == "save").run)

    title("First")
    save()
    qtbot.waitUntil(begun.is_set, timeout=5000)
    title("Second")
    go_on.set()
    window.files.saving.wait_until_saved()
    assert read_project(film).title == "First"
    assert window.document.unsaved
    window.document.history.undo()
    assert window.document.unsaved, "nobody knows any more that this is what the file has"
    begun.clear()
    go_on.clear()
    save()
    qtbot.waitUntil(begun.is_set, timeout=5000)
    title("Third")
    save()
    go_on.set()
    window.files.saving.wait_until_saved()
    qtbot.waitUntil(lambda: not window.document.unsaved, timeout=5000)
    assert read_project(film).title == "Third"


def test_a_save_that_fails_says_so_and_the_window_stays(qtbot, film, monkeypatch):
    without_advice(monkeypatch)
    window = open_window(qtbot, read_project(film), film)
    film.chmod(0o444)
    window.document.edit("Set film", lambda project: project.replace(title="Mine"))
    monkeypatch.setattr(window.files, "ask_unsaved", lambda: QMessageBox.StandardButton.Save)
    assert not window.close()
    assert "film.pemlo is read-only" in window.problems.words
    assert window.document.unsaved
    film.chmod(0o644)
    assert window.close()
    assert read_project(film).title == "Mine"
