"""The trials stage as widgets: ladder and table at the left, course and card at the right. GUI thread."""

from collections.abc import Callable, Sequence
from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QFileDialog, QHBoxLayout, QSplitter, QVBoxLayout, QWidget

from pemlo.app.document import Document
from pemlo.app.film_known import FilmForecast
from pemlo.app.jobs import Jobs
from pemlo.app.table_reader import TableReader
from pemlo.app.trial_queue import TrialQueue
from pemlo.core.cost.next_trial import Advice
from pemlo.core.errors import InputError, PemloError
from pemlo.core.files.header import PICTURE_ENDINGS
from pemlo.core.project.project import Project
from pemlo.core.project.trials import BAD, GOOD, Trial
from pemlo.gui.common.labels import Heading, button, label
from pemlo.gui.common.plain import set_tip
from pemlo.gui.table.clipboard import Records
from pemlo.gui.table.model import TableModel
from pemlo.gui.table.tools import FilterField, Totals
from pemlo.gui.table.view import TableView
from pemlo.gui.trials import presenter, render_words
from pemlo.gui.trials.curves import Curves
from pemlo.gui.trials.entry_line import EntryLine
from pemlo.gui.trials.next_card import NextCard
from pemlo.gui.trials.queue_box import QueueBox
from pemlo.gui.trials.renders import TrialRenders
from pemlo.gui.trials.trial_columns import TRIAL_COLUMNS, TrialRow, trial_rows
from pemlo.gui.trials.trial_edits import TrialEdits
from pemlo.gui.trials.trial_pictures import TrialPictures
from pemlo.words.disagreements import Answer
from pemlo.words.trial_runs import ended_words
from pemlo.words.unknowns import unknowns


class AnswersRow(QWidget):
    """A button for each answer; hidden where there is no question."""

    def __init__(self, take: Callable[[Answer], None]) -> None:
        super().__init__()
        self._take = take
        self._shown: tuple[Answer, ...] = ()
        self._row = QHBoxLayout(self)
        self._row.setContentsMargins(0, 0, 0, 4)
        self._row.setSpacing(6)
        self.hide()

    def show_answers(self, given: Sequence[Answer]) -> None:
        """Show other answers."""
        if tuple(given) == self._shown:
            return
        self._shown = tuple(given)
        while (item := self._row.takeAt(0)) is not None:
            if (widget := item.widget()) is not None:
                widget.hide()
                widget.deleteLater()
        for answer in self._shown:
            tip = f"Leave out {_which(answer)}: {answer.why}"
            self._row.addWidget(button(answer.words, tip, partial(self._take, answer)))
        self._row.addStretch(1)
        self.setVisible(bool(self._shown))


def _which(answer: Answer) -> str:
    return "this trial" if len(answer.trials) == 1 else f"{len(answer.trials)} trials"


