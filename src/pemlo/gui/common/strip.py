"""The strip: the film on a ruler of its own, each shot to scale of screen time with its share of the hours. GUI thread.

It picks the shots that every stage shows: a click one, Ctrl and Shift several, the arrow keys the next.
"""

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFontMetricsF, QHelpEvent, QImage, QKeyEvent, QMouseEvent, QPainter, QPen, QResizeEvent
from PySide6.QtWidgets import QWidget

from pemlo.core.project.project import Project
from pemlo.core.project.sequences import in_sequences, runs_of, sequence_of
from pemlo.core.units import counted, format_interval
from pemlo.gui.common.colours import colours, mixed
from pemlo.gui.common.fonts import SMALL, bold, font
from pemlo.gui.common.names_over import NAMES_PX, NameOver, names_over, paint_names_over
from pemlo.gui.common.plain import show_tip

if TYPE_CHECKING:
    from pemlo.core.forecast.verdict import Forecast

MARGIN = 18
NARROW_PX = 14.0
HEIGHT = 36
GAP = 2.0
LEAST_PX = 3.0
LINES_PX = 4.0  # shots of which none is wider are lines


class Strip(QWidget):
    """Draws the shots and lets them be picked.

    Signals
    -------
    picked(tuple of str)
        Names of the shots that are picked now.
    """

    picked = Signal(object)

    def __init__(self, picture: Callable[[Project, str], QImage | None] = lambda _project, _shot: None) -> None:
        super().__init__()
        self._picture = picture
        self._project: Project | None = None
        self._found: Forecast | None = None
        self._picked: tuple[str, ...] = ()
        self._anchor = 0
        self._above: list[NameOver] = []
        self._places: list[tuple[float, float]] = []
        self.setFixedHeight(HEIGHT)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Strip of shots")

    def sizeHint(self) -> QSize:
        return QSize(800, HEIGHT)

    def show_project(self, project: Project, forecast: "Forecast | None") -> None:
        if project is self._project and forecast is self._found:
            return  # it is shown already
        before, self._project, self._found = self._project, project, forecast
        if before is None or not _same_places(before, project):
            self._show_names_above()
        self.update()

    def _show_names_above(self) -> None:
        """Keep a line for names over the shots where they are too narrow for their own."""
        self._places = self._places_of()
        self._above = self._names_above()
        self.setFixedHeight(HEIGHT + (NAMES_PX if self._above else 0))

    def _names_above(self) -> list[NameOver]:
        """Return left, width and words of the names over the strip: of sequences, else of as many shots as fit."""
        places = self.places()
        if self._project is None or not places:
            return []
        metrics = QFontMetricsF(font(SMALL))
        names = [shot.name for shot in self._project.shots]
        if all(metrics.horizontalAdvance(name) + 12 < width for name, (_, width) in zip(names, places, strict=True)):
            return []
        runs = [(name, number, number) for number, name in enumerate(names)]
        if in_sequences(names):
            runs = runs_of([sequence_of(name) for name in names])
        ends = [(name, places[first][0], sum(places[last])) for name, first, last in runs]
        return names_over(((name, left, end - left) for name, left, end in ends), self.width())

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._show_names_above()

    def pick(self, names: tuple[str, ...]) -> None:
        """Show shots as picked without telling of it."""
        self._picked = names
        if self._project is not None and names:
            order = [shot.name for shot in self._project.shots]
            if names[0] in order:
                self._anchor = order.index(names[0])
        self.setAccessibleDescription(f"Shot {', '.join(names)}" if names else "No shot")
        self.update()

    def places(self) -> list[tuple[float, float]]:
        """Return left and width of each shot, px."""
        return self._places

    def _places_of(self) -> list[tuple[float, float]]:
        if self._project is None or not self._project.shots:
            return []
        # Layers share the time of their shot.
        film = self._project
        counts = film.layer_counts()
        seconds = [film.screen_seconds(shot) / layers for shot, layers in zip(film.shots, counts, strict=True)]
        room = self.width() - 2 * MARGIN
        gap = GAP if room / len(seconds) > 8 else 0.0
        least = min(LEAST_PX, room / len(seconds) - gap)
        free = room - len(seconds) * (least + gap)
        whole = sum(seconds)
        found, left = [], float(MARGIN)
        for one in seconds:
            width = least + max(free, 0.0) * one / whole
            found.append((left, width))
            left += width + gap
        return found

    def _at(self, x: float) -> int | None:
        for number, (left, width) in enumerate(self.places()):
            if left <= x <= left + width + GAP:
                return number
        return None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        number = self._at(event.position().x())
        if number is not None and event.button() == Qt.MouseButton.LeftButton:
            self._choose(number, event.modifiers())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        steps = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}
        if self._project is None or not self._project.shots or event.key() not in steps:
            super().keyPressEvent(event)
            return
        order = [shot.name for shot in self._project.shots]
        current = order.index(self._picked[-1]) if self._picked and self._picked[-1] in order else 0
        self._choose(max(0, min(len(order) - 1, current + steps[Qt.Key(event.key())])), event.modifiers())

    def _choose(self, number: int, modifiers: Qt.KeyboardModifier) -> None:
        assert self._project is not None
        order = [shot.name for shot in self._project.shots]
        name = order[number]
        if modifiers & Qt.KeyboardModifier.ControlModifier:
            names = tuple(n for n in order if (n in self._picked) != (n == name))
        elif modifiers & Qt.KeyboardModifier.ShiftModifier:
            low, high = sorted((self._anchor, number))
            names = tuple(order[low : high + 1])
        else:
            names = (name,)
            self._anchor = number
        if names:
            anchor = self._anchor
            self.pick(names)
            self._anchor = anchor
            self.picked.emit(names)

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            number = self._at(event.pos().x())
            if number is not None:
                show_tip(event.globalPos(), self._words(number), self)
            return True
        return super().event(event)

    def _words(self, number: int) -> str:
        assert self._project is not None
        shot = self._project.shots[number]
        screen = f"{self._project.screen_seconds(shot):.1f} s on screen"
        words = f"Shot {shot.name}: {counted(shot.frame_count, 'frame')}, {screen}"
        hours = self._hours(number)
        if hours is None or self._found is None:
            return words
        interval = self._found.shots[number].hours
        assert interval is not None
        return f"{words}\n{format_interval(interval)} machine-hours"

    def _hours(self, number: int) -> float | None:
        if self._found is None or number >= len(self._found.shots):
            return None
        interval = self._found.shots[number].hours
        return None if interval is None else interval.middle

    def paintEvent(self, event: QEvent) -> None:  # noqa: ARG002 - Qt's signature
        if self._project is None:
            return
        palette = colours()
        hours = [self._hours(number) for number in range(len(self._project.shots))]
        most_expensive = max((one for one in hours if one is not None), default=0.0)
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            paint_names_over(painter, self._above)
            top = NAMES_PX if self._above else 0
            narrow = max(width for _, width in self.places()) < LINES_PX if self.places() else False
            if narrow:
                self._draw_lines(painter, top, hours, most_expensive)
            for number, (left, width) in enumerate(() if narrow else self.places()):
                shot = self._project.shots[number]
                chosen = shot.name in self._picked
                box = QRectF(left + 0.5, top + 3.5, max(width - 1, 1.0), HEIGHT - 8)
                edge = palette.line if width > 8 else Qt.GlobalColor.transparent
                painter.setPen(QPen(palette.ink if chosen else edge, 1))
                painter.setBrush(palette.ink if chosen else palette.raised)
                painter.drawRect(box)
                self._draw_hours(painter, box, hours[number], most_expensive, chosen=chosen)
                if width < NARROW_PX:  # neither a name nor a picture has room
                    continue
                painter.setFont(bold(SMALL) if chosen else font(SMALL))
                words = QFontMetricsF(painter.font()).horizontalAdvance(shot.name)
                room = width - words - 14 - min(box.width() * 0.4, 40.0)
                beside = self._draw_picture(painter, box, shot.name, room)
                if words + 12 < width:
                    painter.setPen(palette.sheet if chosen else palette.ink)
                    place = QRectF(left + 6 + beside, top + 3, width, HEIGHT - 8)
                    painter.drawText(place, Qt.AlignmentFlag.AlignVCenter, shot.name)
            if self.hasFocus():
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.setPen(QPen(palette.time, 1))
                painter.drawRect(QRectF(MARGIN - 4.5, 0.5, self.width() - 2 * MARGIN + 9, self.height() - 1))

    def _draw_lines(self, painter: QPainter, top: int, hours: list[float | None], most_expensive: float) -> None:
        """Draw shots that have next to no width: on one ground, each as a line as high as its hours."""
        assert self._project is not None
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, on=False)
        palette, picked = colours(), set(self._picked)
        ground, chosen = mixed(palette.time, palette.raised, 0.25), palette.time_light
        places, high, low = self.places(), HEIGHT - 8.0, top + HEIGHT - 4.5
        first, last = places[0], places[-1]
        painter.fillRect(QRectF(first[0], low - high, last[0] + last[1] - first[0], high), palette.raised)
        for (left, width), shot, needed in zip(places, self._project.shots, hours, strict=True):
            is_picked = shot.name in picked
            if is_picked:
                painter.fillRect(QRectF(left, low - high, max(width, LINES_PX), high), palette.ink)
            tall = 1.0 if needed is None else (high - 4) * needed / max(most_expensive, 1e-9)
            painter.fillRect(QRectF(left, low - tall, width, tall), chosen if is_picked else ground)

    def _draw_picture(self, painter: QPainter, box: QRectF, shot: str, room: float) -> float:
        """Draw a shot's small picture at the left, where there is room for it; return how wide it is."""
        assert self._project is not None
        image = self._picture(self._project, shot)
        if image is None:
            return 0.0
        high = box.height() - 6
        wide = high * image.width() / image.height()
        if wide + 4 > room:
            return 0.0
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.drawImage(QRectF(box.left() + 3, box.top() + 3, wide, high), image)
        return wide + 2

    def _draw_hours(
        self, painter: QPainter, box: QRectF, hours: float | None, most_expensive: float, *, chosen: bool
    ) -> None:
        """Draw a shot's mark, its height in proportion to its hours; a dash where they are not known."""
        palette = colours()
        mark = min(box.width() * 0.4, 40.0) if box.width() > 20 else box.width()
        right = box.right() - 1
        if hours is None:
            painter.setPen(QPen(palette.faint, 1))
            painter.drawLine(box.bottomRight(), box.bottomLeft())
            return
        high = (box.height() - 4) * hours / max(most_expensive, 1e-9)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(palette.time_light if chosen else mixed(palette.time, palette.raised, 0.25))
        painter.drawRect(QRectF(right - mark, box.bottom() - high, mark, high))


def _same_places(project: Project, other: Project) -> bool:
    """Whether the shots of two films lie at the same places under the same names; of most films most are the same."""
    if project.delivery.fps != other.delivery.fps or len(project.shots) != len(other.shots):
        return False
    changed = [(shot, one) for shot, one in zip(project.shots, other.shots, strict=True) if shot is not one]
    return all(
        (shot.name, shot.film_name) == (one.name, one.film_name)
        and project.screen_seconds(shot) == other.screen_seconds(one)
        for shot, one in changed
    )
