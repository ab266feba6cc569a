"""Hands in tests do not rest: every frame is run at once."""

import pytest


@pytest.fixture(autouse=True, scope="module")
def quick_rest():
    from pemlo.app import film_work

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(film_work, "REST_MS", 10)
        yield
