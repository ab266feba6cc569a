"""What the judge stage says, without any widget."""

import math
from pathlib import Path

import numpy as np
import pytest

from film import make_project, make_shot
from pemlo.core.appraisal.noise_sources import SourceMap, Sources
from pemlo.core.appraisal.picture_comparison import PictureComparison
from pemlo.core.errors import InputError
from pemlo.core.measure.frame import MeasureRequest, measure
from pemlo.core.measure.noise_sources import NoiseSource
from pemlo.core.measure.scores import Scores
from pemlo.core.pixels.source import ArraySource
from pemlo.core.project.ceiling import Ceiling, Marked, ceiling_of
from pemlo.core.project.edits import add_trials, set_trial
from pemlo.core.project.reference import cleanest, same_with_another_seed
from pemlo.core.project.trials import Trial
from pemlo.gui.judge import presenter
from pemlo.gui.judge.blind import Blind
from pemlo.gui.judge.measure import presenter as measured_words
from pemlo.gui.judge.playback.timing import Tally, read_order
from pemlo.gui.judge.presenter import PictureChoice
from pemlo.gui.stages import judge_stands


def trial(samples=16, frame=10, **fields):
    return Trial(
        **{"shot": "010", "frame": frame, "samples": samples, "seconds": 10.0, "picture": f"{samples}.exr", **fields}
    )


def choice(one, index=0):
    return PictureChoice(f"{one.samples} samples", Path(one.picture), one, index)


def test_the_reference_has_the_most_samples_in_all():
    small = trial(128, resolution_percent=50)
    whole, soft, part = trial(48), trial(4096, denoise="frame"), trial(9999, region_percent=20.0)
    assert cleanest([small, whole, soft, part]) is whole
    assert cleanest([soft]) is soft
    assert cleanest([trial(4, picture="")]) is None


def test_another_seed_is_found_only_with_the_same_settings():
    one, twin = trial(16, seed=1), trial(16, seed=2, picture="b.exr")
    assert same_with_another_seed(one, [one, trial(32, seed=3), trial(16, frame=11, seed=2), twin]) is twin
    assert same_with_another_seed(one, [one, trial(16, seed=1, picture="b.exr")]) is None


def measured(noise=0.02, *, variance=True, **others):
    clean = np.full((64, 96, 3), 0.3, np.float32)
    noisy = clean + noise * np.random.default_rng(0).standard_normal(clean.shape).astype(np.float32)
    source = ArraySource(noisy, np.full_like(clean, noise**2) if variance else None)
    return PictureComparison(
        measure(MeasureRequest(source, **others)), None, 60.0, denoised=others.get("denoised", False)
    )


CLEAN = ArraySource(np.full((64, 96, 3), 0.3, np.float32))


def words(found):
    return {line.name: line.text for line in measured_words.number_lines(found)}


def test_what_is_missing_is_said_and_not_a_number():
    assert words(measured())["error"] == "needs a cleaner trial"
    alone = words(measured(variance=False, denoised=True, reference=CLEAN))
    assert alone["grain"] == "needs another seed"
    assert alone["softening"] == "needs another seed"
    assert "≤" in words(measured(variance=False))["grain"]


def test_numbers_come_with_their_intervals():
    found = measured(reference=CLEAN)
    lines = words(found)
    value, rest = lines["error"].split(" ", 1)
    low, high = rest.strip("()").split("–")
    assert float(low) <= float(value) <= float(high)
    assert lines["softening"].startswith("none seen")
    scored = PictureComparison(found.measured, Scores(0.9, math.inf, 0.1), 60.0, denoised=False)
    assert words(scored)["ꟻLIP, SSIM, PSNR"] == "0.100, 0.900, inf dB"


def test_ceilings_in_words():
    say = presenter.ceiling_words
    assert "Nothing of 070" in say(Ceiling(None, None, ()), "070")
    assert "Accepted up to 2.6, refused from 3.9: the error limit of 070 is 2.6" in say(Ceiling(2.6, 3.9, ()), "070")
    assert "until a noisier one passes" in say(Ceiling(2.6, None, ()), "070")
    assert "mark a cleaner one" in say(Ceiling(None, 3.9, ()), "070")
    pair = (Marked("a", 3.0, passed=True), Marked("b", 2.0, passed=False))
    assert presenter.contradiction_words(Ceiling(1.0, 2.0, (pair, pair))).endswith("(and 1 more).")


def test_marks_hold_for_the_shot_or_for_all_of_its_look():
    shots = (make_shot("010").replace(look="night"), make_shot("020").replace(look="night"), make_shot("030"))
    project = add_trials(make_project(shots=shots), [trial(16, mark="good enough", error=2.0)])
    assert [ceiling_of(project, shot.name).value for shot in shots] == [2.0, None, None]
    project = set_trial(project, 0, mark_for="look")
    assert [ceiling_of(project, shot.name).value for shot in shots] == [2.0, 2.0, None]
    assert judge_stands(project) == "limits for 2 of 3"
    unmeasured = set_trial(project, 0, error=None)
    assert ceiling_of(unmeasured, "010").value is None


