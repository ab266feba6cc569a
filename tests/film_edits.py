"""A rich small film, random edits of any of its fields, and its values made anew of the whole project."""

import os
from contextlib import contextmanager
from dataclasses import fields, is_dataclass
from unittest.mock import patch

import numpy as np

from exr import write_exr
from film import exact_trial, make_project, make_shot
from pemlo.core.appraisal.shot_appearance import appearance_of
from pemlo.core.cost.draws import draw_film
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.cost.next_trial import advise
from pemlo.core.errors import FileError, InputError
from pemlo.core.film import values
from pemlo.core.forecast.best_order import orders_tried
from pemlo.core.forecast.kept_data import kept_data
from pemlo.core.forecast.moves_most import moves_most
from pemlo.core.forecast.run_effect import QUICK_FRAMES, exact_finish
from pemlo.core.forecast.verdict import forecast
from pemlo.core.persistence.document import from_text, to_text
from pemlo.core.pixels.display import Srgb
from pemlo.core.project.edited import EditedFilm
from pemlo.core.project.kept_plans import KeptCard, KeptPlan, PlannedShot
from pemlo.core.project.launch import LaunchRow, OwnCheck, PictureNeeds
from pemlo.core.project.machines import Machine, OtherHours
from pemlo.core.project.named_settings import NamedSettings
from pemlo.core.project.render_ways import RenderWay
from pemlo.core.project.running import FirstPass
from pemlo.core.project.settings import ALLOWABLE, ShotSettings
from pemlo.core.project.shots import SettingsMark, Shot
from pemlo.core.project.trials import BAD, GOOD
from pemlo.core.project.watching import Watching
from pemlo.core.trade.hour_draws import HourDraws
from pemlo.core.trade.options import options_of
from pemlo.core.trade.plan_comparison import compare_plans
from pemlo.core.trade.planning import plan_film

PICTURES = tuple(f"{name}.exr" for name in ("clean", "few", "fewer", "again", "other"))

