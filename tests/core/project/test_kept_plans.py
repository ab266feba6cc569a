import pytest

from film import make_project, make_shot
from pemlo.core.errors import InputError
from pemlo.core.persistence.document import from_text, to_text
from pemlo.core.project.edits import adopt, drop_plan, keep_plan, set_shot, take_plan


def planned():
    project = make_project()
    return adopt(project, {"010": project.shot("010").asked.replace(samples=64)})


def test_a_plan_is_kept_and_taken_again():
    project = keep_plan(planned(), "cheap")
    back = set_shot(project, "010", plan=None)
    assert take_plan(back, "cheap").shots == project.shots
    assert from_text(to_text(project), "film.pemlo") == project


def test_the_same_name_takes_the_place():
    project = keep_plan(planned(), "cheap")
    expensive = keep_plan(set_shot(project, "010", plan=None), "cheap")
    assert len(expensive.plans) == 1
    assert take_plan(expensive, "cheap").shot("010").plan is None
    assert drop_plan(expensive, "cheap").plans == ()


def test_shots_that_a_plan_does_not_name_are_as_asked():
    project = keep_plan(planned(), "cheap")
    other = adopt(project, {"020": project.shot("020").asked.replace(samples=8)})
    assert take_plan(other, "cheap").shot("020").plan is None


def test_a_plan_follows_the_names_of_its_shots():
    project = set_shot(keep_plan(planned(), "cheap"), "010", name="011")
    assert take_plan(set_shot(project, "011", plan=None), "cheap").shot("011").plan.samples == 64


@pytest.mark.parametrize("name", ["", "x" * 61])
def test_a_plan_needs_a_name_that_can_be_read(name):
    with pytest.raises(InputError):
        keep_plan(planned(), name)


def test_a_plan_that_is_not_there():
    with pytest.raises(InputError, match="none called dear"):
        take_plan(planned(), "dear")


def test_denoisers_of_kept_plans_count():
    project = make_project((make_shot("010"),))
    soft = adopt(project, {"010": project.shot("010").asked.replace(denoise="frame")})
    kept = set_shot(keep_plan(soft, "soft"), "010", plan=None)
    assert kept.cost_factors().denoisers == ("frame",)
