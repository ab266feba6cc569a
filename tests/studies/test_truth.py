"""The study of truth: its renders are drawn once for all, can be rendered, and are rendered once only."""

from dataclasses import replace

import numpy as np
import pytest

import truth
from pemlo.core.cost.fit import fit
from pemlo.core.cost.fit_input import fit_input
from pemlo_simulators.renderer.scenes import SCENES, find_scene
from pemlo_simulators.renderer.settings import RenderSettings, check
from rendered import Renders
from truth_study import as_trial, film, kind_of, settings_of, summary

SMALL = RenderSettings("stairs", 20, 48, 27, samples=4)


def test_enough_renders_of_every_kind_and_scene_are_drawn_and_always_the_same():
    drawn = truth.unseen()
    assert len(drawn) >= 150
    assert drawn == truth.unseen()
    assert len(set(map(str, drawn))) == len(drawn)
    for scene in SCENES:
        mine = [one for one in drawn if one.scene == scene.name]
        kinds = {kind_of(one) for one in mine}
        assert kinds >= {"fixed samples", "threshold", "kept stages", "denoised (frame)", "denoised (neighbours)"}
        assert len({one.frame for one in mine}) > 5
        assert len({one.resolution_percent for one in mine}) >= 3


def test_all_of_them_can_be_rendered():
    several = (*truth.thresholds().values(), *truth.whole_shots().values())
    everything = [*truth.unseen(), *(one for many in several for one in many)]
    for one in everything:
        check(one, find_scene(one.scene).frames)
    for scene, wanted in truth.whole_shots().items():
        assert [one.frame for one in wanted] == list(range(1, find_scene(scene).frames + 1))


def test_thresholds_reach_six_times_either_way_and_hold_the_calibrating_one():
    for wanted in truth.thresholds().values():
        factors = np.array([one.noise_threshold for one in wanted]) / truth.THRESHOLD
        assert factors.min() == pytest.approx(1 / 6, rel=0.01)
        assert factors.max() == pytest.approx(6)
        assert 1.0 in factors


def test_a_frame_is_rendered_once_and_found_again(tmp_path, monkeypatch):
    table = tmp_path / "renders.jsonl"
    first = Renders(table).get(SMALL)
    monkeypatch.setattr(Renders, "_render", lambda *_: pytest.fail("it was there already"))
    assert Renders(table).get(SMALL)["noise_shape"] == first["noise_shape"]
    raw = Renders(table, steady=False).get(SMALL)
    assert first["seconds"] == pytest.approx(raw["seconds"]), "alone in the table its pace is the usual one"


def test_seconds_are_brought_to_the_middle_pace(tmp_path):
    table = tmp_path / "renders.jsonl"
    raw = Renders(table, steady=False)
    plain = [raw.get(SMALL), *(raw.get(replace(SMALL, frame=frame)) for frame in (21, 22))]
    paces = sorted(record["pace_seconds"] for record in plain)
    for record in plain:
        again = Renders(table).get(RenderSettings("stairs", record["frame"], 48, 27, samples=4))
        assert again["seconds"] == pytest.approx(record["seconds"] * paces[1] / record["pace_seconds"])
        assert again["trace_seconds"] / again["seconds"] == pytest.approx(record["trace_seconds"] / record["seconds"])


def test_a_render_is_a_trial_that_the_fit_understands(tmp_path):
    project, renders = film(), Renders(tmp_path / "renders.jsonl")
    settings = RenderSettings("stairs", 20, *truth.SIZE, resolution_percent=25, samples=4)
    trial = as_trial(settings, renders.get(settings))
    assert settings_of(settings).frame_fields() == trial.frame_fields()
    assert trial.seconds == pytest.approx(sum(trial.stage_seconds().values()))
    assert fit(fit_input(project.replace(trials=(trial,)))).known


def test_the_summary_counts_what_it_says():
    line = summary("all", [0.1, -0.2, 0.05, 0.0], [True, True, False, True])
    assert line == "| all | 4 | 7.5 % | 17 % | 75 % |"
