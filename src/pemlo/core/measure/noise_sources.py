"""Where the noise of a picture comes from, and how rays are best shared out among its sources. Pure.

A sample of a pixel is one ray of the camera, and at the first surface a number of rays of each source: to lights
(shadow), off a gloss, through glass. More rays of a source lower its part of the variance, and cost as many rays where
that source is met. Every ray is taken to cost as much as another (common practice, no source). What edges, focus and
movement add to a source's part does not fall with its rays, and one picture cannot tell how much that is: the gain that
is predicted is the most there can be (on renders, three tenths to all of a part did not fall; see
docs/method/model.md).
"""

import itertools
from collections.abc import Mapping
from dataclasses import dataclass

CHOICES = (1, 2, 3, 4, 6, 8, 12, 16)


@dataclass(frozen=True)
class NoiseSource:
    """One source of noise.

    Attributes
    ----------
    variance : float
        That it adds to the picture's, at the present number of rays.
    share : float
        Of the picture's samples that meet it, 0 to 1.
    rays : int
        A sample, at present.
    """

    variance: float
    share: float
    rays: int


@dataclass(frozen=True)
class CheapestSplit:
    """Rays a sample for each source, and the time for the same noise as a share of the present one."""

    rays: dict[str, int]
    time: float


def shares(rest: float, sources: Mapping[str, NoiseSource]) -> dict[str, float]:
    """Return each source's share of the noise's variance, the rest under ``rest``.

    Parameters
    ----------
    rest : float
        Variance that comes from no source: edges, focus, movement, light from matt surfaces.
    sources : mapping of str to NoiseSource
    """
    total = rest + sum(source.variance for source in sources.values())
    found = {name: source.variance / total if total > 0 else 0.0 for name, source in sources.items()}
    return {**found, "rest": rest / total if total > 0 else 0.0}


def cheapest_split(rest: float, sources: Mapping[str, NoiseSource]) -> CheapestSplit:
    """Return the rays a sample with which the same noise takes the least time.

    Neyman's allocation [1]_ among whole numbers of rays: time for a given noise is in proportion to variance of a
    sample times its cost, (v₀ + Σ vₖ/mₖ)(1 + Σ fₖ mₖ), with mₖ rays in a share fₖ of the picture.

    References
    ----------
    .. [1] J. Neyman, "On the two different aspects of the representative method", J. Royal Statistical Society 97,
       1934.

    Examples
    --------
    >>> cheapest_split(0.1, {"shadow": NoiseSource(4.0, 1.0, 1), "gloss": NoiseSource(0.0, 0.2, 1)}).rays
    {'shadow': 6, 'gloss': 1}
    """

    def effort(rays: Mapping[str, int]) -> float:
        variance = rest + sum(source.variance * source.rays / rays[name] for name, source in sources.items())
        return variance * (1 + sum(source.share * rays[name] for name, source in sources.items()))

    present = {name: source.rays for name, source in sources.items()}
    now = effort(present)
    if not sources or now <= 0:
        return CheapestSplit(present, 1.0)
    options = [dict(zip(sources, rays, strict=True)) for rays in itertools.product(CHOICES, repeat=len(sources))]
    best = min(options, key=effort)
    return CheapestSplit(best, effort(best) / now)
