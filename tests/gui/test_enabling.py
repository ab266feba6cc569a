"""A control that cannot be used says why, and what it does once it can be."""

from pemlo.gui.common.enabling import enable
from pemlo.gui.common.labels import Shortened, button


def test_the_tip_says_why_and_comes_back(qtbot):
    made = button("Go", "Starts it", lambda: None)
    qtbot.addWidget(made)
    enable(made, "Nothing is ticked.")
    assert (made.isEnabled(), made.toolTip()) == (False, "Nothing is ticked.")
    enable(made, "Nothing is <b>there</b>.")
    assert "&lt;b&gt;" in made.toolTip()
    assert made.accessibleDescription() == "Nothing is <b>there</b>."
    enable(made)
    assert (made.isEnabled(), made.toolTip(), made.accessibleDescription()) == (True, "Starts it", "Starts it")


def test_a_tip_that_changes_meanwhile_is_kept_for_later(qtbot):
    made = Shortened("Into a folder", lambda: None)
    qtbot.addWidget(made)
    for count in (3, 0, 0, 5):
        made.setText(f"Hand over {count} files")
        enable(made, "" if count else "Nothing is ticked.")
        assert made.toolTip() == (f"Hand over {count} files\nInto a folder" if count else "Nothing is ticked.")
