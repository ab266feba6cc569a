"""Opens Trade with what is left of a film, and takes its plan. GUI thread."""

from collections.abc import Mapping
from datetime import timedelta
from typing import TYPE_CHECKING

from pemlo.app.picture_places import base_folder
from pemlo.core.errors import InputError
from pemlo.core.frames import format_frames
from pemlo.core.project.edits import adopt
from pemlo.core.project.project import Project
from pemlo.core.project.record import build
from pemlo.core.project.watching import AgainMark

if TYPE_CHECKING:
    from pemlo.core.arrivals.live_forecast import LiveForecast
    from pemlo.core.project.settings import ShotSettings
    from pemlo.gui.rest_window import RestWindow
    from pemlo.gui.window import Window


class RestPlans:
    """Plans what is left, one window at a time."""

    def __init__(self, window: "Window") -> None:
        self._window = window
        self.open: RestWindow | None = None

    def show(self, live: "LiveForecast") -> None:
        """Open Trade with what is left.

        Raises
        ------
        InputError
            If nothing is left, or the deadline has passed.
        """
        from pemlo.core.arrivals.live_forecast import done_frames  # noqa: PLC0415 - heavy to load
        from pemlo.core.forecast.remaining_film import rest_film  # noqa: PLC0415 - as above
        from pemlo.gui.rest_window import RestWindow  # noqa: PLC0415 - as above

        window = self._window
        if live.rest is None or live.updated is None or live.known is None:
            raise InputError(live.why_not or "The remaining work is not known.")
        midway = window.document.project.watching.changes_midway
        final, _ = done_frames(live.snapshot)
        rest = rest_film(
            live.snapshot.project,
            live.updated,
            live.rest.jobs,
            final,
            live.rest.silent,
            live.snapshot.now,
            midway=midway,
        )
        self.close()
        made = self.open = RestWindow(
            window, live.snapshot.project, rest, live.known.fit, lambda: base_folder(window.document.path)
        )
        made.taken.connect(lambda changed, again: window.run(lambda: self._take(live, changed, again=again)))
        made.midway_turned.connect(lambda on: window.run(lambda: self._turn_midway(live, on=on)))
        made.destroyed.connect(self._forget)
        made.show()

    def _forget(self) -> None:
        self.open = None

    def close(self) -> None:
        """Close the window, if there is one."""
        if self.open is not None:
            self.open.close()
            self.open = None

    def _turn_midway(self, live: "LiveForecast", *, on: bool) -> None:
        self._window.document.edit(
            "Let settings change in the middle of a shot" if on else "Hold shots that have begun",
            lambda project: project.replace(watching=project.watching.replace(changes_midway=on)),
        )
        self.show(live)

    def _take(self, live: "LiveForecast", changed: "Mapping[str, ShotSettings]", *, again: bool) -> None:
        """Take a plan in one step; frames that are in stay, or are rendered again."""
        from pemlo.core.arrivals.states import FrameState  # noqa: PLC0415 - heavy to load

        snapshot = live.snapshot
        since = snapshot.project.start + timedelta(seconds=snapshot.now)

        def change(project: Project) -> Project:
            planned = adopt(project, changed)
            if not again:
                return planned
            marks = [
                build(AgainMark, {"shot": name, "frames": format_frames(frames), "since": since}, "Frames again")
                for name in changed
                if (frames := tuple(snapshot.of(name).frames[snapshot.of(name).state == FrameState.IN].tolist()))
            ]
            return planned.replace(watching=planned.watching.replace(again=(*planned.watching.again, *marks)))

        self._window.document.edit("Take the plan of the remaining frames", change)
