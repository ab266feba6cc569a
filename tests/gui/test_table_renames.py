"""A name that is typed while a table is sorted or filtered: what belongs to it follows, and no cell is lost."""

import pytest
from PySide6.QtWidgets import QLineEdit

from film import exact_trial, make_project, make_shot
from pemlo.app.document import Document
from pemlo.gui.brief.panel import BriefPanel
from pemlo.gui.handover.handover_edits import HandoverEdits
from pemlo.gui.handover.launch_box import LaunchBox
from window import type_in_cell


@pytest.fixture
def document():
    shots = tuple(make_shot(name, 40) for name in ("quay_010", "quay_020", "lamp_010"))
    return Document(make_project(shots=shots, trials=(exact_trial("quay_020", 5, 256),)))


@pytest.mark.parametrize("arranged", [{}, {"sort": "shot", "descending": True}, {"filter": "quay"}])
def test_a_shot_is_renamed_with_its_trials(qtbot, document, arranged):
    heard = []
    panel = BriefPanel(document, heard.append, None)
    qtbot.addWidget(panel)
    document.changed.connect(lambda _: panel.show_project(document.project, None))
    panel.show_project(document.project, None)
    panel.resize(1000, 700)
    panel.show()
    panel.shots.arranging.arrange(**arranged)
    line = [row.shot.name for row in panel.shots.table.lines].index("quay_020")
    type_in_cell(qtbot, panel.shots, line, "shot", "pier_020")
    assert heard == []
    assert [shot.name for shot in document.project.shots] == ["quay_010", "pier_020", "lamp_010"]
    assert document.project.trials[0].shot == "pier_020"
    assert panel.shots.viewport().findChild(QLineEdit) is None
    assert not panel.shots_model.held


@pytest.mark.parametrize("arranged", [{}, {"sort": "samples"}, {"filter": "quay"}])
def test_a_row_of_the_launch_comes_to_be_while_the_table_is_arranged(qtbot, document, arranged):
    heard = []
    box = LaunchBox(document, HandoverEdits(document, heard.append), heard.append, None)
    qtbot.addWidget(box)
    document.changed.connect(lambda _: box.show_project(document.project))
    box.show_project(document.project)
    box.resize(900, 500)
    box.show()
    box.table.arranging.arrange(**arranged)
    line = [cells.row.shot for cells in box.table.table.lines].index("quay_020")
    type_in_cell(qtbot, box.table, line, "samples", "77")
    assert heard == []
    assert [(row.shot, row.samples) for row in document.project.launch] == [("quay_020", 77)]
    assert box.table.viewport().findChild(QLineEdit) is None
    assert not box.model.held
