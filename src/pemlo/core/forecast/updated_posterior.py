"""What the frames that are in teach: what shots cost, along them too, and how fast machines are. NumPy; tens of ms.

Draws of what was known before are conditioned on the frames, linearly in logarithms: each draw is moved by what it
would have predicted wrongly. Frames of one stretch of a shot on one machine are brought together first, so that a
thousand of them weigh what they say and take no longer than twenty.

References
----------
.. [1] Conditioning of draws: "Matheron's rule", A. Journel and C. Huijbregts, "Mining Geostatistics", Academic Press
   1978 (from memory); with covariances from the draws, the ensemble Kalman filter of G. Evensen, J. Geophys. Res. 99,
   1994 (from memory).
"""

from collections.abc import Container, Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np
import numpy.typing as npt

from pemlo.core.arrays import Floats, Ints
from pemlo.core.cost.along import between, knots, places_within
from pemlo.core.cost.draws import FilmDraws, ShotDraws, seconds_along, seconds_of
from pemlo.core.cost.frame_arrays import frames_of
from pemlo.core.cost.posterior import Fit
from pemlo.core.forecast.completed_frames import UNKNOWN_MACHINE, CompletedFrames, MachineRecord, Pool
from pemlo.core.forecast.in_common import in_common
from pemlo.core.forecast.mixed_stretches import Contrasts, contrasts, learned_speeds, shares_of
from pemlo.core.forecast.pace_change import clearest_change
from pemlo.core.forecast.spilling import slot_speeds
from pemlo.core.project.project import Project
from pemlo.core.project.settings import FrameSettings
from pemlo.core.project.shots import Shot

# Common practice, no source: a typed speed is off by a quarter nine times in ten, and all of them together by a sixth,
# since a trial is timed on a quiet machine and a film is not.
OWN_SPEED_SD, COMMON_SPEED_SD = 0.14, 0.09
FAR, FAR_SD = 2.5, 0.8  # a speed so many deviations off was no slip of the pen: then nearly all is believed of it
SHOT_SD = 0.03  # what frames of a shot have in common that its trials had not
STRETCHES, FEWEST_STRETCHES = 12, 2  # of a shot: the process along it is smooth over longer ones
MOST_TOGETHER = 1200  # stretches of all shots and machines: their number, cubed, is what learning takes
MIXED = -2  # the machine of a stretch in which frames of several are together
LEAST_SCATTER, WORST_SCATTER = 0.01, 0.6
NEIGHBOURS_ENOUGH = 6  # differences of neighbours that tell how far frames scatter
MOST_BY_PAIRS = 60  # shots of which each pair is looked at; of more only what many have in common is no chance
UNRELATED = 0.15  # a correlation of a thousand draws below that is chance
WIDTHS = np.array([0.3, 0.45, 0.65, 1.0, 1.5, 2.2, 3.2])  # by how much draws may have been too wide or too narrow
FILM_WIDTH_SD, SHOT_WIDTH_SD = 0.7, 0.4  # of the log of that, for the film and for a shot beside it
LOSS_FRAMES = 40.0  # a typed loss counts as much as so many frames


@dataclass(frozen=True)
class UpdatedPosterior:
    """What is known with the frames that are in.

    Attributes
    ----------
    draws : dict of str to ShotDraws
        Of every shot.
    pace : (N, M) ndarray
        By what factor each machine of the brief is faster than it was given.
    loss : (N, M) ndarray
        Chance that a frame is lost on it.
    scatter : float
        How far frames scatter about what is expected of them, log.
    changed : mapping of int to float
        Machines whose pace changed, and when, seconds since the start; `pace` is that of since then.
    before : mapping of int to float
        What their pace was until then, the middle.
    """

    draws: dict[str, ShotDraws]
    pace: Floats
    loss: Floats
    scatter: float
    changed: Mapping[int, float] = field(default_factory=dict)
    before: Mapping[int, float] = field(default_factory=dict)

    def pace_of(self, frames: CompletedFrames) -> Floats:
        """Return the pace of the machine of each frame when it rendered it, the middle, (K,); 1 where none is known."""
        found = np.ones(len(frames))
        known = frames.machine != UNKNOWN_MACHINE
        found[known] = np.median(self.pace, axis=0)[frames.machine[known]]
        for machine, since in self.changed.items():
            found[(frames.machine == machine) & _begun_before(frames, since)] = self.before[machine]
        return found


