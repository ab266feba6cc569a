"""What machines can do together, and when so much work is done."""

from datetime import UTC, datetime

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from pemlo.core.farm.capacity import capacity, machine_power
from pemlo.core.project.concurrency import throughput_gain
from pemlo.core.project.machines import Machine

START = datetime(2031, 4, 21, 10, tzinfo=UTC)  # a Monday


def curve(*machines, days=14):
    return capacity(tuple(machines), "UTC", START, days)


def test_one_machine_does_an_hour_an_hour():
    one = curve(Machine(name="a"))
    assert one.work_by(7.5) == pytest.approx(7.5)
    assert one.hours_for(np.array([0.0, 7.5, 1e5])) == pytest.approx([0, 7.5, 1e5])


def test_speeds_counts_and_losses_multiply():
    assert machine_power(Machine(name="a", count=3, speed=2, loss_percent=10)) == pytest.approx(5.4)
    assert machine_power(Machine(name="a", count=0)) == 0


def test_work_waits_for_the_night():
    night = curve(Machine(name="desk", count=2, hours="Mon-Fri 19:00-08:00"))
    assert night.work_by(9) == 0
    assert night.hours_for(np.array([1.0]))[0] == pytest.approx(9.5)
    assert night.hours_for(np.array([26.0]))[0] == pytest.approx(22.0)
    # The next hour of work falls into the next night.
    assert night.hours_for(np.array([27.0]))[0] == pytest.approx(33.5)


def test_no_hours_is_never():
    none = curve(Machine(name="a", hours="never"))
    assert none.hours_for(np.array([0.0]))[0] == 0
    assert np.isinf(none.hours_for(np.array([1.0]))[0])
    assert np.isinf(curve().hours_for(np.array([1.0]))[0])


def test_goes_on_at_the_weekly_mean():
    week = curve(Machine(name="a", hours="Mon-Fri 19:00-08:00"), days=7)
    per_week = week.work_by(7 * 24)
    assert per_week == pytest.approx(65, abs=13)
    assert week.hours_for(np.array([per_week + 65.0]))[0] == pytest.approx(14 * 24, rel=1e-6)


machines = st.builds(
    Machine,
    name=st.just("m"),
    count=st.integers(0, 20),
    speed=st.floats(0.1, 10),
    frames_at_once=st.integers(1, 8),
    hours=st.sampled_from(["always", "never", "Mon-Fri 19:00-08:00, Sat-Sun all day", "Sat 9-10", "Tue 23:00-01:00"]),
)


@given(st.lists(machines, max_size=4), st.floats(0, 2000))
def test_work_is_conserved(found, work):
    whole = capacity(tuple(m.replace(name=f"m{n}") for n, m in enumerate(found)), "UTC", START, 30)
    hours = float(whole.hours_for(np.array([work]))[0])
    if np.isfinite(hours):
        assert whole.work_by(hours) == pytest.approx(work, abs=1e-6)
    parts = [capacity((m,), "UTC", START, 30).work_by(200.0) for m in found]
    assert whole.work_by(200.0) == pytest.approx(sum(parts), abs=1e-6)


@given(st.lists(st.floats(0, 500), min_size=2, max_size=20))
def test_more_work_is_never_done_earlier(work):
    hours = curve(Machine(name="a", hours="Mon-Fri 19:00-08:00")).hours_for(np.sort(work))
    assert (np.diff(hours) >= -1e-9).all()


@pytest.mark.parametrize(
    ("processors", "serial", "speedup"),
    # Amdahl 1967, as tabulated in textbooks (from memory): 5 % serial work.
    [(1, 0.05, 1.0), (2, 0.05, 1.9048), (4, 0.05, 3.4783), (16, 0.05, 9.1429), (1024, 0.05, 19.6358), (8, 0, 8)],
)
def test_amdahls_law(processors, serial, speedup):
    assert throughput_gain(processors, serial) == pytest.approx(speedup, rel=1e-4)


def test_frames_at_once_are_worth_what_the_trade_reports():
    # Common practice, no source: 1.25-2 on a middling machine, 2.5-4 on a large one.
    assert 1.25 <= throughput_gain(2, 0.3) <= 2
    assert 2.5 <= throughput_gain(8, 0.2) <= 4
