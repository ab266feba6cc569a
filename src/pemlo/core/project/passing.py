"""What passes of a shot, by its marks: measured, and by eye. Pure."""

from collections import defaultdict
from collections.abc import Hashable, Mapping
from dataclasses import dataclass, replace

from pemlo.core.project.ceiling import ceiling_of
from pemlo.core.project.eye_marks import EyeMark, eye_marks_of, passed_at_size
from pemlo.core.project.lookup import same_look
from pemlo.core.project.project import Project
from pemlo.core.project.settings import ShotSettings
from pemlo.core.project.shots import Shot
from pemlo.core.project.trials import GOOD


@dataclass(frozen=True)
class Passing:
    """What passes of a shot.

    Attributes
    ----------
    ceiling : float, optional
        The largest error that was marked good enough, codes.
    eye : tuple of EyeMark
        Marks by eye.
    passed : tuple of ShotSettings
        Settings that were marked good enough, measured or by eye, at the size asked for: these pass, whatever a model
        says of them.
    """

    ceiling: float | None
    eye: tuple[EyeMark, ...]
    passed: tuple[ShotSettings, ...] = ()

    @property
    def anything(self) -> bool:
        """Whether anything was marked good enough, measured or by eye."""
        return self.ceiling is not None or any(mark.passed for mark in self.eye)


NOTHING_SAID = Passing(None, ())


def passing_of(project: Project, shot: Shot) -> Passing:
    """Return what passes of a shot, by the marks that hold for it."""
    if not shot.marks and not any(trial.mark for trial in project.trials):
        return NOTHING_SAID
    eye = eye_marks_of(project, shot.name)
    passed = [mark.settings for mark in eye if mark.passed]
    alike = same_look(project, shot)
    for trial in project.trials:
        holds = trial.shot == shot.name or (trial.mark_for == "look" and trial.shot in alike)
        if holds and trial.mark == GOOD and trial.error is not None:
            passed += passed_at_size(trial, shot.asked.resolution_percent)
    return Passing(ceiling_of(project, shot.name).value, eye, tuple(dict.fromkeys(passed)))


def passing_by_likes(project: Project) -> Mapping[str, Passing]:
    """Return what passes of shots that were never timed and have no mark, as what passed in shots like them.

    Shots are alike that were asked for alike, and are not said to look otherwise. Errors in codes hold for the pictures
    that they were measured in: only settings are carried over.
    """
    timed = {trial.shot for trial in project.trials if not trial.left_out and not trial.assumed}
    own = {shot.name: passing_of(project, shot) for shot in project.shots}
    marks: dict[Hashable, list[EyeMark]] = defaultdict(list)
    for shot in project.shots:
        passing = own[shot.name]
        by_eye = {mark.settings for mark in passing.eye}
        marks[_kind(shot)] += [replace(mark, name=f"as in {shot.name}") for mark in passing.eye]
        marks[_kind(shot)] += [
            EyeMark(f"as in {shot.name}", settings, True) for settings in passing.passed if settings not in by_eye
        ]
    made = {}
    for shot in project.shots:
        mine = own[shot.name]
        if shot.name not in timed and not mine.eye and mine.ceiling is None and marks[_kind(shot)]:
            eye = tuple(marks[_kind(shot)])
            made[shot.name] = Passing(None, eye, tuple(dict.fromkeys(mark.settings for mark in eye if mark.passed)))
    return made


def _kind(shot: Shot) -> Hashable:
    return shot.asked, shot.look, tuple(sorted(shot.moves))
