"""Every colour of the window, by what it means, in the theme that is shown. No widgets."""

from dataclasses import dataclass

from PySide6.QtGui import QColor

from pemlo.core import palette


@dataclass(frozen=True)
class Colours:
    """One theme."""

    name: str
    window: QColor
    sheet: QColor
    raised: QColor
    line: QColor
    ink: QColor
    second: QColor
    faint: QColor
    time: QColor
    time_light: QColor
    picture: QColor
    picture_light: QColor
    limit: QColor
    limit_light: QColor
    money: QColor


def _theme(name: str, values: dict[str, str]) -> Colours:
    return Colours(name, **{key: QColor(value) for key, value in values.items()})


SURROUND, BARE, ON_PICTURE = (QColor(value) for value in (palette.SURROUND, palette.BARE, palette.ON_PICTURE))
# What lies under words and lines on pictures, so that they can be read on any.
UNDER_PICTURE = QColor(0, 0, 0, 190)

DAY, DIM = _theme("Day", palette.DAY), _theme("Dim", palette.DIM)
THEMES = {theme.name: theme for theme in (DAY, DIM)}

_current = [DAY]


def colours() -> Colours:
    """Return the theme that is shown."""
    return _current[0]


def use(name: str) -> Colours:
    """Choose the theme; the Day theme if there is none of that name."""
    _current[0] = THEMES.get(name, DAY)
    return _current[0]


def mixed(first: QColor, second: QColor, share: float) -> QColor:
    """Return a colour between two: `share` of the second."""
    return QColor(
        *(
            round(a + (b - a) * share)
            for a, b in zip(first.getRgb()[:3], second.getRgb()[:3], strict=True)  # type: ignore[index]
        )
    )
