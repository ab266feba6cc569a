"""The demo project: an invented film of ten shots, with the trials that somebody would have timed so far."""

from pathlib import Path

from pemlo.core.persistence.document import read_project
from pemlo.core.persistence.picture_names import with_whole_names
from pemlo.core.project.project import Project

DEMO_FILE = Path(__file__).with_name("tide_clock.pemlo")


def demo_project() -> Project:
    """Return the demo project, with the pictures that lie beside it."""
    return with_whole_names(read_project(DEMO_FILE), DEMO_FILE.parent)
