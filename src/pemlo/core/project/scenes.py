"""Which scene the small renderer shows for a shot: what its column “scene” says. Pure."""

from pemlo.core.project.shots import Shot

COLUMN = "scene"


def scene_of(shot: Shot) -> str:
    """Return the scene of a shot, empty if it has none."""
    return dict(shot.extra_columns).get(COLUMN, "").strip()


def with_scene(shot: Shot, scene: str) -> tuple[tuple[str, str], ...]:
    """Return the shot's own columns with another scene, or without one."""
    others = tuple((title, text) for title, text in shot.extra_columns if title != COLUMN)
    return (*others, (COLUMN, scene)) if scene.strip() else others
