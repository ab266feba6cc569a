"""The glossary: thirty terms in order, a sentence each, opened from the menu and from the help of a stage."""

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QDialog, QLabel

from film import make_project, make_shot
from pemlo.gui.common.glossary import Glossary
from pemlo.gui.common.term_pictures import PICTURES, term_picture
from pemlo.gui.common.terms import ALSO, TERMS, term_of
from window import open_window, run_action, without_advice


def test_each_term_is_one_sentence_and_they_stand_in_order():
    names = [term for term, _ in TERMS]
    assert len(names) == len(set(names)) == 30
    assert names == sorted(names)
    for term, words in TERMS:
        assert words.endswith("."), term
        assert words.count(". ") <= 1, term
        assert len(words) < 120, term
    assert set(ALSO.values()) <= set(names)


def test_each_term_has_a_picture_of_its_own(qapp):
    names = [term for term, _ in TERMS]
    assert sorted(PICTURES) == names
    images = [term_picture(name).toImage() for name in names]
    seen = {bytes(image.constBits()) for image in images}
    assert len(seen) == len(names)


def opened():
    """Return the dialogs that are open."""
    return [one for one in QApplication.topLevelWidgets() if isinstance(one, QDialog) and one.isVisible()]


def test_it_opens_from_the_menu_from_the_help_of_a_stage_and_from_a_dotted_word(qtbot, monkeypatch):
    without_advice(monkeypatch)
    window = open_window(qtbot, make_project((make_shot("010"),)))
    run_action(window, "terms")
    (glossary,) = opened()
    assert isinstance(glossary, Glossary)
    assert any("reference machine" in one.text() for one in glossary.findChildren(QLabel))
    glossary.close()
    run_action(window, "help")
    (page,) = opened()
    (words,) = page.findChildren(QLabel)
    words.linkActivated.emit("terms")
    assert [type(one) for one in opened() if one is not page] == [Glossary]
    for one in opened():
        one.close()
    dotted = [one for one in window.findChildren(QLabel) if one.property("term") and one.isVisible()]
    assert dotted
    for word in dotted:
        QTest.mouseClick(word, Qt.MouseButton.LeftButton)
        (glossary,) = opened()
        name = glossary.names[term_of(word.text())]
        assert glossary.area.viewport().rect().contains(name.mapTo(glossary.area.viewport(), name.rect().center()))
        glossary.close()
