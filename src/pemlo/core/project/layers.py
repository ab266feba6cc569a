"""Layers of a shot: parts that are rendered by themselves, with settings of their own, and combined later. Pure.

A layer is a row like any shot, with trials, levers and a plan of its own; it names the shot that it is a part of. So
hours and disk add up by themselves, and time on screen counts once.
"""

from collections.abc import Sequence

from pemlo.core.errors import InputError
from pemlo.core.project.edits import unused_name
from pemlo.core.project.project import Project
from pemlo.core.project.settings import NO_DENOISE
from pemlo.core.project.shots import Shot

WHOLE = "of the whole shot, before it was in layers"
UTILITY, UTILITY_SAMPLES = "utility", 16  # channels without light need few samples (common practice, no source)
MOST_LAYERS = 20


def in_layers(project: Project, name: str, layers: Sequence[str]) -> Project:
    """Return the project with a shot in layers, in its place.

    Each begins with the shot's settings; one that is called utility with few samples. Trials of the whole shot are kept
    with the first layer, and left out: they are of no layer.

    Parameters
    ----------
    project : Project
    name : str
        Of the shot.
    layers : sequence of str
        What the layers are called.

    Raises
    ------
    InputError
        If there are no two layers, or two of one name.
    """
    shot = project.shot(name)
    called = [layer.strip() for layer in layers if layer.strip()]
    if not 2 <= len(called) <= MOST_LAYERS:
        raise InputError(f"A shot has 2 to {MOST_LAYERS} layers.", "Write their names, like background, character.")
    if len({layer.lower() for layer in called}) < len(called):
        raise InputError("Two layers have one name.", "Give each its own.")
    if shot.part_of:
        raise InputError(f"{name} is a layer of {shot.part_of} already.", "Add another layer to that shot instead.")
    made: list[Shot] = []
    for layer in called:
        taken = [*(one.name for one in project.shots if one.name != name), *(one.name for one in made)]
        wanted = f"{name} {layer}"[:60]
        made.append(_layer(shot, wanted if wanted not in taken else unused_name(taken, wanted), layer))
    place = project.shots.index(shot)
    trials = tuple(
        trial.replace(shot=made[0].name, left_out=trial.left_out or WHOLE) if trial.shot == name else trial
        for trial in project.trials
    )
    plans = tuple(
        plan.replace(shots=tuple(planned_shot for planned_shot in plan.shots if planned_shot.shot != name))
        for plan in project.plans
    )
    shots = (*project.shots[:place], *made, *project.shots[place + 1 :])
    return project.replace(shots=shots, trials=trials, plans=plans)


def _layer(shot: Shot, name: str, layer: str) -> Shot:
    asked = shot.asked
    if UTILITY in layer.lower():
        few = min(asked.samples, UTILITY_SAMPLES)
        asked = asked.replace(samples=few, min_samples=None, noise_threshold=None, denoise=NO_DENOISE)
    return shot.replace(name=name, part_of=shot.name, asked=asked, plan=None, marks=(), pins=())
