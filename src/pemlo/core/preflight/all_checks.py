"""All checks, in the order in which they are listed, and how many shots are ready. Pure."""

from collections.abc import Callable, Sequence

from pemlo.core.preflight import disk, left_on, machines, names, pictures, ranges, ready
from pemlo.core.preflight.check_context import CheckContext
from pemlo.core.preflight.finding import FINE, UNKNOWN, WRONG, Finding

Check = Callable[[CheckContext], list[Finding]]
CHECKS: tuple[Check, ...] = (
    ranges.launch_has_the_shot, ranges.range_covers_the_shot, ranges.range_is_the_edits, ranges.step_is_the_plans,
    ranges.pieces_meet, ranges.camera_is_named, pictures.size_is_the_plans, pictures.sides_are_even,
    pictures.settings_are_the_plans, pictures.pictures_and_no_movie, pictures.format_holds_what_is_needed,
    pictures.layers_are_written,
    pictures.denoiser_goes_with_motion_blur, left_on.no_test_is_left_on, left_on.pixels_are_square,
    left_on.colour_is_as_delivered, names.name_can_be_read, names.characters_travel, names.names_are_apart,
    disk.nothing_is_overwritten, disk.folders_can_be_written, disk.there_is_room, machines.memory_suffices,
    machines.machines_have_hours, machines.deadline_can_be_kept, machines.zone_is_the_deadlines,
    machines.kept_data_stay_true, machines.long_frames_are_saved, ready.shots_are_timed, ready.shots_were_looked_at,
    ready.own_lines_are_ticked,
)  # fmt: skip
_ORDER = (WRONG, UNKNOWN, FINE)


def run_checks(here: CheckContext) -> tuple[Finding, ...]:
    """Return what all checks find, the worst first, and within that in the order of the checks."""
    return in_order([finding for check in CHECKS for finding in check(here)])


def in_order(found: Sequence[Finding]) -> tuple[Finding, ...]:
    """Return findings with the worst first, as they came within that."""
    return tuple(sorted(found, key=lambda one: _ORDER.index(one.outcome)))


def ready_shots(here: CheckContext, found: Sequence[Finding]) -> tuple[str, ...]:
    """Return the shots of which nothing is wrong, and all is known."""
    open_ = {finding.shot for finding in found if finding.outcome != FINE}
    return tuple(shot.name for shot in here.project.shots if shot.name not in open_)


def unsure_shots(here: CheckContext, found: Sequence[Finding]) -> tuple[str, ...]:
    """Return the shots of which nothing is wrong, and something is not known."""
    wrong = {finding.shot for finding in found if finding.outcome == WRONG}
    unknown = {finding.shot for finding in found if finding.outcome == UNKNOWN} - wrong
    return tuple(shot.name for shot in here.project.shots if shot.name in unknown)
