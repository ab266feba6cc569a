"""The exact run of frames on machines, against a plain SimPy model of the same rules, closed forms and known bounds."""

import itertools
import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from by_day import cases
from film import make_project, make_shot
from pemlo.core.errors import InputError
from pemlo.core.farm.simulation import Farm, Present, RunRules, Work, farm_of, simulate
from pemlo.core.project.machines import Machine
from plain_farm import by_simpy

FOREVER = 1e9


def farm(speeds, windows=None, loss=0.0, memory=np.inf):
    """Machines of one slot each, in groups of their own."""
    count = len(speeds)
    windows = windows or [[(0.0, FOREVER)]] * count
    edges = np.cumsum([0, *map(len, windows)])
    spans = [span for window in windows for span in window]
    return Farm(
        tuple(f"m{k}" for k in range(count)), np.arange(count), np.array(speeds, float), np.full(count, loss),
        np.broadcast_to(np.asarray(memory, float), count).copy(), edges, np.array([a for a, _ in spans], float),
        np.array([b for _, b in spans], float), np.full(count, np.nan), np.ones(count, int),
    )  # fmt: skip


def work(seconds, shot=None, kept=None, deviation=0.0, saves=0, memory=0.0, draws=1, needs=(), beside=(), order=()):
    """Frames of given seconds, each a place of its own; a job of one row for each shot."""
    shot = np.zeros(len(seconds), int) if shot is None else np.asarray(shot)
    shots = int(shot.max()) + 1
    lengths = np.bincount(shot, minlength=shots)
    full = np.zeros((draws, shots, lengths.max()))
    place = np.zeros(len(seconds))
    for number in range(shots):
        at = np.flatnonzero(shot == number)
        full[:, number, : len(at)] = np.asarray(seconds, float)[at]
        place[at] = np.arange(len(at)) / max(len(at) - 1, 1)
    keeps = np.full(shots, kept is not None)
    return Work(
        tuple(f"s{k}" for k in range(shots)), np.array(order or range(shots), np.int64),
        np.cumsum([0, *lengths]), np.arange(shots), np.arange(len(seconds)), place, full,
        full if kept is None else full * kept, lengths.astype(np.int64), deviation, keeps,
        np.full(shots, saves, np.int64), np.full(shots, memory, float), np.zeros(shots),
        tuple(needs) or ((),) * shots, np.array(beside or [-1] * shots, np.int64),
    )  # fmt: skip


nights = st.lists(st.floats(50, 400), min_size=1, max_size=4).map(
    lambda gaps: [(sum(gaps[:k]) * 2, sum(gaps[:k]) * 2 + gaps[k]) for k in range(len(gaps))]
)


@given(
    st.lists(st.floats(0.3, 4), min_size=1, max_size=5), st.lists(st.floats(1, 60), min_size=1, max_size=30),
    st.booleans(), st.sampled_from([0.0, 0.2]), st.sampled_from([0.0, 0.3]), st.integers(0, 3), st.booleans(),
    st.sampled_from([0.0, 2.5]), st.integers(1, 4), st.sampled_from([math.inf, 9.0]), st.integers(0, 1000), st.data(),
)  # fmt: skip
@settings(max_examples=cases(200))
def test_it_is_the_plain_process_model_to_the_second(
    speeds, seconds, has_nights, loss, deviation, saves, carries, dispatch, chunk, disk, seed, data
):
    windows = [data.draw(nights) for _ in speeds] if has_nights else None
    shots = sorted(data.draw(st.lists(st.integers(0, 3), min_size=len(seconds), max_size=len(seconds))))
    shots = np.unique(shots, return_inverse=True)[1]
    count = int(shots.max()) + 1
    memory = [data.draw(st.sampled_from([1.0, 8.0])) for _ in speeds]
    machines = farm(speeds, windows, loss, memory)
    kept = 0.4 if data.draw(st.booleans()) else None
    # A job may wait for all of those before it, and one of as many frames as that before it for its neighbours.
    needs = [tuple(data.draw(st.sets(st.integers(0, k - 1), max_size=2))) if k else () for k in range(count)]
    lengths = np.bincount(shots)
    beside = [k - 1 if k and lengths[k] == lengths[k - 1] and data.draw(st.booleans()) else -1 for k in range(count)]
    order = data.draw(st.permutations(range(count)))
    queue = work(seconds, shots, kept, deviation, saves, needs=needs, beside=beside, order=order)
    queue.memory_gib[:] = [data.draw(st.sampled_from([0.0, 4.0])) for _ in queue.jobs]
    queue.gib[:] = [data.draw(st.sampled_from([0.0, 1.0])) for _ in queue.jobs]
    rules = RunRules(seed, dispatch, chunk, carries, disk)
    found = simulate(machines, queue, rules)
    expected = by_simpy(machines, queue, rules)
    assert found.finish[0] == pytest.approx(expected, rel=1e-9, abs=1e-6)


