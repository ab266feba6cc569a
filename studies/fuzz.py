"""Throw damaged and absurd inputs at everything that reads: none may do worse than an error in words.

./dev fuzz [count] [kind]    so many inputs of each kind (2 000 unless told): pictures, documents, tables,
                             kept, edits, launches, films, logs, stores, headers, places, lines, names

What went wrong is printed with its seed, from which it can be made again.
"""

import random
import sys
import tempfile
import time
import warnings
from collections.abc import Callable
from functools import partial
from pathlib import Path

import numpy as np
import opentimelineio as otio

import absurd_films
import fuzz_arrivals
import fuzz_pictures
from pemlo.core.cost.draws import draw_film
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.cost.next_trial import advise
from pemlo.core.editing.apart import read_edit_apart
from pemlo.core.editing.read_edit import edit_from_cmx
from pemlo.core.errors import PemloError
from pemlo.core.forecast.verdict import forecast
from pemlo.core.persistence.csv_launch import read_launch, write_launch
from pemlo.core.persistence.csv_machines import read_machines, write_machines
from pemlo.core.persistence.csv_shots import read_shots, write_shots
from pemlo.core.persistence.csv_trials import read_trials, write_trials
from pemlo.core.persistence.document import from_text, to_text
from pemlo.core.preflight.all_checks import run_checks
from pemlo.core.preflight.check_context import plan_row, situation_of
from pemlo.core.project.project import Project
from pemlo.core.trade.best_plan import GOALS
from pemlo.core.trade.film_options import evaluate_film_options
from pemlo.core.trade.planning import plan_film
from pemlo.demo import demo_project
from pemlo.words.verdicts import detail, headline
from pemlo_simulators.renderer.clock import Clock
from pemlo_simulators.renderer.film_file import read_unfinished, write_film
from pemlo_simulators.renderer.kept import KeptData
from pemlo_simulators.renderer.render import render
from pemlo_simulators.renderer.scenes import find_scene
from pemlo_simulators.renderer.settings import RenderSettings

COUNT = 2000
SLOWEST_S = 20.0
LONGEST_S = {"": 2.0, "films": SLOWEST_S, "edits": 5.0}  # of one input, by its kind; a process of its own is slow
APART = 0.02  # of the edits: a process of its own takes half a second
# Words of Python and of libraries, which are not for people.
PYTHONS = ("could not convert", "invalid literal", "Exceeds the limit", "NoneType", "unpack", "object has no")
ODD = (
    *(
        "1e400",
        "-1",
        "NaN",
        "null",
        "true",
        "[]",
        "{}",
        '""',
        "[" * 300,
        "9" * 400,
        "9" * 5000,
        "1e-320",
        "\\ud800",
        '"\\ud800"',
    ),
    *("\0", "＝1+1", '"', "'", ",", ";", "\t", "\n", "\r", "1,000", "1.000", "0x10", "١", "\u202e", "<img src='x'>"),
    *("../../x", "9" * 5000),
)
Try = Callable[[random.Random], None]


def small_film() -> Project:
    """Return a film with something of everything, so that its text is short."""
    demo = demo_project()
    shots = demo.shots[:3]
    names = {shot.name for shot in shots}
    trials = [trial for trial in demo.trials if trial.shot in names][:6]
    # Pictures by name alone: the same seeds damage the same text in whatever folder this lies.
    named = tuple(trial.replace(picture=f"/pictures/{Path(trial.picture).name}") for trial in trials)
    return demo.replace(shots=shots, trials=named, plans=())


def damaged(text: str, dice: random.Random) -> str:
    """Change, cut out, double or put in some of a text."""
    for _ in range(dice.randint(1, 4)):
        at = dice.randrange(len(text) + 1)
        end = min(len(text), at + dice.randint(1, 30))
        way = dice.randrange(5)
        if way == 0:
            text = text[:at] + chr(dice.randrange(32, 0x250)) + text[at + 1 :]
        elif way == 1:
            text = text[:at] + text[end:]
        elif way == 2:
            text = text[:at] + text[at:end] * 2 + text[end:]
        else:
            text = text[:at] + dice.choice(ODD) + text[end if way == 4 else at :]
    return text


