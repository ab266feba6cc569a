"""The line with which sequences are played, and the plot of their flicker. GUI thread."""

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QFrame, QLabel, QLineEdit, QSlider, QVBoxLayout, QWidget

from pemlo.core.errors import InputError
from pemlo.core.frames import parse_frames
from pemlo.gui.common.choice import Choice
from pemlo.gui.common.colours import DIM, ON_PICTURE
from pemlo.gui.common.flow import FlowLayout
from pemlo.gui.common.fonts import SMALL, font
from pemlo.gui.common.labels import button, label
from pemlo.gui.common.plain import set_tip
from pemlo.gui.judge.playback.player import Player
from pemlo.gui.judge.playback.timing import WAYS

_ROOM = 34


class FlickerPlot(QWidget):
    """Flicker of each frame between its neighbours, levels, of both sides."""

    def __init__(self, player: Player) -> None:
        super().__init__()
        self._player = player
        self.setFixedHeight(64)
        self.setMouseTracking(True)
        self.setAccessibleName("Flicker over frames")

    def sizeHint(self) -> QSize:
        return QSize(400, 64)

    def _values(self) -> dict[str, list[tuple[int, float | None]]]:
        return {
            side: [(frame, flicker.value) for frame, flicker in values.items()]
            for side, values in self._player.flicker.items()
        }

    def describe(self) -> None:
        """Say the values, for a screen reader."""
        sides = [
            f"{side}: " + ", ".join(f"frame {frame} {value:.2f}" for frame, value in values if value is not None)
            for side, values in self._values().items()
        ]
        self.setAccessibleDescription("; ".join(sides))

    def top(self) -> float:
        """Return the upper end of the scale, codes."""
        every = [value for side in self._values().values() for _, value in side if value is not None]
        return max([*every, 0.5]) * 1.1

    def _x(self, frame: float) -> float:
        low, high = self._player.whole
        return _ROOM + (frame - low) / max(high - low, 1) * (self.width() - _ROOM - 12)

    def paintEvent(self, _event: QPaintEvent) -> None:
        if not self._player.flicker:
            return
        top, bottom = self.top(), self.height() - 8
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setFont(font(SMALL))
            painter.setPen(ON_PICTURE)
            painter.drawText(
                QRectF(0, 2, 300, 14), Qt.AlignmentFlag.AlignLeft, f"{top:.1f}  flicker, levels of 8 × 8 px blocks"
            )
            painter.drawText(QRectF(0, bottom - 12, 30, 14), Qt.AlignmentFlag.AlignLeft, "0.0")
            for side, values in self._values().items():
                style = Qt.PenStyle.SolidLine if side == "left" else Qt.PenStyle.DashLine
                painter.setPen(QPen(DIM.picture if side == "left" else ON_PICTURE, 1.5, style))
                self._line(painter, values, top, bottom)
            x = self._x(self._player.frame)
            painter.setPen(QPen(ON_PICTURE, 1))
            painter.drawLine(QPointF(x, 14), QPointF(x, bottom))

    def _line(self, painter: QPainter, values: list[tuple[int, float | None]], top: float, bottom: float) -> None:
        before: QPointF | None = None
        for frame, value in values:
            # Where most of the frame moves flicker is not known: the line is broken.
            at = None if value is None else QPointF(self._x(frame), bottom - value / top * (bottom - 16))
            if at is not None and before is not None:
                painter.drawLine(before, at)
            elif at is not None:
                painter.drawPoint(at)
            before = at

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        values = self._values()
        near = [
            f"{side} {value:.2f} levels at {frame}"
            for side, pairs in values.items()
            for frame, value in pairs
            if value is not None and abs(self._x(frame) - event.position().x()) < 3
        ]
        set_tip(self, "\n".join(near) or "Left is the whole line, right the dashed one")

    def mousePressEvent(self, event: QMouseEvent) -> None:
        low, high = self._player.whole
        share = (event.position().x() - _ROOM) / max(self.width() - _ROOM - 12, 1)
        self._player.go(round(low + min(max(share, 0.0), 1.0) * (high - low)))


class PlayBar(QFrame):
    """Play, step, drag through, range, and which way round."""

    def __init__(self, player: Player) -> None:
        super().__init__()
        self.setObjectName("onpicture")
        self._player = player
        self.start = button("Play", "At the rate of the shot (Space)", self.toggle, link=True)
        self.back = button("−1", "The frame before (,)", lambda: player.go(player.frame - 1), link=True)
        self.on = button("+1", "The frame after (.)", lambda: player.go(player.frame + 1), link=True)
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setAccessibleName("Frame")
        set_tip(self.slider, "Drag through the frames")
        self.way = Choice("Way of playing", "Again and again, to and fro, or once", WAYS)
        self.range = QLineEdit()
        self.range.setFixedWidth(76)
        self.range.setAccessibleName("Range of frames")
        set_tip(self.range, "Frames to play, such as 10-40; empty for all")
        self.words: QLabel = label("", small=True, wrap=True)
        self.flicker = button(
            "Flicker",
            "Measure how much changes between neighbouring frames that should not",
            player.measure_flicker,
            link=True,
        )
        self.plot = FlickerPlot(player)
        player.changed.connect(self.plot.describe)
        hands = QWidget()
        row = FlowLayout(hands)
        for push_button in (self.start, self.back, self.on):
            row.addWidget(push_button)
        row.add_stretched(self.slider)
        for widget in (self.range, self.way, self.flicker):
            row.addWidget(widget)
        column = QVBoxLayout(self)
        column.setContentsMargins(10, 2, 10, 2)
        column.setSpacing(2)
        column.addWidget(hands)
        column.addWidget(self.words)
        column.addWidget(self.plot)
        self.slider.valueChanged.connect(self._on_slid)
        self.way.activated.connect(self._on_way)
        self.range.editingFinished.connect(self._on_range)
        player.changed.connect(self.refresh)
        self.refresh()

    def toggle(self) -> None:
        """Play or stop."""
        self._player.stop() if self._player.playing else self._player.play()

    def refresh(self) -> None:
        player = self._player
        self.setVisible(bool(player.runs))
        if not player.runs:
            return
        self.start.setText("Stop" if player.playing else "Play")
        self.slider.blockSignals(True)
        self.slider.setRange(player.first, player.last)
        self.slider.setValue(player.frame)
        self.slider.blockSignals(False)
        read, count = player.ahead
        words = [f"frame {player.frame} of {player.first}–{player.last}", player.tally.words(player.fps)]
        words.append(f"{read} of {count} read ahead")
        words += [
            f"every second frame, {side}: held {held:.1f}, mixed {mixed:.1f} levels"
            for side, (held, mixed) in player.stepping.items()
        ]
        gone = player.missing()
        if gone:
            shown = ", ".join(map(str, gone[:6])) + (" …" if len(gone) > 6 else "")
            words.append(f"missing: {shown} (the frame before is shown)")
        self.words.setText("   ".join(words))
        self.plot.setVisible(bool(player.flicker))
        self.plot.update()

    def _on_slid(self, frame: int) -> None:
        self._player.go(frame)

    def _on_way(self, index: int) -> None:
        self._player.way = WAYS[index]

    def _on_range(self) -> None:
        text = self.range.text().strip()
        try:
            frames = [int(frame) for frame in parse_frames(text)] if text else list(self._player.whole)
        except (ValueError, InputError):
            frames = []
        wrong = not frames
        self.range.setProperty("wrong", wrong)
        self.range.style().unpolish(self.range)
        self.range.style().polish(self.range)
        if not wrong:
            self._player.set_range(min(frames), max(frames))
