"""The card of what it would take: a way, its curve of chance against how many, and a try. GUI thread."""

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFontMetricsF, QHelpEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from pemlo.core.chances import chance_percent
from pemlo.core.units import round_figures
from pemlo.gui.common.choice import Choice
from pemlo.gui.common.colours import colours
from pemlo.gui.common.enabling import enable
from pemlo.gui.common.fonts import SMALL, font
from pemlo.gui.common.labels import Heading, button, label
from pemlo.gui.common.plain import show_tip
from pemlo.gui.runsheet.run_edits import RunEdits, tried_words
from pemlo.words.takes import come_to, more_words, way_words

if TYPE_CHECKING:
    from pemlo.core.forecast.what_it_takes import Addition, Kind

_LEFT, _RIGHT, _TOP, _BOTTOM = 34, 12, 14, 34
_MONEY_PX = 30  # for the figures of the cost at the right
KIND_WORDS = {
    "rent": "rented hours, cheapest first",
    "machines": "more of",
    "nights": "nights of",
    "days": "days round the clock of",
}


class ChanceCurve(QWidget):
    """Chance to make it against how many more, and what it costs where machines have a price."""

    def __init__(self) -> None:
        super().__init__()
        self._way: Addition | None = None
        self._wanted = 0.9
        self._moment: Callable[[float], str | None] = str
        self._currency = ""
        self.setFixedHeight(126)
        self.setMouseTracking(True)
        self.setAccessibleName("Chance against how many more")

    def sizeHint(self) -> QSize:
        return QSize(250, 126)

    def show_way(
        self, way: "Addition | None", wanted: float, moment: Callable[[float], str | None], currency: str
    ) -> None:
        """Show a way; None for none."""
        self._way, self._wanted, self._moment, self._currency = way, wanted, moment, currency
        said = "" if way is None else "; ".join(f"{one.extra}: {chance_percent(one.probability)}" for one in way.curve)
        self.setAccessibleDescription(said)
        self.update()

    @property
    def _costs(self) -> list[float]:
        """What the numbers of the curve cost; empty where nothing has a price."""
        costs = [] if self._way is None else [one.cost for one in self._way.curve]
        return [one for one in costs if one is not None] if None not in costs else []

    @property
    def _end(self) -> float:
        """Where the curves end, px."""
        return self.width() - _RIGHT - (_MONEY_PX if self._costs else 0)

    def _place(self, extra: float, chance: float) -> QPointF:
        most = max(self._way.curve[-1].extra if self._way is not None and self._way.curve else 1, 1)
        x = _LEFT + extra / most * (self._end - _LEFT)
        return QPointF(x, self.height() - _BOTTOM - chance * (self.height() - _TOP - _BOTTOM))

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip and self._way is not None:
            near = min(self._way.curve, key=lambda one: abs(self._place(one.extra, 0).x() - event.pos().x()))
            said = f"{more_words(self._way.kind, near.extra)}: {come_to(near, self._moment, self._currency)}"
            show_tip(event.globalPos(), said, self)
            return True
        return super().event(event)

    def paintEvent(self, _event: QPaintEvent) -> None:
        palette = colours()
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setFont(font(SMALL))
            right = self._end
            for chance in (0.0, 0.5, 1.0):
                y = self._place(0, chance).y()
                painter.setPen(QPen(palette.line, 1))
                painter.drawLine(QPointF(_LEFT, y), QPointF(right, y))
                self._label(painter, y, f"{chance:.0%}")
            painter.setPen(palette.second)
            what = "hours rented" if self._way is not None and self._way.kind == "rent" else "how many more"
            words = f"{what}; chance, and cost dotted" if self._costs else f"{what}; chance of the deadline"
            base = QRectF(0, self.height() - 16, self.width(), 15)
            painter.drawText(base, Qt.AlignmentFlag.AlignCenter, words)
            if self._way is None or not self._way.curve:
                return
            painter.setPen(QPen(palette.limit, 1.4, Qt.PenStyle.DashLine))
            y = self._place(0, self._wanted).y()
            painter.drawLine(QPointF(_LEFT, y), QPointF(right, y))
            self._money(painter)
            self._curve(painter)

    def _money(self, painter: QPainter) -> None:
        """Draw the cost from nothing to the most, dashed, with its figures at the right."""
        costs = self._costs
        if not costs or self._way is None:
            return
        palette, top = colours(), max(*costs, 1e-9) * 1.1
        points = [self._place(one.extra, (one.cost or 0.0) / top) for one in self._way.curve]
        painter.setPen(QPen(palette.money, 1.6, Qt.PenStyle.DotLine))
        painter.drawPolyline(points)
        for point, cost in {points[0].y(): (points[0], costs[0]), points[-1].y(): (points[-1], costs[-1])}.values():
            painter.setPen(palette.money)
            place = QRectF(self._end + 4, point.y() - 8, _MONEY_PX + _RIGHT - 4, 16)
            if point is points[-1] or abs(points[0].y() - points[-1].y()) > 14:
                painter.drawText(place, Qt.AlignmentFlag.AlignVCenter, round_figures(cost, 2))

    def _label(self, painter: QPainter, y: float, words: str) -> None:
        painter.setPen(colours().second)
        place = QRectF(0, y - 8, _LEFT - 5, 16)
        painter.drawText(place, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, words)

    def _curve(self, painter: QPainter) -> None:
        assert self._way is not None
        palette, curve = colours(), self._way.curve
        points = [self._place(one.extra, one.probability) for one in curve]
        painter.setPen(QPen(palette.time, 2))
        painter.drawPolyline(points)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(palette.time)
        last = -100.0
        for one, point in zip(curve, points, strict=True):
            painter.setPen(Qt.PenStyle.NoPen)
            painter.drawEllipse(point, 2.6, 2.6)
            words = f"{one.extra} h" if self._way.kind == "rent" else f"+{one.extra}"
            width = QFontMetricsF(painter.font()).horizontalAdvance(words)
            if point.x() - width / 2 > last + 6:
                painter.setPen(palette.second)
                painter.drawText(QPointF(point.x() - width / 2, self.height() - _BOTTOM + 14), words)
                last = point.x() + width / 2
        if self._way.least is not None:
            painter.setPen(QPen(palette.ink, 2))
            painter.setBrush(palette.raised)
            painter.drawEllipse(self._place(self._way.least.extra, self._way.least.probability), 5, 5)


