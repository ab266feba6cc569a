"""The predicted look beside the reference: the same small part of both, at 100 % or larger. GUI thread."""

from typing import TYPE_CHECKING

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QImage, QPainter, QPaintEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from pemlo.app.jobs import Jobs
from pemlo.core.picture.tiles import Box
from pemlo.core.plan.settings import FrameSettings
from pemlo.core.progress import Monitor
from pemlo.gui.common.colours import ON_PICTURE, SURROUND, UNDER_PICTURE
from pemlo.gui.common.fonts import SMALL, font

if TYPE_CHECKING:
    from pemlo.core.picture.showing import Pixels
    from pemlo.core.trade.shot_look import ShotLook

LOOK = "foretold look"
_GAP, HEIGHT = 3, 230


class LookView(QWidget):
    """Two parts of a frame, one above the other: what is foretold, and the reference."""

    def __init__(self, jobs: Jobs) -> None:
        super().__init__()
        self._jobs = jobs
        self._images: tuple[tuple[QImage, str], ...] = ()
        self._missing = ""
        self._asked: tuple[ShotLook, object] | None = None
        self.setFixedHeight(HEIGHT)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Predicted look and reference")

    def sizeHint(self) -> QSize:
        return QSize(270, HEIGHT)

    @property
    def words(self) -> tuple[str, ...]:
        """What stands on the pictures, or in their place."""
        return tuple(words for _, words in self._images) or (self._missing,)

    def part(self, size: tuple[int, int], worst: Box) -> tuple[Box, int]:
        """Return the part of a picture that is shown, around its worst spot, and how many times as large."""
        half = (self.height() - _GAP) // 2
        times = max(1, min(3, self.width() // max(size[0] // 2, 1)))
        wide, high = min(size[0], max(self.width() // times, 8)), min(size[1], max(half // times, 8))
        left = min(max((worst[0] + worst[2] - wide) // 2, 0), size[0] - wide)
        top = min(max((worst[1] + worst[3] - high) // 2, 0), size[1] - high)
        return (left, top, left + wide, top + high), times

    def show_look(
        self, look: "ShotLook | None", settings: FrameSettings, spent: float, words: str, trouble: str
    ) -> None:
        """Show what is foretold of settings, beside the reference; `trouble` says why that cannot be."""
        if look is None or look.pictures is None:
            self._jobs.cancel(LOOK)
            self._asked, self._images = None, ()
            self._missing = trouble or "No trial of this shot has a picture that tells its look."
            self.update()
            return
        pictures, known = look.pictures, look.look
        box, times = self.part(known.size, pictures.worst)
        asked = (settings, round(spent, 3), box, words)
        if self._asked is not None and self._asked[0] is look and self._asked[1] == asked:
            return
        self._asked = look, asked

        def work(monitor: Monitor) -> "tuple[Pixels, Pixels, str] | None":
            from pemlo.core.errors import InputError  # noqa: PLC0415 - all of this is heavy to load
            from pemlo.core.images.foretold_picture import foretold_picture  # noqa: PLC0415
            from pemlo.core.picture.display import Srgb  # noqa: PLC0415
            from pemlo.core.picture.showing import shown  # noqa: PLC0415

            monitor.step(0.0, "Foretelling the look")
            try:
                found = foretold_picture(known, pictures, settings, spent, box)
            except InputError:
                return None
            if found is None:
                return None
            return shown(found.foretold, Srgb()), shown(found.reference, Srgb()), found.taken_from.path.name

        def done(found: "tuple[Pixels, Pixels, str] | None") -> None:
            if found is None:
                self._images, self._missing = (), "No trial with this denoiser has a picture."
            else:
                names = (f"predicted: {words}", f"reference, frame {look.frame}")
                self._images = tuple((_image(one, times), name) for one, name in zip(found[:2], names, strict=True))
                self.setToolTip(f"No render: the reference, and in proportion what {found[2]} was measured to err by")
            self.update()

        self._jobs.submit(LOOK, "Foretelling the look", work, done)

    def paintEvent(self, _event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.fillRect(self.rect(), SURROUND)
            painter.setFont(font(SMALL))
            if not self._images:
                painter.setPen(ON_PICTURE)
                flags = Qt.AlignmentFlag.AlignCenter.value | Qt.TextFlag.TextWordWrap.value
                painter.drawText(self.rect().adjusted(10, 10, -10, -10), flags, self._missing)
                return
            half = (self.height() - _GAP) / 2
            for number, (image, words) in enumerate(self._images):
                top = number * (half + _GAP)
                room = QRectF(0, top, self.width(), half)
                painter.setClipRect(room)
                left, above = (self.width() - image.width()) // 2, int(top + (half - image.height()) / 2)
                painter.drawImage(max(left, 0), max(above, int(top)), image)
                width = painter.fontMetrics().horizontalAdvance(words) + 10
                label = QRectF(4, top + 4, min(width, self.width() - 8), 18)
                painter.fillRect(label, UNDER_PICTURE)
                painter.setPen(ON_PICTURE)
                painter.drawText(label, Qt.AlignmentFlag.AlignCenter, words)


def _image(pixels: "Pixels", times: int) -> QImage:
    height, width = pixels.shape
    image = QImage(pixels.tobytes(), width, height, 4 * width, QImage.Format.Format_RGB32).copy()
    return image if times == 1 else image.scaled(width * times, height * times)
