"""The picked machine: how many, frames at once, one night more, off. GUI thread."""

from PySide6.QtWidgets import QWidget

from pemlo.core.project.machine_hours import closed_nights
from pemlo.core.project.project import Project
from pemlo.gui.common.count_box import CountBox
from pemlo.gui.common.enabling import enable
from pemlo.gui.common.flow import FlowLayout
from pemlo.gui.common.labels import button, label
from pemlo.gui.runsheet.run_edits import RunEdits

MOST_COUNT, MOST_AT_ONCE = 100_000, 1024


class MachineBar(QWidget):
    """The bar."""

    def __init__(self, edits: RunEdits) -> None:
        super().__init__()
        self._name = ""
        self.name = label("", "title")
        self.count = CountBox("how many", "Equal machines", 0, MOST_COUNT)
        self.at_once = CountBox("in parallel", "Frames that each renders in parallel", 1, MOST_AT_ONCE)
        self.count.changed.connect(lambda value: edits.set_count(self._name, value))
        self.at_once.changed.connect(lambda value: edits.set_at_once(self._name, value))
        self.night = button(
            "One night more", "Open the first night on which it is closed", lambda: edits.one_night_more(self._name)
        )
        self.usual = button(
            "Usual hours", "Forget its other hours on single dates", lambda: edits.usual_hours(self._name), link=True
        )
        self.switch = button("Switch off", "Leave it out, or take it in again", lambda: edits.switch(self._name))
        row = FlowLayout(self, spacing=14)
        for widget in (self.name, self.count, self.at_once, self.night, self.switch, self.usual):
            row.addWidget(widget)

    def show_machine(self, project: Project, name: str) -> None:
        """Show a machine; none of that name hides all."""
        machine = next((one for one in project.machines if one.name == name), None)
        self.setVisible(machine is not None)
        if machine is None:
            return
        self._name = name
        self.name.setText(machine.name)
        self.count.show_value(machine.count)
        self.at_once.show_value(machine.frames_at_once)
        nights = "" if closed_nights(project, machine) else "It is free every night before the deadline."
        enable(self.night, nights if machine.count else "It is switched off.")
        self.usual.setVisible(bool(machine.exceptions))
        self.switch.setText("Switch off" if machine.count else "Switch on")