@dataclass(frozen=True)
class _Stretches:
    """Frames of one stretch of a shot with the same settings on one machine, B of them.

    Attributes
    ----------
    shot, settings, machine : (B,) ndarray of int
    place : (B,) ndarray
    value : (B,) ndarray
        Middle of the log of their seconds.
    count : (B,) ndarray
    mixed : _Mixed, optional
        Where frames of several machines are together: the machine is `MIXED` then, and `value` on the reference one.
    """

    shot: Ints
    settings: Ints
    machine: Ints
    place: Floats
    value: Floats
    count: Floats
    mixed: "_Mixed | None" = None


@dataclass(frozen=True)
class _Mixed:
    """What share of each stretch each machine rendered, (B, M), and how machines differ within stretches."""

    share: Floats
    differ: Contrasts


def learn(
    project: Project,
    fit: Fit,
    draws: FilmDraws,
    frames: CompletedFrames,
    records: Sequence[MachineRecord],
    seed: int = 0,
) -> UpdatedPosterior:
    """Return what is known with the frames that are in; of a machine whose pace changed, its pace since then.

    Parameters
    ----------
    project : Project
    fit : Fit
        Of the trials.
    draws : FilmDraws
        Of that fit.
    frames : CompletedFrames
    records : sequence of MachineRecord
        What each machine did.
    seed : int
        >= 0.
    """
    changed: dict[int, float] = {}
    updated_posterior = _learn(project, fit, draws, frames, records, seed, changed)
    far = _far(updated_posterior)
    if far:
        updated_posterior = _learn(project, fit, draws, frames, records, seed, changed, far)
    while True:
        off = residuals(project, fit, updated_posterior, frames)
        another = clearest_change(project, frames, off, updated_posterior.scatter, changed)
        if another is None:
            return updated_posterior
        changed[another[0]] = another[1]
        updated_posterior = _learn(project, fit, draws, frames, records, seed, changed, far)


def _far(updated_posterior: UpdatedPosterior) -> frozenset[int]:
    """Return machines whose speed is so far from what was given that the belief in that only holds it back."""
    off = np.median(np.log(updated_posterior.pace), axis=0)
    return frozenset(np.flatnonzero(np.abs(off) > FAR * np.hypot(OWN_SPEED_SD, COMMON_SPEED_SD)).tolist())


def residuals(project: Project, fit: Fit, updated: UpdatedPosterior, frames: CompletedFrames) -> Floats:
    """Return by how much frames took longer than is expected of them on a machine as fast as it was given, log, (K,).

    NaN where it is not known what a frame took, or on which machine.
    """
    speeds = np.log(slot_speeds(project, fit, updated.draws, project.machines))
    known = frames.timed & (frames.machine != UNKNOWN_MACHINE)
    found = np.full(len(frames), np.nan)
    mine = frames.those(known)
    expected = np.log(expected_of(project, fit, updated.draws, mine))
    found[known] = np.log(mine.seconds) + speeds[mine.machine, mine.shot] - expected
    return found


def expected_of(project: Project, fit: Fit, draws: FilmDraws, frames: CompletedFrames) -> Floats:
    """Return what is expected of frames on the reference machine, the middle of the draws, s, (K,)."""
    found = np.full(len(frames), np.nan)
    for number, shot in enumerate(project.shots):
        for kind in np.unique(frames.settings[frames.shot == number]):
            mine = np.flatnonzero((frames.shot == number) & (frames.settings == kind))
            whole = _field(project, fit, draws[shot.name], shot, frames.rendered_with[int(kind)])
            at = place_of_frames(shot, frames.frame[mine])
            found[mine] = np.exp(_read(np.median(whole, axis=0)[None], shot, at)[0])
    return found