def test_marking_writes_the_error_and_what_it_was_against():
    project = add_trials(make_project(), [trial(16), trial(256)])
    left, reference = choice(project.trials[0]), choice(project.trials[1], 1)
    found = measured(reference=CLEAN)
    marked = presenter.mark(project, left, "good enough", found, reference, "fine", "shot").trials[0]
    assert marked.error == pytest.approx(found.measured.error.total.middle, rel=1e-3)
    assert (marked.error_against, marked.note) == ("256.exr", "fine")
    cleared = presenter.mark(project, left, "", found, reference, "", "shot").trials[0]
    assert (cleared.mark, cleared.error, cleared.error_against) == ("", None, "")
    with pytest.raises(InputError, match="no trial"):
        presenter.mark(project, PictureChoice("a", Path("a.exr")), "good enough", found, None, "", "shot")


def test_the_first_pair_is_of_the_frame_with_most_trials():
    trials = [trial(16, 1), trial(8, 10), trial(16, 10, mark="good enough"), trial(256, 10)]
    among = tuple(choice(one, k) for k, one in enumerate(trials))
    left, right = presenter.first_pair(among)
    assert (left.trial.samples, right.trial.samples) == (8, 256)
    assert presenter.first_pair(()) == (None, None)


def test_trials_of_several_frames_with_equal_settings_are_a_sequence():
    among = tuple(choice(trial(16, frame, picture=f"{frame}.exr")) for frame in (1, 2, 5))
    run = presenter.run_of(among[1], (*among, choice(trial(32, 3))))
    assert list(run.paths) == [1, 2, 5]
    assert run.missing == (3, 4)
    assert presenter.run_of(choice(trial(32, 3)), among[:0]) is None


def test_blind_shuffles_and_knows_what_lies_at_the_left():
    one, other = choice(trial(16)), choice(trial(32))
    blind = Blind()
    assert blind.ordered(one, other) == (one, other)
    blind.turn(on=True)
    seen = set()
    for _ in range(60):
        blind.deal()
        left, right = blind.ordered(one, other)
        assert {left.path, right.path} == {one.path, other.path}
        assert blind.marked(one, other) is left
        seen.add(left.path)
    assert len(seen) == 2


def test_frames_that_were_not_shown_in_time_are_counted():
    tally = Tally()
    for passed, available_h in ((0, True), (0, True), (1, False), (4, True)):
        tally.tick(passed, shown=available_h)
    assert (tally.due, tally.dropped) == (5, 3)
    assert tally.words(24.0) == "24 fps, 3 of 5 not shown in time"
    assert read_order(1, 5, 3) == [3, 4, 5, 1, 2]


def test_what_a_trial_saves_against_another():
    fine, coarse = choice(trial(64, seconds=1928.0)), choice(trial(8, seconds=242.0))
    (line,) = measured_words.time_line(coarse, fine, 75)
    assert (line.name, line.text) == ("a frame took", "4 m 02 s, −87 %")
    assert "35 h 08 m less over 75 frames" in line.tip
    assert measured_words.time_line(fine, fine, 75)[0].text == "32 m 08 s"
    assert measured_words.time_line(None, fine, 75) == ()


def test_what_the_cursor_says():
    values = {"left": ((0.5, 0.25, 0.0), (188.0, 137.0, 0.0))}
    assert presenter.value_words((3, 4), values) == "x 3  y 4   left 0.500 0.250 0.000, levels 188 137 0"
    assert presenter.value_words(None, {}) == ""
    assert (
        presenter.size_words({"left": (640, 360), "right": (1280, 720)}, (1280, 720))
        == "left 640×360 px brought to 1280×720"
    )
    assert presenter.size_words({"left": (640, 360)}, (640, 360)) == "640×360 px"


def test_where_the_noise_of_a_region_comes_from():
    where = SourceMap(("shadow", "gloss", "rest"), np.array([[0, 1]]), np.array([[0.5, 0.75]]), 8, (16, 8))
    found = Sources(1.0, {"shadow": NoiseSource(1.0, 1.0, 1), "gloss": NoiseSource(2.0, 0.5, 1)}, where)
    assert [(one.name, one.text) for one in measured_words.source_lines(found)] == [("noise from", "gloss, 50%")]
    assert list(measured_words.source_words(found)[0]) == ["gloss", "shadow", "rest"]
    assert measured_words.source_lines(None) == ()
    assert measured_words.source_words(Sources(1.0, {}, where)) == ({}, "")
    # Under a cursor on a picture that is shown at twice its size.
    assert measured_words.source_here(where, (17, 3), (32, 16)).strip() == "noise from gloss, 75%"
    assert measured_words.source_here(where, (3, 3), (32, 16)).strip() == "noise from shadow, 50%"


def test_what_would_tell_more_is_a_trial():
    soft = choice(trial(16, denoise="frame", noise_threshold=0.1, min_samples=4))
    alone = measured(variance=False, denoised=True)
    wanted = measured_words.missing_trial(soft, alone, has_reference=False)
    assert (wanted.settings.samples, wanted.settings.denoise, wanted.settings.noise_threshold) == (64, "none", None)
    against = measured(variance=False, denoised=True, reference=CLEAN)
    assert measured_words.missing_trial(soft, against, has_reference=True).settings.denoise == "frame"
    assert measured_words.missing_trial(choice(trial(16)), measured(reference=CLEAN), has_reference=True) is None
    assert measured_words.missing_trial(None, None, has_reference=False) is None
