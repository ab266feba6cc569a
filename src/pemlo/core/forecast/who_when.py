"""Who rendered what when, in the one run of a film that was followed. Pure."""

from collections.abc import Sequence
from datetime import timedelta

from pemlo.core.forecast.finish import Finish
from pemlo.core.project.project import Project


def trace_rows(project: Project, found: Finish) -> Sequence[tuple[str, ...]]:
    """Return who rendered what when: shot, frame, machine, slot, begin, end, tries, part; shots in film order."""
    zone = project.delivery.zone
    rows = []
    for job_number, frame, (slot, *times, tries) in zip(
        found.work.job_of, found.work.frame, found.run.trace, strict=True
    ):
        # A frame that nobody could take has no machine and no times.
        where = ["", "", "", ""]
        if tries:
            moments = [(project.start + timedelta(seconds=float(one))).astimezone(zone) for one in times]
            machine = found.farm.names[found.farm.slot_group[int(slot)]]
            where = [machine, str(int(slot)), *(one.isoformat(timespec="seconds") for one in moments)]
        job = found.jobs[int(job_number)]
        rows.append((job.shot.name, str(int(frame)), *where, str(int(tries)), job.part))
    return rows
