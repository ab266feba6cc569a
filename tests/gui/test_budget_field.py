"""The budget in the brief, typed as people say it."""

import pytest

from film import make_project
from pemlo.core.errors import InputError
from pemlo.gui.brief.presenter import DUE_FIELDS

BUDGET = next(field for field in DUE_FIELDS if field.name == "budget")


@pytest.mark.parametrize(
    ("typed", "budget", "code", "shown"),
    [("800 EUR", 800, "EUR", "800 EUR"), ("€ 1,5", 1.5, "EUR", "1.5 EUR"), ("800", 800, "", "800"),
     ("chf", None, "CHF", "CHF"), ("", None, "", "")],
)  # fmt: skip
def test_a_budget_is_typed_with_its_currency(typed, budget, code, shown):
    project = BUDGET.edit(make_project(), typed)
    assert (project.delivery.budget, project.delivery.currency) == (budget, code)
    assert BUDGET.text(project) == shown


@pytest.mark.parametrize("typed", ["800 coins", "EUR EUR 3", "-5 EUR", "0 EUR"])
def test_what_is_no_budget_says_so(typed):
    with pytest.raises(InputError):
        BUDGET.edit(make_project(), typed)
