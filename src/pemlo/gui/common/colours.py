"""Every colour of the program, by what it means. Nothing else spells a hex value. No widgets.

Petrol is time, mulberry is picture, brick is a limit and what breaks it, olive is money.
"""

from dataclasses import dataclass

from PySide6.QtGui import QColor


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


def _theme(name: str, values: str) -> Colours:
    return Colours(name, *(QColor(f"#{value}") for value in values.split()))


# Around pictures, in both themes: a grey that lends them no colour.
SURROUND = QColor("#777777")
# Neutral too, and dark enough for white words.
BARE = QColor("#545454")
# Words and lines on pictures, and what lies under them so that they can be read on any.
ON_PICTURE, UNDER_PICTURE = QColor("#FFFFFF"), QColor(0, 0, 0, 190)

DAY = _theme("Day", "E6E4DF F5F3EE FFFFFF C9C5BC 1E2326 565D63 656B71 1F5C66 CFE0E0 7B3F61 E8D6DF B8352B F0D5D1 66651F")
DIM = _theme("Dim", "24272A 2C3034 363B40 464C52 E7E5DF AEB2B5 A0A5AA 7FB8BD 2F4447 D39AB8 46343E EB978A 4A322E C5C37A")
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
