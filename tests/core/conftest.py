"""Small projects for the tests of the core."""

import pytest

from film import make_project


@pytest.fixture
def project():
    return make_project()
