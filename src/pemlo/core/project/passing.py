"""What passes of a shot, by its marks: measured, and by eye. Pure."""

from dataclasses import dataclass

from pemlo.core.project.ceiling import ceiling_of
from pemlo.core.project.eye_marks import EyeMark, eye_marks_of
from pemlo.core.project.project import Project
from pemlo.core.project.shots import Shot


@dataclass(frozen=True)
class Passing:
    """What passes of a shot: the largest error that was marked good enough, codes, and the marks by eye."""

    ceiling: float | None
    eye: tuple[EyeMark, ...]

    @property
    def anything(self) -> bool:
        """Whether anything was marked good enough, measured or by eye."""
        return self.ceiling is not None or any(mark.passed for mark in self.eye)


def passing_of(project: Project, shot: Shot) -> Passing:
    """Return what passes of a shot, by the marks that hold for it."""
    return Passing(ceiling_of(project, shot.name).value, eye_marks_of(project, shot.name))
