"""The table of everything that can be done in the window. GUI thread."""

from collections.abc import Callable
from functools import partial
from operator import methodcaller
from typing import TYPE_CHECKING

from pemlo.app.actions import Action
from pemlo.core.cluster import cluster_of
from pemlo.core.errors import InputError
from pemlo.gui.common.finder import Finder
from pemlo.gui.common.glossary import show_glossary
from pemlo.gui.help import show_help, show_shortcuts
from pemlo.gui.run_files import write_run
from pemlo.gui.table.tools import FilterField

if TYPE_CHECKING:
    from pemlo.gui.project_files import ProjectFiles
    from pemlo.gui.window import Window

NOTHING_TO_WRITE = "Choose two pictures in Judge first: nothing is shown that could be written."
MENUS = ("Project", "Edit", "Stage", "View", "Help")


def window_actions(window: "Window", files: "ProjectFiles") -> tuple[Action, ...]:
    """Return the actions of a window, in the order of its menus."""
    return (*_project(window, files), *_edit(window), *_stage(window), *_view(window))


def _project(window: "Window", files: "ProjectFiles") -> tuple[Action, ...]:
    return (
        Action("new", "Project", "New project", "Begin with an empty brief", files.new, "Ctrl+N"),
        Action("open", "Project", "Open…", "Open a project from a file", files.open, "Ctrl+O"),
        Action("demo", "Project", "Open the demo project", "Look around in an invented film", files.open_demo),
        Action("save", "Project", "Save", "Save the project to its file", files.saving.save, "Ctrl+S"),
        Action("save as", "Project", "Save as…", "Save to another file", files.saving.save_as, "Ctrl+Shift+S"),
        Action("out shots", "Project", "Write shots as CSV…", "For table programs", lambda: files.write("shots")),
        Action("out trials", "Project", "Write trials as CSV…", "For table programs", lambda: files.write("trials")),
        Action(
            "out machines", "Project", "Write machines as CSV…", "For table programs", lambda: files.write("machines")
        ),
        Action(
            "out hours",
            "Project",
            "Write machines' hours as CSV…",
            "As the run sheet has them",
            partial(write_run, window, "hours"),
        ),
        Action(
            "out calendar",
            "Project",
            "Write the run as a calendar…",
            "For any calendar program",
            partial(write_run, window, "calendar"),
        ),
        Action(
            "out comparison",
            "Project",
            "Write the comparison as PNG…",
            "As Judge shows it, with words",
            lambda: _write_comparison(window, whole=False),
            enabled=lambda: _shows_pictures(window),
            why_not=NOTHING_TO_WRITE,
        ),
        Action(
            "out whole comparison",
            "Project",
            "Write the whole comparison as PNG…",
            "With every pixel of the pictures that Judge shows, and words",
            lambda: _write_comparison(window, whole=True),
            enabled=lambda: _shows_pictures(window),
            why_not=NOTHING_TO_WRITE,
        ),
        Action("hand over", "Project", "Hand over…", "What is ticked, into a folder", lambda: _hand_over(window)),
        Action("movie", "Project", "Review movie…", "Of finished or trial frames", lambda: _movie(window)),
        Action("print", "Project", "Print…", "The open stage as it is seen", lambda: _print(window), "Ctrl+P"),
        Action("quit", "Project", "Quit", "Close the window", lambda: _close(window), "Ctrl+Q"),
    )


def _print(window: "Window") -> None:
    from pemlo.gui.printing import ask_to_print, paint_widget  # noqa: PLC0415 - only where something is printed
    from pemlo.gui.stages import STAGES  # noqa: PLC0415 - it imports this table

    stage = STAGES[window.stack.currentIndex()].title
    title = f"{window.document.project.title}: {stage}. {window.verdict.headline.text()}"
    shown = window.stack.currentWidget()
    if shown is not None:
        ask_to_print(
            window, stage, lambda printer: window.run(lambda: paint_widget(printer, shown, title)), landscape=True
        )


def _close(window: "Window") -> None:
    window.close()


def _shows_pictures(window: "Window") -> bool:
    from pemlo.gui.stages import JUDGE  # noqa: PLC0415 - it imports this table

    return window.stack.has(JUDGE) and window.judge.canvas.shows_pictures


def _write_comparison(window: "Window", *, whole: bool) -> None:
    from pemlo.gui.judge.comparison_picture import comparison_lines, write_comparison  # noqa: PLC0415 - heavy to load

    window.show_stage(2)
    judge = window.judge
    title, mode = window.document.project.title, judge.canvas.placement.mode.value
    lines = comparison_lines(title, judge.shot, judge.pair, judge.findings, mode)
    write_comparison(window, window.jobs, judge.canvas, lines, whole=whole)


def _hand_over(window: "Window") -> None:
    window.show_stage(6)
    window.handover.giving.ask_folder()


def _movie(window: "Window") -> None:
    window.show_stage(6)
    window.handover.giving.ask_movie()


