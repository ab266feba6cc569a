"""The first frame of a launch, held against the plan: size, settings, seconds, what it shows. Files; a second."""

from pathlib import Path

import numpy as np

from pemlo.core.arrivals.frame_check import check_frame, settings_differ
from pemlo.core.cost.draws import draw_frame
from pemlo.core.cost.posterior import Fit
from pemlo.core.preflight.finding import Finding, fine, not_known, wrong
from pemlo.core.project.project import Project
from pemlo.core.project.settings import FrameSettings
from pemlo.core.units import format_duration

CHECK = "first frame"


def first_frame_findings(project: Project, fit: Fit, shot_name: str, path: Path, seed: int = 0) -> list[Finding]:
    """Return what is wrong with a frame that was rendered with launch settings.

    Parameters
    ----------
    project : Project
    fit : Fit
        Of its trials.
    shot_name : str
    path : path
        The frame's picture.
    seed : int
        >= 0, of the draws.
    """
    shot = project.shot(shot_name)
    settings = shot.settings
    width, height = project.size_of(shot)
    share = settings.resolution_percent / 100
    wanted = max(1, round(width * share)), max(1, round(height * share))
    checked = check_frame(path, wanted, dict(project.watching.header_names))
    if checked.trouble:
        return [
            wrong(CHECK, f"The first frame of {shot_name} {_verb(checked.trouble)}.", "Mend the launch.", shot_name)
        ]
    said = checked.said or {}
    found = []
    if words := settings_differ(said, settings):
        found.append(
            wrong(
                CHECK, f"The first frame of {shot_name} is not as planned: {words}.", "Set it to the plan.", shot_name
            )
        )
    seconds = said.get("seconds")
    if seconds is None:
        found.append(
            not_known(
                CHECK, f"What the first frame of {shot_name} took is not known.", "Type its time in Trials.", shot_name
            )
        )
    elif fit.known:
        found += _seconds(
            project, fit, shot_name, int(said.get("frame", shot.first)), float(seconds), said.get("machine", ""), seed
        )
    return found or [fine(CHECK, shot_name)]


def _verb(trouble: str) -> str:
    return trouble if trouble.startswith("is ") else f"cannot be used: {trouble.rstrip('.')}"


def _seconds(
    project: Project, fit: Fit, shot_name: str, frame: int, seconds: float, machine: str, seed: int
) -> list[Finding]:
    """Hold what a frame took against what is predicted on its machine."""
    settings = FrameSettings.model_validate(project.shot(shot_name).settings.frame_fields())
    drawn = draw_frame(fit, project, shot_name, frame, settings, seed)
    speed = next((one.slot_speed() for one in project.machines if one.name == machine), 1.0)
    low, high = np.quantile(drawn / speed, [0.05, 0.95])
    if low <= seconds <= high:
        return []
    words = f"The first frame of {shot_name} took {format_duration(seconds)}, and {format_duration(float(low))} to "
    words += f"{format_duration(float(high))} were predicted" + (f" on {machine}." if machine else ".")
    return [wrong(CHECK, words, "Find out why before the night, or count it as a trial.", shot_name)]
