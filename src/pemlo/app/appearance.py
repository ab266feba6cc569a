"""How the program looks for a person: theme, size of the text, how close things stand, first day of the week."""

from dataclasses import dataclass, replace
from typing import Any

THEMES = ("Day", "Dim")
TEXT_PERCENTS = (100, 115, 133, 150, 175, 200)
FIRST_DAYS = {"Monday": 1, "Saturday": 6, "Sunday": 7}


@dataclass(frozen=True)
class Appearance:
    """What a person chose.

    Attributes
    ----------
    theme : str
    text_percent : int
        Size of texts and all that goes with them; taken at the start of the program.
    compact : bool
        Whether rows and controls stand closer.
    first_day : int
        First day of the week in calendars, 1 for Monday to 7 for Sunday.
    """

    theme: str = "Day"
    text_percent: int = 100
    compact: bool = False
    first_day: int = 1

    def having(self, **fields: Any) -> "Appearance":  # noqa: ANN401 - any of its fields
        """Return it with other values."""
        return replace(self, **fields)


def appearance_of(stored: dict[str, Any]) -> Appearance:
    """Return what was stored, with the usual in place of what cannot be.

    Examples
    --------
    >>> appearance_of({"theme": "Dim", "text_percent": "9999"})
    Appearance(theme='Dim', text_percent=100, compact=False, first_day=1)
    """
    usual = Appearance()
    theme, percent, day = stored.get("theme"), stored.get("text_percent"), stored.get("first_day")
    return Appearance(
        theme=theme if isinstance(theme, str) and theme in THEMES else usual.theme,
        text_percent=percent if isinstance(percent, int) and percent in TEXT_PERCENTS else usual.text_percent,
        compact=stored.get("compact") is True,
        first_day=day if isinstance(day, int) and day in FIRST_DAYS.values() else usual.first_day,
    )
