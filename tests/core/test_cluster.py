"""Work that is spread over a cluster of two workers: the same numbers as here, to the bit."""

from dataclasses import fields

import numpy as np
import pytest

from cluster_work import ends_every_worker, ends_its_worker_once
from film import make_project, make_shot, well_timed
from pemlo.cli.main import main
from pemlo.core.cluster import Cluster, address_of, cluster_of
from pemlo.core.cost.draws import draw_film
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.errors import ClusterError
from pemlo.core.farm.simulation import simulate
from pemlo.core.farm.spread_runs import SpreadRuns
from pemlo.core.film.film import Film
from pemlo.core.forecast.finish import farm_for
from pemlo.core.forecast.queue import queue_of, rules_of
from pemlo.core.persistence.document import write_project
from pemlo.core.project.machines import Machine

distributed = pytest.importorskip("distributed")

# The cluster's own threads and sockets are its affair.
pytestmark = pytest.mark.filterwarnings("ignore")


@pytest.fixture(scope="module")
def cluster():
    with distributed.LocalCluster(
        n_workers=2, threads_per_worker=1, processes=True, dashboard_address=None, silence_logs=50
    ) as made:
        made.wait_for_workers(2)
        yield made


@pytest.fixture
def project():
    machines = (Machine(name="desk", count=3, loss_percent=10, hours="Mon-Sun 19:00-08:00"), Machine(name="blade"))
    shots = (make_shot("010"), make_shot("020", 40))
    return make_project(shots, well_timed("010") + well_timed("020", (1, 40)), machines)


def test_the_numbers_are_those_of_this_machine_to_the_bit(cluster, project):
    known = fit(fit_input(project))
    queue, farm, rules = queue_of(project, known, draw_film(known, project)), farm_for(project), rules_of(project, 5)
    here = simulate(farm, queue.work, rules)
    there = SpreadRuns(Cluster(cluster.scheduler_address))(farm, queue.work, rules)
    for field in fields(here):
        assert np.array_equal(getattr(here, field.name), getattr(there, field.name)), field.name


COMMANDS = (["estimate"], ["finish", "--draws", "50"], ["plan", "--goal", "missing"])


@pytest.mark.parametrize("command", COMMANDS, ids=" ".join)
def test_every_command_says_the_same_with_a_cluster(cluster, project, tmp_path, capsys, command):
    job = tmp_path / "job.pemlo"
    write_project(project, job)
    said = []
    for more in ([], ["--on", cluster.scheduler_address.replace("tcp://", "dask://")]):
        assert main([*command, str(job), "--json", *more]) == 0
        said.append(capsys.readouterr().out)
    assert said[0] == said[1]


def test_a_lost_worker_costs_time_and_no_number(cluster, tmp_path):
    numbers = Cluster(cluster.scheduler_address).each(ends_its_worker_once, range(12), str(tmp_path / "ended"))
    assert (tmp_path / "ended").exists()
    assert numbers == [number**2 for number in range(12)]


def test_workers_with_another_pemlo_are_refused(cluster, monkeypatch):
    cluster.wait_for_workers(2)
    monkeypatch.setattr("pemlo.core.cluster.version", lambda _: "9.9")
    with pytest.raises(ClusterError, match="have Pemlo"):
        Cluster(cluster.scheduler_address).each(ends_every_worker, range(2), None)


@pytest.mark.parametrize("command", COMMANDS, ids=" ".join)
def test_a_cluster_that_is_not_there_is_said(project, tmp_path, capsys, command):
    job = tmp_path / "job.pemlo"
    write_project(project, job)
    assert main([*command, str(job), "--on", "dask://127.0.0.1:9"]) == 2
    assert "No cluster answers at tcp://127.0.0.1:9" in capsys.readouterr().err


def test_what_a_cluster_could_not_do_is_asked_for_again(project):
    """Trouble that belongs to a film is kept with it; that of other machines is over once they are there, or left out."""
    film = Film(project)
    film.memo.cluster = Cluster("tcp://127.0.0.1:9")
    with pytest.raises(ClusterError, match="No cluster answers"):
        film.run  # noqa: B018 - it is made when it is looked at
    film.memo.cluster = cluster_of("")
    assert film.run.probability == 1.0


@pytest.mark.parametrize("text", ["tcp://farm:1", "dask://farm", "dask://:8786", "dask://farm:port", ""])
def test_an_address_that_is_none_is_refused(text):
    with pytest.raises(ValueError, match="not a cluster"):
        address_of(text)


def test_without_workers_nothing_is_run(project):
    known = fit(fit_input(project))
    queue = queue_of(project, known, draw_film(known, project))
    with (
        distributed.LocalCluster(n_workers=0, dashboard_address=None, silence_logs=50) as empty,
        pytest.raises(ClusterError, match="no workers"),
    ):
        SpreadRuns(Cluster(empty.scheduler_address))(farm_for(project), queue.work, rules_of(project))


def test_a_function_that_ends_every_worker_is_given_up(cluster):
    with pytest.raises(ClusterError, match="lost its workers"):
        Cluster(cluster.scheduler_address).each(ends_every_worker, range(2), None)
