"""Changes to the document: each takes a project and returns another. Pure; imports its neighbours only.

All raise `InputError` if the result would not be a valid document.
"""

from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from pemlo.core.errors import InputError, Problem
from pemlo.core.project.delivery import Delivery
from pemlo.core.project.kept_plans import KeptCard, KeptPlan, PlannedShot
from pemlo.core.project.launch import PictureNeeds
from pemlo.core.project.machines import Machine
from pemlo.core.project.named_settings import NamedSettings
from pemlo.core.project.project import Project
from pemlo.core.project.record import build
from pemlo.core.project.running import Running
from pemlo.core.project.settings import ShotSettings
from pemlo.core.project.shots import Shot
from pemlo.core.project.trials import Trial

LONGEST_NUMBER = 9  # digits at the end of a name that are counted on from


def set_project(project: Project, **fields: Any) -> Project:  # noqa: ANN401
    """Change fields of the project itself, such as its title or start."""
    return project.replace(**fields)


def set_delivery(project: Project, **fields: Any) -> Project:  # noqa: ANN401
    """Change fields of what is due."""
    return project.replace(delivery=build(Delivery, {**dict(project.delivery), **fields}, "Delivery"))


def set_shot(project: Project, name: str, /, **fields: Any) -> Project:  # noqa: ANN401
    """Change fields of a shot; its trials follow a new name."""
    shot = build(Shot, {**dict(project.shot(name)), **fields}, f"Shot {name}")
    trials = project.trials
    if shot.name != name:
        trials = tuple(trial.replace(shot=shot.name) if trial.shot == name else trial for trial in trials)
    shots = tuple(shot if old.name == name else old for old in project.shots)
    plans, running = project.plans, project.running
    if shot.name != name:
        shots = tuple(_waits_for(one, name, shot.name) for one in shots)
        running = running.replace(queue=tuple(shot.name if one == name else one for one in running.queue))
        plans = tuple(_with_new_name(plan, name, shot.name) for plan in plans)
    return project.replace(shots=shots, trials=trials, plans=plans, running=running)


def set_shots(project: Project, fields: Mapping[str, Mapping[str, object]]) -> Project:
    """Change fields of several shots, by their names, which stay: the film is checked once, however many they are."""
    shots = (
        build(Shot, {**dict(shot), **fields[shot.name]}, f"Shot {shot.name}") if shot.name in fields else shot
        for shot in project.shots
    )
    return project.replace(shots=tuple(shots))


def _waits_for(shot: Shot, old: str, new: str) -> Shot:
    """Return a shot that comes after another by its new name."""
    return shot.replace(after=tuple(new if one == old else one for one in shot.after)) if old in shot.after else shot


def set_running(project: Project, **fields: Any) -> Project:  # noqa: ANN401
    """Change the rules of the run."""
    return project.replace(running=build(Running, {**dict(project.running), **fields}, "Run"))


def set_needs(project: Project, **fields: Any) -> Project:  # noqa: ANN401
    """Change what files of frames must hold."""
    return project.replace(needs=build(PictureNeeds, {**dict(project.needs), **fields}, "What files must hold"))


def set_handles(project: Project, handles: int) -> Project:
    """Give all shots of a film so many frames more at either end."""
    shots = tuple(build(Shot, {**dict(shot), "handles": handles}, f"Shot {shot.name}") for shot in project.shots)
    return project.replace(shots=shots)


def keep_set(project: Project, name: str, settings: ShotSettings) -> Project:
    """Keep settings under a name, in place of those of that name."""
    named_settings = build(NamedSettings, {"name": name, "settings": settings}, "Set of settings")
    others = [preset for preset in project.sets if preset.name != named_settings.name]
    return project.replace(sets=(*others, named_settings))


def drop_set(project: Project, name: str) -> Project:
    """Keep a set of settings no longer."""
    return project.replace(sets=tuple(preset for preset in project.sets if preset.name != name))


def apply_set(project: Project, name: str, shots: Iterable[str]) -> Project:
    """Plan shots with a set of settings; what they keep, switch and split stays as it is.

    Raises
    ------
    InputError
        If there is no set of that name.
    """
    named_settings = next((preset for preset in project.sets if preset.name == name), None)
    if named_settings is None:
        raise InputError([Problem("Set of settings", f"there is none called {name}")])
    wanted = set(shots)
    return adopt(
        project, {shot.name: named_settings.on(shot.settings) for shot in project.shots if shot.name in wanted}
    )


def _with_new_name(plan: KeptPlan, old: str, new: str) -> KeptPlan:
    shots = tuple(shot.replace(shot=new) if shot.shot == old else shot for shot in plan.shots if shot.shot != new)
    return plan.replace(shots=shots)


def keep_plan(project: Project, name: str) -> Project:
    """Keep the plan as it stands under a name, in place of one of that name."""
    shots = tuple(PlannedShot(shot=shot.name, settings=shot.plan) for shot in project.shots if shot.plan is not None)
    kept_plan = build(KeptPlan, {"name": name, "shots": shots}, "Plan")
    return project.replace(plans=(*(plan for plan in project.plans if plan.name != kept_plan.name), kept_plan))


def take_plan(project: Project, name: str) -> Project:
    """Plan every shot as a kept plan has it; shots that it does not name are as asked.

    Raises
    ------
    InputError
        If there is none of that name.
    """
    kept_plan = next((plan for plan in project.plans if plan.name == name), None)
    if kept_plan is None:
        raise InputError([Problem("Plan", f"there is none called {name}")])
    return project.replace(shots=tuple(shot.replace(plan=kept_plan.settings_of(shot.name)) for shot in project.shots))


