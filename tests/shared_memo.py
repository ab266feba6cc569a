"""What is made of a film is made once for all tests of a file: it belongs to what it was made from, not to a window."""

import pytest


@pytest.fixture(autouse=True, scope="module")
def shared_memo(request):
    """Let every memo of a file hold what any of them holds."""
    from pemlo.core.film.memo import Memo

    if getattr(request.module, "OWN_MEMO", False):  # such a file tests what happens while something is being made
        yield
        return
    made = Memo()

    def share(memo, *_):
        memo.__dict__ = made.__dict__

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(Memo, "__init__", share)
        yield
