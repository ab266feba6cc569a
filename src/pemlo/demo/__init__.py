"""The demo project: an invented film of ten shots, with the trials that somebody would have timed so far."""

from pathlib import Path

from pemlo.core.persistence.document import read_project
from pemlo.core.plan.project import Project

DEMO_FILE = Path(__file__).with_name("tide_clock.pemlo")


def demo_project() -> Project:
    """Return the demo project."""
    return read_project(DEMO_FILE)
