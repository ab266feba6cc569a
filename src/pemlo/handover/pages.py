"""Pages to hand over: the case and the settings sheet as one HTML file, escaped throughout. Pure text."""

import base64
import math
from collections.abc import Sequence
from datetime import datetime
from functools import cache
from pathlib import Path
from typing import TYPE_CHECKING

from pemlo.core import palette
from pemlo.core.farm.money import cost_curve, cost_words
from pemlo.core.interval import Interval
from pemlo.core.project.project import Project
from pemlo.core.project.trials import BAD, GOOD
from pemlo.core.trade.prices import LEAST_SHARE
from pemlo.core.trade.waterfall import Waterfall
from pemlo.core.units import format_interval, round_figures
from pemlo.handover.case_facts import CaseFacts, as_asked
from pemlo.handover.charts import fall_svg, tape_svg
from pemlo.handover.picture_sheet import SheetPicture
from pemlo.handover.settings_sheet import ShotSheet, sheet_columns
from pemlo.words.verdicts import verdict

if TYPE_CHECKING:
    from jinja2 import Environment

TEMPLATES = Path(__file__).with_name("templates")


@cache
def page_templates() -> "Environment":
    """Return what makes pages of templates, with everything that is put in escaped."""
    from jinja2 import Environment, FileSystemLoader, StrictUndefined  # noqa: PLC0415 - only where a page is made

    return Environment(
        loader=FileSystemLoader(TEMPLATES),
        autoescape=True,
        undefined=StrictUndefined,
        trim_blocks=True,
        lstrip_blocks=True,
    )


def _style() -> str:
    return page_templates().get_template("paper.css").render(ink=palette.DAY, surround=palette.SURROUND)


def case_page(facts: CaseFacts) -> str:
    """Return the case as a page that holds all that it shows."""
    from markupsafe import Markup  # noqa: PLC0415 - with the templates

    project, planned = facts.project, facts.planned
    changed = any(shot.plan is not None and shot.plan != shot.asked for shot in project.shots)
    fall = facts.waterfall if changed and facts.given_up else None
    costs = _Costs(facts)
    times = 1 + project.delivery.retake_share  # hours by shot are without retakes, and the film pays for them
    return page_templates().get_template("case.html").render(
        style=Markup(_style()),  # noqa: S704 - our own file
        title=project.title,
        written=_date(project, facts.written),
        headline=facts.verdict.headline,
        detail=facts.verdict.detail,
        misses=facts.verdict.forecast.kind == "misses",
        as_asked=verdict(as_asked(project), facts.asked) if changed else "",
        tape=Markup(tape_svg(project, facts.verdict.forecast)),  # noqa: S704 - words are escaped where it is made
        fall=None if fall is None else Markup(fall_svg(fall, planned.hours_usable)),  # noqa: S704 - as above
        no_fall="Nothing: every shot is rendered as asked." if not changed else "What it saves is not known yet.",
        given_up=[
            {
                "lever": given_up.lever,
                "where": given_up.where,
                "saved": _saved(given_up.saved_h, fall),
                "money": round_figures(costs.of_next(given_up.saved_h)),
            }
            for given_up in facts.given_up
        ],
        costs="" if planned.hours is None else cost_words(project, planned.hours.middle),
        currency=project.delivery.currency or "at the prices given",
        spots=[
            {
                "shot": spot.shot,
                "frame": spot.frame,
                "error": f"{spot.error:.1f}",
                "asked": base64.b64encode(spot.asked).decode(),
                "planned": base64.b64encode(spot.planned).decode(),
                "asked_words": spot.asked_words,
                "planned_words": spot.planned_words,
            }
            for spot in facts.spots
        ],
        more=facts.more,
        shots=[
            {
                "shot": shot.shot,
                "frames": shot.frames,
                "asked": hours_words(shot.asked),
                "planned": hours_words(shot.planned),
                "money": "not known"
                if shot.planned is None
                else round_figures(costs.price * times * shot.planned.middle),
                "error": "not known" if math.isnan(shot.error) else f"{shot.error:.1f}",
                "ceiling": shot.eye or "not marked" if shot.ceiling is None else f"{shot.ceiling:.1f}",
            }
            for shot in facts.shots
        ],
        would_change=facts.would_change,
        assumed=facts.assumed,
    )  # fmt: skip


class _Costs:
    """What the hours of a case cost: of changes one after the other, so that they sum; of shots by their share."""

    def __init__(self, facts: CaseFacts) -> None:
        self._curve = cost_curve(facts.project)
        self._left = 0.0 if facts.asked.hours is None else facts.asked.hours.middle
        hours = 0.0 if facts.planned.hours is None else facts.planned.hours.middle
        self.price = 0.0 if self._curve is None or not hours else self._curve.at(hours) / hours

    def of_next(self, saved_h: float) -> float:
        """Return what the next change saves."""
        before, self._left = self._left, max(self._left - saved_h, 0.0)
        return 0.0 if self._curve is None else self._curve.at(before) - self._curve.at(self._left)


def sheet_page(
    project: Project,
    sheet: tuple[ShotSheet, ...],
    written: datetime,
    commands: tuple[str, ...] = (),
    *,
    cards: bool = False,
) -> str:
    """Return the settings sheet as a page: one table, and with `cards` each shot by itself after it."""
    from markupsafe import Markup  # noqa: PLC0415 - with the templates

    shown = sheet_columns(sheet)
    return page_templates().get_template("sheet.html").render(
        style=Markup(_style()),  # noqa: S704 - our own file
        title=project.title,
        written=_date(project, written),
        columns=shown.columns,
        same=", ".join(shown.same),
        unused=", ".join(shown.unused),
        changed=any(line.changed for one in sheet for line in one.lines),
        places=any(one.place for one in sheet),
        shots=[
            {
                "shot": one.shot,
                "frames": one.frames,
                "count": one.count,
                "place": one.place,
                "pieces": one.pieces,
                "lines": {line.name: line for line in one.lines},
            }
            for one in sheet
        ],
        cards=cards,
        commands=commands,
    )  # fmt: skip


def pictures_page(
    project: Project, groups: Sequence[tuple[str, Sequence[SheetPicture]]], written: datetime, left_out: str = ""
) -> str:
    """Return the picture sheet as a page: groups of pictures, each with its name."""
    from markupsafe import Markup  # noqa: PLC0415 - with the templates

    return page_templates().get_template("pictures.html").render(
        style=Markup(_style()),  # noqa: S704 - our own file
        title=project.title,
        written=_date(project, written),
        groups=[
            {
                "name": name,
                "pictures": [
                    {
                        "title": picture.title,
                        "words": picture.words,
                        "hours": picture.hours,
                        "good": picture.mark == GOOD,
                        "bad": picture.mark == BAD,
                        "jpeg": base64.b64encode(picture.jpeg).decode(),
                    }
                    for picture in pictures
                ],
            }
            for name, pictures in groups
        ],
        left_out=left_out,
    )  # fmt: skip


def hours_words(hours: Interval | None) -> str:
    """Return machine-hours with their interval."""
    return "not known" if hours is None else format_interval(hours)


def _saved(hours: float, fall: Waterfall | None) -> str:
    if fall is not None and abs(hours) < LEAST_SHARE * fall.asked.middle:
        return "about the same"
    return round_figures(hours, 2) if hours >= 0 else f"takes {round_figures(-hours, 2)} more"


def _date(project: Project, moment: datetime) -> str:
    local = moment.astimezone(project.delivery.zone)
    return f"{local:%a} {local.day} {local:%b %Y, %H:%M}"