def _learn(
    project: Project,
    fit: Fit,
    draws: FilmDraws,
    frames: CompletedFrames,
    records: Sequence[MachineRecord],
    seed: int,
    changed: Mapping[int, float],
    far: Container[int] = (),
) -> UpdatedPosterior:
    """As `learn`; machines in `changed` count as others before that moment, s; of those in `far` little is believed."""
    random = np.random.default_rng([seed, 17])
    count = len(next(iter(draws.values())).theta)
    machines = len(project.machines) + len(changed)
    common = COMMON_SPEED_SD * random.standard_normal((count, 1))
    wide = [k in far or k in changed for k in range(len(project.machines))] + [False] * len(changed)
    own_sd = np.where(wide, FAR_SD, OWN_SPEED_SD)
    offs = common + own_sd * random.standard_normal((count, machines))
    loss = _losses(project, records, count, random)
    timed = frames.those(frames.timed)
    scatter = _scatter(timed, fit.spread.repeat_sd)
    if not len(timed):
        return UpdatedPosterior(dict(draws), np.exp(offs), loss, scatter)
    listed = [*project.machines, *(project.machines[k] for k in changed)]
    speeds = np.log(slot_speeds(project, fit, draws, listed))
    seen = _stretches(project, _with_others_before(project, timed, changed), speeds)
    covariance = COMMON_SPEED_SD**2 + np.diag(own_sd**2)
    if seen.mixed is not None:
        offs, covariance = learned_speeds(seen.mixed.differ, offs, covariance, scatter, random)
    field = {shot.name: _field(project, fit, draws[shot.name], shot, shot.settings) for shot in project.shots}
    guess = _guesses(project, fit, draws, seen, frames.rendered_with)
    field, guess = _widened(project, field, guess, seen, _noise(seen, scatter, frames.pool))
    apart = SHOT_SD * random.standard_normal((count, len(project.shots)))
    field = {shot.name: field[shot.name] + apart[:, k : k + 1] for k, shot in enumerate(project.shots)}
    guess = guess + apart[:, seen.shot]
    own = np.array([m.slot_speed() for m in listed])
    speed = speeds[seen.machine, seen.shot] if machines else np.zeros(len(seen.value))
    speed = np.where(seen.machine == MIXED, 0.0, speed)
    # Whose machine is not known: as fast as the middle one, give or take what they differ by.
    unknown = seen.machine == UNKNOWN_MACHINE
    speed = np.where(unknown, np.log(own).mean() if machines else 0.0, speed)
    share = _shares(seen, machines, frames.pool)
    off = common + (offs - common) @ share.T
    mixed = np.var(np.log(own)) if machines and frames.pool is None else 0.0
    noise = _noise(seen, scatter, frames.pool) + np.where(unknown, mixed, 0.0)
    wrong = seen.value + speed + off - guess + np.sqrt(noise) * random.standard_normal(guess.shape)
    related = _related(field, project)
    inner = _between(guess, seen, related) + np.diag(noise)
    if seen.mixed is None:
        inner += COMMON_SPEED_SD**2
        inner += (share * own_sd**2) @ share.T
        moves = COMMON_SPEED_SD**2 + own_sd[:, None] ** 2 * share.T
    else:
        moves = covariance @ share.T
        inner += share @ moves
    # (B, N): by how much each stretch asks each draw to move.
    asks = np.asarray(np.linalg.solve(inner, wrong.T), np.float64)
    offs = offs - (moves @ asks).T
    found = {}
    for number, shot in enumerate(project.shots):
        found[shot.name] = _moved(
            project, fit, draws[shot.name], shot, field[shot.name], number, guess, seen, related, asks
        )
    own_pace, others = np.exp(offs[:, : len(project.machines)]), np.median(np.exp(offs), axis=0)
    before = {one: float(others[len(project.machines) + k]) for k, one in enumerate(changed)}
    return UpdatedPosterior(found, own_pace, loss, scatter, dict(changed), before)


