"""Help on the stages and the page of shortcuts. GUI thread."""

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QLabel, QScrollArea, QVBoxLayout

from pemlo.gui.judge.keys import KEYS
from pemlo.gui.stages import STAGES

if TYPE_CHECKING:
    from pemlo.gui.window import Window


TERMS: tuple[tuple[str, str], ...] = (
    ("as asked", "The settings that the brief asks for, before any plan changes them."),
    ("available", "The machine-hours that this film can use before its deadline, less what assembly needs."),
    ("budget", "The most that the film's machines may cost; a plan needs no more machine-hours than it pays for."),
    ("cache", "What a machine keeps from frame to frame, so that it does not prepare the scene or its light again."),
    ("chance", "In how many of a hundred runs of the film the last frame is done in time."),
    ("clock hours", "Hours on the wall, however fast the machine is."),
    ("denoiser", "A filter that takes noise out of a rendered picture, and washes some detail out with it."),
    ("error", "Root mean square difference between a picture and the reference, in levels of an 8-bit display."),
    ("error limit", "The largest error that passes: from marks, by hand, or the error as asked."),
    ("fireflies", "Single pixels that are far brighter than their neighbours."),
    ("flicker", "What changes between neighbouring frames that should not; shown for blocks of 8 × 8 px."),
    ("frame step", "Every frame is rendered, or every second one, and the one before is held or two are mixed."),
    ("frames in parallel", "How many frames one machine renders side by side."),
    ("interval", "The two ends between which a number lies nine times in ten, such as 89 (77–103)."),
    ("level", "One of the 256 steps of brightness of an 8-bit display."),
    ("lever", "A setting that trades time for picture: samples, threshold, denoising, size, and more."),
    ("likely", "The middle: half of the runs need more, half of them less."),
    ("machine-hour", "The work of the reference machine in an hour, one frame at a time."),
    ("noise threshold", "The noise at which a pixel takes no more samples."),
    ("outlier", "A time that differs so much from the others that it hardly counts, until it is looked at."),
    ("predicted", "Worked out from trials, not measured."),
    ("reference", "The cleanest picture of a frame; the others are held against it."),
    ("resolution percentage", "The size of a rendered frame as a share of the size that is delivered, on each side."),
    ("retakes", "The share of frames that are rendered again after a look at them."),
    ("safe", "As many machine-hours as are enough with the chance that you ask for."),
    ("samples", "How many light paths a pixel takes; four times as many halve the noise."),
    ("softening", "The detail that a denoiser washes out."),
    ("time limit", "The longest that a frame may trace light; then it is finished as it is."),
    ("to spare", "Available less safe. Where it would be below nothing, that is how much the film is short."),
    ("trial", "One timed test frame, with the settings that it had."),
)


def glossary_page() -> str:
    """Return the terms as rich text."""
    rows = "".join(f"<tr><td><b>{term}</b>&nbsp;&nbsp;</td><td>{words}</td></tr>" for term, words in TERMS)
    return f"<h3>Terms</h3><table cellpadding=2>{rows}</table>"


WIDE, HIGH = 620, 620  # px; what does not fit is scrolled


def show_help(window: "Window") -> None:
    """Show help on the stage that is open."""
    link = "<p><a href='terms'>What the terms mean</a></p>"
    _show(window, "Help", STAGES[window.stack.currentIndex()].help + link)


def show_glossary(window: "Window") -> None:
    """Show what the terms mean."""
    _show(window, "Terms", glossary_page())


def show_shortcuts(window: "Window") -> None:
    """Show every shortcut, from the table of actions."""
    rows = [(action.shortcut, action.text) for action in window.actions_table if action.shortcut]
    rows += [("Enter, F2", "Edit the marked cell"), ("Delete", "Remove the picked rows"), ("Ctrl+V", "Paste rows")]
    rows += [("Left, Right", "The shot before or after, on the strip")]
    rows += [(f"{key} in Judge", text) for key, text, _ in KEYS]
    cells = "".join(f"<tr><td><b>{keys}</b>&nbsp;&nbsp;</td><td>{text}</td></tr>" for keys, text in rows)
    _show(window, "Shortcuts", f"<h3>Shortcuts</h3><table cellpadding=3>{cells}</table>")


def _show(window: "Window", title: str, words: str) -> None:
    dialog = QDialog(window)
    dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    dialog.setWindowTitle(title)
    text = QLabel(words)
    text.setTextFormat(Qt.TextFormat.RichText)
    text.setWordWrap(True)
    text.setAlignment(Qt.AlignmentFlag.AlignTop)
    text.setContentsMargins(20, 12, 20, 20)
    text.setTextInteractionFlags(
        Qt.TextInteractionFlag.TextSelectableByMouse | Qt.TextInteractionFlag.LinksAccessibleByMouse
        | Qt.TextInteractionFlag.LinksAccessibleByKeyboard
    )  # fmt: skip
    text.linkActivated.connect(lambda _: show_glossary(window))
    area = QScrollArea()
    area.setWidget(text)
    area.setWidgetResizable(True)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    column = QVBoxLayout(dialog)
    column.setContentsMargins(0, 0, 0, 0)
    column.addWidget(area)
    dialog.resize(WIDE, min(text.heightForWidth(WIDE) + 8, HIGH))
    dialog.open()
