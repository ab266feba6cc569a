"""Levers of many shots: the film is checked once, however many they are, and what cannot be names its shot."""

import pytest

from film import make_project, make_shot
from pemlo.core.errors import InputError
from pemlo.core.project import record
from pemlo.core.project.project import Project
from pemlo.core.trade.lever_edits import as_asked, set_field, set_lever, set_pin

NAMES = tuple(f"{number:03d}" for number in range(10, 70))


@pytest.fixture
def checks(monkeypatch):
    """How often a film was checked."""
    seen = []
    build = record.build
    monkeypatch.setattr(record, "build", lambda kind, *more: (seen.append(kind), build(kind, *more))[1])
    return lambda: sum(kind is Project for kind in seen)


@pytest.mark.parametrize(
    ("edit", "holds"),
    [
        (lambda film: set_lever(film, NAMES, "samples", 128), lambda shot: shot.plan.samples == 128),
        (lambda film: set_pin(film, NAMES, "denoise", on=True), lambda shot: shot.pins == ("denoise",)),
        (lambda film: set_field(film, NAMES, "ceiling", "2.5"), lambda shot: shot.ceiling == 2.5),
        (lambda film: as_asked(film, NAMES), lambda shot: shot.plan is None),
    ],
)
def test_sixty_shots_are_one_check(checks, edit, holds):
    project = make_project(tuple(make_shot(name) for name in NAMES))
    found = edit(project)
    assert all(holds(shot) for shot in found.shots)
    assert checks() == 1


def test_what_cannot_be_names_its_shot():
    project = make_project(tuple(make_shot(name) for name in NAMES))
    with pytest.raises(InputError, match=r"Shot 010, ceiling: must be more than 0"):
        set_field(project, NAMES[:2], "ceiling", "-1")
