"""The form of what later work needs of files. Qt-free."""

from pemlo.core.persistence.csv_launch import colour, layer_names
from pemlo.core.persistence.table import whole_number, yes_or_no
from pemlo.core.preflight.left_on import HOLDS
from pemlo.core.project.edits import set_handles, set_needs
from pemlo.core.project.project import Project
from pemlo.gui.common.cells import NOTHING, read
from pemlo.gui.common.columns import Field


def _bits(text: str) -> int:
    return 0 if text.strip().lower() in ("", "any", NOTHING) else whole_number(text)


def _holds(text: str) -> str:
    return "" if text.strip().lower() in ("", "any", NOTHING) else colour(text)


def _handles(project: Project) -> str:
    """Say how many handles shots have, where all that move have as many."""
    counts = {shot.handles for shot in project.shots if not shot.still}
    return str(next(iter(counts), 0)) if len(counts) <= 1 else "differ"


NEEDS: tuple[Field, ...] = (
    Field("handles", "Handles", "Frames more at either end of every shot, in its hours too",
          _handles, lambda p, text: set_handles(p, read(whole_number, text, "handles"))),
    Field("bits", "Bits a value", "That later work needs; any where that is not said",
          lambda p: str(p.needs.bits or "any"), lambda p, text: set_needs(p, bits=read(_bits, text, "bits")),
          choices=("any", "8", "16", "32")),
    Field("alpha", "Alpha", "Whether later work needs it", lambda p: "yes" if p.needs.alpha else "no",
          lambda p, text: set_needs(p, alpha=read(yes_or_no, text, "alpha")), choices=("no", "yes")),
    Field("layers", "Layers", "That later work needs, with commas between",
          lambda p: ", ".join(p.needs.layers) or "none", lambda p, text: set_needs(p, layers=layer_names(text))),
    Field("colour", "Files hold", f"{HOLDS['scene-linear']}, or {HOLDS['display']}; any where that is not said",
          lambda p: p.needs.colour or "any", lambda p, text: set_needs(p, colour=read(_holds, text, "files hold")),
          choices=("any", "scene-linear", "display")),
    Field("movie", "Movie", "Its codec wants even sides", lambda p: "yes" if p.needs.movie else "no",
          lambda p, text: set_needs(p, movie=read(yes_or_no, text, "movie")), choices=("yes", "no")),
)  # fmt: skip