# A few values for every field of every record that the film is made of.
SETTINGS = {
    "samples": (16, 64, 200), "min_samples": (None, 4, 8), "noise_threshold": (None, 0.02, 0.05),
    "denoise": ("none", "frame", "neighbours"), "resolution_percent": (50.0, 100.0, 120.0),
    "keep": ((), ("prepare",), ("prepare", "light")), "most_seconds": (None, 20.0, 500.0),
    "split": ((1, 1, 1), (2, 1, 1)), "switches": ((), ("motion blur",), ("fog",)), "saves": (0, 2),
    "way": ("", "quick", "fine"), "way_value": (None, 2.0, 8.0),
}  # fmt: skip
SHOT_SETTINGS = {**SETTINGS, "frame_step": (1, 2), "between": ("hold", "blend")}
SHOT = {
    "first": (1, 3), "last": (8, 12, 30), "step": (1, 2), "handles": (0, 2), "fps": (None, 30.0),
    "ranges": ((), ((1, 4), (6, 8)), ((3, 5), (9, 12))),
    "width": (None, 64), "height": (None, 36), "moves": ((), ("camera",), ("lights", "objects")),
    "look": ("", "night", "day"), "ceiling": (None, 1.5, 6.0), "weight": (1.0, 3.0),
    "pins": ((), ("samples",), ("denoise", "resolution_percent")), "allows": ((), ("switches",), ("denoise",), ALLOWABLE),
    "marks": ((), (SettingsMark(settings=ShotSettings(samples=32), mark=GOOD),), (SettingsMark(settings=ShotSettings(samples=16), mark=BAD, note="grain"),)),
    "part_of": ("", "010", "020"), "still": (False, True), "due": (None, "2031-04-22T09:00Z", "2031-04-23T09:00Z"),
    "priority": (0, 3), "after": ((), ("010",), ("night",)), "place": ("", "r/{frame}.exr"), "cameras": ((), ("near", "far")),
    "only_on": ((), ("desk",), ("desk", "gone")), "approval": ("waiting", "approved"), "note": ("", "wide"), "extra_columns": ((), (("who", "us"),)),
}  # fmt: skip
TRIAL = {
    **SETTINGS,
    "frame": (1, 5, 8), "seconds": (3.0, 11.0, 60.0), "width": (None, 48, 96),
    "height": (None, 32), "region_percent": (None, 25.0), "machine": ("", "desk", "blade", "gone"),
    "frames_at_once": (1, 2), "seed": (None, 1, 2), "prepare_seconds": (None, 0.5), "light_seconds": (None, 0.2),
    "trace_seconds": (None, 2.0), "denoise_seconds": (None, 0.1), "write_seconds": (None, 0.1),
    "mean_samples": (None, 12.0, 60.0), "noise": (None, 0.1), "noise_shape": ((),), "picture": ("", *PICTURES, "gone.exr"),
    "assumed": (False, True), "repeat": (0, 1), "left_out": ("", "a slip"), "memory_gib": (None, 2.0, 9.0), "processor_seconds": (None, 40.0), "other_load": (None, 0.02, 0.6), "disk_mib": (None, 5.0, 40.0),
    "mark": ("", GOOD, BAD), "mark_for": ("shot", "look"), "mark_size": (False, True), "error": (None, 1.2, 4.0), "error_against": ("", "clean.exr"),
    "note": ("", "soft"), "extra_columns": ((), (("who", "us"),)),
}  # fmt: skip
MACHINE = {
    "name": ("desk", "blade", "third"), "count": (0, 1, 4), "speed": (1.0, 2.5), "frames_at_once": (1, 3), "contention": (0.3, 0.0),
    "coherency": (0.0, 0.02), "memory_gib": (None, 4.0, 64.0), "hours": ("always", "Mon-Fri 19-7", "never"),
    "exceptions": ((), (OtherHours(day="2031-04-22", hours="never"),)), "price_per_hour": (None, 2.0), "most": (None, 3),
    "most_hours": (None, 40.0), "loss_percent": (0.0, 12.0), "note": ("", "loud"), "extra_columns": ((), (("who", "us"),)),
}  # fmt: skip
DELIVERY = {
    "width": (96, 192), "height": (64, 108), "fps": (24.0, 30.0), "timezone": ("UTC", "Europe/Lisbon"),
    "deadline": ("2031-04-21T10:20Z", "2031-04-22T18:00Z", "2031-05-24T18:00Z"), "confidence": (0.9, 0.6),
    "assembly_minutes": (0.0, 30.0), "seen_from": ("desk", "cinema seat"), "retake_share": (0.0, 0.3),
    "currency": ("", "EUR"), "budget": (None, 0.5, 40.0),
}  # fmt: skip
RUNNING = {
    "order": ("film", "due", "longest", "shortest", "by hand"), "queue": ((), ("020", "010")), "chunk": (1, 4),
    "denoise_on": ((), ("desk",)), "dispatch_seconds": (0.0, 5.0), "starts_again": (False, True), "disk_gib": (None, 0.001, 5.0),
    "first_pass": (None, FirstPass(settings="review"), FirstPass(settings="review", due="2031-04-21T12:00Z")),
}  # fmt: skip
SETS = (NamedSettings(name="review", settings=ShotSettings(samples=8)),)
FILM = {
    "title": ("Test film", "Another"), "start": ("2031-04-21T10:00Z", "2031-04-20T10:00Z"),
    "starts_now": (False, True),
    "plans": ((), (KeptPlan(name="quick", shots=(PlannedShot(shot="010", settings=ShotSettings(samples=16, denoise="frame")),)),)),
    "cards": ((), (KeptCard(title="A", text="b"),)),
    "sets": (SETS, (NamedSettings(name="review", settings=ShotSettings(samples=24)),)),
    "watching": (Watching(), Watching(place="r/{shot}.{frame}.exr")), "needs": (PictureNeeds(), PictureNeeds(bits=16)),
    "launch": ((), (LaunchRow(shot="010", samples=3),)), "own_checks": ((), (OwnCheck(words="look"),)),
    "edited": (EditedFilm(),), "render_ways": ((), (RenderWay(name="main", command="draw {frame} {out}"),)),
}  # fmt: skip
MADE_ELSEWHERE = {"delivery", "shots", "machines", "trials", "running"}


