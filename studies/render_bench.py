"""Measure the small renderer: samples a second beside a plain NumPy tracer, compiling, and a second thread.

./dev bench     prints this after the tables of bench.py
"""

import os
import subprocess
import sys
import tempfile
import time

import numpy as np

from pemlo_simulators.renderer.camera import Camera
from pemlo_simulators.renderer.light_stage import Room
from pemlo_simulators.renderer.materials import light, matt
from pemlo_simulators.renderer.render import render
from pemlo_simulators.renderer.scene import Scene, dark_sky
from pemlo_simulators.renderer.scenes import SCENES
from pemlo_simulators.renderer.settings import RenderSettings
from pemlo_simulators.renderer.shapes import Part
from plain_tracer import BOUNCES, FLOOR, LAMP, ORIGIN, TARGET, WIDTH_DEGREES, fourteen_spheres
from plain_tracer import render as render_plainly

SIZE = (320, 180)
REPEATS = 5
START = """
import sys, time
began = time.perf_counter()
from pemlo_simulators.renderer.render import render
from pemlo_simulators.renderer.scenes import find_scene
from pemlo_simulators.renderer.settings import RenderSettings
render(find_scene("stairs"), RenderSettings("stairs", 1, 16, 9, samples=1, denoise="frame"))
print(time.perf_counter() - began)
"""


def spheres() -> Scene:
    """Return the scene of `plain_tracer` for the renderer."""
    centres, radii, colours = fourteen_spheres()
    part = Part()
    for centre, radius, colour in zip(centres[:13], radii, colours, strict=False):
        part.spheres(centre, radius, matt(tuple(colour)))
    part.spheres(centres[13], radii[13], light((LAMP,) * 3))
    part.plane((0, 0, 0), (0, 0, 1), matt((FLOOR,) * 3))
    still = dark_sky()
    return Scene(
        "spheres", "fourteen spheres", 1, (), lambda *_: [part],
        lambda _: Camera(ORIGIN, TARGET, WIDTH_DEGREES), lambda _: still,
        Room((-4, -4, 0), (4, 4, 5), 0), bounces=BOUNCES, cap=0.0,
    )  # fmt: skip


def rate(scene: Scene, samples: int, threads: int = 0) -> float:
    """Return samples a second, the best of several: the machine is noisy."""
    settings = RenderSettings(scene.name, 1, *SIZE, samples=samples, threads=threads)
    best = min(render(scene, settings).clock.wall["trace"] for _ in range(REPEATS))
    return SIZE[0] * SIZE[1] * samples / best


def plain_rate(samples: int) -> float:
    best = np.inf
    for seed in range(3):
        began = time.perf_counter()
        render_plainly(*SIZE, samples, np.random.default_rng(seed))
        best = min(best, time.perf_counter() - began)
    return SIZE[0] * SIZE[1] * samples / best


def starts() -> list[tuple[str, float]]:
    with tempfile.TemporaryDirectory() as folder:
        env = {**os.environ, "PEMLO_CACHE_FOLDER": folder}
        found = []
        for name in ("cold: everything is compiled", "cached: machine code is loaded"):
            out = subprocess.run([sys.executable, "-c", START], env=env, capture_output=True, text=True, check=True)
            found.append((name, float(out.stdout)))
    return found


def main() -> None:
    scene = spheres()
    render(scene, RenderSettings("spheres", 1, 16, 9, samples=1))
    plain, both, one = plain_rate(2), rate(scene, 32), rate(scene, 32, threads=1)
    print("\n| the small renderer | samples a second | against plain NumPy |")
    print("|---|---|---|")
    print(f"| plain NumPy, 14 spheres and a floor | {plain / 1e6:.2f} M | 1 |")
    print(f"| the same scene, 1 thread | {one / 1e6:.2f} M | {one / plain:.0f} |")
    print(f"| the same scene, 2 threads | {both / 1e6:.2f} M | {both / plain:.0f} |")
    for shown in SCENES:
        found = rate(shown, 4)
        print(f"| {shown.name} | {found / 1e6:.2f} M | {found / plain:.1f} |")
    print(f"\nFrom 1 to 2 threads: {both / one:.2f} times as fast.\n")
    print("| first frame of a process, 16 x 9 px | s |")
    print("|---|---|")
    for name, seconds in starts():
        print(f"| {name} | {seconds:.1f} |")


if __name__ == "__main__":
    main()
