"""What several frames at once on one machine are worth, and how that is found from a few times. Pure."""

from collections.abc import Sequence

from pemlo.core.errors import InputError


def throughput_gain(frames_at_once: int, contention: float, coherency: float = 0.0) -> float:
    """Return how much more work a machine does with several frames at once than with one.

    Threads are shared out: with k frames at once on C threads each frame has C / k of them. By Amdahl's law a frame of
    which a share s is not done side by side then takes s + (1 - s) k / C; beside one alone that is 1 + c (k - 1), with
    a contention c of (1 - s) / (s C + 1 - s).

    Parameters
    ----------
    frames_at_once : int
        >= 1.
    contention : float
        Part of the work that the frames cannot do side by side, 0 to 1.
    coherency : float
        What each pair of frames costs by getting into each other's way, 0 to 1: with it, more frames can be less work.

    Returns
    -------
    float
        Above 0, at most `frames_at_once`; at least 1 without coherency.

    References
    ----------
    .. [1] G. Amdahl, "Validity of the single processor approach to achieving large scale computing capabilities",
       AFIPS Spring Joint Computer Conference 1967: without coherency.
    .. [2] N. Gunther's universal scalability law, "Guerrilla Capacity Planning", Springer 2007.

    Examples
    --------
    >>> throughput_gain(1, 0.3), round(throughput_gain(2, 0.3), 2), round(throughput_gain(10**6, 0.05))
    (1.0, 1.54, 20)
    """
    others = frames_at_once - 1
    return frames_at_once / (1.0 + contention * others + coherency * frames_at_once * others)


def scaling_of(at_once: Sequence[int], seconds: Sequence[float]) -> tuple[float, float]:
    """Return contention and coherency from what one frame takes with so many at once.

    With k at once a frame takes 1 + contention (k - 1) + coherency k (k - 1) times what it takes alone: a straight
    line in both, fitted with neither below 0. Two different numbers of frames only tell the first.

    Parameters
    ----------
    at_once : sequence of int
        How many frames ran at once; 1 among them.
    seconds : sequence of float
        What each of these frames took.

    Returns
    -------
    contention, coherency : float
        0 to 1.

    Raises
    ------
    InputError
        If no frame ran alone, or none ran beside others.

    References
    ----------
    .. [1] N. Gunther, "Guerrilla Capacity Planning", Springer 2007: the law, made straight by dividing by the load.

    Examples
    --------
    By hand: alone 10 s, two at once 13 s each, four at once 19 s each: 0.3 more for each of the others.

    >>> scaling_of([1, 2, 4], [10, 13, 19])
    (0.3, 0.0)
    """
    import numpy as np  # noqa: PLC0415 - heavy to load, and the window comes up without it
    from scipy.optimize import nnls  # noqa: PLC0415 - as above

    k, taken = np.asarray(at_once, float), np.asarray(seconds, float)
    if not (k == 1).any() or not (k > 1).any():
        raise InputError(
            "How frames at once get into each other's way is not known.", "Time one frame alone, and one beside others."
        )
    alone = float(np.exp(np.mean(np.log(taken[k == 1]))))
    more, others = taken[k > 1] / alone - 1.0, k[k > 1] - 1.0
    columns = np.stack([others, k[k > 1] * others], axis=1)
    if len(np.unique(others)) < 2:
        columns = columns[:, :1]
    found = nnls(columns, np.maximum(more, 0.0))[0]
    contention, coherency = float(found[0]), float(found[1]) if len(found) > 1 else 0.0
    return min(round(contention, 12), 1.0), min(round(coherency, 12), 1.0)
