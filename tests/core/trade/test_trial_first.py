"""The trial that comes first, where a way of rendering cannot be weighed yet."""

import numpy as np
import pytest

from film import make_project, make_shot, well_timed
from looks import look
from pemlo.core.cost.draws import draw_film
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo.core.project.settings import FrameSettings, ShotSettings
from pemlo.core.trade.options import Numbers, numbers_of
from pemlo.core.trade.required_test import FIRST_PERCENT, required_test, trials_for_more


def film(*trials, **asked):
    project = make_project(shots=(make_shot(**asked),), trials=(*well_timed(), *trials))
    known = fit(fit_input(project))
    return project, known, draw_film(known, project)


def first(project, known, draws, seen, settings=None):
    shot = project.shot("010") if settings is None else project.shot("010").replace(plan=settings)
    return required_test(project, shot, seen, numbers_of(project, known, draws, shot, seen))


def test_what_is_known_well_needs_no_trial():
    assert first(*film(), look()) is None


def test_a_shot_that_was_never_seen_asks_for_a_coarse_picture_then_for_its_reference():
    project, known, draws = film(switches=("blur",))
    wanted = first(project, known, draws, None)
    assert (wanted.frame, wanted.settings.resolution_percent) == (51, FIRST_PERCENT)
    assert wanted.settings.switches == ("blur",)
    available_h = well_timed()[0].replace(picture="a.exr", frame=51, **wanted.settings.frame_fields())
    cleaner = first(project.replace(trials=(*project.trials, available_h)), known, draws, None)
    assert cleaner.settings.samples == 16 * wanted.settings.samples
    assert "How 010 looks is not known" in cleaner.why


@pytest.mark.parametrize(
    ("changes", "why"),
    [
        ({"denoise": "soft"}, "What “soft” leaves"),
        ({"switches": ("blur",)}, "What “blur” does"),
        ({"split": (4, 1, 1)}, "What “split 4,1,1” does"),
    ],
)
def test_what_was_never_seen_asks_for_one_trial_like_those_there_are(changes, why):
    project, known, draws = film(*(one.replace(seed=5, **changes) for one in well_timed()[:2]))
    wanted = first(project, known, draws, look(), ShotSettings(samples=64, **changes))
    assert why in wanted.why
    assert wanted.frame == look().frame
    assert all(getattr(wanted.settings, name) == value for name, value in changes.items())
    # But for what was never seen it is as the others: then the two tell it apart.
    assert (
        wanted.settings.replace(**{name: FrameSettings.model_fields[name].default for name in changes}).switched == ()
    )


def test_hours_too_wide_ask_for_a_frame_and_errors_too_wide_for_a_picture():
    project, _, _ = film()
    shot, seen = project.shot("010"), look()
    sure = np.full(100, 5.0)
    wide = np.geomspace(1, 50, 100)
    known = first(*film(), seen)
    assert known is None
    numbers = numbers_of(*film(), shot, seen)
    assert "hours may be" in required_test(project, shot, seen, Numbers(wide, 256.0, numbers.found)).why
    doubtful = numbers.found.total.__class__(1.0, 5.0, 9.0)
    told = required_test(project, shot, seen, Numbers(sure, 256.0, type(numbers.found)(doubtful, None, None, 0.0)))
    assert "error may be 1.0 or 9.0 levels" in told.why


def test_ways_that_other_shots_have_are_offered_to_be_tried():
    more = [one.replace(seed=5, **c) for one in well_timed()[:1] for c in ({"denoise": "soft"}, {"split": (2, 1, 1)})]
    project, known, _ = film(*more)
    shot = project.shot("010")
    offered = trials_for_more(project, known, shot, look())
    assert [one.settings.denoise for one in offered] == ["soft", "none"]
    assert offered[1].settings.split == (2, 1, 1)
    assert trials_for_more(project, known, shot, look(denoisers=("soft",), splits=("split 2,1,1",))) == ()
    assert trials_for_more(project, known, shot, None) == ()