def test_grahams_example():
    """List scheduling, Graham 1969: jobs 3, 3, 2, 2, 2 on two machines take 7 longest first, and 6 at best."""
    assert simulate(farm([1, 1]), work([3, 3, 2, 2, 2])).end[0] == 7
    best = min(simulate(farm([1, 1]), work(list(order))).end[0] for order in itertools.permutations([3, 3, 2, 2, 2]))
    assert best == 6


@given(st.integers(1, 6), st.lists(st.floats(0.1, 50), min_size=1, max_size=40))
def test_grahams_bound_holds(machines, seconds):
    """Never worse than 2 - 1/m times the optimum, which is at least the mean load and the longest frame."""
    end = simulate(farm([1.0] * machines), work(seconds)).end[0]
    least = max(sum(seconds) / machines, *seconds)
    assert least * (1 - 1e-12) <= end <= (2 - 1 / machines) * least * (1 + 1e-12)


def test_frames_of_fourteen_minutes():
    # Common practice, no source: 14 min x 250 frames take 58.3 h on one machine; 30 min need at least 117 machines.
    assert simulate(farm([1]), work([840] * 250)).end[0] / 3600 == pytest.approx(58.3, abs=0.05)
    ends = {count: simulate(farm([1.0] * count), work([840] * 250)).end[0] / 60 for count in (117, 124, 125)}
    assert ends[117] == 42  # whole frames: two each, and sixteen machines take a third
    assert ends[125] == 28


@pytest.mark.parametrize("machines", [1, 10])
def test_kept_stages_cost_each_machine_one_whole_frame(machines):
    # Common practice, no source: 7.7 s a frame, 3.4 s with geometry kept, 0.8 s with geometry and light kept.
    for kept in (3.4, 0.8):
        found = simulate(farm([1.0] * machines), work([7.7] * 100, kept=kept / 7.7))
        assert found.busy.sum() == pytest.approx(machines * 7.7 + (100 - machines) * kept)
        assert found.warming.sum() == pytest.approx(machines * (7.7 - kept))


def test_work_is_conserved_and_losses_take_what_the_chance_says():
    p, draws = 0.25, 400
    queue = work([10.0] * 200, draws=draws)
    found = simulate(farm([1.0] * 4, loss=p), queue, RunRules(3))
    extra = found.busy.sum(axis=1) / 2000
    # A lost frame breaks anywhere: p / (1 - p) tries more, each half as long.
    expected = 1 + p / (1 - p) / 2
    error = 3 * extra.std() / np.sqrt(draws)
    assert extra.mean() == pytest.approx(expected, abs=error)
    assert found.busy.sum(axis=1) == pytest.approx(2000 + found.lost.sum(axis=1))


def test_the_same_seed_is_the_same_run_to_the_bit_whatever_the_threads():
    queue = work(list(np.linspace(1, 9, 50)), deviation=0.2, draws=64)
    runs = [simulate(farm([1, 2, 3], loss=0.1), queue, RunRules(7), threads=threads) for threads in (1, 2, 4)]
    assert all((runs[0].finish == run.finish).all() and (runs[0].busy == run.busy).all() for run in runs)
    assert (simulate(farm([1, 2, 3], loss=0.1), queue, RunRules(8)).finish != runs[0].finish).any()


