"""Of which shot a file is, and what is said of files that are of none. Pure."""

from collections import Counter

from pemlo.core.arrivals.scan import Arrival
from pemlo.core.project.project import Project
from pemlo.core.project.shots import Shot
from pemlo.core.units import counted

MOST_NAMED = 5


def _may_have(shot: Shot, frame: int) -> bool:
    first, last = shot.range_to_render(shot.settings)
    return first <= frame <= max(last, shot.last)


class ShotMatcher:
    """Says of which shot files are, and counts those that are of none."""

    def __init__(self, project: Project) -> None:
        self._shots = {shot.name: shot for shot in project.shots}
        self._strange: Counter[str] = Counter()
        self._open: list[int] = []

    def shot(self, arrival: Arrival) -> Shot | None:
        """Return the shot of a file; None if there is none, or it cannot be known."""
        name = arrival.found.shot
        if name:
            found = self._shots.get(name)
            if found is None:
                self._strange[name] += 1
            return found
        frame = arrival.found.frame
        mine = [shot for shot in self._shots.values() if not shot.place and _may_have(shot, frame)]
        if len(mine) == 1:
            return mine[0]
        if mine:
            self._open.append(frame)
        else:
            self._strange[""] += 1
        return None

    def troubles(self) -> tuple[str, ...]:
        """Return what is said of files that are of no shot, in sentences."""
        found = []
        for name, count in self._strange.most_common(MOST_NAMED):
            where = f"name a shot {name}, which" if name else "have numbers that"
            found.append(f"{counted(count, 'file')} {where} the brief does not have.")
        if self._open:
            found.append(
                f"{counted(len(self._open), 'file')} may be of several shots, such as frame {self._open[0]}. "
                "Put {shot} into the place of the frames, or give each shot a place of its own."
            )
        return tuple(found)
