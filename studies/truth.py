"""The film of the study of truth: what is asked of each scene, and the renders against which forecasts are held.

All seeds, frames and settings are drawn once, from a fixed seed, before anything is fitted.
"""

import numpy as np

from pemlo.core.project.settings import FrameSettings, ShotSettings
from pemlo_simulators.renderer.scenes import SCENES
from pemlo_simulators.renderer.settings import RenderSettings

SIZE = (320, 180)
THRESHOLD = 0.05
ASKED = {
    "harbour": ShotSettings(samples=128),
    "observatory": ShotSettings(samples=96),
    "stairs": ShotSettings(samples=256, min_samples=8, noise_threshold=THRESHOLD),
    "clock": ShotSettings(samples=96, denoise="frame"),
    "pendulum": ShotSettings(samples=256, min_samples=8, noise_threshold=THRESHOLD, denoise="frame"),
    "wheels": ShotSettings(samples=96, denoise="neighbours 3 1"),
    "lamp-glass": ShotSettings(samples=256, min_samples=8, noise_threshold=THRESHOLD),
    "tube": ShotSettings(samples=256, min_samples=8, noise_threshold=THRESHOLD, denoise="frame"),
    "dust": ShotSettings(samples=96),
    "strike": ShotSettings(samples=256, min_samples=8, noise_threshold=THRESHOLD, denoise="neighbours 3 1"),
}
UNSEEN = 16  # of each scene
MOST_PIXEL_SAMPLES = 2e6
FACTORS = (1 / 6, 0.25, 0.4, 0.63, 1.0, 1.6, 2.5, 4.0, 6.0)
TOTALS = ("harbour", "wheels")


def to_render(scene: str, frame: int, settings: FrameSettings, seed: int, keep: tuple[str, ...] = ()) -> RenderSettings:
    return RenderSettings(
        scene,
        frame,
        *SIZE,
        resolution_percent=settings.resolution_percent,
        samples=settings.samples,
        min_samples=settings.least_samples,
        noise_threshold=settings.noise_threshold,
        denoise=settings.denoise,
        seed=seed,
        keep=keep,
    )


def unseen() -> list[RenderSettings]:
    """Return renders of all levers, each scene as often."""
    random = np.random.default_rng(20310421)
    found = []
    for scene in SCENES:
        for number in range(UNSEEN):
            frame = int(random.integers(1, scene.frames + 1))
            percent = float(random.choice([50, 75, 100, 125]))
            pixels = SIZE[0] * SIZE[1] * (percent / 100) ** 2
            samples = int(min(np.exp(random.uniform(np.log(8), np.log(160))), MOST_PIXEL_SAMPLES / pixels))
            factor = float(np.exp(random.uniform(np.log(0.4), np.log(4))))
            fields = {"samples": samples, "resolution_percent": percent}
            keep: tuple[str, ...] = ()
            if number in {4, 5, 6, 7, 8}:
                most = int(min(256, 4 * MOST_PIXEL_SAMPLES / pixels))
                fields |= {"samples": most, "min_samples": 8, "noise_threshold": float(f"{THRESHOLD * factor:.3g}")}
            if number in {8, 9, 10}:
                fields["denoise"] = "frame"
            if number in {11, 12}:
                fields |= {"denoise": "neighbours 3 1", "samples": min(samples, 32), "resolution_percent": 75.0}
            if number in {13, 14, 15}:
                keep = ("prepare", "light") if number == 13 else ("light",) if number == 14 else ("prepare",)
            found.append(to_render(scene.name, frame, FrameSettings.model_validate(fields), 1000 + number, keep))
    return found


def thresholds() -> dict[str, list[RenderSettings]]:
    """Return, by scene, one frame at thresholds from a sixth to six times of the one that is asked for."""
    return {
        scene.name: [
            to_render(
                scene.name,
                scene.frames // 2,
                FrameSettings(
                    samples=512,
                    min_samples=8,
                    noise_threshold=float(f"{THRESHOLD * factor:.3g}"),
                    resolution_percent=50,
                ),
                7,
            )
            for factor in FACTORS
        ]
        for scene in SCENES
    }


def whole_shots() -> dict[str, list[RenderSettings]]:
    """Return, by scene, every frame of the shot at a small size."""
    small = FrameSettings(samples=24, resolution_percent=50)
    return {
        scene.name: [to_render(scene.name, frame, small, frame) for frame in range(1, scene.frames + 1)]
        for scene in SCENES
        if scene.name in TOTALS
    }
