"""How close rows of tables stand. GUI thread."""

ROOMY_PX, COMPACT_PX = 26, 21
_row = [ROOMY_PX]


def row_px() -> int:
    """Return how high a row is, px."""
    return _row[0]


def set_compact(*, compact: bool) -> None:
    """Let rows stand close, or with more room; tables take it with the next sheet of styles."""
    _row[0] = COMPACT_PX if compact else ROOMY_PX