def rich_film(folder):
    """Return a film in which most that can be said is said, with pictures in a folder."""
    for name, samples in zip(PICTURES, (256, 16, 8, 16, 64), strict=True):
        write_picture(folder / name, samples)
    trials = (
        exact_trial("010", 1, 256, picture="clean.exr", memory_gib=3.0, disk_mib=8.0),
        exact_trial("010", 1, 16, picture="few.exr", seed=1, mark=GOOD, error=1.5),
        exact_trial("010", 1, 16, picture="again.exr", seed=2),
        exact_trial("010", 1, 8, picture="fewer.exr", mark=BAD, error=5.0, machine="blade"),
        exact_trial("010", 8, 64, noise_threshold=0.02, min_samples=4, mean_samples=20.0),
        exact_trial("020", 5, 64, mark=GOOD, mark_for="look", keep=("prepare",), disk_mib=9.0),
        exact_trial("020", 5, 16, denoise="frame", machine="desk", frames_at_once=2),
    )
    shots = (
        make_shot("010", 12, samples=64).replace(look="night", handles=1),
        make_shot("020", 10, samples=64).replace(look="night", moves=("camera",)),
        make_shot("030", 6, samples=32),
    )
    machines = (Machine(name="desk", hours="Mon-Fri 8-20"), Machine(name="blade", count=2, speed=1.5, loss_percent=3))
    return make_project(shots, trials, machines, width=96, height=64).replace(sets=SETS)


def write_picture(path, samples, seed=0):
    """Write a grey picture with as much noise as so many samples leave; written later than any before."""
    random = np.random.default_rng([samples, seed, len(path.name)])
    variance = np.full((64, 96, 3), 0.09 / samples, np.float32)
    colour = np.float32(0.2 + variance**0.5 * random.standard_normal(variance.shape)).clip(0.001)
    write_exr(path, colour, variance)
    os.utime(path, ns=(seed + 1, seed + 1))


class Editing:
    """Edits a film at random, and takes edits back."""

    def __init__(self, film, seed):
        self.random, self.written = np.random.default_rng(seed), 1
        self.past, self.film = [], film

    def step(self):
        """Make one edit, or take the last ones back; say which."""
        if self.past and self.random.random() < 0.2:
            self.film = self.film.with_project(self.past.pop())  # pictures may have been written since
            return "undo"
        for _ in range(1000):
            what, project = self._edited(self.film.project)
            if project is not None:
                self.past.append(self.film.project)
                self.film = self.film.with_project(project)
                return what
        raise AssertionError("no edit is allowed")

    def _edited(self, project):
        kind = self.random.choice(
            ["film", "delivery", "running", "shot", "asked", "plan", "trial", "trial", "machine", "rows", "picture"]
        )
        try:
            return self._edit(kind, project)
        except InputError:
            return kind, None  # it may not be so

    def _edit(self, kind, project):
        def other(record, table):
            name = str(self.random.choice(sorted(table)))
            value = table[name][self.random.integers(len(table[name]))]
            pixels = {"width": None, "height": None} if name == "resolution_percent" and "width" in table else {}
            if name == "way_value" and value is not None and not record.way:
                pixels["way"] = "fine"  # a value belongs to a way
            if name == "way" and not value:
                pixels["way_value"] = None
            return name, record.replace(**{**pixels, name: value})

        def among(rows):
            return int(self.random.integers(len(rows)))

        if kind == "picture":
            self.written += 1
            name = PICTURES[among(PICTURES)]
            write_picture(self.film.folder / name, int(self.random.choice([8, 16, 64, 256])), self.written)
            return f"picture {name}", project
        if kind == "film":
            name, changed = other(project, FILM)
            return name, changed
        if kind in ("delivery", "running"):
            name, changed = other(getattr(project, kind), DELIVERY if kind == "delivery" else RUNNING)
            return f"{kind} {name}", project.replace(**{kind: changed})
        if kind == "rows":
            return self._rows(project)
        field = {"trial": "trials", "machine": "machines"}.get(kind, "shots")
        rows = list(getattr(project, field))
        if not rows:
            return kind, None
        at = among(rows)
        if kind in ("asked", "plan"):
            if kind == "plan" and rows[at].plan is not None and self.random.random() < 0.3:
                name, rows[at] = "none", rows[at].replace(plan=None)
            else:
                name, made = other(rows[at].settings if kind == "plan" else rows[at].asked, SHOT_SETTINGS)
                rows[at] = rows[at].replace(**{kind: made})
        else:
            name, rows[at] = other(rows[at], {"trial": TRIAL, "machine": MACHINE, "shot": SHOT}[kind])
        return f"{kind} {name}", project.replace(**{field: tuple(rows)})

    def _rows(self, project):
        field = str(self.random.choice(["shots", "trials", "machines"]))
        rows = list(getattr(project, field))
        way = self.random.choice(["turned", "dropped", "twice"])
        if way == "turned":
            rows.reverse()
        elif way == "dropped" and len(rows) > 1:
            del rows[int(self.random.integers(len(rows)))]
        elif way == "twice" and field == "trials" and len(rows) < 12:
            rows.append(rows[int(self.random.integers(len(rows)))].model_copy())  # another record, as when it is pasted
        return f"{field} {way}", project.replace(**{field: tuple(rows)})


