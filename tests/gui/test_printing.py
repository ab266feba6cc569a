"""What is printed, painted on a PDF file as a printer would have it, and read back by another program."""

import numpy as np
import pytest
from PySide6.QtPrintSupport import QPrinter
from PySide6.QtWidgets import QLabel

from pemlo.core.errors import FileError
from pemlo.gui.printing import paint_pages, paint_widget, set_paper
from pemlo.handover.paper import pages_of


def pdf_printer(path, *, landscape):
    printer = QPrinter(QPrinter.PrinterMode.HighResolution)
    printer.setOutputFormat(QPrinter.OutputFormat.PdfFormat)
    printer.setOutputFileName(str(path))
    set_paper(printer, landscape=landscape)
    return printer


def test_a_stage_is_one_page_on_its_side_with_its_title(qtbot, tmp_path):
    seen = QLabel("127 machine-hours")
    qtbot.addWidget(seen)
    seen.resize(900, 500)
    seen.setStyleSheet("background: #1F5C66")
    seen.show()
    path = tmp_path / "stage.pdf"
    paint_widget(pdf_printer(path, landscape=True), seen, "The Tide Clock: Trade")
    (page,) = pages_of(path.read_bytes())
    assert page.shape[1] > page.shape[0]
    petrol = np.abs(page.astype(int) - (0x1F, 0x5C, 0x66)).max(2) < 12
    assert petrol.mean() > 0.4, "the widget fills most of the paper"
    rows = np.flatnonzero(petrol.any(1))
    assert (page[: rows[0]].min(2) < 128).any(), "over it stands its title"


def test_pages_are_printed_one_to_a_sheet(qtbot, tmp_path):
    grey, white = np.full((420, 297, 3), 90, np.uint8), np.full((420, 297, 3), 255, np.uint8)
    path = tmp_path / "pages.pdf"
    paint_pages(pdf_printer(path, landscape=False), [grey, white, grey])
    first, second, third = pages_of(path.read_bytes())
    assert (first < 128).mean() > 0.5
    assert (second < 128).mean() == 0
    assert np.array_equal(first, third)


@pytest.mark.qt_log_ignore("QPainter::begin")
def test_what_cannot_be_written_is_said(qtbot, tmp_path):
    with pytest.raises(FileError, match="Nothing can be printed there"):
        paint_pages(pdf_printer(tmp_path / "no/such/folder.pdf", landscape=False), [np.zeros((9, 9, 3), np.uint8)])
