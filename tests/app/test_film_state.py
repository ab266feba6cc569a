"""The state of a film without a window: what is known, of which film, and how often that is told."""

import pytest

from film import exact_trial, make_project, make_shot, well_timed
from film_state_of import state_of
from pemlo.app.document import Document
from pemlo.app.film_work import ADVICE, FORECAST, RUN
from pemlo.app.jobs import Jobs
from pemlo.core.film import memo, values
from pemlo.core.project.edits import add_trials, set_delivery, set_shot
from pemlo.core.project.trials import GOOD


@pytest.fixture
def made(qtbot):
    document, jobs = Document(make_project(trials=well_timed())), Jobs()
    state = state_of(document, jobs)
    state.ask()
    settle(qtbot, state, jobs)
    yield document, jobs, state
    jobs.shut_down()


def settle(qtbot, state, jobs):
    qtbot.waitUntil(lambda: state.rests and not jobs.running, timeout=60_000)


def test_all_is_found_out_once_hands_rest(made):
    _, _, state = made
    assert state.current
    assert state.answer.finish is not None
    assert state.advice
    assert state.known.fit is state.answer.fit
    assert state.verdict.headline
    assert state.verdict.forecast is state.answer.forecast


def test_it_tells_at_most_once_a_turn(qtbot, made):
    document, jobs, state = made
    told = []
    state.changed.connect(lambda: told.append(state.film))
    for minutes in (1, 2, 3):
        document.edit("Assembly", lambda p, minutes=minutes: set_delivery(p, assembly_minutes=minutes))
    assert told == [], "not while hands are at it"
    qtbot.waitUntil(lambda: len(told) == 1, timeout=5000)
    assert told[0].project is document.project
    settle(qtbot, state, jobs)


def test_what_was_known_last_stays_and_says_of_which_film_it_is(qtbot, made):
    document, jobs, state = made
    before = state.answer
    shot = document.project.shots[0]
    document.edit("Plan", lambda p: set_shot(p, "010", plan=shot.asked.replace(samples=64)))
    assert not state.current
    assert state.answer is before
    assert state.answer.project is not document.project
    assert state.known.fit is before.fit, "what frames cost is known of it all the same"
    assert FORECAST in jobs.running
    settle(qtbot, state, jobs)
    assert state.answer.project is document.project


def test_an_undo_is_known_at_once_and_stops_what_nobody_wants(qtbot, made):
    document, jobs, state = made
    before = state.answer
    document.edit("Trial", lambda p: add_trials(p, [exact_trial("020", 5, 16)]))
    assert state.known is None
    document.history.undo()
    assert state.current
    assert (state.answer.forecast, state.answer.finish) == (before.forecast, before.finish)
    assert not {FORECAST, RUN, ADVICE} & jobs.running.keys()
    settle(qtbot, state, jobs)


@pytest.mark.parametrize("fields", [{"note": "soft"}, {"mark": GOOD}, {"picture": "a.exr"}])
def test_what_is_said_of_a_trial_asks_for_nothing(made, fields):
    document, jobs, state = made
    before = state.answer
    trial = document.project.trials[0]
    document.edit("Say", lambda p: p.replace(trials=(trial.replace(**fields), *p.trials[1:])))
    assert state.current
    assert (state.answer.fit, state.answer.forecast) == (before.fit, before.forecast)
    assert not jobs.running


def test_another_film_has_nothing_of_the_one_before(qtbot, made):
    document, jobs, state = made
    document.replace(make_project(trials=[exact_trial("020", 5, 16)]), None)
    assert (state.answer, state.known, state.verdict, state.advice) == (None, None, None, ())
    state.ask()
    settle(qtbot, state, jobs)
    assert state.answer.fit.timed_trials == 1


def test_nothing_is_made_on_the_thread_of_the_window(made):
    document, _, state = made
    document.edit("Trial", lambda p: add_trials(p, [exact_trial("020", 5, 16)]))
    with pytest.raises(RuntimeError, match="fit is made on the thread of a window"):
        state.film.get(values.FIT, state.film.fit_input)


def test_what_the_film_holds_stays_however_little_room_there_is(qtbot, made):
    document, jobs, state = made
    state.memo._most = 0
    for samples in (64, 65, 66):
        planned = document.project.shots[0].asked.replace(samples=samples)
        document.edit("Plan", lambda p, planned=planned: set_shot(p, "010", plan=planned))
        settle(qtbot, state, jobs)
        assert state.film.peek(values.FIT, state.film.fit_input) is state.answer.fit
        assert state.film.peek(values.FORECAST, state.film.run_input) is state.answer.forecast


@pytest.mark.parametrize("most_bytes", [memo.MOST_BYTES, 0], ids=["as ever", "larger than what is kept"])
def test_a_large_film_has_a_first_answer_until_its_fit_is_there(qtbot, monkeypatch, most_bytes):
    monkeypatch.setattr(memo.Memo.__init__, "__defaults__", (most_bytes,))
    names = [f"{number:03d}" for number in range(values.MANY_TIMED + 1)]
    shots = tuple(make_shot(name, 20) for name in names)
    document = Document(make_project(shots, tuple(exact_trial(name, 5, 64) for name in names)))
    jobs = Jobs()
    state = state_of(document, jobs)
    heard = []
    state.changed.connect(lambda: heard.append((state.answer, state.current, state.verdict)))
    state.ask()
    qtbot.waitUntil(lambda: any(answer is not None for answer, _, _ in heard), timeout=60_000)
    answer, current, verdict = next(one for one in heard if one[0] is not None)
    assert answer.first
    assert not current, "it is shown, and more is to come"
    assert state.known is None or not state.answer.first
    assert verdict.rests_on.startswith("First answer from 100 draws")
    assert verdict.headline
    settle(qtbot, state, jobs)
    assert not state.answer.first
    assert state.current
    found = state.answer.forecast.hours
    assert answer.forecast.hours.middle == pytest.approx(found.middle, abs=0.25 * (found.high - found.low))
    jobs.shut_down()
