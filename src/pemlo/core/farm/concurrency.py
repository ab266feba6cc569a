"""What several frames at once on one machine are worth. Pure."""


def throughput_gain(frames_at_once: int, contention: float) -> float:
    """Return how much more work a machine does with several frames at once than with one.

    Parameters
    ----------
    frames_at_once : int
        >= 1.
    contention : float
        Part of the work that the frames cannot do side by side, 0 to 1.

    Returns
    -------
    float
        Between 1 and `frames_at_once`.

    References
    ----------
    .. [1] G. Amdahl, "Validity of the single processor approach to achieving large scale computing capabilities",
       AFIPS Spring Joint Computer Conference 1967. In the form of N. Gunther's universal scalability law with no
       coherency term ("Guerrilla Capacity Planning", Springer 2007).

    Examples
    --------
    >>> throughput_gain(1, 0.3), round(throughput_gain(2, 0.3), 2), round(throughput_gain(10**6, 0.05))
    (1.0, 1.54, 20)
    """
    return frames_at_once / (1.0 + contention * (frames_at_once - 1))
