"""A changed edit held against the film: which shots are new, gone, longer, shorter; and the film with it. Pure."""

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from pemlo.core.editing.edit import CutShot, Edit
from pemlo.core.project.delivery import rate_name
from pemlo.core.project.edited import EditedFilm, EditedShot
from pemlo.core.project.edits import replace_shots
from pemlo.core.project.project import Project
from pemlo.core.project.record import build
from pemlo.core.project.settings import USUAL_SAMPLES, ShotSettings
from pemlo.core.project.shot_names import stands_in
from pemlo.core.project.shots import Shot
from pemlo.core.units import counted

Fate = Literal["new", "gone", "kept", "longer", "shorter", "moved", "same"]
_SAID: dict[Fate, str] = {
    "new": "new", "gone": "gone", "kept": "not in it and kept", "longer": "longer", "shorter": "shorter",
    "moved": "moved",
}  # fmt: skip
FIRST_FRAME = 1
NUMBERED_FROM = (0, -1)  # material numbered as the film is, or from 0 where the film is from 1


@dataclass(frozen=True)
class ShotChange:
    """What an edit does to a shot.

    Attributes
    ----------
    shot : str
        Of the film.
    called : str
        In the edit; empty if it is gone.
    fate : str
        ``moved``: as many frames, but others; ``kept``: not in the edit, and not taken out of the film.
    before, after : tuple of int or None
        First and last frame.
    notes : tuple of str
        What else there is to be said: retimes, other rates, other names.
    """

    shot: str
    called: str
    fate: Fate
    before: tuple[int, int] | None
    after: tuple[int, int] | None
    notes: tuple[str, ...] = ()

    @property
    def frames(self) -> int:
        """Frames more; below 0 if there are fewer."""
        return _count(self.after) - _count(self.before)


@dataclass(frozen=True)
class EditChange:
    """What an edit does to a film.

    Attributes
    ----------
    edit : Edit
    shots : tuple of ShotChange
        In the order of the edit, those that are gone last.
    notes : tuple of str
    project : Project
        With the edit.
    """

    edit: Edit
    shots: tuple[ShotChange, ...]
    notes: tuple[str, ...]
    project: Project

    @property
    def changed(self) -> tuple[ShotChange, ...]:
        return tuple(shot for shot in self.shots if shot.fate != "same")

    @property
    def words(self) -> str:
        """What changes, in a line."""
        counts = {fate: sum(shot.fate == fate for shot in self.shots) for fate in _SAID}
        said = [f"{counts[fate]} {words}" for fate, words in _SAID.items() if counts[fate]]
        if not said:
            return f"{self.edit.name} has the {counted(len(self.shots), 'shot')} of the film as they are."
        frames = sum(shot.frames for shot in self.shots)
        more = f"{counted(abs(frames), 'frame')} {'more' if frames > 0 else 'fewer'}" if frames else "as many frames"
        return f"{self.edit.name}: {', '.join(said)}; {more}."


def _count(frames: tuple[int, int] | None) -> int:
    return 0 if frames is None else frames[1] - frames[0] + 1


def edit_change(project: Project, edit: Edit, *, keep_gone: bool = False, first_frame: int | None = None) -> EditChange:
    """Hold an edit against a film.

    Where frames of the edit's material are numbered as those of the film are, its ranges are taken as they stand; else
    shots keep their first frame, and get as many frames as the edit needs.

    Parameters
    ----------
    project : Project
    edit : Edit
    keep_gone : bool
        Whether shots that the edit does not have stay in the film, at its end.
    first_frame : int, optional
        Of new shots, where frames are numbered otherwise; that of most shots of the film unless given.
    """
    names = _matched(project, edit)
    shift = _shift(project, edit, names)
    begin = first_frame if first_frame is not None else _common_first(project)
    shots: list[Shot] = []
    changes: list[ShotChange] = []
    noted: list[EditedShot] = []
    for cut in edit.shots:
        mine = [shot for shot in project.shots if shot.film_name == names.get(cut.name)]
        if not mine:
            first = begin if shift is None or shift not in NUMBERED_FROM else cut.first - shift
            new = _new_shot(project, cut, shots, first, edit.fps)
            shots.append(new)
            noted.append(EditedShot(shot=new.name, first=new.first, last=new.last))
            changes.append(
                ShotChange(new.name, cut.name, "new", None, (new.first, new.last), _notes(project, cut, new))
            )
            continue
        for shot in mine:
            range_ = _range(cut, shot, shift)
            fields = {**dict(shot), "first": range_[0], "last": range_[1], "ranges": ()}
            shots.append(shot if range_ == (shot.first, shot.last) else build(Shot, fields, f"Shot {shot.name}"))
            noted.append(EditedShot(shot=shot.name, first=range_[0], last=range_[1]))
            before = shot.first, shot.last
            changes.append(
                ShotChange(shot.name, cut.name, _fate(before, range_), before, range_, _notes(project, cut, shot))
            )
    existing = {shot.name for shot in shots}
    gone = [shot for shot in project.shots if shot.name not in existing]
    for shot in gone:
        before = shot.first, shot.last
        shot_change = ShotChange(shot.name, "", "kept", before, before)
        changes.append(shot_change if keep_gone else ShotChange(shot.name, "", "gone", before, None))
    if keep_gone:
        shots += gone
    edited = EditedFilm(name=edit.name, shots=tuple(noted))
    taken = replace_shots(project, shots).replace(edited=edited)
    return EditChange(edit, tuple(changes), _film_notes(project, edit), taken)


