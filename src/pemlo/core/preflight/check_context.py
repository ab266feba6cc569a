"""What is checked: the film, what the renderer is set to, and what the disk says. Pure."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property

from pemlo.core.arrays import Floats
from pemlo.core.errors import InputError
from pemlo.core.preflight.written_paths import frames_of_row, paths_of
from pemlo.core.project.launch import LaunchRow
from pemlo.core.project.project import Project
from pemlo.core.project.shots import Shot
from pemlo.core.project.spelling import way_words
from pemlo.core.units import counted

MOST_PATHS = 3_000_000  # a third of a gigabyte


@dataclass(frozen=True)
class FolderFacts:
    """What is known of a folder: whether it is there and may be written, what there is left on its disk.

    Attributes
    ----------
    is_folder, writable : bool
    free_gib : float
        NaN where that cannot be said.
    names : frozenset of str
        Files that lie in it.
    """

    is_folder: bool
    writable: bool
    free_gib: float
    names: frozenset[str]


@dataclass(frozen=True)
class CheckContext:
    """What is checked.

    Attributes
    ----------
    project : Project
    rows : mapping of str to tuple of LaunchRow
        Of each shot; of one that has none, what its plan says.
    typed : bool
        Whether somebody said what the renderer is set to; else the plan itself is checked.
    left_out : frozenset of str
        Shots that have no row where others have.
    folders : mapping of str to FolderFacts
        Of the folders that rows name, as they name them.
    chance : float or None
        Of being done by the deadline; None where that is not known.
    frame_seconds : mapping of str to (3,) ndarray
        Of each shot whose costs are known, what a frame takes on the reference machine: 5, 50 and 95 %.
    """

    project: Project
    rows: Mapping[str, tuple[LaunchRow, ...]]
    typed: bool
    left_out: frozenset[str] = frozenset()
    folders: Mapping[str, FolderFacts] = field(default_factory=dict)
    chance: float | None = None
    frame_seconds: Mapping[str, Floats] = field(default_factory=dict)

    @cached_property
    def paths(self) -> tuple[tuple[str, ...], ...]:
        """Paths that are written, of every row in the order of `each`.

        Raises
        ------
        InputError
            If they are more than can be held against each other.
        """
        rows = [row for _, row in self.each()]
        count = sum(len(frames_of_row(row)) for row in rows)
        if count > MOST_PATHS:
            raise InputError(
                f"The launch has {counted(count, 'frame')}; {counted(MOST_PATHS, 'frame')} can be checked at once.",
                "Check its shots in parts.",
            )
        return tuple(paths_of(row) for row in rows)

    def each(self) -> list[tuple[Shot, LaunchRow]]:
        """Return every row with its shot."""
        return [(shot, row) for shot in self.project.shots for row in self.rows[shot.name]]


def plan_row(project: Project, shot: Shot) -> LaunchRow:
    """Return what the plan of a shot would have the renderer set to."""
    settings = shot.settings
    width, height = project.size_of(shot)
    first, last = shot.range_to_render(shot.settings)
    place = shot.place or project.watching.place
    folder, _, pattern = place.replace("\\", "/").rpartition("/")
    return LaunchRow(
        shot=shot.name, first=first, last=last, step=shot.step * settings.frame_step,
        width=width, height=height, percent=settings.resolution_percent,
        samples=settings.samples, threshold=settings.noise_threshold or 0.0, denoise=settings.denoise,
        min_samples=settings.least_samples if settings.adaptive else None,
        most_seconds=settings.most_seconds or 0.0, split=settings.split, switches=settings.switches, keep=settings.keep,
        way=way_words(settings.way, settings.way_value),
        pattern=pattern, folder=folder,
    )  # fmt: skip


def plan_rows(project: Project, shot: Shot) -> tuple[LaunchRow, ...]:
    """Return what the plan of a shot would have the renderer set to, a row for each of its ranges."""
    whole = plan_row(project, shot)
    return tuple(
        whole.model_copy(update={"first": first, "last": last}) for first, last in shot.parts_to_render(shot.settings)
    )


def situation_of(project: Project, launch: tuple[LaunchRow, ...] | None = None) -> CheckContext:
    """Return what is to be checked, without what the disk and the forecast say.

    Parameters
    ----------
    project : Project
    launch : tuple of LaunchRow, optional
        As a table says it; that of the project unless given, and the plan where that has none.
    """
    rows = project.launch if launch is None else launch
    found = {
        shot.name: tuple(row for row in rows if row.shot == shot.name) or plan_rows(project, shot)
        for shot in project.shots
    }
    said = {row.shot for row in rows}
    left_out = frozenset(shot.name for shot in project.shots if rows and shot.name not in said)
    return CheckContext(project, found, bool(rows), left_out)
