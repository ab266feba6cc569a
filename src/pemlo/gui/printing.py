"""Prints what is seen: the open stage, or the pages of what is handed over. GUI thread."""

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

from PySide6.QtCore import QMarginsF, QPoint, QRectF, Qt
from PySide6.QtGui import QImage, QPageLayout, QPainter
from PySide6.QtPrintSupport import QPrintDialog, QPrinter
from PySide6.QtWidgets import QDialog, QWidget

from pemlo.core.errors import FileError
from pemlo.gui.common.fonts import font

if TYPE_CHECKING:
    from pemlo.handover.paper import U8

TITLE_PX, MARGIN_MM = 24, 12.0
Paint = Callable[[QPrinter], None]


def ask_to_print(parent: QWidget, title: str, paint: Paint, *, landscape: bool) -> QPrintDialog:
    """Ask for a printer, or a PDF file, and paint on it."""
    printer = QPrinter(QPrinter.PrinterMode.HighResolution)
    printer.setDocName(title)
    set_paper(printer, landscape=landscape)
    dialog = QPrintDialog(printer, parent)
    dialog.setWindowTitle(f"Print {title}")
    dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    dialog.accepted.connect(lambda: paint(printer))
    QDialog.open(dialog)  # its own takes a receiver
    return dialog


def set_paper(printer: QPrinter, *, landscape: bool) -> None:
    """Lay paper on its side, or upright, with room for fingers."""
    side = QPageLayout.Orientation.Landscape if landscape else QPageLayout.Orientation.Portrait
    printer.setPageOrientation(side)
    printer.setPageMargins(QMarginsF(*[MARGIN_MM] * 4), QPageLayout.Unit.Millimeter)


def paint_widget(printer: QPrinter, widget: QWidget, title: str) -> None:
    """Paint a widget on one page as it is seen, under a title; its lines and letters stay lines and letters.

    Raises
    ------
    FileError
        If the printer, or the file, takes nothing.
    """
    painter = _begun(printer)
    page = printer.pageLayout().paintRectPixels(printer.resolution())
    scale = min(page.width() / widget.width(), page.height() / (widget.height() + TITLE_PX))
    painter.scale(scale, scale)
    painter.setFont(font())
    painter.drawText(QRectF(0, 0, widget.width(), TITLE_PX), Qt.AlignmentFlag.AlignTop, title)
    widget.render(painter, QPoint(0, TITLE_PX))
    painter.end()


def paint_pages(printer: QPrinter, pages: "Sequence[U8]") -> None:
    """Paint pages, (H, W, 3) display codes each, one on each sheet of paper.

    Raises
    ------
    FileError
        If the printer, or the file, takes nothing.
    """
    painter = _begun(printer)
    for number, page in enumerate(pages):
        if number:
            printer.newPage()
        height, width = page.shape[:2]
        image = QImage(page.tobytes(), width, height, 3 * width, QImage.Format.Format_RGB888)
        paper = printer.pageLayout().paintRectPixels(printer.resolution())
        scale = min(paper.width() / width, paper.height() / height)
        painter.drawImage(QRectF(0, 0, width * scale, height * scale), image)
    painter.end()


def _begun(printer: QPrinter) -> QPainter:
    painter = QPainter()
    if not painter.begin(printer):
        raise FileError("Nothing can be printed there.", "Choose another printer, or a file in a folder of yours.")
    return painter