class TrialsPanel(QWidget):
    """The stage.

    Attributes
    ----------
    renders : TrialRenders
        Renders trials here.
    pictures : TrialPictures
        Shows their pictures.
    edits : TrialEdits
        Changes trials in the document.
    curves : Curves
        The two plots.

    Signals
    -------
    shot_wanted(str)
        The card shows another shot: every stage should.
    files_wanted(list of str)
        Tables or pictures that are to be brought in.
    offered(str, str, str, callable)
        Something to say, with what to do, a button, and what it does.
    """

    shot_wanted = Signal(str)
    files_wanted = Signal(object)
    offered = Signal(str, str, str, object)

    def __init__(
        self,
        document: Document,
        jobs: Jobs,
        queue: TrialQueue,
        report: Callable[[PemloError], None],
        tables: TableReader,
    ) -> None:
        super().__init__()
        self._document, self._jobs, self._report = document, jobs, report
        self._answer: FilmForecast | None = None
        self._shot, self._undrawn = "", False
        self.renders = TrialRenders(document, jobs, queue, report, self.offered.emit, self)
        self.queue = QueueBox(queue, report)
        self.pictures = TrialPictures(document, jobs, report, self)
        self.edits = TrialEdits(document, report, self.shot_wanted.emit, tables, self.offered.emit)
        self.curves = Curves()
        self.model: TableModel[TrialRow] = TableModel(
            TRIAL_COLUMNS, document.edit, report, self.pictures.small_image, noun="trial", key=lambda row: row.index
        )
        self.table = TableView(self.model, "Trials")
        self.table.acts.report, self.table.acts.can_remove = report, True
        self.table.acts.records = Records(
            Trial, lambda row: row.trial, lambda trials: self.edits.put_copied(self._shot, trials)
        )
        self.filter, self.totals = FilterField(self.table), Totals(self.table)
        self.table.empty_words = (
            "Render one frame, then type which one and what it took in the line below, like 41 and 4:02. "
            "Rows can be pasted from a table program too: frame and time, or frame, samples and time. "
            "Pictures can be dropped here: their headers tell the rest."
        )
        self.entry = EntryLine(lambda typed: self.edits.type(self._shot, typed))
        self.card = NextCard(report)
        self._render_link = button(
            "Render…", "Render trials of this shot here: one frame or a ladder", self.ask_to_render, link=True
        )
        self.card.add_links(
            button(
                "Spend time…",
                "Render what tells most, for as long as you say",
                lambda: self.renders.ask_to_spend([self._shot] if self._shot else []),
                link=True,
            ),
            button(
                "My renderer…", "How a frame is rendered: paste a command that did", self.renders.ways.edit, link=True
            ),
            button(
                "By hand…",
                "A list to take along, boxes for times, and a stopwatch",
                lambda: self.edits.by_hand(self, self._jobs, self.card.all_advice, self._shot),
                link=True,
            ),
        )
        self._table_heading = Heading(
            "Trials",
            self.filter,
            button("Picture", "Show the picture of the picked trial, larger", self.show_picture, link=True),
            button("Good enough", "Mark the picked trials: what you saw passes", self.mark_good, link=True),
            button("Not good enough", "Mark the picked trials: what you saw does not pass", self.mark_bad, link=True),
            button("Plan it like this", "Plan the shot as the picked trial was rendered", self.plan_like, link=True),
            self._render_link,
            button("Bring in…", "Read trials from a CSV file or from pictures", self.bring_in, link=True),
        )
        self._marked, self._contradiction = label("", "second", wrap=True), label("", "limit", wrap=True)
        self._unknown = label("", "limit", wrap=True)
        self._unknown.setAccessibleName("What is not known of this shot")
        self.answers = AnswersRow(self.edits.answer)
        self._lay_out()
        self._connect()

    def _lay_out(self) -> None:
        curves = self.curves
        left, right = QSplitter(Qt.Orientation.Vertical), QSplitter(Qt.Orientation.Vertical)
        _add(left, [curves.ladder_heading, self._unknown, self.answers], curves.ladder_place, [])
        _add(
            left, [self._table_heading, self._marked, self._contradiction], None, [self.table, self.totals, self.entry]
        )
        _add(right, [curves.along_heading], curves.along_place, [], indent=10)
        self._queue_part = _add(right, [], None, [self.queue], indent=10)
        _add(right, [], None, [self.card], indent=10)
        self._queue_part.setVisible(False)
        self.queue.shown.connect(self._queue_part.setVisible)
        left.setSizes([330, 260])
        right.setSizes([190, 300, 170])
        for number, stretch in enumerate((1, 1, 0)):  # the card takes what its words need
            right.setStretchFactor(number, stretch)
            right.setCollapsible(number, False)
        self.columns = QSplitter(Qt.Orientation.Horizontal)
        self.columns.setObjectName("trials columns")
        self.columns.addWidget(left)
        self.columns.addWidget(right)
        self.columns.setSizes([690, 410])
        self.columns.setStretchFactor(0, 3)
        self.columns.setStretchFactor(1, 2)
        column = QVBoxLayout(self)
        column.setContentsMargins(18, 10, 16, 2)
        column.addWidget(self.columns)

    def _connect(self) -> None:
        self.pictures.small.changed.connect(self.model.show_pictures)
        self.curves.picked.connect(self._on_dot_picked)
        self.renders.shot_wanted.connect(self.shot_wanted)
        self.renders.queue.ended.connect(lambda ended: self.queue.say(ended_words(ended)))
        self.table.pasted.connect(lambda text: self.edits.paste(self._shot, text))
        self.table.removal_asked.connect(self.edits.remove)
        self.table.doubleClicked.connect(lambda index: None if index.column() else self._show_picture_at(index.row()))
        self.card.timed.connect(self.edits.add)
        self.card.shown.connect(self._draw)
        self.card.shot_wanted.connect(self.shot_wanted)
        self.card.render_wanted.connect(self.renders.take_advice)

    @property
    def shot(self) -> str:
        """The shot that is shown."""
        return self._shot

    def show_project(self, project: Project, answer: FilmForecast | None) -> None:
        """Show a project, and the forecast that goes with it if there is one."""
        self._answer = answer
        names = [shot.name for shot in project.shots]
        if self._shot not in names:
            self._shot = names[0] if names else ""
        self._show_shot(project)

    def pick(self, names: tuple[str, ...]) -> None:
        """Show a shot: the first that is picked."""
        if names and names[0] != self._shot:
            self._shot = names[0]
            self._show_shot(self._document.project)
            self.card.show_shot(self._shot)

    def show_advice(self, advice: tuple[Advice, ...]) -> None:
        """Show which trial is to be run next."""
        project = self._document.project
        self.card.show_advice(advice, project.machines, self._shot, known=bool(project.counted_trials))

    def _show_shot(self, project: Project) -> None:
        answer = self._answer
        # The fit names trials by their place among all: an older fit would name the wrong ones.
        fit = answer.fit if answer is not None and answer.project.trials == project.trials else None
        rows = trial_rows(project, self._shot, fit, self._document.path)
        shots = self.renders.ways.renderable_shots()
        self.card.can_render(shots, self.renders.ways.why_not)
        self._render_link.setVisible(self._shot in shots)
        self.model.show_rows(rows)
        self._table_heading.say(presenter.timed_words(rows), f"Trials of {self._shot}" if self._shot else "Trials")
        shot = next((shot for shot in project.shots if shot.name == self._shot), None)
        words = unknowns(project, shot) if shot is not None else ()
        given: tuple[Answer, ...] = ()
        if fit is not None:
            words = (*presenter.disagreement(project, self._shot, fit), *words)
            given = presenter.answers_of(project, self._shot, fit)
        self.answers.show_answers(given)
        self._unknown.setText(words[0] if words else "")
        set_tip(self._unknown, "\n".join(words))
        self._unknown.setVisible(bool(words))
        marked = presenter.marked_words(project, self._shot) if shot is not None else ("", "")
        for one, text in zip((self._marked, self._contradiction), marked, strict=True):
            one.setText(text)
            one.setVisible(bool(text))
        self._draw()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        if self._undrawn:
            self._draw()

    def _draw(self) -> None:
        self._undrawn = not self.isVisible()
        if self._undrawn:  # curves take a tenth of a second: nobody sees them now
            return
        advice = self.card.advice
        frame = advice.frame if advice is not None and advice.shot == self._shot else None
        self.curves.draw(self._document.project, self._shot, self._answer, frame)

    def ask_to_render(self, of_frame: int | None = None, region: render_words.Region | None = None) -> None:
        """Ask which trials of the shot to render; the form begins with the picked trial, or with what is asked."""
        picked = [row.trial for row in self.table.selected()]
        self.renders.ask(self._shot, picked[0] if picked else None, of_frame, region)

    def bring_in(self) -> None:
        """Ask for tables or pictures, and take them in."""
        kinds = f"Tables and pictures (*.csv *.tsv *.txt {' '.join('*' + ending for ending in PICTURE_ENDINGS)})"
        names, _ = QFileDialog.getOpenFileNames(self, "Bring in trials", "", f"{kinds};;All files (*)")
        if names:
            self.files_wanted.emit(names)

    def _show_picture_at(self, line: int) -> None:
        rows = self.model.rows_at(line)
        if len(rows) == 1:
            self.pictures.show_large(rows[0])

    def show_picture(self) -> None:
        """Show the picture of the picked trial, larger."""
        rows = self._picked_rows()
        if rows:
            self.pictures.show_large(rows[0])

    def leave_out(self) -> None:
        """Leave the picked trials out of the forecast, or take them in again if all of them are left out."""
        self.edits.leave_out(self._picked_rows())

    def plan_like(self) -> None:
        """Plan the shot as the picked trial was rendered."""
        rows = self._picked_rows()
        try:
            self.edits.plan_like(rows)
        except PemloError as error:
            self._report(error)

    def mark_good(self) -> None:
        """Mark the picked trials good enough."""
        self.edits.mark(self._picked_rows(), GOOD)

    def mark_bad(self) -> None:
        """Mark the picked trials not good enough."""
        self.edits.mark(self._picked_rows(), BAD)

    def _picked_rows(self) -> list[TrialRow]:
        rows: list[TrialRow] = self.table.selected()
        if not rows:
            self._report(InputError("No trial is picked.", "Pick one in the table first."))
        return rows

    def _on_dot_picked(self, index: int) -> None:
        self.table.pick(lambda row: row.index == index)


def _add(
    splitter: QSplitter, above: Sequence[QWidget], place: QVBoxLayout | None, below: Sequence[QWidget], indent: int = 0
) -> QWidget:
    part = QWidget()
    column = QVBoxLayout(part)
    column.setContentsMargins(indent, 2, 8, 4)
    column.setSpacing(4)
    for widget in above:
        column.addWidget(widget)
    if place is not None:
        column.addLayout(place, 1)
    for widget in below:
        column.addWidget(widget)
    splitter.addWidget(part)
    return part
