"""Errors foretold from a few pictures, against pictures that are really rendered: a table of docs/method.md.

./dev picture-study     renders nine pictures of a frame of every scene (about ten minutes), and prints

Known of each frame: the reference, one picture of 16 samples with its variance, and that one denoised with two seeds.
Everything else is foretold.
"""

from collections import defaultdict
from collections.abc import Iterator
from dataclasses import replace

import numpy as np

from pemlo.core.picture.display import Srgb
from pemlo.core.picture.estimate import Estimate
from pemlo.core.picture.laws import grain_curve
from pemlo.core.picture.look import Known, Look, make_look
from pemlo.core.picture.measure import Asked, measure
from pemlo.core.picture.source import ArraySource, Source
from pemlo.standins.renderer.render import Rendered, render
from pemlo.standins.renderer.scenes import SCENES, find_scene
from pemlo.standins.renderer.settings import RenderSettings

SIZE = (240, 136)
REFERENCE_SAMPLES, SEEN_SAMPLES = 384, 16
UNSEEN_SAMPLES = (8, 32, 64, 128)
SMALLER = ((50.0, 32), (75.0, 32))


def noisy(done: Rendered) -> ArraySource:
    return ArraySource(done.noisy, done.picture.variance)


def denoised(done: Rendered) -> ArraySource:
    return ArraySource(done.picture.colour)


def error_of(picture: Source, reference: Source, second: Source | None = None) -> float:
    found = measure(Asked(picture, second, reference, denoised=not picture.has_variance)).error
    assert found is not None
    return found.total.value


def look_at(name: str) -> Iterator[tuple[str, float, Estimate]]:
    """Yield what was foretold of each picture, and its error as measured."""
    scene = find_scene(name)
    base = RenderSettings(name, max(1, scene.frames // 2), *SIZE, denoise="frame")

    def rendered(samples: int, seed: int, percent: float = 100.0, denoise: str = "frame") -> Rendered:
        asked = replace(base, samples=samples, seed=seed, resolution_percent=percent, denoise=denoise)
        return render(scene, asked)

    clean = noisy(rendered(REFERENCE_SAMPLES, 99, denoise="none"))
    first, twin = rendered(SEEN_SAMPLES, 1), rendered(SEEN_SAMPLES, 2)
    curve = grain_curve(clean.colour, first.picture.variance, float(SEEN_SAMPLES), Srgb())
    known = [Known(SEEN_SAMPLES, "frame", error_of(denoised(one), clean)) for one in (first, twin)]
    look: Look = make_look(clean, curve.through(SEEN_SAMPLES, error_of(noisy(first), clean)), known)
    for samples in UNSEEN_SAMPLES:
        done = rendered(samples, samples)
        yield "samples", error_of(noisy(done), clean), look.foretell(samples)
        yield "denoised", error_of(denoised(done), clean), look.foretell(samples, "frame")
    for percent, samples in SMALLER:
        done = rendered(samples, 7, percent)
        yield "smaller", error_of(noisy(done), clean), look.foretell(samples, "none", percent)
        yield "smaller, denoised", error_of(denoised(done), clean), look.foretell(samples, "frame", percent)


def main() -> None:
    rows: dict[str, list[tuple[float, bool]]] = defaultdict(list)
    for scene in SCENES:
        for kind, true, told in look_at(scene.name):
            entry = told.value / true - 1, told.low <= true <= told.high
            interval = f"{told.value:6.2f} ({told.low:.2f} to {told.high:.2f})"
            print(f"  {scene.name:12} {kind:18} {true:6.2f} foretold {interval}")
            for name in (kind, "all"):
                rows[name].append(entry)
    print("\n| error of pictures not seen | how many | median error | 90 % of errors within | 90 % interval holds |")
    print("|---|---|---|---|---|")
    for name, found in rows.items():
        size = np.abs([error for error, _ in found])
        share = np.mean([held for _, held in found])
        print(
            f"| {name} | {len(found)} | {100 * np.median(size):.1f} % | {100 * np.quantile(size, 0.9):.0f} %"
            f" | {100 * share:.0f} % |"
        )


if __name__ == "__main__":
    main()
