"""What can be kept, what it saves on the machines there are, and what is kept wrongly."""

import pytest

from film import make_project, make_shot, well_timed
from pemlo.core.cost.draws import draw_film
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.forecast.finish import finish_of
from pemlo.core.forecast.kept_data import kept_data
from pemlo.core.project.machines import Machine
from pemlo.core.project.settings import ShotSettings

DESK = (Machine(name="desk"),)


def found(shot, machines=DESK, trials=None):
    project = make_project(shots=(shot,), trials=well_timed() if trials is None else trials, machines=machines)
    known = fit(fit_input(project))
    draws = draw_film(known, project)
    return kept_data(project, known, draws)[0], project, known, draws


@pytest.mark.parametrize(
    ("moves", "keep", "state", "stages", "reasons"),
    [
        (("camera",), (), "could be kept", ("prepare", "light"), 0),
        (("camera",), ("prepare",), "kept", ("prepare",), 0),
        (("lights",), (), "could be kept", ("prepare",), 1),
        (("simulation",), (), "nothing can be kept", (), 2),
        (("objects",), ("prepare", "light"), "wrong", ("prepare", "light"), 1),
        (("simulation",), ("prepare",), "wrong", ("prepare",), 2),
    ],
)
def test_a_stage_can_be_kept_only_while_nothing_that_it_depends_on_moves(moves, keep, state, stages, reasons):
    one, *_ = found(make_shot("010", keep=keep).replace(moves=moves))
    assert (one.state, one.keep, len(one.why_not)) == (state, stages, reasons)
    assert (one.saves_h is None) == (state in ("wrong", "nothing can be kept"))


@pytest.mark.parametrize("count", [1, 10])
def test_what_is_saved_is_what_the_machines_do_less_and_filling_is_what_they_fill(count):
    """Against the run of every frame: with and without, on one machine and on ten."""
    machines = (Machine(name="desk", count=count),)
    shot = make_shot("010", 100, keep=("prepare", "light")).replace(moves=("camera",))
    one, project, known, draws = found(shot, machines)
    with_it = finish_of(project, known, draws)
    bare = project.replace(shots=(shot.replace(plan=ShotSettings(samples=256)),))
    without = finish_of(bare, known, draws)
    saved = sum(use.busy_hours for use in without.machines) - sum(use.busy_hours for use in with_it.machines)
    assert one.fillings == count
    assert one.saves_h.low < one.saves_h.middle < one.saves_h.high
    assert one.saves_h.middle == pytest.approx(saved, rel=0.15)
    assert one.filling_h == pytest.approx(with_it.machines[0].warming_hours, rel=0.15)


def test_memory_that_no_machine_has_is_said():
    trials = tuple(one.replace(memory_gib=48.0) for one in well_timed())
    machines = (Machine(name="desk", memory_gib=32.0), Machine(name="blade", memory_gib=64.0))
    one, *_ = found(make_shot("010").replace(moves=("camera",)), machines, trials)
    assert one.memory_gib.middle == pytest.approx(48.0, rel=0.01)
    assert one.too_small == ("desk",)
    assert found(make_shot("010"))[0].memory_gib is None