def same(one, other):  # noqa: PLR0911 - one answer a kind
    """Whether two values are the same, to the last digits that sums of other orders leave."""
    if isinstance(one, np.ndarray) or isinstance(other, np.ndarray):
        one, other = np.asarray(one), np.asarray(other)
        if one.shape != other.shape:
            return False
        if one.dtype.kind not in "fc":
            return np.array_equal(one, other)
        return np.allclose(one, other, rtol=1e-6, atol=1e-9, equal_nan=True)
    if isinstance(one, HourDraws):  # rows are made when they are looked at: every third, and the last
        places = [*range(0, len(one), 3), len(one) - 1]
        return len(one) == len(other) and same(one.middle, other.middle) and same(one[places], other[places])
    if isinstance(one, Shot):  # some of what it says is for others
        return isinstance(other, Shot) and one.name == other.name
    if isinstance(one, Exception):
        return repr(one) == repr(other)
    if is_dataclass(one):
        # What begins with an underscore was worked out of the others as far as somebody asked.
        names = [field.name for field in fields(one) if not field.name.startswith("_")]
        return type(one) is type(other) and all(same(getattr(one, name), getattr(other, name)) for name in names)
    if isinstance(one, dict):
        return one.keys() == other.keys() and all(same(one[key], other[key]) for key in one)
    if isinstance(one, tuple | list):
        return len(one) == len(other) and all(map(same, one, other))
    if isinstance(one, float):
        return one == other or bool(np.isclose(one, other, rtol=1e-6, atol=1e-9, equal_nan=True))
    return one == other


FITS = {}


def tried(make):
    """Return a value, or the trouble there was."""
    try:
        return make()
    except (InputError, FileError) as error:
        return error


