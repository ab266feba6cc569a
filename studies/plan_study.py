"""Plans against renders, and against what people do by hand: tables of docs/method/validation.md.

./dev plan-study     a minute for the plans by hand, ten more for the renders

By hand, one setting is lowered for all shots until the film fits. The demo film's plan is then really rendered: three
frames of each of three shots in full for their seconds, and the frame that was looked at for its error and its grain.
"""

import tempfile
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np

import pemlo.demo
from pemlo.core.appraisal.preview import make_preview
from pemlo.core.appraisal.shot_appearance import appearances_of
from pemlo.core.arrays import Floats
from pemlo.core.cost.draws import FilmDraws, draw_film, draw_frame
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.cost.posterior import Fit
from pemlo.core.files.picture_file import PictureFile
from pemlo.core.measure.frame import MeasureRequest, measure
from pemlo.core.pixels.display import Srgb
from pemlo.core.pixels.source import ArraySource, at_size, read_whole
from pemlo.core.predict.shot_appearance import Appearances, ShotAppearance
from pemlo.core.project.project import Project
from pemlo.core.project.scenes import scene_of
from pemlo.core.project.settings import ShotSettings
from pemlo.core.project.spelling import settings_words
from pemlo.core.trade.best_plan import PlanRequest, best_plan
from pemlo.core.trade.film_options import evaluate_film_options
from pemlo.core.trade.options import Options
from pemlo.core.trade.planning import FilmPlan, hours_available_of, plan_film
from pemlo.core.trade.settings_table import SettingsTable
from pemlo.demo import demo_project
from pemlo_simulators.renderer.output import write_picture
from pemlo_simulators.renderer.render import Rendered, render
from pemlo_simulators.renderer.scenes import SCENES, find_scene
from pemlo_simulators.renderer.settings import RenderSettings, Split, switched

FILMS, SHOTS, DRAWS, CONFIDENCE = 100, 20, 250, 0.9
RENDERED = ("030", "070", "100")
BANDS = ((0.0, 0.125), (0.125, 0.25), (0.25, 0.5))  # cycles a pixel


# By hand


@dataclass(frozen=True)
class Reached:
    """What a plan reaches: the worst error over its ceiling, and the mean error of the shots, codes."""

    worst: float
    mean: float


def reached(options: Sequence[Options], chosen: Sequence[int]) -> Reached:
    pairs = [(one.error[k], one.ceiling) for one, k in zip(options, chosen, strict=True) if one.known]
    return Reached(max(error / ceiling for error, ceiling in pairs), float(np.mean([error for error, _ in pairs])))


def by_hand(options: Sequence[Options], shares: Sequence[Sequence[int]], available_h: float) -> Reached | None:
    """Return what the first setting of a row reaches with which the film fits; None if none does."""
    for chosen in shares:
        needed = np.sum([one.hours[k] for one, k in zip(options, chosen, strict=True)], axis=0)
        if np.quantile(needed, CONFIDENCE) <= available_h:
            return reached(options, chosen)
    return None


def made_up(dice: np.random.Generator) -> list[Options]:
    """Return a film of shots whose costs and noise differ as shots do: by a factor of two or so."""
    samples = np.round(256 * 2.0 ** (-np.arange(0, 25) / 4)).astype(int)
    percents = np.array([100, 90, 80, 75, 67, 60, 50, 40, 33, 25])
    settings = tuple(
        ShotSettings(samples=max(int(n), 1), denoise=denoise, resolution_percent=float(q))
        for denoise in ("none", "frame")
        for q in percents
        for n in samples
    )
    n, q, soft = (np.array([value(one) for one in settings]) for value in (
        lambda one: one.samples, lambda one: one.resolution_percent / 100, lambda one: one.denoise == "frame",
    ))  # fmt: skip
    film = []
    for number in range(SHOTS):
        size, fixed, grain, detail, soften = np.exp(dice.normal(0, [0.6, 0.6, 0.5, 0.5, 0.5]))
        hours = size * (0.3 * fixed + q**2 * (0.02 * n + 0.2 * soft))
        left = np.where(soft, np.hypot(9 * n**-0.34, 5 * soften * n**-0.26) * grain, 30 * grain * n**-0.5)
        error = np.hypot(left * q, 8 * detail * (1 - q))
        draws = np.exp(0.1 * dice.standard_normal(DRAWS))
        usable = np.ones(len(settings), bool)
        ceiling = 1.5 * float(error[0])
        film.append(
            Options(
                f"{number}",
                SettingsTable.of(settings),
                np.outer(hours, draws),
                hours,
                error,
                error,
                error,
                usable,
                ceiling,
                "as asked",
            )
        )
    return film


