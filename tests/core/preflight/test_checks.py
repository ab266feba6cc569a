"""Every check: one film in which only it fails, found, and mended by its button; the demo with ten planted mistakes."""

from dataclasses import replace

import numpy as np
import pytest

from film import make_project, make_shot, well_timed
from pemlo.core.arrivals.place import FrameName, place_of
from pemlo.core.errors import InputError
from pemlo.core.persistence.csv_launch import read_launch, write_launch
from pemlo.core.preflight.all_checks import CHECKS, ready_shots, run_checks
from pemlo.core.preflight.check_context import FolderFacts, plan_row, situation_of
from pemlo.core.preflight.disk import folder_of
from pemlo.core.preflight.finding import FINE, UNKNOWN, WRONG
from pemlo.core.preflight.grouped import grouped
from pemlo.core.preflight.written_paths import frames_of_row, paths_of
from pemlo.core.project.edits import set_handles
from pemlo.core.project.launch import LaunchRow
from pemlo.core.project.machines import Machine
from pemlo.demo import demo_project

PATTERN = "{shot}.{frame:04}.exr"
LAYERS = ("albedo", "normal", "depth", "variance", "motion")


def film(**fields):
    """A film in which all is fine: timed, looked at, marked, with machines, memory and disk known."""
    trials = tuple(
        one.replace(memory_gib=4.0, disk_mib=8.0, picture="a.exr", mark="good enough", error=2.0)
        for name in ("010", "020") for one in well_timed(name, (1, 40))
    )  # fmt: skip
    project = make_project((make_shot("010", 40), make_shot("020", 30)), trials,
                           (Machine(name="desk", memory_gib=64.0),))  # fmt: skip
    rows = tuple(
        plan_row(project, shot).replace(pattern=PATTERN, folder=f"r/{shot.name}", layers=LAYERS)
        for shot in project.shots
    )
    return project.replace(launch=rows, **fields)


def situation(project, there=(), free=500.0, *, writable=True, chance=0.99, seconds=100.0):
    here = situation_of(project)
    folders = {folder_of(path) for _, row in here.each() for path in paths_of(row)[:1]}
    facts = {name: FolderFacts(True, writable, free, frozenset(there)) for name in folders}
    each = {shot.name: np.array([0.9, 1.0, 1.1]) * seconds for shot in project.shots}
    return replace(here, folders=facts, chance=chance, frame_seconds=each)


def launched(project, **fields):
    """The first shot's launch with other fields."""
    first, *others = project.launch
    return project.replace(launch=(first.replace(**fields), *others))


def shot_with(project, plan=None, **fields):
    first, *others = project.shots
    planned = first.asked.replace(**plan) if plan else first.plan
    return project.replace(shots=(first.replace(plan=planned, **fields), *others))


def test_a_film_in_which_all_is_fine():
    found = run_checks(situation(film()))
    assert {one.outcome for one in found} == {FINE}
    assert len({one.check for one in found}) >= 23
    assert ready_shots(situation(film()), found) == ("010", "020")


MISTAKES = {
    "range": lambda p: launched(p, last=30),
    "step": lambda p: launched(p, step=2, last=40),
    "pieces": lambda p: p.replace(launch=(p.launch[0].replace(last=20), p.launch[0].replace(first=18), p.launch[1])),
    "camera": lambda p: launched(shot_with(p, cameras=("near", "far")), camera="other"),
    "size": lambda p: launched(p, percent=50.0),
    "even sides": lambda p: p.replace(
        delivery=p.delivery.replace(width=1001, height=500),
        launch=tuple(row.replace(width=1001, height=500) for row in p.launch)),
    "settings": lambda p: launched(p, samples=16),
    "pictures": lambda p: launched(p, pattern="{shot}_{frame:04}.mov"),
    "format": lambda p: launched(p.replace(needs=p.needs.replace(bits=32)), pattern="{shot}.{frame:04}.png", layers=()),
    "layers": lambda p: launched(p.replace(needs=p.needs.replace(layers=("depth",)), launch=tuple(
        row.replace(layers=("depth",)) for row in p.launch)), layers=()),
    "file names": lambda p: launched(p, pattern="{shot}.{frame}.exr"),
    "characters": lambda p: launched(p, pattern="a:{shot}.{frame:04}.exr"),
    "two shots in one name": lambda p: p.replace(launch=tuple(
        row.replace(folder="r", pattern="{frame:04}.exr") for row in p.launch)),
    "left on": lambda p: launched(p, region="10,10 200,200", bounces=1),
    "pixel aspect": lambda p: launched(p, pixel_aspect=2.0),
    "colour": lambda p: launched(p.replace(needs=p.needs.replace(colour="scene-linear")), colour="display"),
    "zone": lambda p: p.replace(delivery=p.delivery.replace(timezone="Europe/Lisbon")),
    "edit": lambda p: p.replace(edited={"name": "reel 2", "shots": [{"shot": "010", "first": 1, "last": 40},
                                                                 {"shot": "020", "first": 1, "last": 31}]}),
    "own": lambda p: p.replace(own_checks=({"words": "sound is muted"},)),
}  # fmt: skip
MENDED = set(MISTAKES) - {"even sides"}  # what is delivered is not for Pemlo to change