def test_a_frame_longer_than_any_window_never_ends_if_it_starts_again():
    machines = farm([1.0], [[(0.0, 50.0), (100.0, 150.0), (200.0, 250.0)]])
    assert simulate(machines, work([60.0])).end[0] == 110
    assert simulate(machines, work([60.0]), RunRules(carries=False)).end[0] == math.inf


def test_a_frame_that_one_machine_can_never_end_goes_to_another():
    short, long = [(0.0, 50.0), (100.0, 150.0)], [(40.0, 400.0)]
    queue = work([60.0, 60.0, 20.0], [0, 0, 1])
    found = simulate(farm([1.0, 1.0], [short, long]), queue, RunRules(carries=False))
    assert found.finish[0].tolist() == [160.0, 20.0]  # the first takes what it can end at once
    assert found.busy[0].tolist() == [20.0, 120.0]


def test_a_frame_too_large_for_every_machine_never_ends_and_others_do():
    queue = work([5.0, 5.0], [0, 1])
    queue.memory_gib[:] = [64.0, 1.0]
    found = simulate(farm([1.0, 1.0], memory=8.0), queue)
    assert found.finish[0].tolist() == [math.inf, 5.0]


def test_denoising_waits_for_the_frames_beside_it():
    """By hand: two machines, four frames of 10 s, then four of 1 s that each need three of them."""
    queue = work([10.0] * 4 + [1.0] * 4, [0] * 4 + [1] * 4, beside=[-1, 0])
    found = simulate(farm([1.0, 1.0]), queue, trace=0)
    # The first two frames are there at 10, the others at 20: only the first is denoised in between, and nobody is free.
    assert found.finish[0].tolist() == [20.0, 22.0]
    assert found.trace[4:, 1].tolist() == [20.0, 20.0, 21.0, 21.0]


def test_a_sheet_is_made_when_everything_of_its_kind_is_done():
    queue = work([10.0, 10.0, 5.0, 1.0], [0, 0, 1, 2], needs=[(), (), (0, 1)], order=[2, 1, 0])
    found = simulate(farm([1.0, 1.0]), queue, trace=0)
    # One machine does the 5 s, then a frame of 10 s; the other the first frame of 10 s, and then waits.
    assert found.trace[:, 1].tolist() == [0.0, 5.0, 0.0, 15.0]


def test_frames_are_handed_out_in_chunks_and_the_wait_is_paid_once_a_chunk():
    ends = [
        simulate(farm([1.0, 1.0]), work([10.0] * 6), RunRules(dispatch=4.0, chunk=size)).end[0] for size in (1, 3, 6)
    ]
    assert ends == [42.0, 34.0, 64.0]


def test_nothing_is_written_onto_a_full_disk():
    queue = work([10.0] * 5)
    queue.gib[:] = 2.0
    found = simulate(farm([1.0]), queue, RunRules(disk_gib=7.0))
    assert found.full_at[0] == 30.0  # three frames took six
    assert found.end[0] == math.inf
    assert simulate(farm([1.0]), queue, RunRules(disk_gib=10.0)).end[0] == 50.0


@pytest.mark.parametrize(
    ("zone", "start", "hours"),
    [
        # Clocks go forward on 30 March 2031 in Lisbon, and back on 26 October: a night is an hour shorter or longer.
        ("Europe/Lisbon", "2031-03-29T20:00+00:00", 11.0),
        ("Europe/Lisbon", "2031-10-25T20:00+01:00", 13.0),
        ("America/New_York", "2031-03-08T20:00-05:00", 11.0),
        ("Asia/Tokyo", "2031-03-29T20:00+09:00", 12.0),
    ],
)
def test_nights_over_a_change_of_clocks(zone, start, hours):
    project = make_project(machines=(Machine(name="desk", hours="Mon-Sun 20:00-08:00"),), timezone=zone,
                           deadline="2031-12-01T12:00Z").replace(start=start)  # fmt: skip
    machines = farm_of(project, 3)
    assert (machines.ends[0] - machines.begins[0]) / 3600 == hours


