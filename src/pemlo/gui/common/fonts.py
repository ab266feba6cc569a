"""The fonts that ship with the program, loaded from files so that text looks the same anywhere. GUI thread."""

from pathlib import Path

from PySide6.QtGui import QFont, QFontDatabase

FOLDER = Path(__file__).parents[2] / "fonts"
FAMILY = "Inter"
SMALL, NORMAL, LARGE, HUGE = 12, 13, 16, 22

_loaded: list[int] = []


def load_fonts() -> None:
    """Load the program's fonts, once."""
    if not _loaded:
        _loaded.extend(QFontDatabase.addApplicationFont(str(file)) for file in sorted(FOLDER.glob("*.otf")))


def font(size: int = NORMAL, weight: QFont.Weight = QFont.Weight.Normal) -> QFont:
    """Return the program's font at a size in px."""
    made = QFont(FAMILY)
    made.setPixelSize(size)
    made.setWeight(weight)
    made.setHintingPreference(QFont.HintingPreference.PreferNoHinting)
    made.setFeature(QFont.Tag("tnum"), 1)
    return made


def bold(size: int = NORMAL) -> QFont:
    """Return the program's font in semibold."""
    return font(size, QFont.Weight.DemiBold)