def _with_others_before(project: Project, frames: CompletedFrames, changed: Mapping[int, float]) -> CompletedFrames:
    """Return frames of which those before a machine's change are of a machine of their own."""
    machine = frames.machine.copy()
    for number, (one, since) in enumerate(changed.items()):
        machine[(frames.machine == one) & _begun_before(frames, since)] = len(project.machines) + number
    return replace(frames, machine=machine)


def _begun_before(frames: CompletedFrames, moment: float) -> npt.NDArray[np.bool_]:
    return np.asarray(frames.ended - np.nan_to_num(frames.seconds) < moment)


def _scatter(frames: CompletedFrames, believed: float) -> float:
    """Return how far frames scatter, log: from neighbours on one machine, whose difference is chance alone."""
    order = np.lexsort((frames.frame, frames.machine, frames.settings, frames.shot))
    logs = np.log(frames.seconds[order])
    same = np.ones(max(len(order) - 1, 0), bool)
    for key in (frames.shot, frames.machine, frames.settings):
        same &= key[order][1:] == key[order][:-1]
    apart = np.diff(logs)[same]
    if len(apart) < NEIGHBOURS_ENOUGH:
        return float(np.clip(believed, LEAST_SCATTER, WORST_SCATTER))
    # The middle of absolute differences, which a few gross ones do not move.
    measured = float(np.median(np.abs(apart))) / 0.6745 / np.sqrt(2.0)
    weight = len(apart) / (len(apart) + NEIGHBOURS_ENOUGH)
    return float(np.clip(weight * measured + (1 - weight) * believed, LEAST_SCATTER, WORST_SCATTER))