@pytest.mark.parametrize("check", MISTAKES)
def test_only_the_check_that_should_fails_and_its_button_mends_it(check):
    project = MISTAKES[check](film())
    wrong = [one for one in run_checks(situation(project)) if one.outcome == WRONG]
    assert {one.check for one in wrong} == {check}
    assert all(one.words.endswith(".") or check == "own" for one in wrong)
    assert all(one.todo for one in wrong)
    if check not in MENDED:
        return
    for one in wrong:
        project = one.mend.change(project)
    assert not [one for one in run_checks(situation(project)) if one.outcome == WRONG]


@pytest.mark.parametrize(
    ("check", "project", "more"),
    [
        ("overwriting", film(), {"there": ("010.0003.exr", "010.0004.exr")}),
        ("folders", film(), {"writable": False}),
        ("room", film(), {"free": 0.1}),
        ("memory", film(machines=(Machine(name="desk", memory_gib=2.0),)), {}),
        ("hours", film(machines=(Machine(name="desk", memory_gib=64.0),
                                 Machine(name="late", memory_gib=64.0, hours="Sun 01:00-02:00"))), {}),
        ("deadline", film(), {"chance": 0.4}),
        ("cache", launched(shot_with(film(), plan={"keep": ("light",)}, moves=("lights",)), keep=None), {}),
        ("saves", launched(film(machines=(Machine(name="desk", memory_gib=64.0, loss_percent=3.0),), shots=tuple(
            shot.replace(plan=shot.asked.replace(saves=4)) for shot in film().shots)), resume=False),
         {"seconds": 5000.0}),
        ("saves", film(machines=(Machine(name="desk", memory_gib=64.0, loss_percent=3.0),)), {"seconds": 5000.0}),
    ],
)  # fmt: skip
def test_what_the_disk_the_machines_and_the_forecast_say(check, project, more):
    found = run_checks(situation(project, **more))
    wrong = [one for one in found if one.outcome == WRONG]
    assert {one.check for one in wrong} == {check}
    if check == "overwriting":
        assert "2 frames of 010 exist and would be overwritten: 3-4" in wrong[0].words
    for one in wrong:
        project = one.mend.change(project) if one.mend else project
    if all(one.mend for one in wrong):
        there = () if check == "overwriting" else more.get("there", ())
        left = run_checks(situation(project, **{**more, "there": there}))
        assert not [one for one in left if one.outcome == WRONG]


def test_a_denoiser_of_neighbours_does_not_go_with_motion_blur():
    project = shot_with(film(), plan={"denoise": "neighbours", "switches": ("motion blur",)})
    project = launched(project, denoise="neighbours", switches=("motion blur",))
    assert {one.check for one in run_checks(situation(project)) if one.outcome == WRONG} == {"denoiser"}


def test_what_a_launch_leaves_out_is_not_known_and_not_wrong():
    project = film()
    bare = project.replace(launch=tuple({"shot": row.shot} for row in project.launch))
    found = run_checks(replace(situation(bare), folders={}))
    assert not [one for one in found if one.outcome == WRONG]
    assert {one.check for one in found if one.outcome == UNKNOWN} >= {"range", "step", "size", "settings", "pictures",
                                                                      "file names", "overwriting", "folders"}  # fmt: skip
    nothing = make_project(trials=())
    assert {one.check for one in run_checks(situation_of(nothing)) if one.outcome == UNKNOWN} >= {"timed", "deadline"}


def test_a_shot_that_the_launch_leaves_out_is_not_known_and_its_button_takes_the_plan():
    project = make_project((*film().shots, *(make_shot(name, 20) for name in ("030", "040", "050"))))
    project = project.replace(launch=film().launch)
    left_out = [one for one in run_checks(situation(project)) if one.check == "all shots" and one.outcome == UNKNOWN]
    assert [one.shot for one in left_out] == ["030", "040", "050"]
    (said,) = grouped(left_out)
    assert said.words == "No launch row for 030, 040 and 050: checked as planned."
    assert said.mend.name == "Launch all 3 as planned"
    mended = said.mend.change(project)
    assert [row.shot for row in mended.launch] == ["010", "020", "030", "040", "050"]
    assert not situation_of(mended).left_out
    assert not situation_of(project.replace(launch=())).left_out  # the plan itself is checked


def test_frames_below_zero_do_not_sort_by_their_names():
    names = [f"010.{frame:04}.exr" for frame in range(-9, 3)]
    assert sorted(names) != names  # the reason, by trying
    project = set_handles(film(), 4)
    project = project.replace(launch=tuple(row.replace(first=-3, last=row.last + 4) for row in project.launch))
    found = [one for one in run_checks(situation(project)) if one.outcome == WRONG]
    assert {one.check for one in found} == {"file names"}
    assert found[0].words.endswith("begin at -3: names with a minus do not sort in film order.")
    higher = shot_with(project, first=1001, last=1040)
    higher = higher.replace(
        launch=tuple(row.replace(first=997, last=1044) if row.shot == "010" else row for row in higher.launch)
    )
    found = [one for one in run_checks(situation(higher)) if one.outcome == WRONG]
    assert "010" not in {one.shot for one in found}


