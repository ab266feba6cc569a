"""What denoisers leave of the flicker of plain grain, on rendered frames: numbers of docs/method/model.md.

./dev flicker-study     renders frames of four scenes (five minutes), and prints a line for each scene and samples
"""

import numpy as np

from pemlo.core.arrays import Floats
from pemlo.core.measure.flicker import between_seeds, of_three
from pemlo.core.pixels.display import Srgb
from pemlo_simulators.renderer.render import render
from pemlo_simulators.renderer.scenes import find_scene
from pemlo_simulators.renderer.settings import RenderSettings

SIZE = (240, 135)
FRAMES = {"clock": 84, "tube": 78, "stairs": 36, "wheels": 66}
SAMPLES = (8, 32, 128)
DENOISERS = ("none", "frame", "neighbours 4 1", "neighbours 4 2")


def levels(scene: str, frame: int, samples: int, denoise: str, seed: int) -> Floats:
    """Return a rendered frame as 8-bit levels."""
    settings = RenderSettings(scene, frame, *SIZE, samples=samples, denoise=denoise, seed=seed)
    return np.asarray(Srgb().codes(render(find_scene(scene), settings).picture.colour), np.float64)


def main() -> None:
    print("share of the flicker of plain grain: between two seeds / over three frames")
    for scene, frame in FRAMES.items():
        for samples in SAMPLES:
            plain, words = 0.0, []
            for denoise in DENOISERS:
                seeds = between_seeds(*(levels(scene, frame, samples, denoise, seed) for seed in (1, 2)))
                three = of_three(*(levels(scene, frame + k, samples, denoise, 10 + k) for k in range(3)))
                plain = plain or seeds
                along = "moves" if three.value is None else f"{three.value / plain:.2f}"
                words.append(f"{denoise} {seeds / plain:.2f} / {along}")
            print(f"{scene:8} {samples:4} samples, {plain:.2f} levels: {'; '.join(words)}", flush=True)


if __name__ == "__main__":
    main()