class Anew:
    """The values of a film, made of the whole project with nothing kept but fits of equal inputs."""

    def __init__(self, film):
        # What was read anew shares no record with what is open.
        self.project, self.folder = from_text(to_text(film.project), "film.pemlo"), film.folder
        given = fit_input(self.project)
        if given not in FITS:
            FITS[given] = fit(given)
        self.known = FITS[given], draw_film(FITS[given], self.project)

    def look(self, shot):
        return tried(lambda: appearance_of(self.project.trials_of(shot), self.folder, Srgb()))

    def looks(self):
        found = {shot.name: self.look(shot.name) for shot in self.project.shots}
        return {name: look for name, look in found.items() if look is not None and not isinstance(look, Exception)}

    def options(self, shot):
        plain = self.project.replace(shots=tuple(one.replace(plan=None, pins=()) for one in self.project.shots))
        return options_of(plain, *self.known, plain.shot(shot), self.looks().get(shot))

    def plan(self, goal):
        if not self.known[0].known:
            raise InputError("Nothing was timed yet: no plan can be made.", "Time one frame first.")
        looks, shots = self.looks(), self.project.shots
        options = tuple(
            options_of(self.project, *self.known, shot, looks.get(shot.name), for_plan=True) for shot in shots
        )
        return plan_film(self.project, options, goal, self.known)

    def plans(self):
        ceilings = {shot.name: self.options(shot.name).ceiling for shot in self.project.shots}
        return compare_plans(self.project, *self.known, self.looks(), ceilings, self.forecast_of)

    def forecast(self):
        return self.forecast_of(self.project)

    def forecast_of(self, project):
        first = forecast(project, *self.known, most_frames=0)
        if first.probability is None or not first.hours_available:
            return first
        return forecast(project, *self.known, finish=exact_finish(project, *self.known))


def pairs(film, anew, random):
    """Return what is held against what: a name, the value of the film, and the same made anew."""
    run, known = film.run_input, anew.known
    shot = film.project.shots[int(random.integers(len(film.project.shots)))]
    goal = str(random.choice(["picture", "hours", "missing"]))
    return {
        "fit": (lambda: film.fit, lambda: known[0]),
        "draws": (lambda: film.draws, lambda: known[1]),
        "first forecast": (lambda: film.get(values.FIRST_FORECAST, run), lambda: forecast(anew.project, *known, most_frames=0)),
        "quick forecast": (lambda: film.get(values.QUICK_FORECAST, run), lambda: forecast(anew.project, *known, most_frames=QUICK_FRAMES)),
        "forecast": (lambda: film.forecast, anew.forecast),
        "run": (lambda: film.run, lambda: exact_finish(anew.project, *known)),
        "look": (lambda: film.look(shot.name), lambda: anew.look(shot.name)),
        "options": (lambda: film.options(shot.name), lambda: anew.options(shot.name)),
        "plan": (lambda: film.plan(goal), lambda: anew.plan(goal)),
        "plans": (film.plans, anew.plans),
        "advice": (lambda: film.get(values.ADVICE, film.advice_input(shot)), lambda: advise(known[0], anew.project, {shot.name})),
        "cache": (lambda: film.get(values.KEPT, run), lambda: kept_data(anew.project, *known)),
        "orders": (lambda: film.get(values.ORDERS, run), lambda: orders_tried(anew.project, *known)),
        "moves": (lambda: film.get(values.MOVES, run), lambda: moves_most(anew.project, *known)),
    }  # fmt: skip


@contextmanager
def few_options():
    """Weigh few combinations of levers, and run few frames: what is chosen from is as it is, only less of it."""
    with (
        patch("pemlo.core.trade.levers.OCTAVES_DOWN", 1),
        patch("pemlo.core.trade.levers.SAMPLE_STEPS", 1),
        patch("pemlo.core.trade.levers.THRESHOLD_STEPS", (0, 1)),
        patch("pemlo.core.trade.levers.PERCENTS", (50.0, 100.0)),
        patch("pemlo.core.trade.options.CAPS", 2),
        patch("pemlo.core.trade.options.MOST_FREE_SWITCHES", 1),
        patch("pemlo.core.forecast.run_effect.EXACT_FRAMES", 4000),
        patch("pemlo.core.trade.planning.CONFIRMED_FRAMES", 2000),
    ):
        yield


def wrong_after(editing, count, random):
    """Return which values were not as made anew after each edit, of some of all: (edit, value)."""
    found = []
    for _ in range(count):
        what = editing.step()
        anew = Anew(editing.film)
        held = pairs(editing.film, anew, random)
        for name in random.choice(sorted(held), 4, replace=False):
            mine, fresh = map(tried, held[name])
            if not same(mine, fresh):
                found.append((what, str(name)))
    return found
