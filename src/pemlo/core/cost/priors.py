"""What is believed of a frame's cost before anything is timed: one table, each line with its reason.

All parameters are natural logarithms. Times are given relative to `sample`, the seconds for one sample a pixel over
one megapixel, so that the same table serves frames of 0.05 s and of 100 h: only the level of `sample` itself is wide
open. A film has a mean for each parameter, and each shot departs from it by about `shot_sd`; both the means and the
departures are learned from the trials (see `fit.py`). All values: common practice, no source, except where said.
"""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Final

import numpy as np
import numpy.typing as npt

from pemlo.core.arrays import Floats
from pemlo.core.project.settings import CostFactors, WayCost


@dataclass(frozen=True)
class Prior:
    """One parameter's line in the table.

    `mean` and `film_sd` describe the film's mean, in natural logarithms; `timed` says whether `mean` counts from
    the level of `sample`; `shot_sd` is how far shots depart from the film.
    """

    name: str
    mean: float
    film_sd: float
    shot_sd: float
    timed: bool
    reason: str


PRIORS: Final = (
    Prior("prepare", np.log(0.25), 1.0, 0.8, True, "a fifth of the frame that is asked for; see FIXED_SD"),
    Prior("light", np.log(0.01), 1.0, 0.8, True, "a pre-pass is far cheaper than the frame, or nobody would run it"),
    Prior("pixel", np.log(1.5), 1.0, 0.7, True, "what a pixel costs without samples is worth a sample or a few"),
    Prior("sample", 0.0, 15.0, 0.8, True, "the level: about that of the readings, and as good as open"),
    Prior("pixel_power", 0.0, 0.03, 0.02, False, "near 1; half the size takes a little more or less than a quarter"),
    Prior("noise", 0.0, 1.0, 0.6, False, "the threshold that was asked for bites between the least and most samples"),
    Prior("noise_spread", np.log(0.9), 0.35, 0.25, False, "within a frame, noise differs by factors of 2 to 3"),
    Prior("write", np.log(0.4), 1.5, 0.3, True, "writing a pixel is worth less than a sample of it, or a few"),
    Prior("noise_scale", 0.0, 1.0, 0.1, False, "the renderer's threshold scale against ours, the same in every shot"),
    Prior("uneven", 0.08, 0.1, 0.2, False, "a threshold sends samples where paths are long, or short (the study)"),
    Prior("noise_power", -0.04, 0.03, 0.01, False, "small pictures are judged in coarser places (from the study)"),
    Prior("fireflies", np.log(4.0), 0.5, 0.3, False, "so many samples miss what shines rarely (from the study)"),
    Prior("kept_prepare", np.log(0.15), 0.8, 0.6, False, "reading cache is far cheaper than working them out"),
    Prior("kept_light", np.log(0.15), 0.8, 0.6, False, "the same"),
    Prior("save", np.log(1.5), 1.5, 0.3, True, "an unfinished frame takes a little longer to write than a picture"),
    Prior("sample_power", 0.0, 0.02, 0.01, False, "twice the samples take a little more or less than twice as long"),
)  # fmt: skip
# Preparing is none to nine tenths of the frame that is asked for: stages that do not depend on the picture's size share
# this width. One cheap test then leaves open whether all of it was preparing, or none.
FIXED_SD = 5.0
# What a pixel costs without a sample - its own, and writing it - shares this one: renderers count samples differently.
PER_PIXEL_SD = 1.5
DENOISE_PRIOR: Final = Prior(
    "denoise",
    np.log(20.0),
    1.7,
    0.3,
    True,
    "a filter costs a pixel some tens of samples, nearly the same in every shot",
)
# Filters that look at m frames each side within r px cost about (2r + 1)² (2m + 1), until memory says otherwise (common
# practice, no source: radius 12 to 18 took 5-6 to 20 minutes): the power of that is fitted once two are timed.
SIZE_POWER_SD, DENOISER_OWN_SD = 0.6, 0.1
FAMILY_SD = 3.0  # so wide that one reading tells the level, and not how steep it is
_LOOKS = re.compile(r"(.+?) (\d{1,3})(?: (\d{1,2}))?")
SWITCH_PRIOR: Final = Prior(
    "switch", 0.0, 0.5, 0.15, False, "a choice makes tracing more expensive or cheaper by a factor of two or so"
)
# Another engine or method takes tens of times as long, or as little: one time tells (common practice, no source).
WAY_PRIOR: Final = Prior("way", 0.0, 2.3, 0.3, False, "another engine, method or quality: a decade either way")
# A number between two that were timed lies between their times, nearly on a straight line of logarithms.
BETWEEN_SD = 0.05
(
    PREPARE, LIGHT, PIXEL, SAMPLE, PIXEL_POWER, NOISE, NOISE_SPREAD, WRITE, NOISE_SCALE, UNEVEN, NOISE_POWER, FIREFLIES,
    KEPT_PREPARE, KEPT_LIGHT, SAVE, SAMPLE_POWER,
) = range(len(PRIORS))  # fmt: skip
FIRST_DENOISER = len(PRIORS)

