"""One small picture of each term, drawn in the colours of the theme. GUI thread."""

import random
from collections.abc import Callable, Sequence
from itertools import pairwise

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPixmap, QPolygonF

from pemlo.gui.common.colours import colours, mixed
from pemlo.gui.common.fonts import SMALL, font

WIDE, HIGH, SHARP = 104, 40, 2
GROUND = HIGH - 4.0
PATCH = 32.0  # px of a side of a piece of a picture


def term_picture(term: str) -> QPixmap:
    """Return the picture of a term."""
    made = QPixmap(WIDE * SHARP, HIGH * SHARP)
    made.setDevicePixelRatio(SHARP)
    made.fill(colours().raised)
    with QPainter(made) as painter:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(font(SMALL))
        PICTURES[term](painter)
    return made


def _line(p: QPainter, x1: float, y1: float, x2: float, y2: float, colour: QColor, *, dashed: bool = False) -> None:
    p.setPen(QPen(colour, 1.5, Qt.PenStyle.DashLine if dashed else Qt.PenStyle.SolidLine))
    p.drawLine(QLineF(x1, y1, x2, y2))


def _bars(p: QPainter, heights: Sequence[float], colour: QColor, limit: float | None = None) -> None:
    wide = (WIDE - 8) / len(heights)
    for number, high in enumerate(heights):
        p.fillRect(QRectF(6 + number * wide, GROUND - high, wide - 4, high), colour)
    if limit is not None:
        _line(p, 2, GROUND - limit, WIDE - 2, GROUND - limit, colours().limit)


def _hump(p: QPainter, share: float) -> None:
    """Draw a spread of outcomes, dark up to a share of them."""
    heights = [30 * 2.718281828 ** (-(((x - 48) / 20) ** 2)) for x in range(0, 97, 2)]
    end, total = 0, 0.0
    while total < share * sum(heights):
        total += heights[end]
        end += 1
    for part, colour in ((heights, colours().time_light), (heights[:end], colours().time)):
        points = [QPointF(4 + 2 * k, GROUND - high) for k, high in enumerate(part)]
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(colour)
        p.drawPolygon(QPolygonF([QPointF(4, GROUND), *points, QPointF(points[-1].x(), GROUND)]))
    _line(p, 4 + 2 * end, 2, 4 + 2 * end, GROUND, colours().ink)


def _patch(p: QPainter, left: float, noise: float, light: float = 0.55, spots: int = 0) -> None:
    """Draw a piece of a picture with so much noise."""
    dice, cells = random.Random(1), 8  # noqa: S311 - a picture of noise
    bright = set(dice.sample(range(cells * cells), spots))
    for cell in range(cells * cells):
        value = 1.0 if cell in bright else min(max(light + dice.gauss(0, noise), 0.0), 1.0)
        x, y = left + cell % cells * PATCH / cells, 4 + cell // cells * PATCH / cells
        p.fillRect(QRectF(x, y, PATCH / cells, PATCH / cells), QColor.fromRgbF(value, value, value))


def _stripes(p: QPainter, left: float, contrast: float) -> None:
    for number in range(8):
        value = 0.5 + (contrast if number % 2 else -contrast)
        p.fillRect(QRectF(left + number * PATCH / 8, 4, PATCH / 8, PATCH), QColor.fromRgbF(value, value, value))


def _frames(p: QPainter, kinds: str) -> None:
    """Draw a row of frames: rendered (x), left out (o), again (a)."""
    wide = (WIDE - 8) / len(kinds)
    for number, kind in enumerate(kinds):
        box = QRectF(5 + number * wide, 12, wide - 4, 16)
        p.setPen(QPen(colours().limit if kind == "a" else colours().time, 1.2))
        p.setBrush(colours().time if kind == "x" else Qt.BrushStyle.NoBrush)
        p.drawRect(box)
        if kind == "a":
            p.drawLine(box.topLeft(), box.bottomRight())


def _slider(p: QPainter, at: float) -> None:
    _line(p, 6, HIGH / 2, WIDE - 6, HIGH / 2, colours().second)
    p.fillRect(QRectF(6 + at * (WIDE - 18), HIGH / 2 - 7, 7, 14), colours().ink)


def _text(p: QPainter, words: str, box: QRectF) -> None:
    p.setPen(colours().ink)
    p.drawText(box, Qt.AlignmentFlag.AlignCenter, words)


def _curve(p: QPainter, points: Sequence[tuple[float, float]], colour: QColor, *, dashed: bool = False) -> None:
    for (x1, y1), (x2, y2) in pairwise(points):
        _line(p, x1, y1, x2, y2, colour, dashed=dashed)


def _dots(p: QPainter, places: Sequence[tuple[float, float]], colour: QColor) -> None:
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(colour)
    for x, y in places:
        p.drawEllipse(QPointF(x, y), 3, 3)


def _part(p: QPainter, whole: float, part: float, light: QColor, dark: QColor) -> None:
    p.fillRect(QRectF(5, 13, whole, 14), light)
    p.fillRect(QRectF(5, 13, part, 14), dark)


def _hour(p: QPainter) -> None:
    _part(p, 60, 60, colours().time, colours().time)
    _text(p, "1 h", QRectF(66, 4, 36, 32))


