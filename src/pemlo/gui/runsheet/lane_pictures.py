"""Pictures of what machines render, kept while a long sheet is scrolled: to paint a row takes a while. GUI thread."""

from collections import OrderedDict
from collections.abc import Callable, Hashable

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QImage, QPainter

MOST_ROWS = 200  # about 100 kB each


class LanePictures:
    """Pictures of rows, all of the same run at the same scale."""

    def __init__(self) -> None:
        self._run: object = None
        self._look: Hashable = None
        self._rows: OrderedDict[int, QImage] = OrderedDict()

    def show_same(self, run: object, look: Hashable) -> None:
        """Keep the pictures only if they are of this very run, and all that decides how it looks is the same."""
        if run is not self._run or look != self._look:
            self._run, self._look = run, look
            self._rows.clear()

    def of(self, row: int, rect: QRectF, ratio: float, paint: Callable[[QPainter], None]) -> QImage:
        """Return the picture of a row; painted if it is not there.

        Parameters
        ----------
        row : int
        rect : QRectF
            Where it lies; it is painted as if there.
        ratio : float
            Pixels of the screen in one of ours.
        paint : callable
            Paints it.
        """
        picture = self._rows.get(row)
        if picture is None:
            picture = QImage((rect.size() * ratio).toSize(), QImage.Format.Format_ARGB32_Premultiplied)
            picture.setDevicePixelRatio(ratio)
            picture.fill(Qt.GlobalColor.transparent)
            with QPainter(picture) as painter:
                painter.setRenderHint(QPainter.RenderHint.Antialiasing)
                painter.translate(-rect.topLeft())
                paint(painter)
            self._rows[row] = picture
            if len(self._rows) > MOST_ROWS:
                self._rows.popitem(last=False)
        return picture
