"""Machines' speeds and what frames at once are worth, from trials and from what a person would type."""

import numpy as np
import pytest

from film import exact_trial, make_project, make_shot
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.cost.machine_speeds import measured_scaling, measured_speeds, with_measured_machines
from pemlo.core.errors import InputError
from pemlo.core.persistence.csv_machines import read_machines, speed, write_machines
from pemlo.core.project.concurrency import scaling_of, throughput_gain
from pemlo.core.project.machines import Machine

MACHINES = (Machine(name="desk"), Machine(name="blade"), Machine(name="tower"))


def timed(machine, seconds, frame=1, samples=64, **fields):
    return exact_trial("010", frame, samples).replace(machine=machine, seconds=seconds, **fields)


def film(*trials):
    return make_project(shots=(make_shot("010"),), trials=trials, machines=MACHINES)


def test_one_frame_timed_on_each_machine_says_how_fast_they_are():
    # Common practice: the same test frame with a stopwatch on every machine; by hand 242 / 151 and 242 / 484.
    blade, tower = measured_speeds(film(timed("desk", 242.0), timed("blade", 151.0), timed("tower", 484.0)))
    assert (blade.machine, round(blade.speed.middle, 3), blade.frames) == ("blade", 1.603, 1)
    assert (tower.machine, round(tower.speed.middle, 3)) == ("tower", 0.5)
    # Each of both times is known to 3 %: the ratio to 3 % times the root of two, 9 times in 10 within 1.645 of that.
    assert np.log(blade.speed.high / blade.speed.low) == pytest.approx(2 * 1.645 * 0.03 * np.sqrt(2), rel=1e-3)


def test_speeds_go_on_from_machine_to_machine_and_more_frames_say_more():
    two = measured_speeds(
        film(timed("desk", 100.0), timed("blade", 50.0), timed("blade", 80.0, 50), timed("tower", 20.0, 50))
    )
    assert [one.speed.middle for one in two] == pytest.approx([2.0, 8.0])
    assert two[1].speed.high / two[1].speed.middle > two[0].speed.high / two[0].speed.middle
    many = measured_speeds(
        film(*(timed(name, s, k) for k in range(1, 9) for name, s in (("desk", 100.0), ("blade", 50.0))))
    )
    assert many[0].speed.high - many[0].speed.low < two[0].speed.high - two[0].speed.low


def test_other_settings_guesses_and_machines_apart_say_nothing():
    assert measured_speeds(film(timed("desk", 100.0, samples=64), timed("blade", 50.0, samples=32))) == ()
    assert measured_speeds(film(timed("blade", 100.0), timed("tower", 50.0, 2))) == ()
    assert measured_speeds(film(timed("desk", 100.0), timed("blade", 50.0, assumed=True))) == ()
    with pytest.raises(InputError, match="two machines"):
        with_measured_machines(film(timed("desk", 100.0)))


def test_frames_at_once_that_were_timed_say_what_they_are_worth():
    # Amdahl's law with three tenths: 1, 1.3 and 1.9 times as long, by hand.
    project = film(*(timed("blade", 100.0 * more, frames_at_once=k) for k, more in ((1, 1.0), (2, 1.3), (4, 1.9))))
    (found,) = measured_scaling(project)
    assert (found.contention, found.coherency, found.at_once) == (
        pytest.approx(0.3),
        pytest.approx(0, abs=1e-9),
        (1, 2, 4),
    )
    assert with_measured_machines(project).machines[1].contention == 0.3


def test_the_universal_scalability_law_is_found_again():
    # The worked example of the law, from memory: 2 % contention and 0.05 % coherency have their best load at 44.
    contention, coherency = 0.02, 0.0005
    counts = [1, 2, 4, 8, 16, 32, 64]
    taken = [100 * k / throughput_gain(k, contention, coherency) for k in counts]
    assert scaling_of(counts, taken) == pytest.approx((contention, coherency))
    best = max(range(1, 200), key=lambda k: throughput_gain(k, contention, coherency))
    assert best == round(np.sqrt((1 - contention) / coherency))


@pytest.mark.parametrize("threads", [8, 64])
@pytest.mark.parametrize("serial", [0.02, 0.3])
def test_threads_that_frames_share_are_amdahls_law(threads, serial):
    """Amdahl 1967: with n threads a frame takes s + (1 - s) / n of its time with one; k frames have C / k threads each."""
    counts = [1, 2, 4, 8]
    seconds = [100 * (serial + (1 - serial) / (threads / k)) for k in counts]
    contention, coherency = scaling_of(counts, seconds)
    assert contention == pytest.approx((1 - serial) / (serial * threads + 1 - serial))
    assert coherency == pytest.approx(0.0, abs=1e-9)
    gains = [k * seconds[0] / one for k, one in zip(counts, seconds, strict=True)]
    assert [throughput_gain(k, contention) for k in counts] == pytest.approx(gains)


@pytest.mark.parametrize("counts", [[1, 1], [2, 4], []])
def test_scaling_needs_a_frame_alone_and_one_beside_others(counts):
    with pytest.raises(InputError, match="one frame alone"):
        scaling_of(counts, [10.0] * len(counts))


def test_a_trial_beside_others_counts_as_what_it_would_take_alone():
    machine = Machine(name="desk", frames_at_once=4, contention=0.5)
    films = []
    for factor, at_once in ((1.0, 1), (2.5, 4)):  # alone, and with four at once: 1 + 0.5 x 3 times as long
        trials = [timed("desk", factor * exact_trial("010", f, s).seconds, f, s, frames_at_once=at_once)
                  for f in (1, 100) for s in (64, 256)]  # fmt: skip
        films.append(make_project(shots=(make_shot("010"),), trials=tuple(trials), machines=(machine,)))
    alone, beside = (fit(fit_input(one)).shots["010"].theta.mean(axis=0) for one in films)
    assert alone == pytest.approx(beside, rel=1e-6, abs=1e-6)


@pytest.mark.parametrize(
    ("text", "value"), [("2", 2.0), ("4:00 / 2:00", 2.0), ("90s/60s", 1.5), ("score 300/400", 0.75)]
)
def test_speeds_as_people_say_them(text, value):
    assert speed(text) == value
    assert read_machines(f'machine,speed\ndesk,"{text}"\n')[0].speed == value


@pytest.mark.parametrize("text", ["fast", "4:00 /", "/ 2", "score 3/0", "3 / 0"])
def test_a_speed_that_is_none_is_refused_with_its_place(text):
    with pytest.raises(InputError, match="line 2"):
        read_machines(f'machine,speed\ndesk,"{text}"\n')


def test_rented_machines_keep_their_limits_in_a_table():
    machine = Machine(name="rented", count=0, price_per_hour=2.5, most=8, most_hours=100.0, coherency=0.01)
    project = make_project(machines=(Machine(name="desk"), machine))
    assert read_machines(write_machines(project)) == project.machines
    assert "most" not in write_machines(project.replace(machines=(Machine(name="desk"),)))
