"""The scenes that the renderer knows: shots of an invented film, The Tide Clock."""

from pemlo.core.errors import InputError, Problem
from pemlo_simulators.renderer.scene import Scene
from pemlo_simulators.renderer.scenes.clockwork import CLOCK, PENDULUM, STRIKE, WHEELS
from pemlo_simulators.renderer.scenes.harbour import HARBOUR
from pemlo_simulators.renderer.scenes.observatory import OBSERVATORY, STAIRS
from pemlo_simulators.renderer.scenes.workbench import DUST, LAMP_GLASS, TUBE

# In the order of the film.
SCENES: tuple[Scene, ...] = (
    HARBOUR, OBSERVATORY, STAIRS, CLOCK, PENDULUM, WHEELS, LAMP_GLASS, TUBE, DUST, STRIKE,
)  # fmt: skip


def find_scene(name: str) -> Scene:
    """Return the scene of that name or title.

    Raises
    ------
    InputError
        If there is none.
    """
    for scene in SCENES:
        if name.strip().casefold() in {scene.name, scene.title}:
            return scene
    known = ", ".join(scene.name for scene in SCENES)
    raise InputError([Problem("scene", f"there is no scene “{name}”")], f"The scenes are {known}.")
