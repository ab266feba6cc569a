"""What keys do while pictures are looked at. GUI thread."""

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeySequence, QShortcut
from PySide6.QtWidgets import QWidget

# Key, what it does, and the method of `Commands` that does it.
KEYS = (
    ("Y", "Good enough: the left picture passes", "mark_good"),
    ("N", "Not good enough: it does not", "mark_bad"),
    ("X", "Swap the two pictures in place", "swap"),
    ("T", "Turn the line that splits them", "turn_line"),
    ("D", "Difference, and back", "toggle_difference"),
    ("M", "Noise map, then where the noise comes from, then neither", "next_map"),
    ("W", "Go to the worst spot, then to the next", "next_spot"),
    ("F", "Fit the picture in", "fit"),
    ("1", "100 %", "whole_pixels"),
    ("+", "Nearer", "nearer"),
    ("-", "Farther", "farther"),
    ("[", "The trial before, at the left", "earlier"),
    ("]", "The trial after, at the left", "later"),
    ("L", "Ladder sheet: every trial of the frame, and back", "toggle_sheet"),
    ("S", "Every shot, to mark with Y and N; then every trial of the shot; and back", "next_marking"),
    ("E", "Error by samples: what other settings would leave, and back", "toggle_errors"),
    ("Space", "Play a sequence, or stop", "play_or_stop"),
    (",", "The frame before, of a sequence", "frame_before"),
    (".", "The frame after, of a sequence", "frame_after"),
)


def install(panel: QWidget, commands: object) -> None:
    """Give a panel its keys; they work while it or a part of it has the focus."""
    for keys, _, name in KEYS:
        made = QShortcut(QKeySequence(keys), panel)
        made.setContext(Qt.ShortcutContext.WidgetWithChildrenShortcut)
        made.activated.connect(getattr(commands, name))