def test_handles_keep_the_step_and_a_still_shot_has_none():
    project = shot_with(film(), plan={"frame_step": 3})  # frames 1, 4 … 40
    project = set_handles(project, 4).replace(launch=())
    row = plan_row(project, project.shots[0])
    assert set(frames_of_row(row)) >= set(range(1, 41, 3))
    assert row.first <= 1 - 4
    assert row.last == 40 + 4
    still = shot_with(film(), still=True).replace(needs=project.needs)
    row = plan_row(still, still.shots[0])
    assert (row.first, row.last) == (1, 1)
    wrong = [one for one in run_checks(situation(still)) if one.check == "range" and one.outcome == WRONG]
    assert wrong[0].words == "010 is to have frame 1 alone, as nothing moves in it, and has 1-40 in the launch."
    for one in wrong:
        still = one.mend.change(still)
    assert not [one for one in run_checks(situation(still)) if one.outcome == WRONG]


def test_every_check_can_fail():
    tried = {
        *MISTAKES,
        "overwriting",
        "folders",
        "room",
        "memory",
        "hours",
        "deadline",
        "cache",
        "saves",
        "denoiser",
    }
    names = {one.check for one in run_checks(situation(film()))} | {"own", "edit"}
    assert names - tried == {"timed", "looked at", "all shots"}  # these are not known, never wrong
    assert len(CHECKS) == 31  # as the README says


def test_the_demo_with_ten_planted_mistakes():
    project = demo_project()
    rows = {
        shot.name: plan_row(project, shot).replace(pattern=PATTERN, folder=f"r/{shot.name}", layers=LAYERS)
        for shot in project.shots
    }
    plain = project.replace(launch=tuple(rows.values()))

    def wrong_in(film):
        here = situation(film)
        return {(one.check, one.shot) for one in run_checks(here) if one.outcome == WRONG}

    before = wrong_in(plain)
    assert before == set()
    planted = {
        "010": {"last": 140}, "020": {"step": 2}, "030": {"percent": 50.0}, "040": {"width": 1920},
        "050": {"samples": 8}, "060": {"pattern": "{shot}.{frame}.exr"}, "070": {"pattern": "{shot}.mp4"},
        "080": {"denoise": "something"}, "090": {"pattern": "a?{frame:04}.exr"}, "100": {"first": 2},
    }  # fmt: skip
    film_wrong = project.replace(launch=tuple(row.replace(**planted[name]) for name, row in rows.items()))
    found = wrong_in(film_wrong)
    assert found == {("range", "010"), ("step", "020"), ("size", "030"), ("size", "040"), ("settings", "050"),
                     ("file names", "060"), ("pictures", "070"), ("settings", "080"),
                     ("characters", "090"), ("range", "100")}  # fmt: skip


def test_a_table_of_launches_is_read_and_written_as_the_same():
    project = film()
    text = ("shot,first,last,step,camera,size,percentage,samples,threshold,denoise,layers,pattern,folder,colour,resume,region\n"
            '010,1,40,1,near,1920 x 1080,50 %,256,none,frame,"albedo, normal",{shot}.{frame:04}.exr,r,scene linear,no,off\n'
            "020,,,,,,,,,,,,\n")  # fmt: skip
    rows = read_launch(text, project)
    assert (rows[0].width, rows[0].percent, rows[0].threshold, rows[0].layers) == (
        1920,
        50.0,
        0.0,
        ("albedo", "normal"),
    )
    assert (rows[0].colour, rows[0].resume, rows[0].region) == ("scene-linear", False, "")
    assert rows[1].first is None
    assert rows[1].layers is None
    assert read_launch(write_launch(rows), project) == rows


@pytest.mark.parametrize(
    ("line", "words"),
    [
        ("999,1,2,,,,,,,,,,", "no shot 999"),
        ("010,x,2,,,,,,,,,,", "column first"),
        ("010,1,2,,,big,,,,,,,", "neither a size"),
    ],
)
def test_wrong_cells_of_a_launch_are_named(line, words):
    head = "shot,first,last,step,camera,size,percentage,samples,threshold,denoise,layers,pattern,folder\n"
    with pytest.raises(InputError) as caught:
        read_launch(head + line + "\n", film())
    assert words in str(caught.value)


@pytest.mark.parametrize(
    ("pattern", "folder"),
    [("{shot}.{frame:04}.exr", "r/./x"), ("{frame}-{frame:02}.exr", ""), ("{shot}{layer}.{frame:03}.exr", "/abs//y"),
     ("a{frame:04}.exr", "{shot}/{frame}")],
)  # fmt: skip
def test_paths_are_those_of_the_place(pattern, folder):
    row = LaunchRow(shot="0{x}1", first=-2, last=3, pattern=pattern, folder=folder)
    place = place_of(f"{folder}/{pattern}" if folder else pattern)
    start = "/" if folder.startswith("/") else ""
    assert paths_of(row) == tuple(start + place.path(FrameName(row.shot, frame)) for frame in range(-2, 4))
