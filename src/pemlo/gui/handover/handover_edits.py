"""Changes of the document that come from Hand-over. GUI thread."""

from collections.abc import Sequence

from pemlo.core.preflight.check_context import plan_rows
from pemlo.core.preflight.finding import Fix
from pemlo.core.project.launch import LaunchRow, OwnCheck
from pemlo.core.project.project import Project
from pemlo.core.units import counted
from pemlo.gui.common.document_edits import DocumentEdits


class HandoverEdits(DocumentEdits):
    """Makes changes under their names; what is refused is reported."""

    def mend(self, fix: Fix) -> None:
        """Put something right."""
        self._edit(fix.name, fix.change)

    def mend_all(self, mends: Sequence[Fix]) -> None:
        """Put several things right, in one step."""

        def change(project: Project) -> Project:
            for fix in mends:
                project = fix.change(project)
            return project

        self._edit(f"Fix {len(mends)} things", change)

    def take_launch(self, rows: Sequence[LaunchRow]) -> None:
        """Take a table in place of the launch there is."""
        self._edit("Bring in a launch", lambda project: project.replace(launch=tuple(rows)))

    def take_plan(self) -> None:
        """Set the launch to what the plan says; what the plan does not say stays."""

        def change(project: Project) -> Project:
            before = {row.shot: row for row in project.launch}
            rows = []
            for shot in project.shots:
                old = before.get(shot.name)
                for row in plan_rows(project, shot):
                    planned = row
                    if old is not None:
                        kept = ("camera", "layers", "pixel_aspect", "colour", "resume", "extra_columns")
                        planned = planned.replace(**{name: getattr(old, name) for name in kept})
                        if old.pattern:
                            planned = planned.replace(pattern=old.pattern, folder=old.folder)
                    rows.append(planned)
            return project.replace(launch=tuple(rows))

        self._edit("Set the launch to the plan", change)

    def clear_launch(self) -> None:
        """Forget the launch: the plan itself is checked then."""
        self._edit("Forget the launch", lambda project: project.replace(launch=()))

    def remove_rows(self, places: Sequence[int]) -> None:
        """Take rows out of the launch."""
        gone = set(places)
        self._edit(
            "Take rows out of the launch",
            lambda project: project.replace(launch=tuple(row for k, row in enumerate(project.launch) if k not in gone)),
        )

    def add_line(self, words: str) -> None:
        """Add a line of somebody's own to tick off."""
        self._edit(
            f"Add the line “{words}”",
            lambda project: project.replace(own_checks=(*project.own_checks, OwnCheck(words=words))),
        )

    def add_lines(self, lines: Sequence[str]) -> None:
        """Add several lines, in one step."""
        new = tuple(OwnCheck(words=words) for words in lines)
        self._edit(
            f"Add {counted(len(new), 'usual line')}",
            lambda project: project.replace(own_checks=(*project.own_checks, *new)),
        )

    def tick(self, place: int, *, done: bool) -> None:
        """Tick a line off, or not."""

        def change(project: Project) -> Project:
            lines = tuple(line.replace(done=done) if k == place else line for k, line in enumerate(project.own_checks))
            return project.replace(own_checks=lines)

        words = self._document.project.own_checks[place].words
        self._edit(f"{'Tick off' if done else 'Open'} “{words}”", change)

    def drop_line(self, place: int) -> None:
        """Take a line out."""
        words = self._document.project.own_checks[place].words
        self._edit(
            f"Take out the line “{words}”",
            lambda project: project.replace(
                own_checks=tuple(line for k, line in enumerate(project.own_checks) if k != place)
            ),
        )
