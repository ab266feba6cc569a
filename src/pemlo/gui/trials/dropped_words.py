"""Pictures that were brought in, as trials; and what the form for their headers' names says. Qt-free."""

from collections.abc import Mapping, Sequence
from typing import Any

from pemlo.core.errors import InputError, Problem
from pemlo.core.files.header import Header
from pemlo.core.persistence.trial_header import FIELDS, fields_of
from pemlo.core.project.project import Project
from pemlo.core.project.record import build
from pemlo.core.project.scenes import scene_of
from pemlo.core.project.shots import Shot
from pemlo.core.project.timed_sizes import Size, file_sizes
from pemlo.core.project.trials import Trial

# What a person calls the fields; those that are not here are called as they are.
TITLES = {
    "seconds": "Time of the frame",
    "min_samples": "Min samples",
    "noise_threshold": "Noise threshold",
    "resolution_percent": "Size, %",
    "mean_samples": "Samples spent",
    "noise": "Noise left",
    **{f"{stage}_seconds": f"Time of {stage}" for stage in ("prepare", "light", "trace", "denoise", "write")},
}


def title_of(field: str) -> str:
    """Return what a field is called on screen."""
    return TITLES.get(field, field.capitalize())


def guessed_names(header: Header) -> dict[str, str]:
    """Return attributes whose names say plainly which field they hold: the same words, whatever stands between them."""
    plain = {"".join(c for c in name.lower().rsplit(":", 1)[-1] if c.isalnum()): name for name in header.attributes}
    found = {field: plain.get(field.replace("_", "")) for field in FIELDS}
    return {field: name for field, name in found.items() if name}


def dropped_trials(
    headers: Sequence[Header], names: Mapping[str, str], project: Project, shown: str
) -> tuple[tuple[Trial, ...], tuple[Problem, ...]]:
    """Return the trials that pictures show, and what is wrong with those that show none.

    The shot is the one that the header names, else the only one of its scene, else the one that is shown. Settings that
    the header does not tell are those that the shot asks for.
    """
    trials: list[Trial] = []
    problems: list[Problem] = []
    for header in headers:
        try:
            trials.append(_trial(header, names, project, shown))
        except InputError as error:
            problems += error.problems or [Problem(header.path.name, error.message)]
    return tuple(trials), tuple(problems)


def _trial(header: Header, names: Mapping[str, str], project: Project, shown: str) -> Trial:
    said = fields_of(header, names)
    shot = _shot(project, said.pop("shot", ""), said.pop("scene", ""), shown, header.path.name)
    if "frame" not in said:
        raise InputError([Problem(header.path.name, "tells no frame, neither in its header nor in its name")])
    asked: dict[str, Any] = shot.asked.frame_fields()
    if "samples" in said and "noise_threshold" not in said:
        asked |= {"noise_threshold": None, "min_samples": None}
    fields = {
        **asked,
        **_timed_at(header, said, project.size_of(shot), shot.asked.resolution_percent),
        **said,
        "shot": shot.name,
        "picture": str(header.path.absolute()),
    }
    least = fields.get("min_samples")
    if "min_samples" not in said and least is not None and least > fields["samples"]:
        fields["min_samples"] = None
    return build(Trial, fields, header.path.name)


def _timed_at(header: Header, said: Mapping[str, Any], size: Size, percent: float) -> dict[str, int]:
    """Return the pixels of a picture where it says no percentage: those it was timed at.

    A frame that is rendered larger inside may have been brought to its size: then it is as asked.
    """
    own = header.width, header.height
    if "resolution_percent" in said or "width" in said or own in file_sizes(size, percent):
        return {}
    return {"width": own[0], "height": own[1]}


def _shot(project: Project, name: str, scene: str, shown: str, file: str) -> Shot:
    if name:
        shots = [shot for shot in project.shots if shot.name == name]
        if not shots:
            raise InputError([Problem(file, f"is of shot {name}, which is not in the brief")])
        return shots[0]
    of_scene = [shot for shot in project.shots if scene and scene_of(shot) == scene]
    named = of_scene or [shot for shot in project.shots if shot.name == scene]
    if len(named) == 1:
        return named[0]
    here = [shot for shot in project.shots if shot.name == shown]
    if not here:
        raise InputError([Problem(file, "tells no shot, and none is picked")], "Pick its shot first.")
    return here[0]
