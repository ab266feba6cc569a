import pytest

from film import make_project, well_timed
from looks import look
from pemlo.core.cost.draws import draw_film
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.forecast.verdict import forecast
from pemlo.core.project.edits import adopt, keep_plan
from pemlo.core.project.machines import Machine
from pemlo.core.trade.plan_comparison import compare_plans


def test_plans_stand_side_by_side():
    machines = (Machine(name="a", price_per_hour=2.0),)
    project = make_project(trials=(*well_timed("010"), *well_timed("020", frames=(1, 50))), machines=machines)
    known = fit(fit_input(project))
    draws = draw_film(known, project)

    def poured(film):
        return forecast(film, known, draws)

    cheap = keep_plan(adopt(project, {"010": project.shot("010").asked.replace(samples=64)}), "cheap")
    now = adopt(cheap, {"010": project.shot("010").asked.replace(samples=128)})
    looks = {"010": look(0.1), "020": look(0.1)}
    asked, stands, kept = compare_plans(now, known, draws, looks, {"010": 2.0, "020": 2.0}, poured)
    assert [row.name for row in (asked, stands, kept)] == ["as asked", "now", "cheap"]
    assert asked.hours.middle > stands.hours.middle > kept.hours.middle
    assert asked.worst_ratio < stands.worst_ratio < kept.worst_ratio
    assert (stands.worst_shot, kept.worst_shot) == ("010", "010")
    assert kept.money == pytest.approx(2.0 * kept.hours.middle)
    assert kept.kept
    assert not asked.kept
    # Nothing is said of shots of which nothing is known.
    assert compare_plans(now, known, draws, {}, {}, poured)[0].worst_shot == ""
