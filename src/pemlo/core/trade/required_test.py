"""Which trial to render before a way of rendering can be weighed: what is not known, and what would tell. Pure."""

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from pemlo.core.cost.posterior import Fit
from pemlo.core.predict.shot_appearance import ShotAppearance
from pemlo.core.predict.switches import others_than
from pemlo.core.project.project import Project
from pemlo.core.project.settings import NO_DENOISE, ONE_RAY_EACH, FrameSettings, ShotSettings, split_name
from pemlo.core.project.shots import Shot
from pemlo.core.trade.options import WIDEST_ERROR, WIDEST_HOURS, Numbers

# A first look is small and coarse, and its reference clean enough beside it.
FIRST_PERCENT, FIRST_SAMPLES, CLEANER = 25.0, 16, 16


@dataclass(frozen=True)
class RequiredTest:
    """A trial, and why it comes first, in words."""

    shot: str
    frame: int
    settings: FrameSettings
    why: str


def required_test(
    project: Project, shot: Shot, appearance: ShotAppearance | None, numbers: Numbers
) -> RequiredTest | None:
    """Return the trial without which a shot's present settings cannot be weighed; None if they can."""
    if appearance is None:
        return _first_look(project, shot)
    settings = shot.settings
    if numbers.found is None:
        return _unseen(shot, appearance, settings)
    low, high = np.quantile(numbers.hours, [0.05, 0.95])
    frame = FrameSettings.model_validate(settings.frame_fields())
    if high > WIDEST_HOURS * low:
        why = f"Its hours may be {low:.2g} or {high:.2g}: one frame of it tells."
        return RequiredTest(shot.name, appearance.frame, frame, why)
    error = numbers.found.total
    if error.high > WIDEST_ERROR * error.low:
        why = f"Its error may be {error.low:.1f} or {error.high:.1f} levels: a picture tells."
        return RequiredTest(shot.name, appearance.frame, _as_small(frame, appearance), why)
    return None


def trials_for_more(
    project: Project, fit: Fit, shot: Shot, appearance: ShotAppearance | None
) -> tuple[RequiredTest, ...]:
    """Return trials that would let the levers of a shot reach farther: ways that others have, and it never showed."""
    if appearance is None:
        return ()
    plain = _plain(appearance)
    base = ShotSettings(**plain.frame_fields())
    tests = []
    seen = {NO_DENOISE, *appearance.error_model.laws}
    for name in fit.denoisers:
        if name not in seen and not base.replace(denoise=name).looks_around:
            why = f"What “{name}” leaves of {shot.name} was never seen."
            tests.append(RequiredTest(shot.name, appearance.frame, plain.replace(denoise=name), why))
    splits = {split_name(trial.split): trial.split for trial in project.trials if trial.split != ONE_RAY_EACH}
    for name in fit.cost_factors.switches:
        if name in appearance.error_model.effects or name in appearance.error_model.switched:
            continue
        changed = {"split": splits[name]} if name in splits else {"switches": (*plain.switches, name)}
        why = f"What “{name}” does to {shot.name} was never seen."
        tests.append(RequiredTest(shot.name, appearance.frame, plain.replace(**changed), why))
    return tuple(tests)


def _first_look(project: Project, shot: Shot) -> RequiredTest:
    """Return the first trial that is missing to know how a shot looks: one that is coarse, then its reference."""
    middle = shot.frames[shot.frame_count // 2]
    coarse = FrameSettings(
        samples=FIRST_SAMPLES, resolution_percent=FIRST_PERCENT, switches=shot.asked.switches, split=shot.asked.split
    )
    wanted = (coarse, coarse.replace(samples=FIRST_SAMPLES * CLEANER))
    existing = _settings_of(trial for trial in project.trials_of(shot.name) if trial.picture and trial.frame == middle)
    settings = next((one for one in wanted if one not in existing), wanted[-1])
    why = f"How {shot.name} looks is not known: a coarse picture and a clean one of the same frame tell."
    return RequiredTest(shot.name, middle, settings, why)


def _unseen(shot: Shot, appearance: ShotAppearance, settings: ShotSettings) -> RequiredTest | None:
    plain = _plain(appearance)
    if settings.denoise != NO_DENOISE and settings.denoise not in appearance.error_model.laws:
        why = f"What “{settings.denoise}” leaves of {shot.name} was never seen."
        return RequiredTest(shot.name, appearance.frame, plain.replace(denoise=settings.denoise), why)
    for name in others_than(settings.switched, appearance.error_model.switched):
        if name not in appearance.error_model.effects:
            changed = {"switches": settings.switches} if name in settings.switches else {"split": settings.split}
            why = f"What “{name}” does to {shot.name} was never seen."
            return RequiredTest(shot.name, appearance.frame, plain.replace(**changed), why)
    if settings.adaptive:
        frame = FrameSettings.model_validate(settings.frame_fields())
        return RequiredTest(
            shot.name, appearance.frame, _as_small(frame, appearance), "What its threshold spends was never seen."
        )
    return None


def _plain(appearance: ShotAppearance) -> FrameSettings:
    """Return the settings of the picture to which others are held: not denoised, as the reference, the coarsest."""
    samples = () if appearance.pictures is None else appearance.pictures.samples
    plain = [
        sample.settings
        for sample in samples
        if sample.settings.denoise == NO_DENOISE and sample.settings.switched == appearance.error_model.switched
    ]
    usual = FrameSettings(samples=FIRST_SAMPLES, resolution_percent=appearance.percent)
    return min(plain, key=lambda one: one.samples, default=usual)


def _as_small(frame: FrameSettings, appearance: ShotAppearance) -> FrameSettings:
    """Return settings at the size of the pictures that are known, so that it can be held against them."""
    return frame.replace(resolution_percent=max(1.0, frame.resolution_percent * appearance.percent / 100))


def _settings_of(trials: Iterable[FrameSettings]) -> set[FrameSettings]:
    return {FrameSettings.model_validate(trial.frame_fields()) for trial in trials}
