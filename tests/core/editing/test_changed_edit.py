"""A changed edit held against the film."""

from pemlo.core.editing.changed_edit import edit_change
from pemlo.core.editing.edit import Cut, Edit, shots_of
from pemlo.core.preflight.check_context import situation_of
from pemlo.core.preflight.finding import FINE, WRONG
from pemlo.core.preflight.ranges import range_is_the_edits
from pemlo.core.project.edits import set_shot
from pemlo.core.project.project import Project
from pemlo.core.project.shots import Shot
from pemlo.core.project.trials import Trial


def film(*shots):
    made = tuple(Shot(name=name, first=first, last=last, asked={"samples": 64}) for name, first, last in shots)
    return Project(title="x", start="2031-01-01T00:00Z", delivery={"deadline": "2031-01-02T00:00Z"}, shots=made)


def edit(*cuts, fps=24.0):
    at = 0.0
    made = []
    for name, first, last in cuts:
        made.append(Cut(name, first, last, fps, at))
        at += (last - first + 1) / fps
    return Edit("reel 2", fps, shots_of(made))


def test_new_gone_longer_shorter_and_the_order_of_the_edit():
    project = film(("010", 1, 100), ("020", 1, 50), ("030", 1, 80), ("040", 1, 10))
    change = edit_change(project, edit(("030", 0, 79), ("010", 0, 119), ("050", 0, 23), ("040", 0, 4)))
    assert {shot.shot: shot.fate for shot in change.shots} == {"030": "same", "010": "longer", "050": "new", "040": "shorter", "020": "gone"}  # fmt: skip
    assert [shot.name for shot in change.project.shots] == ["030", "010", "050", "040"]
    # The edit numbers from 0, the film from 1.
    assert [(shot.first, shot.last) for shot in change.project.shots] == [(1, 80), (1, 120), (1, 24), (1, 5)]
    assert change.words == "reel 2: 1 new, 1 gone, 1 longer, 1 shorter; 11 frames fewer."


def test_timecode_of_the_material_leaves_first_frames_as_they_are():
    change = edit_change(film(("010", 1, 100)), edit(("010", 86_400, 86_519), ("020", 90_000, 90_009)))
    assert [(shot.first, shot.last) for shot in change.project.shots] == [(1, 120), (1, 10)]


def test_the_same_numbers_are_taken_as_they_stand():
    change = edit_change(film(("010", 1001, 1100), ("020", 1001, 1050)), edit(("010", 1011, 1110), ("020", 1001, 1050)))
    assert [shot.fate for shot in change.shots] == ["moved", "same"]
    assert (change.project.shots[0].first, change.project.shots[0].last) == (1011, 1110)


def test_an_offset_that_most_shots_have_is_the_numbering():
    project = film(("010", 1001, 1100), ("020", 1001, 1050), ("030", 1001, 1040))
    change = edit_change(project, edit(("010", 86_400, 86_499), ("020", 86_410, 86_449), ("030", 86_400, 86_439)))
    assert [shot.fate for shot in change.shots] == ["same", "shorter", "same"]
    assert (change.project.shots[1].first, change.project.shots[1].last) == (1011, 1050)


def test_names_that_hold_the_shots_name():
    change = edit_change(film(("070", 1, 48), ("080", 1, 48)), edit(("sq2_070_v012", 1, 60), ("0800", 1, 48)))
    assert [(shot.shot, shot.fate) for shot in change.shots] == [("070", "longer"), ("0800", "new"), ("080", "gone")]
    assert "called sq2_070_v012 in the edit" in change.shots[0].notes


def test_trials_stay_and_gone_shots_can_be_kept():
    project = film(("010", 1, 100), ("020", 1, 50))
    project = project.replace(trials=(Trial(shot="010", frame=1, samples=64, seconds=10),))
    change = edit_change(project, edit(("010", 1, 90)), keep_gone=True)
    kept = change.project
    assert change.words == "reel 2: 1 not in it and kept, 1 shorter; 10 frames fewer."
    assert [shot.name for shot in kept.shots] == ["010", "020"]
    assert kept.trials == project.trials


def test_layers_of_a_shot_change_together():
    project = film(("010", 1, 100), ("010 back", 1, 100))
    project = project.replace(shots=(project.shots[0], project.shots[1].replace(part_of="010")))
    change = edit_change(project, edit(("010", 1, 110)))
    assert [(shot.name, shot.last) for shot in change.project.shots] == [("010", 110), ("010 back", 110)]


def test_another_rate_and_retimes_are_said():
    made = Edit("reel 2", 25.0, shots_of([Cut("010", 1, 100, 25.0, 0, 2.0), Cut("010", 50, 120, 25.0, 9)]), ("black",))
    change = edit_change(film(("010", 1, 100)), made)
    assert any("25 frames a second, the film at 24" in note for note in change.notes)
    assert any("Left aside: black" in note for note in change.notes)
    assert "retimed to 200%" in change.shots[0].notes
    assert any("cut into 2 clips" in note for note in change.shots[0].notes)


def test_an_edit_begins_a_film():
    change = edit_change(film(), edit(("010", 0, 23)))
    assert [(shot.name, shot.first, shot.last) for shot in change.project.shots] == [("010", 1, 24)]
    assert edit_change(change.project, edit(("010", 0, 23))).words.endswith("as they are.")


def test_the_brief_is_held_against_the_edit_that_was_taken():
    taken = edit_change(film(("010", 1, 100)), edit(("010", 1, 110))).project
    assert [one.outcome for one in range_is_the_edits(situation_of(taken))] == [FINE]
    wrong = set_shot(taken, "010", last=100)
    [found] = range_is_the_edits(situation_of(wrong))
    assert found.outcome == WRONG
    assert found.words == "010 has the frames 1-100 in the brief, 1-110 in the edit reel 2."
    assert found.mend.change(wrong) == taken
    assert range_is_the_edits(situation_of(film(("010", 1, 100)))) == []