def same_for_all(options: Sequence[Options]) -> dict[str, list[list[int]]]:
    """Return rows of settings that people lower: samples, samples with denoising, resolution; the dearest first."""
    first = options[0].settings
    rows = {
        "samples": [k for k, one in enumerate(first) if one.denoise == "none" and one.resolution_percent == 100],
        "denoise, then samples": [
            k for k, one in enumerate(first) if one.denoise == "frame" and one.resolution_percent == 100
        ],
        "resolution": [k for k, one in enumerate(first) if one.denoise == "none" and one.samples == first[0].samples],
    }
    return {name: [[k] * len(options) for k in row] for name, row in rows.items()}


def against_hand() -> None:
    dice = np.random.default_rng(7)
    print("\n| by hand, of 100 made-up films of 20 shots | fits | worst error over error limit | mean error |")
    print("|---|---|---|---|")
    found: dict[str, list[tuple[Reached, Reached]]] = {}
    for _ in range(FILMS):
        options = made_up(dice)
        asked = float(np.quantile(np.sum([shot_options.hours[0] for shot_options in options], axis=0), CONFIDENCE))
        available_h = float(dice.uniform(0.3, 0.8)) * asked
        best = best_plan(options, PlanRequest("picture", available_h, CONFIDENCE))
        for name, row in same_for_all(options).items():
            hand = by_hand(options, row, available_h)
            if hand is not None:
                found.setdefault(name, []).append((hand, reached(options, best.chosen)))
    for name, pairs in found.items():
        worst, mean = (
            np.median([getattr(hand, what) / getattr(best, what) for hand, best in pairs]) for what in ("worst", "mean")
        )
        print(f"| {name} lowered for all | {len(pairs)} | {worst:.2f} times the exact plan's | {mean:.2f} times |")


# The demo film


@dataclass(frozen=True)
class Film:
    """The demo film with everything that is known of it, and its plan."""

    project: Project
    fit: Fit
    draws: FilmDraws
    appearances: Appearances
    plan: FilmPlan


def demo_film() -> Film:
    project = demo_project()
    known = fit(fit_input(project))
    draws = draw_film(known, project)
    appearances, _ = appearances_of(project, Path(pemlo.demo.__file__).parent, Srgb())
    options = evaluate_film_options(project, (known, draws), appearances)
    return Film(project, known, draws, appearances, plan_film(project, options, "picture", (known, draws)))


def demo_by_hand(film: Film) -> None:
    """Lower samples, or thresholds with them, by the same factor on every shot until the film fits."""
    options, available_h = film.plan.options, hours_available_of(film.project)
    row = []
    for step in range(24):
        chosen = []
        for shot_options in options:
            asked = shot_options.settings[0]
            wanted = asked.samples * 2 ** (-step / 4) if asked.noise_threshold is None else None
            threshold = None if asked.noise_threshold is None else asked.noise_threshold * 2 ** (step / 4)
            alike = [
                k
                for k, other in enumerate(shot_options.settings)
                if (other.denoise, other.resolution_percent, other.frame_step) == (asked.denoise, 100.0, 1)
                and (other.noise_threshold is None) == (threshold is None)
            ]
            near = [
                abs(np.log(shot_options.settings[k].samples / wanted))
                if wanted
                else abs(np.log((shot_options.settings[k].noise_threshold or 1) / (threshold or 1)))
                for k in alike
            ]
            chosen.append(alike[int(np.argmin(near))])
        row.append(chosen)
    hand, best = by_hand(options, row, available_h), reached(options, film.plan.plan.chosen)
    print("\n| the demo film in the hours there are | worst error over error limit | mean error, levels |")
    print("|---|---|---|")
    if hand is not None:
        print(f"| samples lowered for all until it fits | {hand.worst:.2f} | {hand.mean:.2f} |")
    print(f"| the exact plan | {best.worst:.2f} | {best.mean:.2f} |")


def rendered(film: Film, name: str, frame: int, settings: ShotSettings, percent: float, seed: int) -> Rendered:
    scene = find_scene(scene_of(film.project.shot(name)))
    return render(
        scene,
        RenderSettings(
            scene.name,
            frame,
            film.project.delivery.width,
            film.project.delivery.height,
            resolution_percent=percent,
            samples=settings.samples,
            min_samples=settings.least_samples,
            noise_threshold=settings.noise_threshold,
            seed=seed,
            denoise=settings.denoise,
            # Of a smaller picture a pixel gets as much of the time.
            seconds=settings.most_seconds and settings.most_seconds * (percent / settings.resolution_percent) ** 2,
            split=Split(*settings.split),
            saves=settings.saves,
            **switched(settings.switches),
        ),
    )


