"""Why a plan is as it is: what changes on each shot, what it saves and costs to the eye, and what binds. Pure."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from pemlo.core.plan.settings import LeverName, ShotSettings
from pemlo.core.trade.best_plan import PASSES, Plan
from pemlo.core.trade.levers import changed_levers
from pemlo.core.trade.options import Options
from pemlo.core.units import round_figures

_NAMES: dict[LeverName, str] = {
    "samples": "samples",
    "noise_threshold": "threshold",
    "denoise": "denoise",
    "resolution_percent": "size",
    "frame_step": "every frame",
    "keep": "kept",
}
_BINDS = 0.98  # of the hours there are: a plan that needs so many is held by them


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
        levers = changed_levers(self.before, self.after)
        if not levers:
            return f"{self.shot} stays as asked."
        what = ", ".join(f"{lever_name(one)} {lever_text(self.before, one)} to {lever_text(self.after, one)}"
                         for one in levers)  # fmt: skip
        verb = "saves" if self.saved_hours >= 0 else "takes"
        more = "" if self.saved_hours >= 0 else " more"
        words = f"{self.shot}: {what}. It {verb} {round_figures(abs(self.saved_hours))} machine-hours{more}"
        if np.isnan(self.error_before) or np.isnan(self.error_after):
            return f"{words}; what it costs to the eye is not known."
        return f"{words}; the error goes from {self.error_before:.1f} to {self.error_after:.1f} codes."


def lever_name(lever: LeverName) -> str:
    """Return what a lever is called."""
    return _NAMES[lever]


def lever_text(settings: ShotSettings, lever: LeverName) -> str:
    """Return where a lever stands."""
    if lever == "noise_threshold":
        return "none" if settings.noise_threshold is None else f"{settings.noise_threshold:g}"
    if lever == "resolution_percent":
        return f"{settings.resolution_percent:g} %"
    if lever == "frame_step":
        step = settings.frame_step
        return "every one" if step == 1 else f"one in {step}, {'mixed' if settings.between == 'blend' else 'held'}"
    if lever == "keep":
        return " and ".join(settings.keep) or "nothing"
    return str(getattr(settings, lever))


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
        return f"{round_figures(plan.missing_hours)} machine-hours are missing at the wanted odds. {waits}"
    ratios = [(one.error[k] / one.ceiling, one.shot) for one, k in zip(options, plan.chosen, strict=True) if one.known]
    worst = max(ratios, default=(0.0, ""))
    if plan.needed >= _BINDS * there:
        return f"The hours there are hold it. {waits}"
    if worst[0] > 1 + PASSES:
        return (
            f"Shot {worst[1]} cannot be brought under its ceiling with what is known: it stays {worst[0]:.1f} times it."
        )
    if plan.goal != "picture":
        return f"The ceilings hold it. {waits}"
    return f"Nothing holds it: every shot has its best picture. {waits}"
