"""The ruler of the run sheet: which hours are shown, and where they stand. Qt-free."""

from dataclasses import dataclass, replace

LEAST_SHOWN_H = 0.05


@dataclass(frozen=True)
class Scale:
    """Hours between two places.

    Attributes
    ----------
    first_h, last_h : float
        The hours that are shown, since the start.
    whole_h : float
        Where the ruler ends.
    left, width : float
        Where it is drawn, px.
    """

    first_h: float
    last_h: float
    whole_h: float
    left: float
    width: float

    def x(self, hours: float) -> float:
        """Return where an hour stands, px; far outside what is shown no further than a little outside."""
        at = self.left + (hours - self.first_h) / (self.last_h - self.first_h) * self.width
        return min(max(at, self.left - 50.0), self.left + self.width + 50.0)

    def hours(self, x: float) -> float:
        """Return the hour that stands at a place."""
        return self.first_h + (x - self.left) / max(self.width, 1.0) * (self.last_h - self.first_h)

    def shows(self, begin: float, end: float) -> bool:
        """Whether any of a stretch is shown."""
        return end > self.first_h and begin < self.last_h

    def zoomed(self, factor: float, at_h: float) -> "Scale":
        """Return the ruler so many times closer, an hour staying where it is."""
        span = min(max((self.last_h - self.first_h) / factor, LEAST_SHOWN_H), self.whole_h)
        share = (at_h - self.first_h) / (self.last_h - self.first_h)
        return self.moved_to(at_h - share * span, span)

    def panned(self, by_h: float) -> "Scale":
        """Return the ruler with later hours."""
        return self.moved_to(self.first_h + by_h, self.last_h - self.first_h)

    def moved_to(self, first_h: float, span: float) -> "Scale":
        """Return the ruler with so many hours from one on, within its ends."""
        first = min(max(first_h, 0.0), max(self.whole_h - span, 0.0))
        return replace(self, first_h=first, last_h=first + span)
