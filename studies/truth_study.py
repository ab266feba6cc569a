"""Forecasts against frames that are really rendered: the tables of docs/method/validation.md.

./dev truth     renders what is not in the table of renders yet (an hour on two cores), fits, and prints

Trials are those that the program advises, of each shot for at most one full frame. Then all renders of `truth.py`,
which the fit never saw, are predicted.
"""

import sys
from collections.abc import Iterable

import numpy as np

from pemlo.core.arrays import Floats
from pemlo.core.cost.along import places
from pemlo.core.cost.draws import draw_film, draw_frame, draw_shot
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.cost.frame_arrays import frames_of
from pemlo.core.cost.frame_model import samples_spent
from pemlo.core.cost.next_trial import advise
from pemlo.core.cost.posterior import Fit
from pemlo.core.forecast.needs import shot_hours
from pemlo.core.project.delivery import Delivery, local_moment
from pemlo.core.project.machines import Machine
from pemlo.core.project.project import Project
from pemlo.core.project.settings import FrameSettings, ShotSettings
from pemlo.core.project.shots import Shot
from pemlo.core.project.trials import Trial
from pemlo_simulators.renderer.scenes import SCENES
from pemlo_simulators.renderer.settings import RenderSettings
from rendered import Record, Renders
from truth import ASKED, SIZE, THRESHOLD, thresholds, to_render, unseen, whole_shots

BUDGET = 1.0
MOST_TRIALS = 12
ZONE = "Europe/Lisbon"


def film(asked: dict[str, ShotSettings] = ASKED) -> Project:
    return Project(
        title="Study",
        start=local_moment("2031-04-21T10:00", ZONE),
        delivery=Delivery(
            width=SIZE[0], height=SIZE[1], timezone=ZONE, deadline=local_moment("2031-04-24T18:00", ZONE)
        ),
        shots=tuple(
            Shot(name=scene.name, first=1, last=scene.frames, asked=asked[scene.name], moves=scene.moves)
            for scene in SCENES
            if scene.name in asked
        ),
        machines=(Machine(name="study"),),
    )


def settings_of(settings: RenderSettings) -> FrameSettings:
    adaptive = settings.noise_threshold is not None
    return FrameSettings(
        samples=settings.samples,
        min_samples=settings.min_samples if adaptive else None,
        noise_threshold=settings.noise_threshold,
        denoise=settings.denoise,
        resolution_percent=settings.resolution_percent,
        keep=settings.keep,
    )


def as_trial(settings: RenderSettings, record: Record) -> Trial:
    stages = {f"{stage}_seconds": record[f"{stage}_seconds"] for stage in ("prepare", "light", "trace", "write")}
    if settings.denoise != "none":
        stages["denoise_seconds"] = record["denoise_seconds"]
    return Trial(
        **settings_of(settings).frame_fields(),
        shot=settings.scene,
        frame=settings.frame,
        seconds=record["seconds"],
        machine="study",
        mean_samples=record["mean_samples"],
        noise=record["noise"],
        noise_shape=tuple(float(value) for value in record["noise_shape"].split()),
        **stages,
    )


def follow_advice(project: Project, renders: Renders, budget: float = BUDGET) -> tuple[Project, dict[str, float]]:
    """Render what the program advises until nothing more is affordable: one shot, then two, then the others in turn."""
    names = [shot.name for shot in project.shots]
    spent = dict.fromkeys(names, 0.0)  # seconds
    for group in (names[:1], names[1:3], names[3:]):
        for number in range(MOST_TRIALS):
            known = fit(fit_input(project))
            draws = draw_film(known, project)
            added = []
            left = {}
            for name in group:
                shot = project.shot(name)
                full = 3600 * float(np.median(shot_hours(known, draws, project, shot))) / shot.frame_count
                left[name] = budget - spent[name] / full if known.known else budget
            for advice in advise(known, project, group, left):
                settings = to_render(advice.shot, advice.frame, advice.settings, 500 + number, advice.settings.keep)
                record = renders.get(settings)
                spent[advice.shot] += record["seconds"]
                added.append(as_trial(settings, record))
                print(
                    f"  {advice.shot:12} frame {advice.frame:4} {advice.settings.samples:4} samples"
                    f" {advice.settings.noise_threshold or '':6} {advice.settings.resolution_percent:5.0f} %"
                    f" {advice.settings.denoise:14} {record['seconds']:6.2f} s",
                    file=sys.stderr,
                )
            if not added:
                break
            project = project.replace(trials=(*project.trials, *added))
    return project, spent


def predictions(
    known: Fit, project: Project, wanted: list[RenderSettings], renders: Renders
) -> list[tuple[float, bool, RenderSettings]]:
    """Return for each render: median predicted over true less 1, whether the 90 % interval holds, and what it is."""
    rows = []
    for number, settings in enumerate(wanted):
        drawn = draw_frame(known, project, settings.scene, settings.frame, settings_of(settings), seed=number)
        low, middle, high = np.quantile(drawn, [0.05, 0.5, 0.95])
        true = renders.get(settings)["seconds"]
        rows.append((middle / true - 1, bool(low <= true <= high), settings))
    return rows


