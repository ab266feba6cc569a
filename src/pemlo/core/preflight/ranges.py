"""Checks of what is rendered: ranges with handles, steps, pieces, cameras. Pure."""

from collections.abc import Sequence

from pemlo.core.frames import Range, format_frames, format_ranges
from pemlo.core.preflight.check_context import CheckContext
from pemlo.core.preflight.disk import frames_there
from pemlo.core.preflight.finding import Finding, Fix, fine, not_known, wrong
from pemlo.core.preflight.fixes import as_one, set_row
from pemlo.core.preflight.written_paths import frames_of_row, paths_of
from pemlo.core.project.edited import EditedShot
from pemlo.core.project.edits import set_shot
from pemlo.core.project.launch import LaunchRow
from pemlo.core.project.project import Project
from pemlo.core.project.shots import Shot
from pemlo.core.units import counted


def launch_has_the_shot(here: CheckContext) -> list[Finding]:
    """A launch that says something of other shots says something of this one, too."""
    name, found = "all shots", []
    for shot in here.project.shots:
        if shot.name not in here.left_out:
            found.append(fine(name, shot.name))
            continue
        words = f"No launch row for {shot.name}: checked as planned."
        mend = Fix(f"Launch {shot.name} as planned", set_row(shot.name))
        found.append(not_known(name, words, "Say what it is set to.", shot.name, mend))
    return found


def range_covers_the_shot(here: CheckContext) -> list[Finding]:
    """All frames of the shot are rendered, with the handles that are wanted, and none beside them."""
    name, found = "range", []
    for shot in here.project.shots:
        rows = here.rows[shot.name]
        if any(row.first is None or row.last is None for row in rows):
            found.append(
                not_known(name, f"The range of {shot.name} is not known.", "Say its first and last frame.", shot.name)
            )
            continue
        parts, launched = shot.parts_to_render(shot.settings), _joined(shot, rows)
        if launched == parts or (len(parts) == 1 and (launched[0][0], launched[-1][1]) == parts[0]):
            found.append(fine(name, shot.name))
            continue
        if _rest_is_there(here, shot, rows):
            found.append(fine(name, shot.name, f"The other frames of {shot.name} exist."))
            continue
        has = f", with {counted(shot.handles, 'frame')} at either end" if shot.handles else ""
        wants = format_ranges(parts)
        wanted = f"frame {wants} alone, as nothing moves in it," if shot.still else f"frames {wants}{has}"
        words = f"{shot.name} is to have {wanted} and has {format_ranges(launched)} in the launch."
        mend = Fix(f"Set {shot.name} to {wants}", as_one(shot.name)) if len(rows) == 1 or len(parts) > 1 else None
        found.append(wrong(name, words, f"Use {wants}.", shot.name, mend))
    return found


def _joined(shot: Shot, rows: Sequence[LaunchRow]) -> tuple[Range, ...]:
    """Return first and last frames of what rows launch, those that meet as one."""
    step = shot.step * shot.settings.frame_step
    ranges: list[Range] = []
    for first, last in sorted((row.first or 0, row.last or 0) for row in rows):
        if ranges and first <= ranges[-1][1] + step:
            ranges[-1] = ranges[-1][0], max(ranges[-1][1], last)
        else:
            ranges.append((first, last))
    return tuple(ranges)


def _rest_is_there(here: CheckContext, shot: Shot, rows: Sequence[LaunchRow]) -> bool:
    """Return whether the frames of a shot that a launch leaves out are there already."""
    step, parts = shot.step * shot.settings.frame_step, shot.parts_to_render(shot.settings)
    launched = {frame for row in rows for frame in frames_of_row(row)}
    left = set(shot.rendered_frames(shot.settings)) - launched
    if not left or not launched <= {frame for first, last in parts for frame in range(first, last + 1)}:
        return False
    arrived_frames: set[int] = set()
    for first, last in parts:
        whole = rows[0].model_copy(update={"first": first, "last": last, "step": step})
        paths = paths_of(whole)
        if len(paths) != len(frames_of_row(whole)):
            return False
        arrived_frames |= set(frames_there(here, whole, paths))
    return left <= arrived_frames