def keep_card(project: Project, title: str, text: str) -> Project:
    """Keep a comparison under a title, in place of one of that title."""
    kept_card = build(KeptCard, {"title": title, "text": text}, "Comparison")
    return project.replace(cards=(*(card for card in project.cards if card.title != kept_card.title), kept_card))


def drop_card(project: Project, title: str) -> Project:
    """Keep a comparison no longer."""
    return project.replace(cards=tuple(card for card in project.cards if card.title != title))


def drop_plan(project: Project, name: str) -> Project:
    """Keep a plan no longer."""
    return project.replace(plans=tuple(plan for plan in project.plans if plan.name != name))


def adopt(project: Project, chosen: Mapping[str, ShotSettings]) -> Project:
    """Return a film with these settings as its plan; where they are as asked, the shot has no plan of its own."""
    shots = tuple(
        shot.replace(plan=None if chosen[shot.name] == shot.asked else chosen[shot.name])
        if shot.name in chosen
        else shot
        for shot in project.shots
    )
    return project.replace(shots=shots)


def set_asked(project: Project, names: Iterable[str], **fields: Any) -> Project:  # noqa: ANN401
    """Change what was asked of several shots; a plan that has been made stays as it is."""
    wanted = set(names)
    shots = tuple(
        shot.replace(asked=build(ShotSettings, {**dict(shot.asked), **fields}, f"Shot {shot.name}"))
        if shot.name in wanted
        else shot
        for shot in project.shots
    )
    return project.replace(shots=shots)


def add_shots(project: Project, shots: Sequence[Shot], at: int | None = None) -> Project:
    """Put shots into the film, at its end unless a place is given."""
    place = len(project.shots) if at is None else at
    return project.replace(shots=(*project.shots[:place], *shots, *project.shots[place:]))


def replace_shots(project: Project, shots: Sequence[Shot]) -> Project:
    """Take these shots instead of all there are; trials of shots that are gone go with them."""
    names = {shot.name for shot in shots}
    # What a shot waits for, and is no longer there, it waits for no more.
    shots = tuple(
        shot.replace(after=kept)
        if (kept := tuple(name for name in shot.after if any(shot.goes_by(name) for shot in shots))) != shot.after
        else shot
        for shot in shots
    )
    return project.replace(shots=tuple(shots), trials=tuple(t for t in project.trials if t.shot in names))


def remove_shots(project: Project, names: Iterable[str]) -> Project:
    """Take shots out of the film, and their trials."""
    gone = set(names)
    return replace_shots(project, [shot for shot in project.shots if shot.name not in gone])


def move_shot(project: Project, name: str, by: int) -> Project:
    """Move a shot earlier (negative) or later in the film."""
    shots = list(project.shots)
    place = shots.index(project.shot(name))
    shot = shots.pop(place)
    shots.insert(max(0, min(len(shots), place + by)), shot)
    return project.replace(shots=tuple(shots))


def add_trials(project: Project, trials: Sequence[Trial]) -> Project:
    """Add trials after those there are."""
    names = {shot.name for shot in project.shots}
    problems = [
        Problem(f"Trial {number + 1}", f"shot {trial.shot} is not in the brief")
        for number, trial in enumerate(trials)
        if trial.shot not in names
    ]
    if problems:
        raise InputError(problems, "Add the shot in the brief first, or correct its name.")
    return project.replace(trials=(*project.trials, *trials))


def set_trial(project: Project, index: int, **fields: Any) -> Project:  # noqa: ANN401
    """Change fields of one trial, counted from 0 in the order of the document."""
    where = f"Trial of {project.trials[index].shot}"
    if {"resolution_percent", "width", "height"} & fields.keys():
        fields = {"width": None, "height": None, **fields}  # the pixels follow what was typed
    trial = build(Trial, {**dict(project.trials[index]), **fields}, where)
    return project.replace(trials=(*project.trials[:index], trial, *project.trials[index + 1 :]))


def remove_trials(project: Project, indices: Iterable[int]) -> Project:
    """Take trials out, counted from 0 in the order of the document."""
    gone = set(indices)
    return project.replace(trials=tuple(t for number, t in enumerate(project.trials) if number not in gone))


def set_machine(project: Project, name: str, /, **fields: Any) -> Project:  # noqa: ANN401
    """Change fields of a machine; trials that it timed follow a new name."""
    old = next(machine for machine in project.machines if machine.name == name)
    new = build(Machine, {**dict(old), **fields}, f"Machine {name}")
    trials = project.trials
    if new.name != name:
        trials = tuple(trial.replace(machine=new.name) if trial.machine == name else trial for trial in trials)
    machines = tuple(new if machine.name == name else machine for machine in project.machines)
    return project.replace(machines=machines, trials=trials)


def replace_machines(project: Project, machines: Sequence[Machine]) -> Project:
    """Take these machines instead of all there are."""
    return project.replace(machines=tuple(machines))


def unused_name(taken: Iterable[str], wanted: str) -> str:
    """Return `wanted`, or the next free name after it.

    Examples
    --------
    >>> unused_name(["010", "020"], "020"), unused_name(["desk"], "desk")
    ('030', 'desk 2')
    >>> unused_name(["quay_010", "quay_025"], "quay_010")
    'quay_030'
    """
    names = set(taken)
    if wanted not in names:
        return wanted
    stem = wanted.rstrip("0123456789")
    digits = wanted.removeprefix(stem)
    if digits and not stem.endswith(" ") and len(digits) <= LONGEST_NUMBER:
        numbers = [name.removeprefix(stem) for name in names if name.startswith(stem)]
        highest = max(int(number) for number in numbers if number.isdecimal() and len(number) <= LONGEST_NUMBER)
        return stem + str((highest // 10 + 1) * 10).zfill(len(digits))
    number = 2
    while f"{wanted} {number}" in names:
        number += 1
    return f"{wanted} {number}"
