"""The settings sheet: for each shot exactly what to enter, as asked and planned, with changes marked. Pure."""

from dataclasses import dataclass

from pemlo.core.frames import format_frames, stepped
from pemlo.core.project.project import Project
from pemlo.core.project.settings import ShotSettings
from pemlo.core.project.shots import Shot
from pemlo.core.units import format_duration


@dataclass(frozen=True)
class SheetLine:
    """One setting of a shot: its name, what was asked, what is planned."""

    name: str
    asked: str
    planned: str

    @property
    def changed(self) -> bool:
        return self.asked != self.planned


@dataclass(frozen=True)
class ShotSheet:
    """One shot: its frames as a range, how many are rendered, and its settings."""

    shot: str
    frames: str
    count: int
    lines: tuple[SheetLine, ...]


def settings_sheet(project: Project) -> tuple[ShotSheet, ...]:
    """Return what to enter for every shot of a film."""
    return tuple(_shot_sheet(project, shot) for shot in project.shots)


def _shot_sheet(project: Project, shot: Shot) -> ShotSheet:
    handles, step = project.needs.handles, shot.step * shot.settings.frame_step
    frames = stepped(shot.first - handles, shot.last + handles, step)
    asked, planned = _values(project, shot, shot.asked), _values(project, shot, shot.settings)
    lines = tuple(SheetLine(name, asked[name], planned[name]) for name in asked)
    return ShotSheet(shot.name, format_frames(frames), len(frames), lines)


def _values(project: Project, shot: Shot, settings: ShotSettings) -> dict[str, str]:
    """Return settings by their names, as they are entered."""
    width, height = project.size_of(shot)
    return {
        "size": f"{width}×{height} px",
        "resolution": f"{settings.resolution_percent:g} %",
        "step": str(shot.step * settings.frame_step),
        "samples": str(settings.samples),
        "least samples": str(settings.least_samples) if settings.adaptive else "none",
        "noise threshold": f"{settings.noise_threshold:g}" if settings.noise_threshold else "none",
        "most seconds": format_duration(settings.most_seconds) if settings.most_seconds else "none",
        "denoise": settings.denoise,
        "kept between frames": ", ".join(settings.keep) or "nothing",
        "sampling split": ", ".join(map(str, settings.split)),
        "switched on": ", ".join(settings.switches) or "nothing",
        "saves while rendering": str(settings.saves),
    }
