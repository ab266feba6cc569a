"""What a shot may keep between frames: a stage only while nothing that it depends on moves. Pure.

Keeping a stage that does depend on what moves gives wrong pictures, not slow ones.
"""

from collections.abc import Iterable
from typing import Literal

from pemlo.core.project.shots import Shot

Stage = Literal["prepare", "light"]
STAGE_NAMES: dict[str, str] = {"prepare": "scene preparation", "light": "light"}


def stage_words(stages: Iterable[str]) -> str:
    """Return stages that are kept as one says them: "scene preparation and light"."""
    return " and ".join(STAGE_NAMES.get(stage, stage) for stage in stages)


def why_not_kept(shot: Shot, stage: Stage) -> str:
    """Return why a stage of a shot cannot be kept; empty if it can.

    Kept light is wrong as soon as anything but the camera moves, and what was prepared as soon as it moves itself.
    """
    others = [moving for moving in shot.moves if moving != "camera"]
    if stage == "light" and others:
        return f"Light of {shot.name} cannot be cached: it follows what moves ({', '.join(others)})."
    if stage == "prepare" and "simulation" in shot.moves:
        return f"Scene preparation of {shot.name} cannot be cached: a simulation makes it anew for each frame."
    return ""


def stages_kept(shot: Shot) -> tuple[tuple[Stage, ...], ...]:
    """Return which stages may be kept together, none of them first."""
    wanted: tuple[tuple[Stage, ...], ...] = ((), ("prepare",), ("prepare", "light"))
    return tuple(keep for keep in wanted if not any(why_not_kept(shot, stage) for stage in keep))