def range_is_the_edits(here: CheckContext) -> list[Finding]:
    """The brief has the frames that the last edit needs."""
    name, found = "edit", []
    edited = here.project.edited
    if not edited.name:
        return []
    for shot in here.project.shots:
        said = edited.of(shot.name)
        if said is None:
            words = f"{shot.name} is in the brief, and not in the edit {edited.name}."
            found.append(not_known(name, words, "Ask whether it is still wanted.", shot.name))
        elif (said.first, said.last) != (shot.first, shot.last):
            words = (
                f"{shot.name} has the frames {shot.first}-{shot.last} in the brief, {said.first}-{said.last} in the "
            )
            words += f"edit {edited.name}."

            def mend(project: Project, said: EditedShot = said) -> Project:
                return _as_edited(project, said)

            todo = f"Use {said.first}-{said.last}."
            found.append(wrong(name, words, todo, shot.name, Fix(f"Set the brief to {said.first}-{said.last}", mend)))
        else:
            found.append(fine(name, shot.name))
    return found


def _as_edited(project: Project, said: EditedShot) -> Project:
    """Return a film with the range of an edit in the brief, and in the launch if that has the shot in one piece."""
    changed = set_shot(project, said.shot, first=said.first, last=said.last, ranges=())
    if sum(row.shot == said.shot for row in project.launch) != 1:
        return changed
    return as_one(said.shot)(changed)


def step_is_the_plans(here: CheckContext) -> list[Finding]:
    """Every so many frames are rendered as the plan says."""
    name, found = "step", []
    for shot, row in here.each():
        planned = shot.step * shot.settings.frame_step
        if row.step is None:
            found.append(not_known(name, f"The step of {shot.name} is not known.", "", shot.name))
        elif row.step == planned:
            found.append(fine(name, shot.name))
        else:
            words = f"{shot.name} renders every {_nth(row.step)} frame, and every {_nth(planned)} is planned."
            mend = Fix(f"Set the step of {shot.name} to {planned}", set_row(shot.name, step=planned))
            found.append(wrong(name, words, f"Use step {planned}.", shot.name, mend))
    return found


def _nth(step: int) -> str:
    return {1: "single", 2: "second", 3: "third"}.get(step, f"{step}th")


def pieces_meet(here: CheckContext) -> list[Finding]:
    """Pieces of a shot's range neither overlap nor leave gaps."""
    name, found = "pieces", []
    for shot in here.project.shots:
        rows = sorted((row for row in here.rows[shot.name] if row.first is not None), key=lambda row: row.first or 0)
        if len(rows) < 2:
            found.append(fine(name, shot.name))
            continue
        seen: set[int] = set()
        twice: set[int] = set()
        for row in rows:
            frames = set(frames_of_row(row))
            twice |= seen & frames
            seen |= frames
        step = rows[0].step or 1
        gaps = set(range(min(seen), max(seen) + 1, step)) - seen if seen else set()
        if shot.ranges:
            gaps &= set(shot.rendered_frames(shot.settings))
        what, those = ("overlap: rendered twice would be", twice) if twice else ("leave a gap: nobody renders", gaps)
        if those:
            words = f"Pieces of {shot.name} {what} {format_frames(tuple(sorted(those)))}."
            how = "each of its ranges" if shot.ranges else "in one piece"
            mend = Fix(f"Launch {shot.name} {how}", as_one(shot.name))
            found.append(wrong(name, words, "Let each begin where the last ends.", shot.name, mend))
        else:
            found.append(fine(name, shot.name))
    return found


def camera_is_named(here: CheckContext) -> list[Finding]:
    """Where a shot has several cameras, one of them is named."""
    name, found = "camera", []
    for shot, row in here.each():
        if len(shot.cameras) < 2 and not row.camera:
            found.append(fine(name, shot.name))
        elif not row.camera:
            words = (
                f"{shot.name} has {len(shot.cameras)} cameras ({', '.join(shot.cameras)}), and the launch names none."
            )
            found.append((wrong if here.typed else not_known)(name, words, "Name the camera.", shot.name))
        elif shot.cameras and row.camera not in shot.cameras:
            words = f"{shot.name} is launched with the camera {row.camera}, and has {', '.join(shot.cameras)}."
            mend = Fix(f"Use {shot.cameras[0]} for {shot.name}", set_row(shot.name, camera=shot.cameras[0]))
            found.append(wrong(name, words, "Name one of them.", shot.name, mend))
        else:
            found.append(fine(name, shot.name))
    return found
