"""Small projects and exact renderers for tests."""

import numpy as np

from pemlo.core.project.delivery import Delivery
from pemlo.core.project.machines import Machine
from pemlo.core.project.project import Project
from pemlo.core.project.settings import FrameSettings, ShotSettings
from pemlo.core.project.shots import Shot
from pemlo.core.project.trials import Trial

START = "2031-04-21T10:00Z"
DUE = "2031-04-24T18:00Z"


def make_shot(name="010", frames=100, **asked):
    return Shot(name=name, first=1, last=frames, asked=ShotSettings(**{"samples": 256, **asked}))


def make_project(shots=None, trials=(), machines=None, **delivery):
    return Project(
        title="Test film",
        start=START,
        delivery=Delivery(**{"deadline": DUE, "timezone": "UTC", **delivery}),
        shots=shots if shots is not None else (make_shot("010"), make_shot("020", 50)),
        machines=machines if machines is not None else (Machine(name="reference"),),
        trials=trials,
    )


def exact_seconds(settings, prepare=20.0, pixel=2.0, sample=0.1, size=(1920, 1080)):
    """Seconds of a renderer that follows the model without error; fixed sampling."""
    share = settings.resolution_percent / 100
    pixels = round(size[0] * share) * round(size[1] * share) / 1e6
    return prepare + pixels * (pixel + sample * settings.samples)


def exact_trial(shot, frame, samples, percent=100.0, factor=1.0, **fields):
    settings = FrameSettings(samples=samples, resolution_percent=percent)
    return Trial(
        shot=shot, frame=frame, seconds=factor * exact_seconds(settings), **{**settings.frame_fields(), **fields}
    )


def well_timed(shot="010", frames=(1, 34, 67, 100), noise=0.0, seed=0):
    """Trials that pin a shot down: full and cheap ones at several frames."""
    random = np.random.default_rng(seed)
    return tuple(
        exact_trial(shot, frame, samples, percent, float(np.exp(noise * random.standard_normal())))
        for frame in frames
        for samples, percent in ((256, 100.0), (64, 100.0), (64, 50.0), (16, 50.0))
    )
