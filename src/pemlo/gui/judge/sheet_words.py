"""Everything that the sheet beside the pictures says, as one frozen value. Qt-free."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING

from pemlo.core.project.ceiling import ceiling_of
from pemlo.core.project.project import Project
from pemlo.core.project.scenes import scene_of
from pemlo.gui.judge.measure.presenter import Line, Missing, missing_trial, number_lines, source_words, time_line
from pemlo.gui.judge.presenter import ceiling_words, contradiction_words, mark_words
from pemlo.gui.judge.viewer.pair import Pair

if TYPE_CHECKING:
    from pemlo.core.appraisal.noise_sources import Sources
    from pemlo.core.appraisal.picture_comparison import PictureComparison


@dataclass(frozen=True)
class SheetWords:
    """What the sheet says.

    Attributes
    ----------
    which : str
        Which picture is marked, and how.
    can_clear : bool
        Whether there is a mark to take away.
    ceiling, contradiction : str or None
        What passes, and which marks contradict each other; None without a shot.
    has_look : bool
        Whether the shot shares its look with others.
    heading, heading_tip : str
        What the numbers are of.
    lines : tuple of Line
    has_spots : bool
        Whether there is a worst spot to go to.
    offer : str
        What could be rendered to know more; empty for nothing.
    viewing : str
        Where the film is watched.
    worth : str
        Whether denoising is worth it.
    shares : mapping of float, advice : str
        Share of each source of the noise, and how rays are better shared out.
    """

    which: str
    can_clear: bool
    ceiling: str | None
    contradiction: str
    has_look: bool
    heading: str
    heading_tip: str
    lines: tuple[Line, ...]
    has_spots: bool
    offer: str
    viewing: str
    worth: str
    shares: Mapping[str, float]
    advice: str


def missing_here(project: Project, pair: Pair, picture_comparison: "PictureComparison | None") -> Missing | None:
    """Return the trial that would tell more, if its shot can be rendered here."""
    missing = missing_trial(pair.left, picture_comparison, has_reference=pair.reference() is not None)
    can_render = missing is not None and any(shot.name == missing.shot and scene_of(shot) for shot in project.shots)
    return missing if can_render else None


def sheet_words(
    project: Project,
    shot: str,
    pair: Pair,
    picture_comparison: "PictureComparison | None",
    sources: "Sources | None",
    worth: str,
    *,
    hidden: bool,
) -> SheetWords:
    """Return what the sheet says of a pair; numbers and names are left out while they are hidden."""
    left, reference = pair.left, pair.reference()
    trial = None if left is None else left.trial
    known = next((one for one in project.shots if one.name == shot), None)
    ceiling = None if known is None else ceiling_of(project, shot)
    where = "" if trial is None else f"{trial.shot}, frame {trial.frame}: {mark_words(trial)}"
    against = "Left, the cleanest of its frame" if reference is None else "Left, against the reference"
    frames = 1 if known is None else known.frame_count
    missing = missing_here(project, pair, picture_comparison)
    shares, advice = source_words(None if hidden else sources)
    return SheetWords(
        which="the left one, whichever it is" if hidden else where,
        can_clear=bool(trial and trial.mark) and not hidden,
        ceiling=None if ceiling is None else ceiling_words(ceiling, shot),
        contradiction="" if ceiling is None else contradiction_words(ceiling),
        has_look=bool(known and known.look),
        heading="Numbers are hidden until you have marked" if hidden else against,
        heading_tip="" if reference is None or hidden else f"The reference is {reference.name}",
        lines=() if hidden else (*number_lines(picture_comparison), *time_line(left, pair.right, frames)),
        has_spots=not hidden and picture_comparison is not None and picture_comparison.measured.grain is not None,
        offer=missing.words if missing is not None and not hidden else "",
        viewing=project.delivery.seen_from,
        worth="" if hidden else worth,
        shares=shares,
        advice=advice,
    )
