"""A film of many timed shots says something before its fit, and that stands in no answer of a script."""

import json

import pytest

from command import pemlo
from film import exact_trial, make_project, make_shot
from pemlo.core.film.values import MANY_TIMED
from pemlo.core.persistence.document import write_project
from pemlo.core.project.machines import Machine


@pytest.mark.parametrize(("shots", "said"), [(MANY_TIMED + 1, True), (3, False)])
def test_a_first_answer_is_said_of_large_films_only(tmp_path, shots, said):
    names = [f"s{number // 20}_{number:03d}" for number in range(shots)]
    trials = tuple(exact_trial(name, 50, 64, 50.0) for name in names)
    film = make_project(tuple(make_shot(name) for name in names), trials, (Machine(name="reference", count=30),))
    write_project(film, tmp_path / "job.pemlo")
    run = pemlo("estimate", "job.pemlo", "--json", cwd=tmp_path)
    assert run.returncode == 0
    first = [line for line in run.stderr.splitlines() if line.startswith("First answer from")]
    assert bool(first) == said
    found = json.loads(run.stdout)
    assert len(found["shots"]) == shots
    if said:
        assert f"{shots} trials, by hours poured into the machines" in first[0]
        assert "machine-hours, done " in first[0]
