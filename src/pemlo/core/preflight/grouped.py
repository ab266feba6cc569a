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
    for finding in found:
        alike.setdefault(_kind(finding), []).append(finding)
    said: set[tuple[str, str, str]] = set()
    shown = []
    for finding in found:
        kind = _kind(finding)
        same = alike[kind]
        if finding.outcome != UNKNOWN or not finding.shot or len(same) < FEWEST:
            shown.append(finding)
        elif kind not in said:
            said.add(kind)
            words = finding.words.replace(finding.shot, _names([other.shot for other in same]), 1)
            shown.append(replace(finding, words=words, mend=_all_mended(same)))
    return tuple(shown)


def _all_mended(same: Sequence[Finding]) -> Fix | None:
    mends = [finding.mend for finding in same if finding.mend is not None]
    if len(mends) < len(same):
        return None

    def change(project: Project) -> Project:
        for one in mends:
            project = one.change(project)
        return project

    return Fix(mends[0].name.replace(same[0].shot, f"all {len(same)}", 1), change)


def _kind(finding: Finding) -> tuple[str, str, str]:
    words = finding.words.replace(finding.shot, "", 1) if finding.shot else finding.words
    return finding.check, words, finding.outcome


def _names(shots: Sequence[str]) -> str:
    if len(shots) <= MOST_NAMED:
        return f"{', '.join(shots[:-1])} and {shots[-1]}" if len(shots) > 1 else shots[0]
    return f"{', '.join(shots[: MOST_NAMED - 1])} and {counted(len(shots) - MOST_NAMED + 1, 'more shot')}"
