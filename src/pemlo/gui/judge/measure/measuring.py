"""How pictures are measured: read, shown on which display, seen from where. Qt-free."""

from dataclasses import dataclass
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from pemlo.core.files.picture_file import ReadOptions
    from pemlo.core.pixels.display import Display


@dataclass(frozen=True)
class MeasureConditions:
    """Conditions that hold for all pictures of a stage."""

    display: "Display"
    reading: "ReadOptions"
    seen_from: str = "desk"
    as_seen: bool = False
