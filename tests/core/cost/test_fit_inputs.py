"""What a fit is kept by: two films with the same inputs have the same fit, whatever else differs in them."""

import numpy as np
import pytest

from film import make_project, make_shot, well_timed
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.project.machines import Machine
from pemlo.core.project.project import Project
from pemlo.core.project.settings import ShotSettings
from pemlo.core.project.shots import SettingsMark
from pemlo.core.project.trials import GOOD, Trial

SHOTS = (
    make_shot("010", samples=256),
    make_shot("020", samples=512, min_samples=16, noise_threshold=0.01),
)
TRIALS = (
    *well_timed(),
    Trial(shot="020", frame=5, seconds=40.0, samples=512, min_samples=16, noise_threshold=0.02),
    Trial(shot="020", frame=50, seconds=55.0, samples=512, min_samples=16, noise_threshold=0.01, denoise="frame"),
)
FILM = make_project(shots=SHOTS, trials=TRIALS).replace(machines=(Machine(name="desk"), Machine(name="farm", count=3)))

# One other value for every field of a shot's settings, a shot, a machine and the delivery.
ASKED = {
    "samples": 300, "min_samples": 8, "noise_threshold": 0.02, "denoise": "neighbours", "resolution_percent": 80,
    "keep": ("light",), "most_seconds": 500.0, "split": (2, 1, 1), "switches": ("motion blur",), "saves": 2,
    "frame_step": 2, "between": "mix", "way": "quick", "way_value": 2.0,
}  # fmt: skip
SHOT = {
    "name": "021", "first": 0, "last": 150, "step": 2, "fps": 30.0, "width": 2048, "height": 1080, "moves": ("camera",),
    "look": "night", "due": "2031-04-23T18:00Z", "priority": 2, "after": ("010",), "approval": "approved", "place": "r/{frame}.exr", "cameras": ("near", "far"), "handles": 3,
    "ranges": ((1, 10), (60, 100)),
    "ceiling": 2.0, "weight": 2.0, "pins": ("samples",), "allows": ("switches",), "only_on": ("desk",), "part_of": "020", "still": True, "note": "wide",
    "marks": (SettingsMark(settings=ShotSettings(samples=64), mark=GOOD),),
}  # fmt: skip
MACHINE = {
    "name": "other", "count": 5, "speed": 2.0, "frames_at_once": 2, "memory_gib": 64, "hours": "Mon-Fri 19:00-08:00",
    "price_per_hour": 1.5, "loss_percent": 5, "contention": 0.2, "coherency": 0.01,
    "most": 3, "most_hours": 40.0, "note": "loud",
}  # fmt: skip
DELIVERY = {
    "width": 2048, "height": 858, "fps": 30.0, "timezone": "Europe/Lisbon", "deadline": "2031-06-01T18:00Z",
    "confidence": 0.8, "assembly_minutes": 30, "seen_from": "cinema seat", "retake_share": 0.2,
    "currency": "EUR", "budget": 800.0,
}  # fmt: skip


def with_shot(change) -> Project:
    return FILM.model_copy(update={"shots": (SHOTS[0], change(SHOTS[1]))})


def changes():
    for name, value in ASKED.items():
        copy = SHOTS[1].asked.model_copy(update={name: value})
        yield f"asked {name}", with_shot(lambda shot, copy=copy: shot.model_copy(update={"asked": copy}))
        yield f"planned {name}", with_shot(lambda shot, copy=copy: shot.model_copy(update={"plan": copy}))
    for name, value in SHOT.items():
        if name != "name":
            yield f"shot {name}", with_shot(lambda shot, one={name: value}: shot.model_copy(update=one))
    for name, value in MACHINE.items():
        machines = (FILM.machines[0], FILM.machines[1].model_copy(update={name: value}))
        yield f"machine {name}", FILM.model_copy(update={"machines": machines})
    for name, value in DELIVERY.items():
        yield f"delivery {name}", FILM.replace(delivery=FILM.delivery.replace(**{name: value}))
    fixed = SHOTS[0].asked.model_copy(update={"samples": 1024})
    shots = (SHOTS[0].model_copy(update={"asked": fixed}), SHOTS[1])
    yield "samples of fixed sampling", FILM.model_copy(update={"shots": shots})
    yield "title", FILM.replace(title="Another")
    yield "start", FILM.replace(start="2030-01-01T00:00Z")


CHANGES = dict(changes())


@pytest.fixture(scope="module")
def known():
    return fit(fit_input(FILM))


def same(one, other) -> bool:
    return one.cost_factors == other.cost_factors and all(
        np.array_equal(one.shots[name].theta, other.shots[name].theta) for name in ("010", "020")
    )


@pytest.mark.parametrize("what", CHANGES)
def test_films_with_the_same_inputs_have_the_same_fit(known, what):
    changed = CHANGES[what]
    assert fit_input(changed) != fit_input(FILM) or same(fit(fit_input(changed)), known)


@pytest.mark.parametrize(
    "what",
    ["title", "start", "delivery deadline", "delivery confidence", "machine hours", "machine count", "shot ceiling",
     "shot moves", "shot look", "shot part_of", "shot still", "shot marks", "planned samples", "planned frame_step"],
)  # fmt: skip
def test_what_says_nothing_of_cost_asks_for_no_new_fit(what):
    assert fit_input(CHANGES[what]) == fit_input(FILM)


def test_every_field_is_tried():
    from pemlo.core.project.delivery import Delivery
    from pemlo.core.project.shots import Shot

    assert set(ASKED) == set(ShotSettings.model_fields)
    assert set(SHOT) | {"asked", "plan", "extra_columns"} == set(Shot.model_fields)
    assert set(MACHINE) | {"exceptions", "extra_columns"} == set(Machine.model_fields)
    assert set(DELIVERY) == set(Delivery.model_fields)
