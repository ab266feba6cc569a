"""The status page is written over a page of its own alone."""

import pytest

from film import make_project, make_shot
from pemlo.core.arrivals.arrival_snapshot import arrival_snapshot
from pemlo.core.arrivals.folder_scanner import FolderScanner
from pemlo.core.arrivals.live_forecast import live_forecast
from pemlo.core.errors import FileError
from pemlo.handover.status_page import NAME, write_status_page


@pytest.fixture
def found(tmp_path):
    project = make_project((make_shot("<b>010", 4),))
    return live_forecast(arrival_snapshot(project, FolderScanner(tmp_path).look(project, 2e9), 0.0), None)


def test_it_is_written_and_written_anew(tmp_path, found):
    path = write_status_page(tmp_path / "web", found, ())
    before = path.read_text()
    assert "&lt;b&gt;010" in before
    assert write_status_page(tmp_path / "web", found, ()).read_text() == before


@pytest.mark.parametrize("data", [b"<html>mine</html>", b"\xff\xfe", b""])
def test_the_page_of_somebody_else_is_left_alone(tmp_path, found, data):
    (tmp_path / NAME).write_bytes(data)
    with pytest.raises(FileError, match=r"already exists and is not a status page|cannot be written over"):
        write_status_page(tmp_path, found, ())
    assert (tmp_path / NAME).read_bytes() == data


def test_nothing_is_written_through_a_link(tmp_path, found):
    other = tmp_path / "other.html"
    other.write_text("<meta name=generator content='Pemlo status page'>")
    (tmp_path / NAME).symlink_to(other)
    with pytest.raises(FileError, match="is not a status page"):
        write_status_page(tmp_path, found, ())
    assert "Pemlo status page" in other.read_text()
