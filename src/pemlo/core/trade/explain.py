"""Why a plan is as it is: what changes on each shot, what it saves and costs to the eye, and what binds. Pure."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from pemlo.core.project.settings import ShotSettings
from pemlo.core.trade.best_plan import PASSES, Plan
from pemlo.core.trade.few_settings import FewSettings
from pemlo.core.trade.levers import changed_levers, lever_name, lever_text
from pemlo.core.trade.options import Options
from pemlo.core.trade.prices import FREE
from pemlo.core.units import round_figures

_BINDS = 0.98  # of the hours there are: a plan that needs so many is held by them

LITTLE = "What hours are left would change little that anybody sees."
NOT_PROVED = "The solver gave up: this plan holds, and there may be a better one."


@dataclass(frozen=True)
class Change:
    """What a plan does to one shot.

    Attributes
    ----------
    shot : str
    before, after : ShotSettings
    saved_hours : float
        Middle machine-hours; below 0 where it takes more.
    error_before, error_after : float
        Display codes; NaN where it is not known.
    """

    shot: str
    before: ShotSettings
    after: ShotSettings
    saved_hours: float
    error_before: float
    error_after: float

    @property
    def words(self) -> str:
        """What changes, and what that does."""
        if not changed_levers(self.before, self.after):
            return f"{self.shot} stays as asked."
        verb = "saves" if self.saved_hours >= 0 else "takes"
        more = "" if self.saved_hours >= 0 else " more"
        what = f"{self.shot}: {_levers(self.before, self.after)}"
        words = f"{what}. It {verb} {round_figures(abs(self.saved_hours))} machine-hours{more}"
        if np.isnan(self.error_before) or np.isnan(self.error_after):
            return f"{words}; what it costs to the eye was not measured."
        return f"{words}; the error goes from {self.error_before:.1f} to {self.error_after:.1f} codes."

    @property
    def short(self) -> str:
        """The same in few words."""
        sign = "−" if self.saved_hours >= 0 else "+"
        hours = f"{sign}{round_figures(abs(self.saved_hours), 2)} h"
        known = not (np.isnan(self.error_before) or np.isnan(self.error_after))
        codes = f"{self.error_before:.1f} to {self.error_after:.1f} codes" if known else "error not measured"
        return f"{self.shot}: {_levers(self.before, self.after)}; {hours}, {codes}"


def _levers(before: ShotSettings, after: ShotSettings) -> str:
    return ", ".join(
        f"{lever_name(one)} {lever_text(before, one)} to {lever_text(after, one)}"
        for one in changed_levers(before, after)
    )


def changes(options: Sequence[Options], plan: Plan, before: Sequence[ShotSettings]) -> tuple[Change, ...]:
    """Return what a plan does to each shot, against settings that are among its options."""
    found = []
    for one, chosen, start in zip(options, plan.chosen, before, strict=True):
        at = one.place(start)
        hours = one.middle_hours[[at, chosen]]
        errors = float(one.error[at]), float(one.error[chosen])
        found.append(Change(one.shot, start, one.settings[chosen], float(hours[0] - hours[1]), *errors))
    return tuple(found)


def what_binds(options: Sequence[Options], plan: Plan, there: float) -> str:
    """Return what keeps a plan from being better, in a sentence or two; empty for a film of no shots."""
    if not options:
        return ""
    hours = np.array([one.middle_hours[k] for one, k in zip(options, plan.chosen, strict=True)])
    most = int(np.argmax(hours))
    share = hours[most] / max(float(hours.sum()), 1e-12)
    waits = f"The film waits for shot {options[most].shot}: {share:.0%} of the hours."
    if plan.missing_hours > 0:
        return f"{round_figures(plan.missing_hours)} machine-hours are missing for the wanted chance. {waits}"
    ratios = [(one.error[k] / one.ceiling, one.shot) for one, k in zip(options, plan.chosen, strict=True)]
    worst = max((pair for pair in ratios if not np.isnan(pair[0])), default=(0.0, ""))
    if plan.needed >= _BINDS * there:
        return f"The hours available hold it. {waits}"
    if worst[0] > 1 + PASSES:
        return (
            f"Shot {worst[1]} cannot be brought under its ceiling with what is known: it stays {worst[0]:.1f} times it."
        )
    if plan.goal != "picture":
        return f"The ceilings hold it. {waits}"
    cleanest = all(
        not one.error[k] > np.nanmin(one.error[one.may_plan]) + FREE
        for one, k in zip(options, plan.chosen, strict=True)
        if one.known
    )
    rest = "Nothing holds it: every shot has its best picture." if cleanest else LITTLE
    return f"{rest} {waits}"


def groups_words(found: FewSettings) -> str:
    """Return how many different settings a plan uses, and what so few of them take."""
    if found.after == found.before:
        return f"{found.after} different settings; no two shots can share more with what passes and is in time."
    more = found.more_hours
    takes = f"takes {round_figures(abs(more), 2)} machine-hours {'more' if more >= 0 else 'less'}"
    return f"{found.after} different settings instead of {found.before}; that {takes}."
