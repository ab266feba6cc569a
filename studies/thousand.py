"""A film of a thousand shots, or of any other number: made up, always the same, for benches and pictures.

python thousand.py FILE.pemlo [SHOTS]     1 000 shots, 900 trials, 110 000 frames, 125 machines where none are said
"""

import sys
from pathlib import Path

import numpy as np

from pemlo.core.persistence.document import write_project
from pemlo.core.project.delivery import Delivery, local_moment
from pemlo.core.project.machines import Machine
from pemlo.core.project.project import Project
from pemlo.core.project.settings import FrameSettings, ShotSettings
from pemlo.core.project.shots import Shot
from pemlo.core.project.trials import Trial

SHOTS, TRIALS_A_SHOT, FRAMES_A_SHOT, SHOTS_A_MACHINE = 1000, 0.9, 110, 8
SEQUENCE = 25  # shots
ZONE = "Europe/Lisbon"


def thousand(shots: int = SHOTS, seed: int = 1) -> Project:
    """Return a film with so many shots, trials and machines in proportion, that is done just in time or just not."""
    dice = np.random.default_rng(seed)
    names = [f"{1 + number // SEQUENCE:03d}_{10 * (1 + number % SEQUENCE):04d}" for number in range(shots)]
    made = [_shot(name, dice) for name in names]
    timed = np.sort(dice.permutation(shots)[: round(TRIALS_A_SHOT * shots)])
    trials = [_trial(made[int(number)], dice) for number in timed]
    machines = tuple(
        Machine(name=f"blade {number + 1:03d}", speed=float(f"{dice.uniform(0.8, 1.6):.2f}"), memory_gib=64.0,
                price_per_hour=1.5)
        for number in range(max(1, shots // SHOTS_A_MACHINE))
    )  # fmt: skip
    return Project(
        title=f"{shots} shots",
        start=local_moment("2031-04-21T10:00", ZONE),
        delivery=Delivery(timezone=ZONE, deadline=local_moment("2031-04-22T12:00", ZONE)),
        shots=tuple(made),
        machines=machines,
        trials=tuple(trials),
    )


def _shot(name: str, dice: np.random.Generator) -> Shot:
    frames = int(dice.integers(FRAMES_A_SHOT // 2, FRAMES_A_SHOT + FRAMES_A_SHOT // 2))
    adaptive = dice.random() < 0.3
    fields = {"samples": int(dice.choice([128, 192, 256, 384]))}
    if adaptive:
        fields |= {"samples": 512, "min_samples": 16, "noise_threshold": float(dice.choice([0.02, 0.03, 0.05]))}
    if dice.random() < 0.5:
        fields["denoise"] = "frame"
    moves = tuple(one for one in ("camera", "objects", "lights") if dice.random() < 0.6)
    return Shot(name=name, first=1001, last=1000 + frames, asked=ShotSettings(**fields), moves=moves, ceiling=3.0)


def _trial(shot: Shot, dice: np.random.Generator) -> Trial:
    asked = FrameSettings.model_validate(shot.asked.frame_fields())
    percent = float(dice.choice([100.0, 50.0]))
    settings = asked.model_copy(update={"resolution_percent": percent})
    samples = asked.samples if not asked.adaptive else 90.0
    seconds = (20 + percent**2 / 1e4 * (5 + 0.6 * samples)) * float(np.exp(0.02 * dice.standard_normal()))
    frame = int(dice.integers(shot.first, shot.last + 1))
    return Trial(**settings.frame_fields(), shot=shot.name, frame=frame, seconds=round(seconds, 2), machine="blade 001")


def main() -> None:
    path = Path(sys.argv[1])
    shots = int(sys.argv[2]) if len(sys.argv) > 2 else SHOTS
    film = thousand(shots)
    write_project(film, path)
    frames = sum(shot.frame_count for shot in film.shots)
    print(f"{path}: {shots} shots, {len(film.trials)} trials, {frames} frames, {len(film.machines)} machines")


if __name__ == "__main__":
    main()