def try_document(dice: random.Random, good: str) -> None:
    """What is read can be written, and is the same when it is read again."""
    project = from_text(damaged(good, dice), "film.pemlo")
    assert from_text(to_text(project), "film.pemlo") == project


def try_table(dice: random.Random, film: Project) -> None:
    """What is read of a table is the same when it was written and read again."""
    kind = dice.randrange(3)
    if kind == 0:
        shots = read_shots(damaged(write_shots(film), dice))
        again = film.replace(shots=shots, trials=(), plans=())
        assert [shot.name for shot in read_shots(write_shots(again))] == [shot.name for shot in shots]
    elif kind == 1:
        # In a film each trial has the size that its percentage means there.
        read = film.replace(trials=read_trials(damaged(write_trials(film), dice), film))
        assert film.replace(trials=read_trials(write_trials(read), film)).trials == read.trials
    else:
        machines = read_machines(damaged(write_machines(film), dice))
        again = film.replace(machines=machines)
        assert len(read_machines(write_machines(again))) == len(machines)


def small_edits() -> tuple[str, str]:
    """Return an edit list in the CMX 3600 layout, and an OpenTimelineIO file."""
    film = otio.schema.Timeline("reel")
    track = otio.schema.Track("V1", kind=otio.schema.TrackKind.Video)
    for name, count in (("010", 48), ("020", 100)):
        length = otio.opentime.RationalTime(count, 24)
        source = otio.opentime.TimeRange(otio.opentime.RationalTime(1, 24), length)
        track.append(otio.schema.Clip(name, source_range=source))
    film.tracks.append(track)
    return (otio.adapters.write_to_string(film, "cmx_3600", rate=24), otio.adapters.write_to_string(film, "otio_json"))


def try_edit(dice: random.Random, edits: tuple[str, str], folder: Path) -> None:
    """An edit is read, or refused with its line; what ends its reader ends a process of its own."""
    listed, file = edits
    if dice.random() < APART:
        path = folder / "reel.otio"
        path.write_text(damaged(file, dice), errors="replace")
        read_edit_apart(path, 24)
    else:
        edit_from_cmx(damaged(listed, dice), dice.choice((24, 25, 30000 / 1001, 30, 12)))


def try_launch(dice: random.Random, film: Project) -> None:
    """What is read of a launch is the same when it was written and read again."""
    rows = tuple(plan_row(film, shot).replace(layers=("albedo",), colour="display") for shot in film.shots)
    found = read_launch(damaged(write_launch(rows), dice), film)
    assert read_launch(write_launch(found), film) == found
    run_checks(situation_of(film.replace(launch=found)))


def try_film(dice: random.Random) -> None:
    """Whatever may stand in a document has a forecast, advice and a plan, or an error in words."""
    project = absurd_films.make(dice)
    began = time.monotonic()
    with warnings.catch_warnings(), np.errstate(all="ignore"):
        warnings.simplefilter("ignore")
        known = fit(fit_input(project))
        draws = draw_film(known, project)
        found = forecast(project, known, draws)
        assert headline(project, found)
        detail(project, found)
        if known.known:
            advise(known, project)
            if dice.random() < 0.2:
                options = evaluate_film_options(project, (known, draws), {})
                for goal in GOALS:
                    plan_film(project, options, goal, (known, draws))
    assert time.monotonic() - began < SLOWEST_S, "it takes too long"


