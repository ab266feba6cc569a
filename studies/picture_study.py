"""Errors predicted from a few pictures, against rendered pictures: a table of docs/method/validation.md.

./dev picture-study     renders some pictures of a frame of every scene (a quarter of an hour), and prints

Known of each frame: the reference, one picture of 16 samples with its variance, and that one denoised with two seeds.
Everything else is predicted: other samples, samples shared out by a threshold, smaller sizes; with and without a
denoiser, whose residual and bias are told apart.
"""

from collections import defaultdict
from collections.abc import Iterator
from dataclasses import replace

import numpy as np

from pemlo.core.interval import Interval
from pemlo.core.measure.frame import Error, MeasureRequest, measure
from pemlo.core.pixels.display import Srgb
from pemlo.core.pixels.source import ArraySource, Source
from pemlo.core.predict.denoisers import MeasuredDenoising
from pemlo.core.predict.error_model import ErrorModel, MeasuredTrial, Prediction, make_error_model
from pemlo.core.predict.grain_curve import noise_of
from pemlo.core.predict.scaling import scaling_curve
from pemlo.core.project.settings import NO_DENOISE, FrameSettings
from pemlo_simulators.renderer.render import Rendered, render
from pemlo_simulators.renderer.scenes import SCENES, find_scene
from pemlo_simulators.renderer.settings import RenderSettings

SIZE = (240, 136)
REFERENCE_SAMPLES, SEEN_SAMPLES = 384, 16
UNSEEN_SAMPLES = (8, 32, 64, 128)
SMALLER = ((50.0, 32), (75.0, 32))
THRESHOLDS = (1.0, 2.5)  # times that at which half of the frame takes 16 samples
LEAST, MOST = 4, 128
Row = tuple[str, float, Interval]


def noisy(done: Rendered) -> ArraySource:
    return ArraySource(done.noisy, done.picture.variance)


def denoised(done: Rendered) -> ArraySource:
    return ArraySource(done.picture.colour)


def error_of(picture: Source, reference: Source, second: Source | None = None) -> Error:
    found = measure(MeasureRequest(picture, second, reference, denoised=not picture.has_variance)).error
    assert found is not None
    return found


def known_of(samples: float, found: Error) -> MeasuredDenoising:
    bias = None if found.softening is None else found.softening.middle
    return MeasuredDenoising(samples, "frame", found.total.middle, found.grain, bias)


def look_at(name: str) -> Iterator[Row]:
    """Yield what was predicted of each picture, and its error as measured."""
    scene = find_scene(name)
    base = RenderSettings(name, max(1, scene.frames // 2), *SIZE, denoise="frame")

    def rendered(seed: int, **changes: object) -> Rendered:
        return render(scene, replace(base, seed=seed, **changes))  # type: ignore[arg-type]

    clean = noisy(rendered(99, samples=REFERENCE_SAMPLES, denoise=NO_DENOISE))
    first, twin = (rendered(seed, samples=SEEN_SAMPLES) for seed in (1, 2))
    noise = noise_of(clean.colour, np.asarray(first.picture.variance), float(SEEN_SAMPLES))
    known = [
        known_of(SEEN_SAMPLES, error_of(denoised(one), clean, denoised(other)))
        for one, other in ((first, twin), (twin, first))
    ]
    seen = MeasuredTrial(FrameSettings(samples=SEEN_SAMPLES), SEEN_SAMPLES, error_of(noisy(first), clean).total.middle)
    model = make_error_model(SIZE, noise, scaling_curve(clean, Srgb()), seen, known)
    for samples in UNSEEN_SAMPLES:
        done, other = (rendered(seed, samples=samples) for seed in (samples, samples + 1))
        yield "samples", error_of(noisy(done), clean).total.middle, told(model, samples).total
        yield from of_denoised(error_of(denoised(done), clean, denoised(other)), told(model, samples, "frame"))
    for percent, samples in SMALLER:
        done = rendered(7, samples=samples, resolution_percent=percent)
        yield "smaller", error_of(noisy(done), clean).total.middle, told(model, samples, percent=percent).total
        predicted = told(model, samples, "frame", percent).total
        yield "smaller, denoised", error_of(denoised(done), clean).total.middle, predicted
    middle = float(np.median(noise.one.mean(axis=-1) / (noise.mean.mean(axis=-1) + 0.01)) ** 0.5) / 4
    for times in THRESHOLDS:
        done = rendered(11, samples=MOST, min_samples=LEAST, noise_threshold=middle / times)
        settings = FrameSettings(samples=MOST, min_samples=LEAST, noise_threshold=middle / times)
        yield "by need", error_of(noisy(done), clean).total.middle, model.predict(settings, done.mean_samples).total
        predicted = model.predict(settings.replace(denoise="frame"), done.mean_samples).total
        yield "by need, denoised", error_of(denoised(done), clean).total.middle, predicted


def told(model: ErrorModel, samples: int, denoise: str = NO_DENOISE, percent: float = 100.0) -> Prediction:
    return model.predict(FrameSettings(samples=samples, denoise=denoise, resolution_percent=percent))


def of_denoised(found: Error, predicted: Prediction) -> Iterator[Row]:
    yield "denoised", found.total.middle, predicted.total
    if found.grain is not None and predicted.grain is not None:
        yield "denoised: residual", found.grain, predicted.grain
    if found.softening is not None and predicted.softening is not None and found.softening.middle > 0:
        yield "denoised: bias", found.softening.middle, predicted.softening


def main() -> None:
    rows: dict[str, list[tuple[float, bool]]] = defaultdict(list)
    for scene in SCENES:
        for kind, true, told in look_at(scene.name):
            entry = told.value / true - 1, told.low <= true <= told.high
            interval = f"{told.value:6.2f} ({told.low:.2f} to {told.high:.2f})"
            print(f"  {scene.name:12} {kind:18} {true:6.2f} predicted {interval}")
            rows[kind].append(entry)
            if ":" not in kind:
                rows["all"].append(entry)
    print("\n| error of pictures not seen | how many | median error | 90 % of errors within | 90 % interval holds |")
    print("|---|---|---|---|---|")
    for name, found in sorted(rows.items(), key=lambda pair: pair[0] == "all"):
        size = np.abs([error for error, _ in found])
        share = np.mean([held for _, held in found])
        print(
            f"| {name} | {len(found)} | {100 * np.median(size):.1f} % | {100 * np.quantile(size, 0.9):.0f} %"
            f" | {100 * share:.0f} % |"
        )


if __name__ == "__main__":
    main()
