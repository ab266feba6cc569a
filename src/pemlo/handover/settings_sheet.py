"""The settings sheet: for each shot exactly what to enter, as asked and planned, with changes marked. Pure."""

from collections.abc import Sequence
from dataclasses import dataclass

from pemlo.core.frames import format_frames, stepped
from pemlo.core.project.project import Project
from pemlo.core.project.settings import ShotSettings
from pemlo.core.project.shots import Shot
from pemlo.core.units import format_duration
from pemlo.handover.command_lines import Piece

UNUSED = frozenset({"none", "nothing", "0"})
USUAL = {"resolution": "100 %", "step": "1", "sampling split": "1, 1, 1"}  # of these, what is entered is nothing new


@dataclass(frozen=True)
class SheetLine:
    """One setting of a shot: its name, what was asked, what is planned."""

    name: str
    asked: str
    planned: str

    @property
    def changed(self) -> bool:
        return self.asked != self.planned

    @property
    def in_use(self) -> bool:
        """Whether something is entered beyond what is usual."""
        return self.planned not in UNUSED and USUAL.get(self.name) != self.planned


@dataclass(frozen=True)
class SheetPiece:
    """Frames of a shot that a machine renders, as a range, and how many there are."""

    machine: str
    frames: str
    count: int


@dataclass(frozen=True)
class ShotSheet:
    """One shot: its frames as a range, how many are rendered, where they go, who renders which, and its settings.

    `pieces` are empty where one machine renders all, or the run is not known.
    """

    shot: str
    frames: str
    count: int
    place: str
    pieces: tuple[SheetPiece, ...]
    lines: tuple[SheetLine, ...]


@dataclass(frozen=True)
class SheetColumns:
    """What a table of a film's settings needs: names of columns, and what is said once instead.

    Attributes
    ----------
    columns : tuple of str
        Settings in which shots differ, or which a plan changes.
    same : tuple of str
        Those that are alike in all shots, with what they are.
    unused : tuple of str
    """

    columns: tuple[str, ...]
    same: tuple[str, ...]
    unused: tuple[str, ...]


def sheet_columns(sheet: Sequence[ShotSheet]) -> SheetColumns:
    """Return which settings are in use, so that nothing is said of the others shot by shot."""
    lines: dict[str, list[SheetLine]] = {}
    for one in sheet:
        for line in one.lines:
            lines.setdefault(line.name, []).append(line)
    columns, same, unused = [], [], []
    for name, of_shots in lines.items():
        if len({line.planned for line in of_shots}) > 1 or any(line.changed for line in of_shots):
            columns.append(name)
        elif of_shots[0].in_use:
            same.append(f"{name} {of_shots[0].planned}")
        else:
            unused.append(name)
    return SheetColumns(tuple(columns), tuple(same), tuple(unused))


def settings_sheet(project: Project, pieces: Sequence[Piece] = ()) -> tuple[ShotSheet, ...]:
    """Return what to enter for every shot of a film.

    Parameters
    ----------
    project : Project
    pieces : sequence of Piece
        Which machine renders which range; none unless given.
    """
    return tuple(
        _shot_sheet(project, shot, [piece for piece in pieces if piece.shot.name == shot.name])
        for shot in project.shots
    )


def _shot_sheet(project: Project, shot: Shot, pieces: Sequence[Piece]) -> ShotSheet:
    step = shot.step * shot.settings.frame_step
    frames = tuple(shot.rendered_frames(shot.settings))
    asked, planned = _values(project, shot, shot.asked), _values(project, shot, shot.settings)
    lines = tuple(SheetLine(name, asked[name], planned[name]) for name in asked)
    parts = tuple(_piece(piece, step) for piece in pieces if piece.machine) if len(pieces) > 1 else ()
    return ShotSheet(shot.name, format_frames(frames), len(frames), shot.place or project.watching.place, parts, lines)


def _piece(piece: Piece, step: int) -> SheetPiece:
    frames = stepped(piece.first, piece.last, step)
    return SheetPiece(piece.machine, format_frames(frames), len(frames))


def _values(project: Project, shot: Shot, settings: ShotSettings) -> dict[str, str]:
    """Return settings by their names, as they are entered."""
    width, height = project.size_of(shot)
    return {
        "size": f"{width}×{height} px",
        "resolution": f"{settings.resolution_percent:g} %",
        "step": str(shot.step * settings.frame_step),
        "samples": str(settings.samples),
        "min samples": str(settings.least_samples) if settings.adaptive else "none",
        "noise threshold": f"{settings.noise_threshold:g}" if settings.noise_threshold else "none",
        "time limit": format_duration(settings.most_seconds) if settings.most_seconds else "none",
        "denoise": settings.denoise,
        "cached between frames": ", ".join(settings.keep) or "nothing",
        "sampling split": ", ".join(map(str, settings.split)),
        "switched on": ", ".join(settings.switches) or "nothing",
        "saves while rendering": str(settings.saves),
    }
