"""Why a plan is as it is: what changes on each shot, what it saves and costs to the eye, and what binds. Pure."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from pemlo.core.chances import share_percent
from pemlo.core.project.project import Project
from pemlo.core.project.settings import LEVERS, ShotSettings
from pemlo.core.project.shots import Shot
from pemlo.core.trade.best_plan import PASSES, Plan
from pemlo.core.trade.few_settings import FewSettings
from pemlo.core.trade.levers import changed_character, changed_levers, lever_name, lever_text
from pemlo.core.trade.options import Options
from pemlo.core.trade.prices import FREE, LEAST_SHARE
from pemlo.core.units import HOUR_S, counted, format_span, listed, machine_hours, round_figures

_SMALL_H = 0.1  # less is written in minutes or seconds
_JUST = 0.005  # of what is needed: less is within the noise of the estimate
_BINDS = 0.98  # of the hours there are: a plan that needs so many is held by them

_LEAST_GAP = 0.001  # what is less is said as this

LITTLE = "The spare hours would hardly be visible."


def gap_words(plan: Plan) -> str:
    """Return how much better another plan can be at most; empty where this one is proved to be the best."""
    if plan.proved:
        return ""
    if plan.gap >= 1.0:
        return "How much better another plan could be is not known."
    return f"A better plan could lower the squared errors by {max(plan.gap, _LEAST_GAP):.1%} at most."


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
    passed : bool
        Whether marks by eye let it pass.
    """

    shot: str
    before: ShotSettings
    after: ShotSettings
    saved_hours: float
    error_before: float
    error_after: float
    passed: bool = False

    @property
    def words(self) -> str:
        """What changes, and what that does."""
        if not changed_levers(self.before, self.after):
            return f"{self.shot} stays as asked."
        verb = "saves" if self.saved_hours >= 0 else "takes"
        more = "" if self.saved_hours >= 0 else " more"
        what = f"{self.shot}: {_levers(self.before, self.after)}"
        words = f"{what}. It {verb} {machine_hours(abs(self.saved_hours))}{more}"
        if np.isnan(self.error_before) or np.isnan(self.error_after):
            passes, unknown = "it passes by what was marked good enough", "what it costs to the eye was not measured"
            return f"{words}; {passes if self.passed else unknown}."
        return f"{words}; the error goes from {self.error_before:.1f} to {self.error_after:.1f} levels."

    @property
    def what(self) -> str:
        """Which levers change, and how: ``samples 256 to 96``."""
        return _levers(self.before, self.after)

    @property
    def hours(self) -> str:
        """What it saves, with its sign."""
        return _hours(self.saved_hours)

    @property
    def error(self) -> str:
        """What it costs to the eye."""
        if np.isnan(self.error_before) or np.isnan(self.error_after):
            return "passes by its marks" if self.passed else "error not measured"
        return f"{self.error_before:.1f} to {self.error_after:.1f} levels"

    @property
    def short(self) -> str:
        """The same in few words."""
        return f"{self.shot}: {self.what}; {self.hours}, {self.error}"


def _hours(saved_hours: float) -> str:
    sign = "−" if saved_hours >= 0 else "+"
    saved = abs(saved_hours)
    small = 0 < saved < _SMALL_H
    return sign + (format_span(saved * HOUR_S) if small else f"{round_figures(saved, 2)} h")


@dataclass(frozen=True)
class ChangesAlike:
    """Shots in which a plan changes the same levers in the same way, together.

    Attributes
    ----------
    shots : str
        Their names, the first few of many.
    count : int
    what, hours, error : str
        What changes, what it saves, and what it costs to the eye: of several shots the largest error.
    """

    shots: str
    count: int
    what: str
    hours: str
    error: str


def changes_alike(changed: Sequence[Change], film: int) -> tuple[ChangesAlike, ...]:
    """Return changes with those that are the same as one, in the order of their first; the film has so many shots."""
    groups: dict[str, list[Change]] = {}
    for change in changed:
        groups.setdefault(change.what, []).append(change)
    return tuple(_alike(what, group, film) for what, group in groups.items())


def _alike(what: str, group: Sequence[Change], film: int) -> ChangesAlike:
    whole = len(group) == film > 1
    names = f"all {film} shots" if whole else listed([change.shot for change in group])
    hours = _hours(sum(change.saved_hours for change in group))
    errors = [change.error_after for change in group]
    if len(group) == 1:
        error = group[0].error
    elif not np.isnan(errors).any():
        error = f"{max(errors):.1f} levels at most"
    else:
        error = "passes by marks" if all(change.passed for change in group) else "not all measured"
    return ChangesAlike(names, len(group), what, hours, error)


def _levers(before: ShotSettings, after: ShotSettings) -> str:
    return ", ".join(
        f"{lever_name(one)} {lever_text(before, one)} to {lever_text(after, one)}"
        for one in changed_levers(before, after)
    )


def by_weight(found: Sequence[Change]) -> tuple[Change, ...]:
    """Return changes of what a picture is first, then the others by what they save; shots that stay are left out."""
    changed = [change for change in found if changed_levers(change.before, change.after)]
    return tuple(
        sorted(
            changed, key=lambda change: (not changed_character(change.before, change.after), -abs(change.saved_hours))
        )
    )