def summary(name: str, errors: Iterable[float], held: Iterable[bool]) -> str:
    size = np.abs(np.array(list(errors)))
    share = np.mean(list(held))
    median, most = 100 * np.median(size), 100 * np.quantile(size, 0.9)
    return f"| {name} | {len(size)} | {median:.1f} % | {most:.0f} % | {100 * share:.0f} % |"


def kind_of(settings: RenderSettings) -> str:
    kinds = []
    if settings.noise_threshold is not None:
        kinds.append("threshold")
    if settings.denoise != "none":
        kinds.append(f"denoised ({settings.denoise.split()[0]})")
    if settings.keep:
        kinds.append("kept stages")
    return ", ".join(kinds) or "fixed samples"


def print_unseen(known: Fit, project: Project, renders: Renders) -> None:
    rows = predictions(known, project, unseen(), renders)
    print("| renders not seen | how many | median error | 90 % of errors within | 90 % interval holds |")
    print("|---|---|---|---|---|")
    print(summary("all", [row[0] for row in rows], [row[1] for row in rows]))
    for label, of in (("", kind_of), ("", lambda s: s.scene)):
        for kind in dict.fromkeys(of(row[2]) for row in rows):
            mine = [row for row in rows if of(row[2]) == kind]
            print(summary(f"{label}{kind}", [row[0] for row in mine], [row[1] for row in mine]))


def predicted_samples(known: Fit, project: Project, settings: RenderSettings) -> Floats:
    shot = project.shot(settings.scene)
    theta, _ = draw_shot(known, shot.name, np.array([0.5]), 0, 400)
    place = float(places(np.array([float(settings.frame)]), shot.first, shot.last)[0])
    frames = frames_of([settings_of(settings)], [SIZE], known.cost_factors, known.shots[shot.name].shape(place))
    return samples_spent(theta, frames)[0]


def print_thresholds(renders: Renders) -> None:
    """Calibrate each scene by one adaptive render alone, and predict the others of the same frame."""
    errors: dict[float, list[float]] = {}
    for scene, wanted in thresholds().items():
        calibrating = next(s for s in wanted if s.noise_threshold == THRESHOLD)
        project = film({scene: ASKED[scene]})
        project = project.replace(trials=(as_trial(calibrating, renders.get(calibrating)),))
        known = fit(fit_input(project))
        for settings in wanted:
            if settings is not calibrating:
                true = renders.get(settings)["mean_samples"]
                middle = float(np.median(predicted_samples(known, project, settings)))
                errors.setdefault(settings.noise_threshold / THRESHOLD, []).append(middle / true - 1)
    print("| threshold, of the calibrating one | scenes | median error of mean samples | worst |")
    print("|---|---|---|---|")
    for factor, found in sorted(errors.items()):
        size = np.abs(found)
        print(f"| × {factor:.2f} | {len(found)} | {100 * np.median(size):.1f} % | {100 * size.max():.0f} % |")
    near = np.abs([e for factor, found in errors.items() if 0.39 < factor < 2.6 for e in found])
    far = np.abs([e for factor, found in errors.items() if not 0.39 < factor < 2.6 for e in found])
    print(f"\nWithin 10 % up to 2.5 times: {(near <= 0.1).sum()} of {near.size}; ", end="")
    print(f"within 25 % up to 6 times: {(far <= 0.25).sum()} of {far.size}.")


def print_totals(project: Project, renders: Renders) -> None:
    """Predict whole shots at a small size, every frame of which is rendered."""
    print("| shot, every frame at 50 % and 24 samples | frames | truth | predicted | error |")
    print("|---|---|---|---|---|")
    for scene, wanted in whole_shots().items():
        true = sum(renders.get(settings)["seconds"] for settings in wanted)
        plan = ShotSettings(**settings_of(wanted[0]).frame_fields())
        shots = tuple(shot.replace(plan=plan) if shot.name == scene else shot for shot in project.shots)
        planned = project.replace(shots=shots)
        known = fit(fit_input(planned))
        hours = shot_hours(known, draw_film(known, planned), planned, planned.shot(scene))
        low, middle, high = 3600 * np.quantile(hours, [0.05, 0.5, 0.95])
        print(
            f"| {scene} | {len(wanted)} | {true:.1f} s | {middle:.1f} s ({low:.1f} to {high:.1f})"
            f" | {100 * (middle / true - 1):+.1f} % |"
        )


def print_tables(renders: Renders) -> None:
    project, spent = follow_advice(film(), renders)
    known = fit(fit_input(project))
    print(f"{len(project.trials)} trials, {sum(spent.values()):.0f} s")
    print(f"Repeatability: {100 * known.spread.repeat_sd:.1f} %\n")
    print_unseen(known, project, renders)
    print()
    print_thresholds(renders)
    print()
    print_totals(project, renders)


def main() -> None:
    print_tables(Renders())
    print("\nWith the seconds as the machine's pace made them:\n")
    # What the advice asks for now may be other trials: they are rendered too.
    print_tables(Renders(steady=False))


if __name__ == "__main__":
    main()