def test_groups_become_slots_with_the_gain_of_frames_at_once():
    machine = Machine(name="blade", count=3, speed=2.0, frames_at_once=2, contention=0.3, memory_gib=64)
    found = farm_of(make_project(machines=(machine, Machine(name="off", count=0))), 2)
    assert len(found.slot_group) == 6
    # Amdahl: two at once do 2 / 1.3 of the work of one.
    assert found.speed == pytest.approx(np.full(6, 2 / 1.3))
    assert found.memory_gib.tolist() == [32.0]


def test_a_farm_that_never_works_says_so():
    with pytest.raises(InputError, match="no machine"):
        farm_of(make_project(machines=()), 2)
    shots = (make_shot("010"),)
    with pytest.raises(InputError, match="ever free"):
        farm_of(make_project(shots=shots, machines=(Machine(name="desk", hours="never"),)), 2)


@pytest.mark.parametrize("machines", [1, 4, 7])
def test_a_queue_with_exponential_times_ends_when_its_closed_form_says(machines):
    """The queue of M/M/c with all of N frames there from the start, from memory of any text on birth and death processes.

    While frames wait, they end at c times the rate of one machine; the last c end at c, c - 1, ... 1 times that rate.
    So the mean end is (N - c) / (c mu) + (1 + 1/2 + ... + 1/c) / mu.
    """
    frames, draws, mean = 60, 4000, 5.0
    queue = work([1.0] * frames, draws=draws)
    queue.full[:] = np.random.default_rng(3).exponential(mean, queue.full.shape)
    end = simulate(farm([1.0] * machines), queue).end
    expected = mean * ((frames - machines) / machines + sum(1 / k for k in range(1, machines + 1)))
    assert end.mean() == pytest.approx(expected, abs=4 * end.std() / np.sqrt(draws))


def test_machines_get_frames_in_proportion_to_their_speeds():
    """While frames wait, the next of exponential times to end is a machine's with its rate's share of all rates."""
    speeds, frames = np.array([1.0, 2.0, 5.0]), 40_000
    queue = work([1.0] * frames)
    queue.full[:] = np.random.default_rng(4).exponential(5.0, queue.full.shape)
    done = np.bincount(simulate(farm(speeds), queue, trace=0).trace[:, 0].astype(int)) / frames
    share = speeds / speeds.sum()
    assert (np.abs(done - share) < 4 * np.sqrt(share * (1 - share) / frames)).all()


@given(st.lists(st.floats(0.5, 2), min_size=1, max_size=4), st.lists(st.floats(1, 60), min_size=1, max_size=20),
       st.data())  # fmt: skip
@settings(max_examples=cases(60))
def test_going_on_is_a_run_of_machines_that_open_when_they_are_free(speeds, seconds, data):
    free_from = [data.draw(st.floats(0, 50)) for _ in speeds]
    pace = [data.draw(st.floats(0.5, 2)) for _ in speeds]
    queue = work(seconds, draws=2)
    later = farm(np.multiply(speeds, pace), [[(at, FOREVER)] for at in free_from], loss=0.2)
    here = Present(0.0, np.array(free_from), np.tile(pace, (2, 1)), np.full((2, len(speeds)), 0.2))
    going_on = simulate(farm(speeds), queue, present=here)
    assert np.allclose(going_on.end, simulate(later, queue).end, rtol=1e-12)


def test_what_was_begun_before_now_has_not_ended_before_it():
    here = Present(100.0, np.array([50.0, 90.0]), np.ones((1, 2)), np.zeros((1, 2)))
    run = simulate(farm([1, 1]), work([10, 30, 5]), present=here, trace=0)
    # Late since 60, it ends now; the other goes on until 120; then the last one.
    assert run.trace[:, 2].tolist() == [100, 120, 105]
