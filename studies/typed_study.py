"""Forecasts of the small renderer from four times of each scene, as a person types them, and with what pictures say.

./dev typed     renders what is not in the table of renders yet (a quarter of an hour), fits, and prints

Knowledge comes in layers, each proved alone: seconds only; with the seconds of the stages; with all that headers and
pictures tell. The scenes are of unlike sizes, and each is a film of its own, as on the first day.
"""

import sys

import numpy as np

from pemlo.core.cost.draws import draw_frame
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.project.delivery import Delivery
from pemlo.core.project.machines import Machine
from pemlo.core.project.project import Project
from pemlo.core.project.settings import FrameSettings, ShotSettings
from pemlo.core.project.shots import Shot
from pemlo.core.project.trials import STAGES, Trial
from pemlo_simulators.renderer.scenes import SCENES
from pemlo_simulators.renderer.settings import RenderSettings
from rendered import Renders
from truth_study import as_trial

SIZES = (
    (160, 90),
    (320, 180),
    (640, 360),
    (320, 180),
    (160, 90),
    (320, 180),
    (640, 360),
    (160, 90),
    (320, 180),
    (1280, 720),
)
TRIED = ((8, 50), (32, 50), (8, 100), (24, 100))
WANTED = ((96, 100), (48, 100), (96, 50), (16, 100))
LAYERS = ("seconds only", "with stages", "with headers and pictures")


def to_render(number: int, samples: int, percent: int, seed: int) -> RenderSettings:
    scene, (width, height) = SCENES[number], SIZES[number]
    if width > 1000:
        samples = max(2, samples // 4)  # a large frame is tested with fewer samples, for the time that it takes
    return RenderSettings(
        scene.name, scene.frames // 2, width, height, resolution_percent=float(percent), samples=samples,
        min_samples=samples, seed=seed,
    )  # fmt: skip


def told(trial: Trial, layer: str) -> Trial:
    """Return a trial with only what is known in a layer; seconds as a person would type them."""
    if layer == LAYERS[2]:
        return trial
    without = {"mean_samples": None, "noise": None, "noise_shape": ()}
    if layer == LAYERS[0]:
        without |= {f"{stage}_seconds": None for stage in STAGES} | {"seconds": float(f"{trial.seconds:.3g}")}
    return trial.replace(**without)


def main() -> None:
    renders = Renders()
    rows = {layer: [] for layer in LAYERS}
    by_hand = []
    for number, scene in enumerate(SCENES):
        asked = to_render(number, *WANTED[0], seed=0)
        settings = [to_render(number, *test, seed=10 + place) for place, test in enumerate(TRIED)]
        trials = [as_trial(one, renders.get(one)) for one in settings]
        shot = Shot(name=scene.name, first=1, last=scene.frames, asked=ShotSettings(samples=asked.samples))
        truths = [to_render(number, *test, seed=50 + place) for place, test in enumerate(WANTED)]
        for layer in LAYERS:
            project = Project(
                title="Typed",
                start="2031-04-21T10:00Z",
                delivery=Delivery(deadline="2031-04-24T18:00Z", width=SIZES[number][0], height=SIZES[number][1]),
                shots=(shot,),
                trials=tuple(told(trial, layer) for trial in trials),
                machines=(Machine(name="study"),),
            )
            known = fit(fit_input(project))
            for one in truths:
                true = renders.get(one)["seconds"]
                wanted = FrameSettings(samples=one.samples, resolution_percent=one.resolution_percent)
                low, middle, high = np.quantile(
                    draw_frame(known, project, scene.name, one.frame, wanted), [0.05, 0.5, 0.95]
                )
                rows[layer].append((abs(middle / true - 1), low <= true <= high))
                what = f"{scene.name:12} {one.width:5} px {one.samples:4} at {one.resolution_percent:3.0f} % {layer:26}"
                print(f"  {what}{true:8.2f} s: {middle:8.2f} ({low:.2f} to {high:.2f})", file=sys.stderr)
        most = max(trials, key=lambda trial: trial.samples * trial.resolution_percent**2)
        for one in truths:
            work = one.samples * one.resolution_percent**2 / (most.samples * most.resolution_percent**2)
            by_hand.append(abs(most.seconds * work / renders.get(one)["seconds"] - 1))
    print("| what is known of four trials | renders not seen | median error | 90 % within | 90 % interval holds |")
    print("|---|---|---|---|---|")
    for layer, found in rows.items():
        errors = [error for error, _ in found]
        print(f"| {layer} | {len(found)} | {100 * np.median(errors):.1f} % | {100 * np.quantile(errors, 0.9):.0f} % "
              f"| {100 * np.mean([held for _, held in found]):.0f} % |")  # fmt: skip
    print(f"| by hand, in proportion | {len(by_hand)} | {100 * np.median(by_hand):.1f} % "
          f"| {100 * np.quantile(by_hand, 0.9):.0f} % | no interval |")  # fmt: skip


if __name__ == "__main__":
    main()
