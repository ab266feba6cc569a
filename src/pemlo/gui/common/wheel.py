"""Whole steps of a wheel, whatever turns it: a mouse in clicks, a touchpad in many small moves. GUI thread."""

from PySide6.QtGui import QWheelEvent

CLICK = 120  # eighths of a degree: one click of a mouse wheel


class WheelSteps:
    """Gathers small moves until they come to a step."""

    def __init__(self) -> None:
        self._gathered = 0

    def of(self, event: QWheelEvent) -> int:
        """Return how many steps forward (or back, negative) an event completes; sideways is none."""
        moved = event.angleDelta()
        if abs(moved.x()) >= abs(moved.y()):
            return 0
        if moved.y() * self._gathered < 0:
            self._gathered = 0  # turned round: what was gathered the other way is given up
        self._gathered += moved.y()
        steps = int(self._gathered / CLICK)
        self._gathered -= steps * CLICK
        return steps
