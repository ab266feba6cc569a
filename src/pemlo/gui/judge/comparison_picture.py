"""Writes what Judge shows as a picture, with words below that say what it is. GUI thread."""

from collections.abc import Sequence
from pathlib import Path

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QFontMetrics, QImage, QPainter
from PySide6.QtWidgets import QFileDialog, QWidget

from pemlo.app.jobs import Jobs
from pemlo.core.errors import FileError, InputError
from pemlo.core.progress import Monitor
from pemlo.core.units import format_interval
from pemlo.gui.common.colours import BARE, ON_PICTURE, SURROUND
from pemlo.gui.common.fonts import font
from pemlo.gui.judge.measure.findings import Findings
from pemlo.gui.judge.viewer.canvas import Canvas
from pemlo.gui.judge.viewer.pair import Pair

COMPARISON = "comparison"
_LINE, _EDGE = 20, 10


def with_words(picture: QImage, lines: Sequence[str]) -> QImage:
    """Return a picture with lines of words below it."""
    high = _LINE * len(lines) + 2 * _EDGE
    made = QImage(picture.width(), picture.height() + high, QImage.Format.Format_RGB32)
    made.fill(BARE)
    with QPainter(made) as painter:
        painter.drawImage(0, 0, picture)
        painter.setPen(ON_PICTURE)
        painter.setFont(font())
        metrics = QFontMetrics(painter.font())
        for number, words in enumerate(lines):
            room = QRectF(_EDGE, picture.height() + _EDGE + _LINE * number, picture.width() - 2 * _EDGE, _LINE)
            shown = metrics.elidedText(words, Qt.TextElideMode.ElideRight, int(room.width()))
            painter.drawText(room, Qt.AlignmentFlag.AlignVCenter, shown)
    return made


def comparison_lines(title: str, shot: str, pair: Pair, findings: Findings, mode: str) -> tuple[str, ...]:
    """Return what the pictures are, and what was measured of the left one."""
    lines = [f"{title}, shot {shot}; {mode}"]
    lines += [
        f"{side}: {choice.title}" for side, choice in (("left", pair.left), ("right", pair.right)) if choice is not None
    ]
    picture_comparison = findings.found
    if picture_comparison is not None and picture_comparison.measured.error is not None:
        total = picture_comparison.measured.error.total
        reference = pair.reference()
        against = f" against {reference.title}" if reference is not None else ""
        codes = format_interval(total)
        lines.append(f"error of the left picture{against}: {codes} levels of an 8-bit display")
    return tuple(lines)


def whole_pictures(canvas: Canvas) -> QImage:
    """Return what a canvas shows with every pixel of the pictures, whatever part of them the window has room for."""
    paper = QWidget()
    placement = canvas.placement.of_whole_pictures(paper)
    made = QImage(paper.size(), QImage.Format.Format_RGB32)
    made.fill(SURROUND)
    with QPainter(made) as painter:
        canvas.paint_on(painter, placement)
    return made


def write_comparison(parent: QWidget, jobs: Jobs, canvas: Canvas, lines: Sequence[str], *, whole: bool) -> None:
    """Ask for a file, and write pictures that are compared into it, in the background.

    Parameters
    ----------
    parent : QWidget
    jobs : Jobs
    canvas : Canvas
        That shows them.
    lines : sequence of str
        Words below.
    whole : bool
        Whether with every pixel, or as the canvas has room for them.

    Raises
    ------
    InputError
        If no picture is shown.
    """
    if not (canvas.isVisible() and canvas.shows_pictures):
        raise InputError("No pictures are shown.", "Choose two in Judge first.")
    name, _ = QFileDialog.getSaveFileName(parent, "Write the comparison", "comparison.png", "PNG (*.png)")
    if not name:
        return
    path = Path(name if name.lower().endswith(".png") else f"{name}.png")
    pictures = whole_pictures(canvas) if whole else canvas.grab().toImage()

    def work(monitor: Monitor) -> None:
        monitor.step(0.0, f"Writing {path.name}")
        if not with_words(pictures, lines).save(str(path)):
            raise FileError(f"{path.name} cannot be written.", "See that its folder may be written to.")

    jobs.submit(COMPARISON, f"Writing {path.name}", work, lambda _: None)