class TakesCard(QWidget):
    """The card.

    Signals
    -------
    wanted(str, str)
        A kind and a machine of which it is to be found what it would take.
    """

    wanted = Signal(str, str)

    def __init__(self, edits: RunEdits) -> None:
        super().__init__()
        self._edits = edits
        self._ways: tuple[tuple[Kind, str], ...] = ()
        self.way: Addition | None = None
        self._current = False
        self._of: tuple[float, Callable[[float], str | None], str] = (0.9, str, "")
        self.heading = Heading("What would it take")
        self.ways = Choice("Way", "More machines, nights or days of one kind")
        self.ways.currentIndexChanged.connect(lambda _: self._on_chosen())
        self.curve = ChanceCurve()
        self.words = label("", wrap=True)
        self.try_it = button("Try it", "Put it in: it can be kept or dropped", self._on_try, main=True)
        self.tried = label("", "title", wrap=True)
        self.keep = button("Keep it", "Leave it in the film", self._on_keep, main=True)
        self.drop = button("Drop it", "Take it out of the film again", self._on_drop)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(5)
        row = QHBoxLayout()
        row.setSpacing(6)
        for one in (self.try_it, self.keep, self.drop):
            row.addWidget(one)
        row.addStretch(1)
        for widget in (self.heading, self.ways, self.curve, self.words, self.tried):
            column.addWidget(widget)
        column.addLayout(row)

    def show_ways(self, ways: "Sequence[tuple[Kind, str]]") -> None:
        """Offer these kinds and machines; the one that was chosen stays."""
        if tuple(ways) == self._ways:
            return
        before, self._ways = self.chosen, tuple(ways)
        self.ways.blockSignals(True)
        self.ways.clear()
        self.ways.addItems([f"{KIND_WORDS[kind]} {name}".strip() for kind, name in self._ways])
        self.ways.setCurrentIndex(self._ways.index(before) if before in self._ways else 0)
        self.ways.blockSignals(False)
        if self.chosen != before:
            self._on_chosen()

    def show_way(
        self,
        way: "Addition | None",
        wanted: float,
        moment: Callable[[float], str | None],
        currency: str,
        *,
        current: bool,
    ) -> None:
        """Show what the chosen way comes to; None while that is not known.

        Parameters
        ----------
        wanted : float
            The chance that is wanted.
        moment : callable
            Writes hours since the start.
        current : bool
            Whether it is of the film as it stands.
        """
        self._of = wanted, moment, currency
        self.way = way if way is not None and (way.kind, way.machine) == self.chosen else None
        self._current = current and self.way is not None
        self.heading.say("" if self._current else "being tried …")
        self._show()

    @property
    def chosen(self) -> "tuple[Kind, str] | None":
        """The kind and the machine that are chosen."""
        number = self.ways.currentIndex()
        return self._ways[number] if 0 <= number < len(self._ways) else None

    def _on_chosen(self) -> None:
        self.way = None
        self._show()
        if self.chosen is not None:
            self.wanted.emit(*self.chosen)

    def _show(self) -> None:
        way, (wanted, moment, currency) = self.way, self._of
        self.curve.show_way(way, wanted, moment, currency)
        self.words.setText("Not known yet." if way is None else way_words(way, moment, currency) + ".")
        tried = self._edits.tried
        enough = way is not None and way.least is not None and (way.least.extra > 0 or way.kind == "rent")
        can = self._current and enough
        self.try_it.setVisible(not tried)
        enable(
            self.try_it,
            ""
            if can
            else "Being worked out."
            if not self._current
            else "None of it is enough, or none more is needed.",
        )
        self.tried.setText(f"Tried now: {tried}." if tried else "")
        for one in (self.tried, self.keep, self.drop):
            one.setVisible(bool(tried))

    def _on_try(self) -> None:
        way = self.way
        if way is not None and way.least is not None:
            self._edits.try_way(
                way.kind, way.machine, way.least.extra, tried_words(way.kind, way.machine, way.least.extra)
            )

    def _on_keep(self) -> None:
        self._edits.keep_tried()
        self._show()

    def _on_drop(self) -> None:
        self._edits.drop_tried()
        self._show()