def _stretches(project: Project, frames: CompletedFrames, speeds: Floats) -> _Stretches:
    first = np.array([shot.first for shot in project.shots])[frames.shot]
    last = np.array([shot.last for shot in project.shots])[frames.shot]
    place = np.where(last > first, np.clip((frames.frame - first) / np.maximum(last - first, 1), 0, 1), 0.5)
    machine, logs = frames.machine, np.log(frames.seconds)
    kinds = _kinds(frames.shot, frames.settings, machine)
    mixed = kinds * FEWEST_STRETCHES > MOST_TOGETHER and len(speeds) > 1
    if mixed:
        known = machine != UNKNOWN_MACHINE
        logs = logs + np.where(known, speeds[machine, frames.shot], 0.0)
        machine = np.where(known, MIXED, UNKNOWN_MACHINE)
        kinds = _kinds(frames.shot, frames.settings, machine)
    many = int(np.clip(MOST_TOGETHER // max(kinds, 1), 1 if mixed else FEWEST_STRETCHES, STRETCHES))
    stretch = np.clip((place * many).astype(int), 0, many - 1)
    keys = np.stack([frames.shot, frames.settings, machine, stretch])
    found, which = np.unique(keys, axis=1, return_inverse=True)
    which = which.reshape(-1)
    order = np.lexsort((logs, which))
    edges = np.searchsorted(which[order], np.arange(found.shape[1] + 1))
    low = edges[:-1] + (np.diff(edges) - 1) // 2
    high = edges[:-1] + np.diff(edges) // 2
    middle = (logs[order][low] + logs[order][high]) / 2
    count = np.diff(edges).astype(float)
    at = np.bincount(which, place, minlength=found.shape[1]) / count
    made = _Stretches(found[0], found[1], found[2], at, middle, count)
    if not mixed:
        return made
    share = shares_of(which, frames.machine, len(speeds), found.shape[1])
    return replace(made, mixed=_Mixed(share, contrasts(which, frames.machine, share, logs)))


def _kinds(*keys: Ints) -> int:
    """Return how many different columns there are."""
    return int(np.unique(np.stack(keys), axis=1).shape[1])


def _field(project: Project, fit: Fit, mine: ShotDraws, shot: Shot, settings: FrameSettings) -> Floats:
    """Return the log of a frame's seconds on the reference machine at the places of a shot's draws, (N, L)."""
    wanted = frames_of([settings], [project.size_of(shot)], fit.cost_factors, fit.shots[shot.name].shape())
    return np.log(seconds_along(mine, wanted))


def _guesses(
    project: Project, fit: Fit, draws: FilmDraws, seen: _Stretches, rendered_with: Sequence[FrameSettings]
) -> Floats:
    """Return what each draw predicts of each stretch on the reference machine, log seconds, (N, B)."""
    found = np.zeros((len(next(iter(draws.values())).theta), len(seen.value)))
    for shot, settings in sorted(set(zip(seen.shot.tolist(), seen.settings.tolist(), strict=True))):
        here = np.flatnonzero((seen.shot == shot) & (seen.settings == settings))
        one = project.shots[shot]
        whole = _field(project, fit, draws[one.name], one, rendered_with[settings])
        found[:, here] = _read(whole, one, seen.place[here])
    return found


def _read(field: Floats, shot: Shot, at: Floats) -> Floats:
    """Return a field of a shot at other places, (N, B)."""
    return between(field, knots(shot.span_count)[0], at)


def _shares(seen: _Stretches, machines: int, pool: Pool | None) -> Floats:
    """Return what of each stretch was rendered by each machine, (B, M); nothing where that is not known."""
    found = np.asarray(np.arange(machines)[None, :] == seen.machine[:, None], float)
    if seen.mixed is not None:
        found = np.where((seen.machine == MIXED)[:, None], seen.mixed.share, 1 / machines)
    if pool is not None:
        found[seen.machine == UNKNOWN_MACHINE] = np.pad(pool.share, (0, machines - len(pool.share)))
    return found


def _noise(seen: _Stretches, scatter: float, pool: Pool | None) -> Floats:
    """Return by how much what stretches took may be off by chance, variance of the log, (B,)."""
    apart = 0.0 if pool is None else pool.noise
    return np.asarray(
        (scatter**2 + np.where(seen.machine == UNKNOWN_MACHINE, apart, 0.0)) / seen.count + LEAST_SCATTER**2
    )


def _widened(
    project: Project, field: dict[str, Floats], guess: Floats, seen: _Stretches, noise: Floats
) -> tuple[dict[str, Floats], Floats]:
    """Bring draws farther from their middle, or nearer to it, as the frames of each shot say and those of the film.

    How restless cost is along shots is hardly known from a few trials: the frames tell.
    """
    shots = np.unique(seen.shot)
    fits = np.stack([_width_fits(guess[:, seen.shot == k], seen, k, noise) for k in shots])
    logs = np.log(WIDTHS)
    of_film = fits.sum(axis=0) / max(len(shots) ** 0.5, 1.0) - 0.5 * (logs / FILM_WIDTH_SD) ** 2
    weights = np.exp(of_film - of_film.max())
    # Shots that are in say little of how restless the others are: those are not believed to be calmer.
    film = max(float((weights * logs).sum() / weights.sum()), 0.0)
    widths = np.full(len(project.shots), film)
    for row, k in enumerate(shots):
        mine = fits[row] - 0.5 * ((logs - film) / SHOT_WIDTH_SD) ** 2
        weight = np.exp(mine - mine.max())
        widths[k] = (weight * logs).sum() / weight.sum()
    made = {}
    for number, shot in enumerate(project.shots):
        whole = field[shot.name]
        made[shot.name] = whole.mean(axis=0) + np.exp(widths[number]) * (whole - whole.mean(axis=0))
    middle = guess.mean(axis=0)
    return made, middle + np.exp(widths[seen.shot]) * (guess - middle)


def _width_fits(guess: Floats, seen: _Stretches, shot: int, noise: Floats) -> Floats:
    """Return the log likelihood of a shot's frames at each of the widths; what machines are off by is left open."""
    here = seen.shot == shot
    own = np.cov(guess, rowvar=False).reshape(here.sum(), here.sum())
    machine = seen.machine[here]
    wrong = seen.value[here] - guess.mean(axis=0)
    # Each machine's level is free here, whose speed is learned by itself.
    open_ = (machine[:, None] == machine[None, :]).astype(float)
    found = []
    for width in WIDTHS:
        covariance = width**2 * own + np.diag(noise[here]) + open_
        sign, size = np.linalg.slogdet(covariance)
        found.append(-0.5 * (size + wrong @ np.linalg.solve(covariance, wrong)) if sign > 0 else -np.inf)
    return np.array(found) - max(found)


def _related(field: Mapping[str, Floats], project: Project) -> Floats:
    """Return covariances of what whole shots cost, (S, S); those that are chance are none."""
    levels = np.stack([field[shot.name].mean(axis=1) for shot in project.shots], axis=1)
    if levels.shape[1] > MOST_BY_PAIRS:
        return in_common(levels)
    covariance = np.atleast_2d(np.cov(levels, rowvar=False))
    wide = np.sqrt(np.maximum(np.diag(covariance), 1e-12))
    related = np.abs(covariance) >= UNRELATED * np.outer(wide, wide)
    return np.asarray(np.where(related, covariance, 0.0))


def _between(guess: Floats, seen: _Stretches, related: Floats) -> Floats:
    """Return covariances of what is predicted of stretches, (B, B)."""
    off = guess - guess.mean(axis=0)
    found = np.asarray(related[seen.shot[:, None], seen.shot[None, :]])
    for number in np.unique(seen.shot):
        here = np.flatnonzero(seen.shot == number)
        found[np.ix_(here, here)] = off[:, here].T @ off[:, here] / (len(off) - 1)
    return found


def _moved(
    project: Project,
    fit: Fit,
    mine: ShotDraws,
    shot: Shot,
    field: Floats,
    number: int,
    guess: Floats,
    seen: _Stretches,
    related: Floats,
    asks: Floats,
) -> ShotDraws:
    """Return a shot's draws as the stretches ask for: its own by how they go together, others by their levels."""
    here = np.flatnonzero(seen.shot == number)
    others = np.where(seen.shot == number, 0.0, related[number][seen.shot])
    shift = np.broadcast_to((others @ asks)[:, None], field.shape).copy()
    theta = mine.theta
    if len(here):
        off = guess[:, here] - guess[:, here].mean(axis=0)
        shift += ((field - field.mean(axis=0)).T @ off / (len(off) - 1) @ asks[here]).T
        away = theta - theta.mean(axis=0)
        theta = theta + (away.T @ off / (len(off) - 1) @ asks[here]).T
    wanted = frames_of([shot.settings], [project.size_of(shot)], fit.cost_factors, fit.shots[shot.name].shape())
    typical = np.ones((len(theta), 1))
    before, after = (seconds_of(one[:, None, :], wanted, typical)[0] for one in (mine.theta, theta))
    # What parameters took in their part of the move is not in the course along the shot any more.
    now = seconds_along(mine, wanted)
    cost_profile = mine.cost_profile * np.exp(field + shift) / now * before / after
    return replace(mine, theta=theta, cost_profile=np.asarray(cost_profile))


def _losses(project: Project, records: Sequence[MachineRecord], count: int, random: np.random.Generator) -> Floats:
    """Draw the chance that a frame is lost on each machine, (N, M)."""
    found = np.zeros((count, len(project.machines)))
    for number, (machine, record) in enumerate(zip(project.machines, records, strict=True)):
        given = machine.loss_percent / 100
        lost, kept = given * LOSS_FRAMES + 0.1 + record.losses, (1 - given) * LOSS_FRAMES + record.delivered
        found[:, number] = random.beta(lost, kept, count)
    return np.minimum(found, 0.95)


def place_of_frames(shot: Shot, frames: Ints) -> Floats:
    """Return where frames stand in a shot, 0 to 1."""
    return places_within(np.asarray(frames, float), shot.first, shot.last)
