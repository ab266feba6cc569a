"""Scenes whose light is known in closed form, and shortcuts to render them."""

import numpy as np

from pemlo_simulators.renderer.camera import Camera
from pemlo_simulators.renderer.film import Sums, new_film
from pemlo_simulators.renderer.light_stage import Room, make_lights
from pemlo_simulators.renderer.materials import light, matt
from pemlo_simulators.renderer.paths import Rules
from pemlo_simulators.renderer.render import trace
from pemlo_simulators.renderer.scene import Scene, dark_sky
from pemlo_simulators.renderer.settings import RenderSettings
from pemlo_simulators.renderer.shapes import Part
from pemlo_simulators.renderer.surfaces import ggx_albedo
from pemlo_simulators.renderer.world import pack

PLAIN = Rules(bounces=8, exposure=1.0, cap=0.0, shadow=1, gloss=1, through=1, cache_after=0)


def scene_of(parts, camera: Camera, sky=None, room: Room | None = None) -> Scene:
    """Return a scene of one frame that stands still."""
    still = dark_sky() if sky is None else np.asarray(sky, float)
    around = room or Room((-10, -10, -10), (10, 10, 10), 0)
    return Scene("test", "test", 3, (), lambda opens, closes: parts, lambda at: camera, lambda at: still, around)


def shoot(scene: Scene, samples: int, size=(16, 12), rules: Rules = PLAIN, seed: int = 0, threads: int = 2) -> Sums:
    """Return a film of the scene's first frame."""
    world = pack(scene.build(1, 1))
    lights = make_lights(world, scene.room, scene.sky(1), ggx_albedo(), rules, threads)
    film = new_film(size[1], size[0])
    settings = RenderSettings("test", width=size[0], height=size[1], samples=samples, seed=seed)
    trace(scene, settings, world, lights, rules, film, threads, _Still())
    return film


def mean_of(film: Sums) -> np.ndarray:
    """Return the mean colour of all pixels, and its standard error, as (2, 3)."""
    each = film.light[..., :3] / film.taken[..., None]
    error = np.sqrt((film.light[..., 3:] / film.taken[..., None] - each**2).mean(axis=(0, 1)) / film.taken.sum())
    return np.array([each.mean(axis=(0, 1)), error])


def uniform_sky(radiance: float) -> np.ndarray:
    return np.array([[radiance] * 3] * 3 + [[0.0] * 3])


def round_room(albedo: float, radius: float = 2.0, lamp: float = 0.4, shine: float = 5.0) -> Scene:
    """Return a white ball seen from within, with a lamp in its middle: an integrating sphere."""
    part = Part()
    part.spheres([0, 0, 0], radius, matt((albedo,) * 3))
    part.spheres([0, 0, 0], lamp, light((shine,) * 3))
    return scene_of([part], Camera((1.2, 0.3, 0.2), (2.0, 0.5, 0.1), 60))


class _Still:
    def step(self, fraction, text):
        pass
