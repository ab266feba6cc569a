"""What the plan box of Trade says: the plan that was found, whether it still holds, what changed since. GUI thread."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QWidget

from pemlo.app.document import Document
from pemlo.app.planner import Found, Planner
from pemlo.core.cost.posterior import Disagreement
from pemlo.core.project.scenes import scene_of
from pemlo.core.project.settings import ShotSettings
from pemlo.gui.trade import presenter
from pemlo.gui.trade.plan_box import PlanBox
from pemlo.gui.trade.plans_dialog import PlansDialog
from pemlo.gui.trade.trade_edits import TradeEdits
from pemlo.words.disagreements import disagreement_headline


class PlanSide:
    """The plan that was found, in its box.

    Attributes
    ----------
    apart : tuple of Disagreement
        Trials that do not agree: no plan holds until they do.
    found : Found or None
        The plan, and the film that it is of.
    """

    def __init__(self, document: Document, planner: Planner, edits: TradeEdits, box: PlanBox) -> None:
        self._document, self._planner, self._edits, self._box = document, planner, edits, box
        self.apart: tuple[Disagreement, ...] = ()
        self.found: Found | None = None
        self._adopted: dict[str, ShotSettings] = {}
        self._before_adopted: dict[str, ShotSettings] = {}
        box.wanted.connect(lambda goal: planner.plan(goal, box.wanted_alike, few=box.few.isChecked()))
        box.adopted.connect(self._on_adopted)
        box.comparing.connect(lambda: self.compare_plans(box))
        planner.planned.connect(self._on_planned)

    def forget(self) -> None:
        """Forget what was found and adopted for the film that was here before."""
        self.found = None
        self._adopted, self._before_adopted = {}, {}
        self._box.show_plan("", None, current=False)

    def show(self) -> None:
        """Show the plan beside the film as it stands."""
        since = presenter.since_words(self._document.project, self._adopted, self._before_adopted)
        self._box.say_since(since)
        if self.found is None:
            return
        if self.apart:
            words = disagreement_headline(self._document.project, self.apart)
            self._box.show_refusal(f"{words} No plan holds until they agree.")
            return
        current = self._planner.is_current(self.found)
        project = self.found.project
        words = presenter.plan_words(self.found.plan, project)
        changes = presenter.plan_changes(self.found.plan, project)
        out = presenter.way_out(self.found.plan, project) if current else None
        look = None if out is None else out.look
        self._box.show_way_out(look, can_render=look is not None and bool(scene_of(project.shot(look.shot))))
        if out is not None:
            words = " ".join(out.words[:2])
        adopted = self.found.plan.is_taken(self._document.project)
        self._box.show_plan(words, changes, current=current, adopted=adopted)

    def compare_plans(self, parent: QWidget) -> None:
        """Show kept plans side by side."""
        edits = self._edits
        dialog = PlansDialog(parent, self._planner.compare, edits.keep, edits.take, edits.drop)
        dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        dialog.open()

    def _on_planned(self, found: Found) -> None:
        self.found = found
        self.show()

    def _on_adopted(self) -> None:
        if self.found is None or self.apart or not self._planner.is_current(self.found):
            return
        self._before_adopted = {shot.name: shot.settings for shot in self._document.project.shots}
        self._adopted = self.found.plan.settings()
        self._edits.adopt(self.found.plan)
