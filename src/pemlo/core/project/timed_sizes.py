"""The pixels that trials were timed at, which stay as they are when a film gets another size. Pure.

A trial keeps its width and height; what percentage of a frame that is follows from the size that its shot has now.
"""

from collections.abc import Mapping

from pemlo.core.project.trials import Trial

Size = tuple[int, int]
_PLACES = (0, 1, 2, 3)  # decimals of a percentage, the fewest that lead back to the pixels


def rendered_size(size: Size, percent: float) -> Size:
    """Return width and height of a frame rendered at a percentage of its size on each side, px.

    Examples
    --------
    >>> rendered_size((1920, 1080), 33)
    (634, 356)
    """
    return max(1, round(size[0] * percent / 100)), max(1, round(size[1] * percent / 100))


def file_sizes(size: Size, percent: float) -> tuple[Size, ...]:
    """Return the sizes that a file of a frame may have: that of rendering; of one rendered larger, also its own size.

    Examples
    --------
    >>> file_sizes((1920, 1080), 50), file_sizes((1920, 1080), 160)
    (((960, 540),), ((3072, 1728), (1920, 1080)))
    """
    rendered = rendered_size(size, percent)
    return (rendered,) if percent <= 100 else (rendered, size)


def percent_of(timed: Size, size: Size) -> float:
    """Return what percentage of a size on each side some pixels are; of another shape, by their number.

    Examples
    --------
    >>> percent_of((634, 356), (1920, 1080)), percent_of((1920, 1080), (3840, 2160))
    (33.0, 50.0)
    """
    plain = 100 * ((timed[0] * timed[1]) / (size[0] * size[1])) ** 0.5
    for percent in (round(near, places) for places in _PLACES for near in (plain, 100 * timed[0] / size[0])):
        if percent > 0 and rendered_size(size, percent) == timed:
            return float(percent)
    return float(f"{plain:.6g}")


def with_timed_sizes(trials: tuple[Trial, ...], sizes: Mapping[str, Size]) -> tuple[Trial, ...]:
    """Return trials with the pixels that they were timed at, and the percentage that these are of their shot's size.

    A trial that says no pixels was timed at its percentage of the size that its shot has. Of one that says only a
    width or a height, the other follows from the shape of the shot. Trials that need nothing are the same objects.
    """
    known: dict[tuple[Size, float], Size] = {}
    changed = False
    made = []
    for trial in trials:
        size = sizes.get(trial.shot)
        percent = trial.resolution_percent
        if size is None:
            made.append(trial)
            continue
        at = known.get((size, percent))
        if at is None:
            at = known[size, percent] = rendered_size(size, percent)
        if at == (trial.width, trial.height):
            made.append(trial)
            continue
        timed = _timed(trial, size, at)
        now = percent if timed == at else percent_of(timed, size)
        if (*timed, now) == (trial.width, trial.height, percent):
            made.append(trial)
            continue
        changed = True
        made.append(trial.model_copy(update={"width": timed[0], "height": timed[1], "resolution_percent": now}))
    return tuple(made) if changed else trials


def _timed(trial: Trial, size: Size, at: Size) -> Size:
    width, height = trial.width, trial.height
    if width is None and height is None:
        return at
    if width is None:
        assert height is not None
        return max(1, round(height * size[0] / size[1])), height
    return width, height if height is not None else max(1, round(width * size[1] / size[0]))
