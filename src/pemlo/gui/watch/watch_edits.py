"""Changes of the document that come from Watch. GUI thread."""

from collections.abc import Mapping
from datetime import datetime

from pemlo.core.frames import format_frames
from pemlo.core.project.project import Project
from pemlo.core.project.record import build
from pemlo.core.project.watching import AgainMark, Watching
from pemlo.gui.common.document_edits import DocumentEdits


class WatchEdits(DocumentEdits):
    """Makes changes under their names; what is refused is reported."""

    def set_watching(self, watching: Watching, own: Mapping[str, str] | None = None) -> None:
        """Say where frames arrive, and how they are read; and of shots that lie elsewhere, where."""

        def change(project: Project) -> Project:
            shots = project.shots
            if own is not None:
                shots = tuple(
                    shot if shot.place == own.get(shot.name, "") else shot.replace(place=own.get(shot.name, ""))
                    for shot in shots
                )
            return project.replace(watching=watching, shots=shots)

        self._edit("Say where frames arrive", change)

    def watch_farm(self, place: str) -> None:
        """Watch what the small farm renders there: its run is a new one, and its headers have our own names."""
        self._edit(
            "Watch the small farm",
            lambda project: project.replace(
                watching=project.watching.replace(place=place, again=(), launched=None, header_names=())
            ),
        )

    def render_again(self, shot: str, frames: tuple[int, ...], since: datetime) -> None:
        """Count frames as to be rendered again, until newer files of them come."""

        def change(project: Project) -> Project:
            mark = build(AgainMark, {"shot": shot, "frames": format_frames(frames), "since": since}, "Frames again")
            return project.replace(watching=project.watching.replace(again=(*project.watching.again, mark)[-1000:]))

        self._edit(f"Render {format_frames(frames)} of {shot} again", change)

    def keep_frames(self, shot: str) -> None:
        """Count no frame of a shot as to be rendered again any more."""
        self._edit(
            f"Keep the frames of {shot}",
            lambda project: project.replace(
                watching=project.watching.replace(
                    again=tuple(again_mark for again_mark in project.watching.again if again_mark.shot != shot)
                )
            ),
        )
