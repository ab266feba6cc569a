"""How pictures are read and shown: chosen, remembered, and taken back."""

import pytest
from PySide6.QtWidgets import QFileDialog, QInputDialog

from pemlo.app.preferences import Preferences
from pemlo.gui.judge.conditions import A_VIEW, SRGB, ConditionsForm

CONFIGURATION = """ocio_profile_version: 2
roles: {scene_linear: light, default: light}
displays:
  screen:
    - !<View> {name: bright, colorspace: shown}
    - !<View> {name: plain, colorspace: light}
colorspaces:
  - !<ColorSpace>
    name: light
  - !<ColorSpace>
    name: shown
    from_scene_reference: !<ExponentTransform> {value: [0.5, 0.5, 0.5, 1]}
"""


@pytest.fixture
def configuration(tmp_path):
    path = tmp_path / "studio.ocio"
    path.write_text(CONFIGURATION)
    return path


@pytest.fixture
def form(qtbot):
    return make(qtbot)


def make(qtbot):
    troubles = []
    made = ConditionsForm(Preferences(), troubles.append)
    made.troubles, made.heard = troubles, []
    made.changed.connect(made.heard.append)
    qtbot.addWidget(made)
    return made


def choose(box, words):
    index = box.findText(words)
    assert index >= 0, words
    box.setCurrentIndex(index)
    box.activated.emit(index)


def name_view(monkeypatch, configuration, view):
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_, **__: (str(configuration), ""))
    monkeypatch.setattr(QInputDialog, "getItem", lambda *_, **__: (view, True))


def test_a_view_that_was_named_is_remembered_the_next_time(qtbot, form, configuration, monkeypatch):
    name_view(monkeypatch, configuration, "screen / bright")
    choose(form.display, A_VIEW)
    assert form.heard[-1].view == (str(configuration), "screen", "bright")
    again = make(qtbot)
    assert again.now.view == form.heard[-1].view
    assert again.display.currentText() == "screen / bright"
    choose(again.display, SRGB)
    assert again.heard[-1].view is None
    # It is still offered, and nothing is asked for.
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_, **__: pytest.fail("was asked for a file"))
    choose(again.display, "screen / bright")
    assert again.heard[-1].view == form.heard[-1].view


def test_a_configuration_that_is_none_is_told_and_changes_nothing(form, tmp_path, monkeypatch):
    bad = tmp_path / "bad.ocio"
    bad.write_text("no configuration")
    name_view(monkeypatch, bad, "screen / bright")
    choose(form.display, A_VIEW)
    assert "cannot be read as a colour configuration" in str(form.troubles[0])
    assert form.heard == []
    assert form.display.currentText() == SRGB


def test_leaving_the_question_changes_nothing(form, monkeypatch):
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_, **__: ("", ""))
    choose(form.display, A_VIEW)
    assert form.heard == []
    assert form.display.currentText() == SRGB


def test_what_files_hold_and_as_seen(form):
    choose(form.holds, "light")
    form.as_seen.setChecked(True)
    assert (form.heard[-1].linear, form.heard[-1].as_seen) == (True, True)
    choose(form.holds, "by format")
    assert form.heard[-1].linear is None


def test_an_own_seat_is_asked_for(form, monkeypatch):
    seats = []
    form.viewing_chosen.connect(seats.append)
    monkeypatch.setattr(QInputDialog, "getDouble", lambda *_, **__: (72.5, True))
    choose(form.viewing, "own…")
    form.show_viewing("72.5")
    assert form.viewing.currentText() == "72.5 px a degree"
    choose(
        form.viewing,
        "phone in the hand" if form.viewing.findText("phone in the hand") >= 0 else form.viewing.itemText(0),
    )
    choose(form.viewing, "72.5 px a degree")
    assert seats[0] == seats[-1] == "72.5"