def unchanged_words(project: Project, options: Sequence[Options], found: Sequence[Change]) -> tuple[str, ...]:
    """Return how many shots stay as asked, and why, a sentence for each reason."""
    reasons: dict[str, list[str]] = {}
    for shot, one, change in zip(project.shots, options, found, strict=True):
        if not changed_levers(change.before, change.after):
            reasons.setdefault(_why_unchanged(shot, one), []).append(shot.name)
    return tuple(
        f"{counted(len(names), 'shot')} not changed ({listed(names)}): {why}." for why, names in reasons.items()
    )


def _why_unchanged(shot: Shot, options: Options) -> str:
    """Return why a shot stays as it was asked."""
    cheaper = options.middle_hours < options.middle_hours[0] * (1 - LEAST_SHARE)
    if set(shot.pins) >= set(LEVERS):
        return "every lever is held"
    if (options.plannable & cheaper).any():
        return "what else passes would give next to nothing, or is not needed"
    if (options.usable & cheaper).any() and not options.known:
        nothing = options.eye is None or not (options.eye > 0).any()
        return "nothing cheaper was marked good enough" if nothing else "nothing cheaper passes by its marks"
    if (options.usable & cheaper).any():
        return "nothing cheaper passes"
    return "nothing is known that would take fewer hours"


def changes(options: Sequence[Options], plan: Plan, before: Sequence[ShotSettings]) -> tuple[Change, ...]:
    """Return what a plan does to each shot, against settings that are among its options."""
    found = []
    for one, chosen, start in zip(options, plan.chosen, before, strict=True):
        at = one.place(start)
        hours = one.middle_hours[[at, chosen]]
        errors = float(one.error[at]), float(one.error[chosen])
        passed = bool(one.same_picture[chosen]) if one.eye is None else bool(one.eye[chosen] > 0)
        found.append(Change(one.shot, start, one.settings[chosen], float(hours[0] - hours[1]), *errors, passed))
    return tuple(found)


def what_binds(options: Sequence[Options], plan: Plan, available_h: float) -> str:
    """Return what keeps a plan from being better, in a sentence or two; empty for a film of no shots."""
    if not options:
        return ""
    hours = np.array([one.middle_hours[k] for one, k in zip(options, plan.chosen, strict=True)])
    most = int(np.argmax(hours))
    share = hours[most] / max(float(hours.sum()), 1e-12)
    held = f" The film waits for shot {options[most].shot}: {share_percent(share)} of the hours."
    waits = held if len(options) > 1 else ""
    if plan.missing_hours > 0:
        just = plan.missing_hours < _JUST * plan.needed
        more = "a little more time" if just else f"{machine_hours(plan.missing_hours)} more"
        return f"To be as sure as asked it needs {more}.{waits}"
    ratios = [(one.error[k] / one.ceiling, one.shot) for one, k in zip(options, plan.chosen, strict=True)]
    worst = max((pair for pair in ratios if not np.isnan(pair[0])), default=(0.0, ""))
    # A shot that could be under its ceiling, and is not, is held by hours too, whatever is left of them.
    over = [one for one, (ratio, _) in zip(options, ratios, strict=True) if ratio > 1 + PASSES]
    if plan.needed >= _BINDS * available_h or any(_can_pass(one) for one in over):
        return f"The hours available hold it.{waits}"
    if worst[0] > 1 + PASSES:
        limit = f"it stays at {worst[0]:.2f} times its limit"
        return f"Shot {worst[1]} cannot be brought within its error limit with what is known: {limit}."
    if plan.goal != "picture":
        known = any(shot_options.known for shot_options in options)
        return f"{'The error limits hold it' if known else 'What was marked good enough holds it'}.{waits}"
    cleanest = all(
        not one.error[k] > np.nanmin(one.error[one.plannable]) + FREE
        for one, k in zip(options, plan.chosen, strict=True)
        if one.known
    )
    rest = "Nothing holds it: every shot has its best picture." if cleanest else LITTLE
    return f"{rest}{waits}"


def _can_pass(options: Options) -> bool:
    """Whether some option of a shot is under its ceiling."""
    errors = options.error[options.plannable]
    return bool((errors <= options.ceiling * (1 + PASSES)).any())


def flicker_words(options: Sequence[Options], plan: Plan) -> str:
    """Return the flicker that a plan has in shots that move, beside its limit; empty if it is not known of any."""
    parts = []
    for one, k in zip(options, plan.chosen, strict=True):
        if one.flicker is None or np.isnan(one.flicker[k]) or np.isnan(one.flicker_limit):
            continue
        assumed = ", assumed" if one.settings[k].denoise in one.flicker_assumed else ""
        parts.append(f"{one.shot} {one.flicker[k]:.2f} of {one.flicker_limit:.2f}{assumed}")
    return f"{'; '.join(parts)} levels" if parts else ""


def groups_words(few_settings: FewSettings) -> str:
    """Return how many different settings a plan uses, and what so few of them take."""
    if few_settings.after == few_settings.before:
        return f"{few_settings.after} different settings; no two shots can share more with what passes and is in time."
    more = few_settings.more_hours
    takes = f"takes {machine_hours(abs(more), 2)} {'more' if more >= 0 else 'less'}"
    return f"{few_settings.after} different settings instead of {few_settings.before}; that {takes}."