def kept_files(folder: Path) -> Try:
    """Return a try of kept data and sums of samples, from good ones that are rendered first."""
    settings = RenderSettings("stairs", width=16, height=9, samples=1, keep=("prepare", "light"))
    rendered = render(find_scene("stairs"), settings, kept_in=folder)
    write_film(folder / "film.npz", settings, rendered.film, Clock())
    good = {path.name: path.read_bytes() for path in folder.glob("*.npz")}
    bad = folder / "bad"
    bad.mkdir()

    def attempt(dice: random.Random) -> None:
        name = dice.choice(sorted(good))
        path = bad / name
        if dice.random() < 0.5:
            path.write_bytes(fuzz_pictures.damage(good[name], dice))
        else:
            with np.load(folder / name) as file:
                arrays = {key: file[key] for key in file.files}
            key = dice.choice([key for key, values in arrays.items() if values.size and values.dtype.kind != "U"])
            flat = arrays[key].reshape(-1)
            odd = dice.choice([-(2**31), 2**31 - 1, -1, 0, 7, 1e308])
            with np.errstate(all="ignore"):
                flat[dice.randrange(flat.size)] = np.array(odd).astype(flat.dtype)
            np.savez(path, **arrays)
        if name == "film.npz":
            read_unfinished(path, settings)
        elif "prepare" in name:
            KeptData(bad, "stairs").read_world()
        else:
            KeptData(bad, "stairs").read_lights()

    return attempt


def run(kind: str, attempt: Try, count: int, seed: int) -> int:
    """Try so many inputs; return how many went wrong."""
    read = refused = wrong = 0
    began = time.monotonic()
    for number in range(count):
        dice = random.Random(f"{kind} {seed + number}")  # noqa: S311 - no secret
        at = time.monotonic()
        try:
            attempt(dice)
            read += 1
        except PemloError as error:
            refused += 1
            if any(word in str(error) for word in PYTHONS):
                wrong += 1
                print(f"{kind}, seed {seed + number}: says what is for programmers: {error!s:.200}")
        except Exception as error:  # noqa: BLE001 - this is what is looked for
            wrong += 1
            print(f"{kind}, seed {seed + number}: {error!r:.300}")
        if time.monotonic() - at > LONGEST_S.get(kind, LONGEST_S[""]):
            wrong += 1
            print(f"{kind}, seed {seed + number}: takes {time.monotonic() - at:.1f} s")
    took = time.monotonic() - began
    print(f"{kind}: {count} inputs in {took:.0f} s, {read} read, {refused} refused, {wrong} went wrong")
    return wrong


def main(count: int = COUNT, only: str = "", seed: int = 0) -> int:
    """Try all kinds, or one; return how many inputs went wrong."""
    film = small_film()
    wrong = 0
    with tempfile.TemporaryDirectory() as folder:
        inner = fuzz_arrivals.sandbox(Path(folder))
        tries: dict[str, Callable[[], Try]] = {
            "documents": lambda: partial(try_document, good=to_text(film)),
            "tables": lambda: partial(try_table, film=film),
            "kept": lambda: kept_files(Path(folder)),
            "edits": lambda: partial(try_edit, edits=small_edits(), folder=Path(folder)),
            "launches": lambda: partial(try_launch, film=film),
            "films": lambda: try_film,
            "logs": lambda: fuzz_arrivals.logs(inner, damaged),
            "stores": lambda: fuzz_arrivals.stores(inner, film),
            "headers": lambda: fuzz_arrivals.headers(damaged),
            "places": lambda: fuzz_arrivals.places(inner),
            "lines": lambda: fuzz_arrivals.lines(film),
            "names": lambda: fuzz_arrivals.names(inner, film),
        }
        for kind, make in tries.items():
            if only in ("", kind):
                wrong += run(kind, make(), count, seed)
        if stray := fuzz_arrivals.strays(inner):
            wrong += 1
            print(f"outside of their folder lie {', '.join(stray)}")
    if only in ("", "pictures"):
        wrong += fuzz_pictures.main(0.0, at_least=count)
    return wrong


if __name__ == "__main__":
    arguments = [int(sys.argv[1]) if len(sys.argv) > 1 else COUNT, *sys.argv[2:3]]
    sys.exit(main(*arguments) > 0)