def seconds_of(done: Rendered) -> float:
    with tempfile.TemporaryDirectory() as folder:
        return float(write_picture(done, Path(folder) / "a.exr", "study")["seconds"])


def timed(film: Film) -> None:
    print("\n| shot | plan | frame | seconds rendered | predicted (9 in 10) |")
    print("|---|---|---|---|---|")
    for name in RENDERED:
        shot, settings = film.project.shot(name), film.plan.settings()[name]
        total, draws = 0.0, np.zeros(1000)
        for number in range(3):
            frame = round(shot.first + (number + 0.5) * shot.frame_count / 3)
            took = seconds_of(rendered(film, name, frame, settings, settings.resolution_percent, 900 + number))
            told = draw_frame(film.fit, film.project, name, frame, settings)
            low, middle, high = np.quantile(told, [0.05, 0.5, 0.95])
            total, draws = total + took, draws + told
            words = settings_words(settings)
            print(f"| {name} | {words} | {frame} | {took:.0f} | {middle:.0f} ({low:.0f} to {high:.0f}) |", flush=True)
        low, middle, high = np.quantile(draws, [0.05, 0.5, 0.95])
        print(f"| {name} | | all three | {total:.0f} | {middle:.0f} ({low:.0f} to {high:.0f}) |", flush=True)


def compare_previews(film: Film) -> None:
    """Print errors of the planned settings as rendered and predicted, and the predicted look against the render."""
    head = "| shot | error rendered, levels | predicted | of the predicted look | its spectrum over the render's |"
    print(f"\n{head}\n|---|---|---|---|---|")
    for name in RENDERED:
        appearance, settings = film.appearances[name], film.plan.settings()[name]
        done = rendered(
            film, name, appearance.frame, settings, appearance.percent * settings.resolution_percent / 100, 950
        )
        assert appearance.pictures is not None
        with PictureFile(appearance.pictures.reference) as file:
            clean = read_whole(file)
        reference = ArraySource(clean.colour, clean.variance)
        picture = ArraySource(read_whole(at_size(ArraySource(done.picture.colour), reference.size)).colour)
        true = error_of(picture, reference)
        told = appearance.error_model.predict(settings, done.mean_samples).total
        shown = predicted(appearance, settings, done.mean_samples, reference.size)
        predicted_error = error_of(ArraySource(shown), reference)
        ratios = [
            a / b for a, b in zip(spectrum(shown, clean.colour), spectrum(picture.colour, clean.colour), strict=True)
        ]
        interval = f"{told.value:.1f} ({told.low:.1f} to {told.high:.1f})"
        row = ", ".join(f"{ratio:.2f}" for ratio in ratios)
        print(f"| {name} | {true:.1f} | {interval} | {predicted_error:.1f} | {row} |", flush=True)


def predicted(appearance: ShotAppearance, settings: ShotSettings, spent: float, size: tuple[int, int]) -> Floats:
    assert appearance.pictures is not None
    found = make_preview(appearance.error_model, appearance.pictures, settings, spent, (0, 0, *size))
    assert found is not None
    return found.predicted


def error_of(picture: ArraySource, reference: ArraySource) -> float:
    found = measure(MeasureRequest(picture, reference=reference, denoised=True, size=reference.size)).error
    assert found is not None
    return found.total.middle


def spectrum(picture: Floats, clean: Floats) -> Iterator[float]:
    """Yield the root mean square of what differs, in codes, in bands of spatial frequency."""
    display = Srgb()
    step = (display.codes(picture) - display.codes(clean)).mean(axis=-1)
    power = np.abs(np.fft.fft2(step)) ** 2 / step.size**2
    radius = np.hypot(*np.meshgrid(np.fft.fftfreq(step.shape[1]), np.fft.fftfreq(step.shape[0])))
    for low, high in BANDS:
        yield float(np.sqrt(power[(radius >= low) & (radius < high)].sum()))


def main() -> None:
    against_hand()
    film = demo_film()
    demo_by_hand(film)
    render(SCENES[0], RenderSettings(SCENES[0].name, 1, 16, 9, samples=1, denoise="frame"))
    compare_previews(film)
    timed(film)


if __name__ == "__main__":
    main()