# How a time is read. A stopwatch repeats within about 4 % (common practice, no source: 60 min estimated, 63 measured);
# one reading in fifty is grossly off, by a factor of two or so either way.
REPEAT_SD = 0.05
REPEAT_SPREAD = 0.45
OUTLIER_SHARE = 0.02
OUTLIER_SD = 0.8
DOUBTFUL = 0.5  # a reading that is less probably an inlier than this should be looked at

# How cost runs along a shot: by about 20 % either way, over about a third of the shot.
ALONG_SD = 0.2
ALONG_SD_SPREAD = 0.35
ALONG_LENGTH = 0.35
ALONG_LENGTH_SPREAD = 0.4


@dataclass(frozen=True)
class PriorTable:
    """The table as arrays, for a film with its ways of denoising, and then its switches.

    Attributes
    ----------
    mean : (D,) ndarray
        The film's mean before anything is known, log.
    covariance : (D, D) ndarray
        Of the film's mean; the timed parameters share the open level of `sample`.
    shot_sd : (D,) ndarray
        How far shots depart from the film, log.
    timed : (D,) ndarray of bool
        Which parameters are times.
    """

    mean: Floats
    covariance: Floats
    shot_sd: Floats
    timed: npt.NDArray[np.bool_]

    @property
    def size(self) -> int:
        return len(self.mean)


def _families(denoisers: Sequence[str]) -> list[list[tuple[int, float]]]:
    """Return the denoisers that are the same but for how far they look: their numbers, and log of what they look at.

    A name that ends in a radius (px), or in a radius and a reach (frames before and after), says so.
    """
    found: dict[str, list[tuple[int, float]]] = {}
    for number, name in enumerate(denoisers):
        said = _LOOKS.fullmatch(name)
        if said:
            radius, reach = int(said[2]), int(said[3] or 0)
            found.setdefault(said[1], []).append((number, float(np.log((2 * radius + 1) ** 2 * (2 * reach + 1)))))
    return [members for members in found.values() if len(members) > 1]


def _switch_prior(sd: float) -> Prior:
    return replace(SWITCH_PRIOR, film_sd=max(sd, SWITCH_PRIOR.film_sd))


def _way_prior(way: WayCost) -> Prior:
    return replace(WAY_PRIOR, film_sd=BETWEEN_SD, shot_sd=BETWEEN_SD) if way.between else WAY_PRIOR


def prior_table(
    cost_factors: CostFactors, noise_centre: float, work: float, switch_sd: Mapping[str, float] | None = None
) -> PriorTable:
    """Build the table.

    Parameters
    ----------
    cost_factors : CostFactors
        Of the film; each has a parameter.
    noise_centre : float
        Where the noise's median is expected, log of the renderer's threshold scale.
    work : float
        Log of the Mpx times samples of a frame as it is asked for: the unit of what does not depend on its size.
    switch_sd : mapping of str to float, optional
        How far the factors of switches may lie from 1, log, where frames that were timed with and without say more
        than the table.
    """
    wide = switch_sd or {}
    rows = [
        *PRIORS,
        *(DENOISE_PRIOR for _ in cost_factors.denoisers),
        *(_switch_prior(wide.get(name, 0.0)) for name in cost_factors.switches),
        *(_way_prior(way) for way in cost_factors.ways),
    ]
    timed = np.array([row.timed for row in rows])
    mean = np.array([row.mean for row in rows], dtype=float)
    fixed = np.zeros(len(rows))
    fixed[[PREPARE, LIGHT]] = 1.0
    mean += work * fixed
    per_pixel = np.zeros(len(rows))
    per_pixel[[PIXEL, WRITE, SAVE]] = 1.0
    mean[NOISE] = noise_centre
    own = np.array([row.film_sd for row in rows], dtype=float)
    shared = own[SAMPLE] * timed
    own[SAMPLE] = 0.05
    shot_sd = np.array([row.shot_sd for row in rows], dtype=float)
    covariance = np.diag(own**2) + np.outer(shared, shared)
    covariance += FIXED_SD**2 * np.outer(fixed, fixed) + PER_PIXEL_SD**2 * np.outer(per_pixel, per_pixel)
    for family in _families(cost_factors.denoisers):
        at = [FIRST_DENOISER + number for number, _ in family]
        size = np.array([log_size for _, log_size in family])
        centred = size - size.mean()
        mean[at] += centred
        # One level for the family, and how steeply it rises with what is looked at; little of each one's own.
        together = FAMILY_SD**2 + SIZE_POWER_SD**2 * np.outer(centred, centred)
        shot_sd[at] = DENOISER_OWN_SD
        covariance[np.ix_(at, at)] += together - np.diag(own[at] ** 2 - DENOISER_OWN_SD**2)
    return PriorTable(mean, covariance, shot_sd, timed)
