"""The glossary: thirty terms in order, a sentence each, opened from the menu and from the help of a stage."""

from PySide6.QtWidgets import QApplication, QDialog, QLabel

from film import make_project, make_shot
from pemlo.gui.help import TERMS, glossary_page
from window import open_window, run_action, without_advice


def test_each_term_is_one_sentence_and_they_stand_in_order():
    names = [term for term, _ in TERMS]
    assert len(names) == len(set(names)) == 30
    assert names == sorted(names)
    for term, words in TERMS:
        assert words.endswith("."), term
        assert words.count(". ") <= 1, term
        assert len(words) < 120, term
    assert all(f"<b>{term}</b>" in glossary_page() for term in names)


def shown():
    """Return the text of the dialog that is open, and the label that shows it."""
    dialogs = [one for one in QApplication.topLevelWidgets() if isinstance(one, QDialog) and one.isVisible()]
    (label,) = dialogs[-1].findChildren(QLabel)
    return dialogs, label


def test_it_opens_from_the_menu_and_from_the_help_of_a_stage(qtbot, monkeypatch):
    without_advice(monkeypatch)
    window = open_window(qtbot, make_project((make_shot("010"),)))
    run_action(window, "terms")
    (dialog,), label = shown()
    assert "machine-hour" in label.text()
    dialog.close()
    QApplication.processEvents()
    run_action(window, "help")
    dialogs, label = shown()
    assert "What the terms mean" in label.text()
    label.linkActivated.emit("terms")
    opened = [
        one for one in QApplication.topLevelWidgets() if isinstance(one, QDialog) and one.windowTitle() == "Terms"
    ]
    assert opened[-1].isVisible()
    for one in (*dialogs, *opened):
        one.close()