def _chance(p: QPainter) -> None:
    places = [(12 + 20 * (k % 5), 12 + 16 * (k // 5)) for k in range(10)]
    _dots(p, places[:9], colours().time)
    _dots(p, places[9:], colours().limit)


def _clock(p: QPainter) -> None:
    p.setPen(QPen(colours().ink, 1.5))
    p.drawEllipse(QPointF(WIDE / 2, HIGH / 2), 16, 16)
    p.drawLine(QLineF(WIDE / 2, HIGH / 2, WIDE / 2, 8))
    p.drawLine(QLineF(WIDE / 2, HIGH / 2, WIDE / 2 + 9, HIGH / 2 + 4))


def _denoiser(p: QPainter) -> None:
    _patch(p, 6, 0.25)
    _text(p, "→", QRectF(38, 4, 28, PATCH))
    _patch(p, 66, 0.04)


def _error(p: QPainter) -> None:
    _patch(p, 6, 0.2)
    _text(p, "−", QRectF(38, 4, 28, PATCH))
    _patch(p, 66, 0.0)


def _flicker(p: QPainter) -> None:
    for number, light in enumerate((0.5, 0.62, 0.45)):
        _patch(p, 2 + 34 * number, 0.03, light)


def _interval(p: QPainter) -> None:
    _line(p, 14, 20, 90, 20, colours().time)
    for x in (14, 90):
        _line(p, x, 13, x, 27, colours().time)
    _dots(p, ((46, 20),), colours().ink)


def _levels(p: QPainter) -> None:
    for number in range(12):
        p.fillRect(QRectF(4 + 8 * number, 8, 8, 24), mixed(QColor("black"), QColor("white"), number / 11))


def _parallel(p: QPainter) -> None:
    for number in range(4):
        p.fillRect(QRectF(5 + 25 * (number % 2), 6 + 15 * (number // 2), 22, 12), colours().time)
    _text(p, "2 at once", QRectF(54, 4, 48, PATCH))


def _outlier(p: QPainter) -> None:
    _line(p, 6, 32, 98, 14, colours().second)
    _dots(p, ((18, 30), (40, 25), (62, 21), (84, 17)), colours().time)
    _dots(p, ((52, 7),), colours().limit)


def _predicted(p: QPainter) -> None:
    _curve(p, ((6, 34), (26, 22), (50, 16)), colours().picture)
    _curve(p, ((50, 16), (74, 12), (98, 10)), colours().picture, dashed=True)


def _sizes(p: QPainter) -> None:
    p.setPen(QPen(colours().second, 1.2))
    p.drawRect(QRectF(24, 4, 56, 32))
    p.fillRect(QRectF(24, 20, 28, 16), colours().time)


def _samples(p: QPainter) -> None:
    for left, noise, words in ((4, 0.28, "16"), (56, 0.14, "64")):
        _patch(p, left, noise)
        _text(p, words, QRectF(left + PATCH, 4, 18, PATCH))


def _softening(p: QPainter) -> None:
    _stripes(p, 6, 0.4)
    _text(p, "→", QRectF(38, 4, 28, PATCH))
    _stripes(p, 66, 0.1)


def _threshold(p: QPainter) -> None:
    _curve(p, ((6, 6), (20, 16), (44, 24), (98, 30)), colours().picture)
    _line(p, 2, 24, WIDE - 2, 24, colours().limit, dashed=True)


def _time_limit(p: QPainter) -> None:
    _part(p, 94, 64, colours().time_light, colours().time)
    _line(p, 69, 6, 69, 34, colours().limit)


def _trial(p: QPainter) -> None:
    _frames(p, "oxoo")
    _text(p, "4:02", QRectF(24, -4, 40, 16))


PICTURES: dict[str, Callable[[QPainter], None]] = {
    "as asked": lambda p: _slider(p, 1.0),
    "available": lambda p: _bars(p, (24, 24, 24), colours().time_light, 24),
    "budget": lambda p: _bars(p, (10, 18, 26), colours().money, 28),
    "cache": lambda p: _bars(p, (30, 12, 12, 12, 12), colours().time),
    "chance": _chance,
    "clock hours": _clock,
    "denoiser": _denoiser,
    "error": _error,
    "error limit": lambda p: _bars(p, (14, 20, 11, 24), colours().picture, 22),
    "fireflies": lambda p: _patch(p, 36, 0.03, 0.15, 4),
    "flicker": _flicker,
    "frame step": lambda p: _frames(p, "xoxoxo"),
    "frames in parallel": _parallel,
    "interval": _interval,
    "level": _levels,
    "lever": lambda p: _slider(p, 0.55),
    "likely": lambda p: _hump(p, 0.5),
    "machine-hour": _hour,
    "noise threshold": _threshold,
    "outlier": _outlier,
    "predicted": _predicted,
    "reference": lambda p: _patch(p, 36, 0.0),
    "resolution percentage": _sizes,
    "retakes": lambda p: _frames(p, "xxxax"),
    "safe": lambda p: _hump(p, 0.9),
    "samples": _samples,
    "softening": _softening,
    "time limit": _time_limit,
    "to spare": lambda p: _part(p, 94, 66, colours().time_light, colours().time),
    "trial": _trial,
}
