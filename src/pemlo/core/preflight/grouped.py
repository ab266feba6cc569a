"""Findings that say the same of several shots, in one sentence. Pure."""

from collections.abc import Sequence
from dataclasses import replace

from pemlo.core.preflight.finding import UNKNOWN, Finding, Fix
from pemlo.core.project.project import Project
from pemlo.core.units import counted

FEWEST, MOST_NAMED = 3, 3


def grouped(found: Sequence[Finding]) -> tuple[Finding, ...]:
    """Return findings in their order; what is not known of several shots alike is said once, where it came first.

    What is wrong is mended shot by shot, and stays so.

    Examples
    --------
    >>> from pemlo.core.preflight.finding import not_known
    >>> [one.words for one in grouped([not_known("step", f"The step of {shot} is not known.", "", shot)
    ...                                for shot in ("010", "020", "030")])]
    ['The step of 010, 020 and 030 is not known.']
    """
    alike: dict[tuple[str, str, str], list[Finding]] = {}
    for one in found:
        alike.setdefault(_kind(one), []).append(one)
    said: set[tuple[str, str, str]] = set()
    shown = []
    for one in found:
        kind = _kind(one)
        same = alike[kind]
        if one.outcome != UNKNOWN or not one.shot or len(same) < FEWEST:
            shown.append(one)
        elif kind not in said:
            said.add(kind)
            words = one.words.replace(one.shot, _names([other.shot for other in same]), 1)
            shown.append(replace(one, words=words, mend=_all_mended(same)))
    return tuple(shown)


def _all_mended(same: Sequence[Finding]) -> Fix | None:
    mends = [one.mend for one in same if one.mend is not None]
    if len(mends) < len(same):
        return None

    def change(project: Project) -> Project:
        for one in mends:
            project = one.change(project)
        return project

    return Fix(mends[0].name.replace(same[0].shot, f"all {len(same)}", 1), change)


def _kind(one: Finding) -> tuple[str, str, str]:
    words = one.words.replace(one.shot, "", 1) if one.shot else one.words
    return one.check, words, one.outcome


def _names(shots: Sequence[str]) -> str:
    if len(shots) <= MOST_NAMED:
        return f"{', '.join(shots[:-1])} and {shots[-1]}" if len(shots) > 1 else shots[0]
    return f"{', '.join(shots[: MOST_NAMED - 1])} and {counted(len(shots) - MOST_NAMED + 1, 'more shot')}"
