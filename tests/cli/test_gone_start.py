"""A start that has passed, on the command line."""

from datetime import UTC, datetime, timedelta

from film import make_project
from pemlo.cli.main import main
from pemlo.core.persistence.document import write_project
from pemlo.core.project.edits import set_delivery


def test_hours_that_are_gone_are_said_beside_the_forecast(tmp_path, capsys):
    start = datetime.now(UTC) - timedelta(hours=18)
    path = tmp_path / "film.pemlo"
    write_project(set_delivery(make_project().replace(start=start), deadline=start + timedelta(days=4)), path)
    assert main(["estimate", str(path)]) == 0
    assert "was 18 h 0" in capsys.readouterr().err
