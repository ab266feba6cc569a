"""What is made of a film is made once for all tests of a file: it belongs to what it was made from, not to a window."""

import pytest


@pytest.fixture(autouse=True, scope="module")
def shared_memo(request):
    from pemlo.core.film import memo

    if getattr(request.module, "OWN_MEMO", False):  # such a file tests what happens while something is being made
        yield
        return
    made = memo.Memo()
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(memo, "Memo", lambda: made)
        yield
