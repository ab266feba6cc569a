"""The scenes: what they say of themselves is what they do, and all of it can be asked for."""

import numpy as np
import pytest

from pemlo.core.errors import InputError
from pemlo.core.project.shots import Shot
from pemlo_simulators.renderer.scenes import SCENES, find_scene
from pemlo_simulators.renderer.world import pack

NAMES = [scene.name for scene in SCENES]


def world_at(scene, frame):
    """Return the geometry and the materials of a frame, without what moves within its shutter."""
    return pack(scene.build(float(frame), float(frame)))


def same(first, second):
    return all(
        np.array_equal(getattr(first, name), getattr(second, name), equal_nan=True)
        for name in first._fields
        if isinstance(getattr(first, name), np.ndarray)
    )


@pytest.mark.parametrize("name", NAMES)
def test_a_scene_is_the_same_whenever_it_is_built(name):
    scene = find_scene(name)
    assert same(world_at(scene, 7), world_at(scene, 7))
    assert np.array_equal(scene.cameras(7, 1.78), scene.cameras(7, 1.78))


@pytest.mark.parametrize("name", NAMES)
def test_what_a_scene_says_that_moves_does_and_nothing_else(name):
    scene = find_scene(name)
    frames = (1, scene.frames // 3, scene.frames)
    worlds = [world_at(scene, frame) for frame in frames]
    cameras = [scene.cameras(frame, 1.78) for frame in frames]
    assert any(not np.array_equal(cameras[0], other) for other in cameras[1:]) == ("camera" in scene.moves)
    in_the_world = {"lights", "objects", "materials", "simulation"} & set(scene.moves)
    assert any(not same(worlds[0], other) for other in worlds[1:]) == bool(in_the_world)


@pytest.mark.parametrize("name", NAMES)
def test_cameras_move_smoothly(name):
    """A camera goes from frame to frame by small steps: a jump would be a cut, and a cut is another shot."""
    scene = find_scene(name)
    at = np.array([scene.camera(float(frame)).position for frame in range(1, scene.frames + 1)])
    steps = np.linalg.norm(np.diff(at, axis=0), axis=1)
    way = np.linalg.norm(at - at[0], axis=1).max()
    assert steps.max() <= max(0.15 * way, 1e-9)


def test_there_are_as_many_scenes_as_the_demo_has_shots_and_all_differ():
    assert 8 <= len(SCENES) <= 12
    assert len(set(NAMES)) == len(NAMES)
    assert len({scene.title for scene in SCENES}) == len(SCENES)
    assert len({scene.moves for scene in SCENES}) >= 4
    still = [scene.name for scene in SCENES if set(scene.moves) == {"camera"}]
    assert still, "one shot in which everything can be kept"


@pytest.mark.parametrize("name", NAMES)
def test_the_brief_understands_what_moves(name):
    scene = find_scene(name)
    shot = Shot(name="010", first=1, last=scene.frames, asked={"samples": 1}, moves=scene.moves)
    assert shot.moves == scene.moves


@pytest.mark.parametrize("asked", ["stairs", "Stairs", "  stairs ", "Lamp on the stairs"])
def test_a_scene_is_found_by_its_name_and_by_its_title(asked):
    assert find_scene(asked).name == "stairs"


@pytest.mark.parametrize("asked", ["", "stair", "stairs 2"])
def test_an_unknown_scene_is_answered_with_those_there_are(asked):
    with pytest.raises(InputError, match="there is no scene") as error:
        find_scene(asked)
    assert all(name in error.value.hint for name in NAMES)
