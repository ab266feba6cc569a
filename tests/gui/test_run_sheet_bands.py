"""Runs that are too narrow to be told apart are painted as one band of their sequence."""

import numpy as np
from PySide6.QtCore import QRectF
from PySide6.QtGui import QImage, QPainter

from pemlo.gui.runsheet.looks import tint
from pemlo.gui.runsheet.painting import _Bands


def painted(boxes):
    image = QImage(60, 10, QImage.Format.Format_RGB32)
    image.fill(0)
    taken = []
    with QPainter(image) as painter:
        bands = _Bands(painter, QRectF(0, 0, 60, 10))
        for left, width, number, alone in boxes:
            taken.append(bands.take(QRectF(left, 0, width, 10), number, alone=alone))
        bands.end()
    row = np.array([image.pixelColor(x, 5).name() for x in range(60)])
    return taken, row


def test_narrow_runs_of_one_sequence_are_one_band(qapp):
    taken, row = painted([(2 + 2 * k, 2.0, 1, False) for k in range(10)])
    assert all(taken)
    assert set(row[2:21]) == {tint(1).name()}
    assert row[0] == "#000000" == row[30]


def test_another_sequence_a_gap_and_a_wide_run_end_a_band(qapp):
    taken, row = painted([(0, 4.0, 1, False), (4, 4.0, 2, False), (20, 4.0, 2, False), (30, 20.0, 2, False)])
    assert taken == [True, True, True, False], "a wide run is painted with its own edges and name"
    assert (row[2], row[6], row[22]) == (tint(1).name(), tint(2).name(), tint(2).name())
    assert row[12] == "#000000"


def test_a_picked_run_is_painted_by_itself(qapp):
    taken, _ = painted([(0, 2.0, 1, False), (2, 2.0, 1, True), (4, 2.0, 1, False)])
    assert taken == [True, False, True]