def _edit(window: "Window") -> tuple[Action, ...]:
    history, brief = window.document.history, window.brief

    def in_run_sheet(name: str) -> Callable[[], None]:
        return lambda: methodcaller(name)(window.run_sheet)

    return (
        Action("undo", "Edit", "Undo", "Take back the last change", history.undo, "Ctrl+Z", history.can_undo),
        Action("redo", "Edit", "Redo", "Make the change again", history.redo, "Ctrl+Shift+Z", history.can_redo),
        Action("add shot", "Edit", "Add shot", "After the picked one, with its settings", brief.add_shot),
        Action("earlier", "Edit", "Move shot earlier", "In the film", lambda: brief.move_picked(-1), "Alt+Up"),
        Action("later", "Edit", "Move shot later", "In the film", lambda: brief.move_picked(1), "Alt+Down"),
        Action("layers", "Edit", "Part shot into layers…", "The picked one", brief.part_shot),
        Action(
            "where",
            "Edit",
            "Where it is watched…",
            "Which size loses nothing there; another rate",
            lambda: show_where_seen(window),
        ),
        Action("add machine", "Edit", "Add machine", "One that is always free", brief.machine_edits.add),
        Action("in shots", "Edit", "Bring in shots…", "From a CSV file", brief.brought_in.bring_in_shots),
        Action(
            "in edit",
            "Edit",
            "Bring in an edit…",
            "OpenTimelineIO, or a CMX 3600 edit list",
            window.edits.ask,
        ),
        Action("in machines", "Edit", "Bring in machines…", "From a CSV file", brief.brought_in.bring_in_machines),
        *_edit_trials(window),
        Action(
            "rules",
            "Edit",
            "Rules of the run…",
            "Order, dates, sets of settings",
            in_run_sheet("show_rules"),
        ),
        Action(
            "frames",
            "Edit",
            "Where frames arrive…",
            "Folders, logs, headers, a status page",
            partial(_sources, window, "ask_place"),
        ),
        Action(
            "small farm",
            "Edit",
            "Try it with the small farm…",
            "Have the film rendered by the farm that ships with Pemlo",
            partial(_sources, window, "ask_farm"),
        ),
        Action(
            "filter",
            "Edit",
            "Find in the table",
            "Filter the rows of the open stage as you type",
            lambda: _find_in_table(window),
            "Ctrl+F",
        ),
        Action("find", "Edit", "Find an action…", "By its name", lambda: _find(window), "Ctrl+K"),
    )


def _edit_trials(window: "Window") -> tuple[Action, ...]:
    def in_trials(name: str) -> Callable[[], None]:
        # The panel is made when it is first needed.
        return lambda: methodcaller(name)(window.trials)

    return (
        Action(
            "in trials",
            "Edit",
            "Bring in trials…",
            "From a CSV file or from pictures",
            in_trials("bring_in"),
        ),
        Action(
            "render",
            "Edit",
            "Render trials…",
            "Of the picked shot, one frame or a ladder",
            in_trials("ask_to_render"),
            "Ctrl+R",
        ),
        Action(
            "picture",
            "Edit",
            "Show the picture",
            "Of the picked trial, larger",
            in_trials("show_picture"),
            "Ctrl+Shift+P",
        ),
        Action(
            "like trial",
            "Edit",
            "Plan it like this trial",
            "The shot, as the picked trial was rendered",
            in_trials("plan_like"),
        ),
        Action("good", "Edit", "Mark good enough", "The picked trials, by eye", in_trials("mark_good")),
        Action("bad", "Edit", "Mark not good enough", "The picked trials, by eye", in_trials("mark_bad")),
        Action(
            "leave out",
            "Edit",
            "Leave out or take in",
            "The picked trials, of the forecast",
            in_trials("leave_out"),
        ),
    )


def _sources(window: "Window", name: str) -> None:
    """Ask where frames come from; the panel is made when it is first needed."""
    window.show_stage(5)
    methodcaller(name)(window.watch.sources)


def show_where_seen(window: "Window") -> None:
    """Show which size loses nothing where the film is watched, and what another rate does."""
    from pemlo.gui.brief.where_seen import WhereSeen  # noqa: PLC0415 - only when asked for

    WhereSeen(window, window.document, window.jobs, lambda: window.answer, window.report, lambda: window.picked).show()


def _find_in_table(window: "Window") -> None:
    """Give the keys to the filter of the table that has them, or of the first one of the stage."""
    shown = window.stack.currentWidget()
    fields = [] if shown is None else shown.findChildren(FilterField)
    if not fields:
        raise InputError("This stage has no table to look through.", "Ctrl+K finds anything that can be done.")
    next((field for field in fields if field.view.hasFocus()), fields[0]).begin()


def _find(window: "Window") -> None:
    Finder(window, tuple(action for action in window.actions_table if action.name != "find")).open()


def _stage(window: "Window") -> tuple[Action, ...]:
    from pemlo.gui.stages import STAGES  # noqa: PLC0415 - it imports this table

    return tuple(
        Action(
            stage_kind.title.lower(),
            "Stage",
            stage_kind.title,
            stage_kind.tip,
            partial(window.show_stage, number),
            f"Alt+{number + 1}",
        )
        for number, stage_kind in enumerate(STAGES)
    )


def _ask_preferences(window: "Window") -> None:
    from pemlo.gui.preferences_form import PreferencesForm  # noqa: PLC0415 - only when asked for

    form = PreferencesForm(window, window.preferences.appearance, window.show_appearance)
    form.show_cluster(window.preferences.cluster, partial(_work_on, window))
    form.open()


def _work_on(window: "Window", place: str) -> None:
    window.preferences.cluster = place
    window.state.work_on(cluster_of(place))


def _view(window: "Window") -> tuple[Action, ...]:
    return (
        Action("day", "View", "Day theme", "Ink on paper", lambda: window.show_theme("Day")),
        Action("dim", "View", "Dim theme", "For dark rooms", lambda: window.show_theme("Dim")),
        Action(
            "preferences",
            "View",
            "Preferences…",
            "Text size, theme, density, first day of the week",
            lambda: _ask_preferences(window),
            "Ctrl+,",
        ),
        Action("help", "Help", "Help on this stage", "What it is for and how", lambda: show_help(window), "F1"),
        Action("terms", "Help", "Terms", "What each word means, in one sentence", lambda: show_glossary(window)),
        Action("keys", "Help", "Shortcuts", "All keys in one list", lambda: show_shortcuts(window)),
    )
