"""The card of what it would take: a way, its curve of chance against how many, and a try. GUI thread."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from pemlo.core.units import round_figures
from pemlo.gui.common.axes import Axis, share_axis, thinned
from pemlo.gui.common.choice import Choice
from pemlo.gui.common.enabling import enable
from pemlo.gui.common.labels import Heading, button, label
from pemlo.gui.common.plot import Plot
from pemlo.gui.runsheet.run_edits import RunEdits, tried_words
from pemlo.words.takes import come_to, more_words, way_words

if TYPE_CHECKING:
    from pemlo.core.forecast.what_it_takes import Addition, Kind

KIND_WORDS = {
    "rent": "rented hours, cheapest first",
    "machines": "more of",
    "nights": "nights of",
    "days": "days round the clock of",
}


@dataclass(frozen=True)
class _StepDot:
    """A number of more, as a dot."""

    index: int
    words: str


_APART = 0.85  # of the most that it costs


class ChanceCurve(Plot):
    """Chance to make it against how many more, and what it costs where machines have a price."""

    def __init__(self) -> None:
        super().__init__("Chance against how many more", share_axis("chance"), _more_axis(None))
        self.setFixedHeight(132)

    def show_way(
        self, way: "Addition | None", wanted: float, moment: Callable[[float], str | None], currency: str
    ) -> None:
        """Show a way; None for none."""
        self.clear()
        self.bottom = _more_axis(way)
        if way is None or not way.curve:
            return
        more = np.array([step.extra for step in way.curve], float)
        chances = np.array([step.probability for step in way.curve])
        costs = [step.cost for step in way.curve if step.cost is not None]
        if len(costs) == len(more):
            known = np.array(costs)
            self.add_line(more, known, "money", 1.6, Qt.PenStyle.DotLine, right=True)
            ends = sorted({float(known[0]), float(known[-1])})
            ends = ends if ends[0] < _APART * ends[-1] else ends[-1:]  # two words at one place cannot be read
            self.set_right(Axis("cost", lambda _low, _high, _size: ends, lambda cost: round_figures(cost, 2)),
                           np.array([0.0, *known]), "money")  # fmt: skip
        self.add_level(wanted, "limit", dashed=True)
        self.add_line(more, chances, "time")
        dots = [
            _StepDot(step.extra, f"{more_words(way.kind, step.extra)}: {come_to(step, moment, currency)}")
            for step in way.curve
        ]
        self.add_dots(dots, more, chances, "time", size=3.0)
        if way.least is not None:
            self.add_ring(float(way.least.extra), way.least.probability, "ink")
        self.set_range(np.array([0.0, max(float(more[-1]), 1.0)]), np.array([0.0, 1.0]), margins=(0.03, 0.06))


def _more_axis(way: "Addition | None") -> Axis:
    rented = way is not None and way.kind == "rent"
    steps = [] if way is None else [float(step.extra) for step in way.curve]
    return Axis(
        "hours rented" if rented else "how many more",
        lambda _low, _high, size: thinned(steps, size),
        lambda extra: f"{extra:.0f} h" if rented else f"+{extra:.0f}",
    )


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
        for push_button in (self.try_it, self.keep, self.drop):
            row.addWidget(push_button)
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
            "" if can else "Being worked out." if not self._current else "It is not enough, or nothing more is needed.",
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