def _fate(before: tuple[int, int], after: tuple[int, int]) -> Fate:
    if before == after:
        return "same"
    more = _count(after) - _count(before)
    return "longer" if more > 0 else "shorter" if more < 0 else "moved"


def _matched(project: Project, edit: Edit) -> dict[str, str]:
    """Return by which names of the film shots of the edit go: their own, or one that stands alone in them."""
    films = list(dict.fromkeys(shot.film_name for shot in project.shots))
    found = {cut.name: cut.name for cut in edit.shots if cut.name in films}
    taken = set(found.values())
    free = [name for name in films if name not in taken]
    for cut in edit.shots:
        if cut.name in found:
            continue
        fit = [name for name in free if name not in taken and stands_in(name, cut.name)]
        if len(fit) == 1:
            found[cut.name] = fit[0]
            taken.add(fit[0])
    return found


def _shift(project: Project, edit: Edit, names: Mapping[str, str]) -> int | None:
    """Return by how much frames of the edit's material are numbered higher than the film's; None if that differs.

    Material is often numbered from 0 where films are from 1, or by the timecode of a tape.
    """
    pairs = [(cut, shot) for cut in edit.shots for shot in project.on_screen if shot.film_name == names.get(cut.name)]
    if not pairs:
        return None
    offsets = Counter(cut.first - shot.first for cut, shot in pairs)
    common = max(offsets, key=lambda offset: (offsets[offset], -abs(offset)))
    if 2 * offsets[common] > len(pairs) and (len(pairs) > 1 or common in NUMBERED_FROM):
        return common
    meet = sum(cut.first <= shot.last and shot.first <= cut.last for cut, shot in pairs)
    return 0 if 2 * meet > len(pairs) else None


def _range(cut: CutShot, shot: Shot, shift: int | None) -> tuple[int, int]:
    """Return the frames of a shot that the edit needs: as they are numbered, or as many from its first one on."""
    if shift is not None:
        first, last = cut.first - shift, cut.last - shift
        if shift in NUMBERED_FROM or (first <= shot.last and shot.first <= last):
            return first, last
    return shot.first, shot.first + cut.count - 1


def _common_first(project: Project) -> int:
    firsts = [shot.first for shot in project.shots]
    return max(firsts, key=firsts.count) if firsts else FIRST_FRAME


def _new_shot(project: Project, cut: CutShot, before: Sequence[Shot], first: int, edit_fps: float) -> Shot:
    """Return a shot that the film does not have: asked for like the one before it."""
    like = before[-1] if before else project.shots[0] if project.shots else None
    fields: dict[str, object] = {}
    if abs(cut.fps - edit_fps) > 0.002:
        fields["fps"] = cut.fps
    if like is None:
        fields["asked"] = ShotSettings(samples=USUAL_SAMPLES)
        return _built(cut, first, fields)
    if like.width is not None:
        fields |= {"width": like.width, "height": like.height}
    fields |= {name: getattr(like, name) for name in ("step", "handles", "asked", "look", "moves")}
    return _built(cut, first, fields)


def _built(cut: CutShot, first: int, fields: Mapping[str, object]) -> Shot:
    """Return a shot of so many frames, or say which shot of the edit cannot be."""
    return build(Shot, {**fields, "name": cut.name, "first": first, "last": first + cut.count - 1}, f"Shot {cut.name}")


def _notes(project: Project, cut: CutShot, shot: Shot) -> tuple[str, ...]:
    notes = []
    if shot.film_name != cut.name:
        notes.append(f"called {cut.name} in the edit")
    if cut.times > 1:
        notes.append(f"cut into {cut.times} clips; frames between them are counted")
    notes += [_speed_words(speed) for speed in cut.speeds]
    if abs(cut.fps - project.rate_of(shot)) > 0.002:
        rates = rate_name(cut.fps), rate_name(project.rate_of(shot))
        notes.append(f"at {rates[0]} frames a second in the edit, {rates[1]} in the film")
    return tuple(notes)


def _speed_words(speed: float) -> str:
    if speed == 0:
        return "a frame that stands"
    return f"retimed to {abs(speed):.0%}" + (", backwards" if speed < 0 else "")


def _film_notes(project: Project, edit: Edit) -> tuple[str, ...]:
    notes = []
    if project.shots and abs(edit.fps - project.delivery.fps) > 0.002:
        rates = rate_name(edit.fps), rate_name(project.delivery.fps)
        notes.append(
            f"The edit is at {rates[0]} frames a second, the film at {rates[1]}; frames are counted as in the edit."
        )
    if edit.left_aside:
        notes.append(f"Left aside: {', '.join(edit.left_aside)}.")
    return tuple(notes)
