"""Eight films as people have them: what is equal on all screens, and what sums, is held on each."""

from film import make_project, make_shot
from pemlo.core.project.edits import adopt
from pemlo.core.project.film_line import film_of, read_film_line
from pemlo.core.project.machines import Machine
from pemlo.core.project.settings import ShotSettings
from pemlo.core.project.trials import GOOD, Trial
from pemlo.demo import demo_project

ASKED = ShotSettings(samples=256)
HALF = ASKED.replace(samples=128)


def timed(shot, settings, seconds, **fields):
    return Trial(shot=shot, frame=1, seconds=seconds, **settings.frame_fields(), **fields)


def still():
    return make_project((make_shot("010", 1),), (timed("010", ASKED, 135.0),), deadline="2031-04-21T12:00Z")


def one_line():
    base = make_project(shots=())
    return film_of(read_film_line("12 shots of 100 frames, 4:02 a frame, 3 machines", base.start, "UTC"), base)


def six_typed():
    shots = tuple(make_shot(f"{10 * k:03d}", 90) for k in range(1, 7))
    trials = tuple(timed(shot.name, ASKED, 300.0 + 60 * k) for k, shot in enumerate(shots))
    return make_project(shots, trials, retake_share=0.05, assembly_minutes=90)


def forty():
    shots = tuple(make_shot(f"{k:03d}", 90) for k in range(1, 41))
    trials = tuple(
        one for shot in shots
        for one in (timed(shot.name, ASKED, 900.0), timed(shot.name, HALF, 450.0, mark=GOOD))
    )  # fmt: skip
    return make_project(shots, trials, (Machine(name="m", count=9, loss_percent=2, price_per_hour=1.5),))


def planned():
    project = six_typed()
    return adopt(project, {"010": HALF, "020": ASKED.replace(samples=64), "030": HALF.replace(saves=3)})


def thousand_machines():
    return six_typed().replace(machines=(Machine(name="m", count=1000),))


def tiny():
    """A frame of a millisecond: nothing is finer than it is known, and there are no exponents."""
    return make_project((make_shot("010", 1),), (timed("010", ASKED.replace(samples=1), 0.001),))


FILMS = {
    "demo": demo_project, "still": still, "one line": one_line, "six typed": six_typed, "40 shots": forty,
    "planned": planned, "1000 machines": thousand_machines, "tiny": tiny,
}  # fmt: skip
