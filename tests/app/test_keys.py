"""What is kept is kept for just what it was made from: another answer has another key.

Each example once gave the answer of before.
"""

import pytest

from film import exact_trial, make_project, make_shot, well_timed
from film_state_of import state_of
from pemlo.app.document import Document
from pemlo.app.film_work import ADVICE
from pemlo.app.jobs import Jobs
from pemlo.app.watcher import _Place
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.cost.observations import asked_work, observations
from pemlo.core.film.film import Film
from pemlo.core.film.values import QUICK_FORECAST
from pemlo.core.progress import Unwatched
from pemlo.core.project.ceiling import ceiling_of
from pemlo.core.project.edits import set_asked
from pemlo.core.project.machines import Machine
from pemlo.core.project.project import Project
from pemlo.core.project.trials import GOOD, Trial
from pemlo.core.project.watching import Watching


def with_shot(project: Project, name: str, **fields) -> Project:
    return project.replace(shots=tuple(shot.replace(**fields) if shot.name == name else shot for shot in project.shots))


@pytest.mark.parametrize("asked", [{"switches": ("motion blur",)}, {"split": (4, 1, 2)}])
def test_a_fit_reads_switches_and_splits_that_are_asked_for(asked):
    """A trial that says neither is taken as asked for: another request is another reading."""
    project = set_asked(make_project((make_shot("010"), make_shot("020")), well_timed()), ["020"], **asked)
    other = set_asked(project, ["010"], **asked)
    assert other.cost_factors() == project.cost_factors()
    assert fit_input(other) != fit_input(project)
    assert fit_input(other.replace(title="Another")) == fit_input(other)


def test_options_depend_on_the_look_of_other_shots():
    """A mark that was set for all of a look holds for a shot as long as the shot of the mark has that look."""
    marked = tuple(
        exact_trial(name, 1, samples, mark=GOOD, mark_for=whose, error=error)
        for name, samples, whose, error in (("010", 64, "shot", 1.2), ("020", 32, "look", 2.5))
    )
    project = make_project((make_shot("010"), make_shot("020")), marked)
    both = with_shot(with_shot(project, "010", look="night"), "020", look="night")
    apart = with_shot(both, "020", look="day")
    assert (ceiling_of(both, "010").value, ceiling_of(apart, "010").value) == (2.5, 1.2)
    inputs = [Film(one).options_inputs["010"] for one in (both, apart)]
    assert inputs[0] != inputs[1]
    assert [one.passing.ceiling for one in inputs] == [2.5, 1.2]


def test_a_picture_of_a_region_is_another_than_of_the_whole(tmp_path):
    def key(**fields):
        trial = Trial(shot="010", frame=1, samples=64, seconds=10, picture="a.exr", **fields)
        return Film(make_project(trials=(trial,)), tmp_path, written=lambda _: 1).look_inputs["010"]

    assert key() != key(region_percent=25.0)
    assert key() == key(note="a note")


def test_what_a_shot_takes_on_disk_follows_whether_it_stands_still():
    trials = tuple(one.replace(disk_mib=10.0, memory_gib=4.0) for one in well_timed())
    film = Film(make_project((make_shot("010", 60), make_shot("020", 60)), trials))

    def disk(film):
        return film.get(QUICK_FORECAST, film.run_input), film.run.work.gib.tolist()

    disk(film)
    for changed in (with_shot(film.project, "010", still=True), with_shot(film.project, "010", width=96, height=54)):
        _, after = disk(film.with_project(changed))
        _, anew = disk(Film(changed))
        assert after == pytest.approx(anew)


def test_advice_is_asked_anew_for_a_shot_that_stands_still(qtbot):
    project = make_project((make_shot("010", 60),), well_timed(frames=(1, 60)), (Machine(name="desk"),))
    document, jobs = Document(project), Jobs()
    state = state_of(document, jobs)
    asked = []
    submit = jobs.submit
    jobs.submit = lambda key, *more, **named: (asked.append(key), submit(key, *more, **named))[1]
    state.ask()
    qtbot.waitUntil(lambda: state.rests and not jobs.running, timeout=60_000)
    assert asked.count(ADVICE) == 1
    document.edit("Still", lambda film: with_shot(film, "010", still=True))
    qtbot.waitUntil(lambda: state.rests and not jobs.running, timeout=60_000)
    assert asked.count(ADVICE) == 2
    document.edit("Hours", lambda film: film.replace(machines=(film.machines[0].replace(hours="Mon-Fri 9-17"),)))
    qtbot.waitUntil(lambda: state.rests and not jobs.running, timeout=60_000)
    assert asked.count(ADVICE) == 2
    jobs.shut_down()


def test_watching_expects_what_the_plan_takes_that_is_adopted(tmp_path):
    """The fit is the same: what frames are expected to take is not."""
    project = make_project((make_shot("010", 60),), well_timed(frames=(1, 60))).replace(
        watching=Watching(place="r/{shot}.{frame}.exr")
    )
    planned = with_shot(project, "010", plan=project.shots[0].asked.replace(samples=64))
    place = _Place(tmp_path, None)
    wall = project.start.timestamp() + 60
    before, after = (
        place.look(Film(film, tmp_path), wall, Unwatched()).live_forecast.known.expected["010"].middle
        for film in (project, planned)
    )
    fresh = (
        _Place(tmp_path, None)
        .look(Film(planned, tmp_path), wall, Unwatched())
        .live_forecast.known.expected["010"]
        .middle
    )
    assert after == pytest.approx(fresh)
    assert after < 0.7 * before


def test_what_is_read_by_a_fit_is_what_its_key_names():
    """Readings and the work that is asked for are all that a fit takes of shots: an equal key, equal readings."""
    project = make_project((make_shot("010"), make_shot("020")), well_timed())
    renamed = project.replace(title="Another", machines=(project.machines[0].replace(hours="never"),))
    assert fit_input(renamed) == fit_input(project)
    for film in (project, renamed):
        found = observations(fit_input(film))
        assert set(found) == {"010"}
        assert asked_work(fit_input(film), set(found)) == asked_work(fit_input(project), {"010"})
