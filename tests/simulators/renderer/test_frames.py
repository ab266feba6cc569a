"""Whole frames: stages, what is kept, denoising, the file that comes out, and what cannot be rendered."""

import csv
import dataclasses
import io
import json
import os
import pty
import resource
import select
import signal
import subprocess
import sys
import time

import numpy as np
import OpenImageIO as oiio
import pytest

from film import make_project, make_shot
from pemlo.cli.main import main
from pemlo.core.cost.noise_shape import QUANTILES
from pemlo.core.errors import FileError, InputError
from pemlo.core.persistence.csv_trials import read_trials
from pemlo.core.progress import Cancelled
from pemlo.core.project.trials import FIRST_RUN
from pemlo_simulators.renderer import denoise
from pemlo_simulators.renderer.clock import STAGES
from pemlo_simulators.renderer.exr import HEADER, Channels, read_exr, write_exr
from pemlo_simulators.renderer.film import develop
from pemlo_simulators.renderer.film_file import read_film
from pemlo_simulators.renderer.output import ROW_COLUMNS, relative_noise, write_picture
from pemlo_simulators.renderer.render import render
from pemlo_simulators.renderer.scenes import SCENES, find_scene
from pemlo_simulators.renderer.settings import RenderSettings, settings_of, switched

SMALL = RenderSettings("stairs", frame=10, width=64, height=36, samples=16)


def colour(settings, **more):
    return render(find_scene(settings.scene), settings, **more).picture.colour.astype(float)


def distance(a, b):
    return float(np.sqrt(((a - b) ** 2).mean()))


@pytest.mark.parametrize("scene", SCENES, ids=lambda scene: scene.name)
def test_every_scene_renders_its_first_middle_and_last_frame(scene):
    for frame in (1, scene.frames // 2, scene.frames):
        done = render(scene, RenderSettings(scene.name, frame, 48, 27, samples=4))
        assert np.isfinite(done.picture.colour).all()
        assert done.lost == 0
        assert 0.01 < done.picture.colour.mean() < 0.6
        assert (done.picture.colour.max(axis=-1) < 1e-4).mean() < 0.25  # not lost in the dark


def test_stages_are_timed_and_the_cost_of_scenes_differs():
    clocks = {scene.name: render(scene, RenderSettings(scene.name, 20, 64, 36, samples=8)).clock for scene in SCENES}
    assert all(set(clock.wall) == set(STAGES) for clock in clocks.values())
    traced = [clock.processor["trace"] for clock in clocks.values()]
    assert max(traced) > 2 * min(traced)


def test_kept_stages_give_the_same_picture_where_nothing_moves(tmp_path):
    still = dataclasses.replace(SMALL, scene="observatory", keep=("prepare", "light"))
    render(find_scene("observatory"), dataclasses.replace(still, frame=3), kept_in=tmp_path)
    kept = render(find_scene("observatory"), dataclasses.replace(still, frame=50), kept_in=tmp_path)
    fresh = render(find_scene("observatory"), dataclasses.replace(still, frame=50, keep=()))
    assert np.array_equal(kept.picture.colour, fresh.picture.colour)
    assert (
        kept.clock.wall["prepare"] + kept.clock.wall["light"] < fresh.clock.wall["prepare"] + fresh.clock.wall["light"]
    )


@pytest.mark.parametrize("keep", ["prepare", "light"])
def test_a_stage_kept_although_its_things_move_gives_a_wrong_picture(tmp_path, keep):
    settings = dataclasses.replace(SMALL, samples=64, keep=(keep,))
    render(find_scene("stairs"), dataclasses.replace(settings, frame=5), kept_in=tmp_path)
    wrong = colour(dataclasses.replace(settings, frame=60), kept_in=tmp_path)
    right = colour(dataclasses.replace(settings, frame=60, keep=()))
    noise = distance(right, colour(dataclasses.replace(settings, frame=60, keep=(), seed=1)))
    assert distance(wrong, right) > 1.5 * noise


def test_stages_are_not_kept_unless_told(tmp_path):
    render(find_scene("stairs"), SMALL, kept_in=tmp_path)
    assert not list(tmp_path.iterdir())


def test_kept_data_that_cannot_be_read_are_named(tmp_path):
    (tmp_path / "stairs.prepare.npz").write_bytes(b"nothing of the kind")
    with pytest.raises(FileError, match="prepare"):
        render(find_scene("stairs"), dataclasses.replace(SMALL, keep=("prepare",)), kept_in=tmp_path)


def test_denoising_comes_nearer_to_the_clean_picture_and_neighbours_are_steadier():
    scene, settings = find_scene("observatory"), RenderSettings("observatory", 40, 96, 54, samples=8)
    clean = colour(dataclasses.replace(settings, samples=192, seed=5))
    render(scene, dataclasses.replace(settings, width=8, height=8, denoise="frame"))  # compiled before it is timed
    cost_factors = {
        way: render(scene, dataclasses.replace(settings, denoise=way)) for way in ("none", "frame", "neighbours")
    }
    errors = {way: distance(done.picture.colour, clean) for way, done in cost_factors.items()}
    assert errors["frame"] < 0.85 * errors["none"]
    assert (
        cost_factors["neighbours"].clock.processor["denoise"] > 1.8 * cost_factors["frame"].clock.processor["denoise"]
    )
    again = {way: colour(dataclasses.replace(settings, denoise=way, seed=9)) for way in ("frame", "neighbours")}
    # A few specks that one seed has and the other has not would rule a root of squares: the mean tells of the picture.
    flicker = {way: float(np.abs(again[way] - cost_factors[way].picture.colour).mean()) for way in again}
    assert flicker["neighbours"] < flicker["frame"] < float(np.abs(cost_factors["none"].noisy - clean).mean())


def test_a_stronger_denoiser_leaves_less_noise_and_softens_more():
    settings = RenderSettings("stairs", 10, 64, 36, samples=8)
    twins = {
        way: [colour(dataclasses.replace(settings, denoise=f"frame {way}".strip(), seed=seed)) for seed in (1, 2)]
        for way in ("soft", "", "strong")
    }
    noise = {way: distance(*pair) for way, pair in twins.items()}
    assert noise["strong"] < noise[""] < noise["soft"]
    clean = colour(dataclasses.replace(settings, samples=128, seed=5))

    def lost(pair):
        return float(((pair[0] - clean) * (pair[1] - clean)).mean())

    assert lost(twins["strong"]) > lost(twins["soft"])


@pytest.mark.parametrize("name", ["frames", "neighbours 0", "frame 5 2", "neighbours 1 2 3", "", "neighbours -1"])
def test_an_unknown_way_of_denoising_is_refused(name):
    with pytest.raises(InputError, match="denoising"):
        denoise.parse(name)


def test_the_file_holds_channels_settings_and_seconds(tmp_path):
    settings = dataclasses.replace(
        SMALL, denoise="frame", noise_threshold=0.1, samples=64, seed=7, region=(8, 4, 40, 30)
    )
    done = render(find_scene("stairs"), settings)
    header = write_picture(done, tmp_path / "a.exr", "some machine")
    back = read_exr(tmp_path / "a.exr")
    assert set(back.header) == set(header) == set(HEADER)
    for name, value in header.items():
        assert back.header[name] == (pytest.approx(value, rel=1e-6) if isinstance(value, float) else value)
    assert back.header["seconds"] == pytest.approx(sum(back.header[f"{stage}_seconds"] for stage in STAGES))
    assert back.header["region"] == "8,4,40,30"
    at = {name: back.pixels[..., k] for k, name in enumerate(back.names)}
    assert set(at) == {
        *"RGB", *(f"noisy.{c}" for c in "RGB"), *(f"albedo.{c}" for c in "RGB"), *(f"normal.{c}" for c in "XYZ"),
        "depth.Z", *(f"variance.{c}" for c in "RGB"), "samples.N",
    }  # fmt: skip
    assert at["G"] == pytest.approx(done.picture.colour[..., 1], rel=1e-3, abs=1e-6)
    assert np.array_equal(at["samples.N"], done.film.taken)
    assert at["variance.R"] == pytest.approx(done.picture.variance[..., 0])
    assert [path.name for path in tmp_path.iterdir()] == ["a.exr"]


def test_half_and_float_are_what_the_file_says(tmp_path):
    for half, kind in ((True, "half"), (False, "float")):
        write_picture(
            render(find_scene("stairs"), dataclasses.replace(SMALL, samples=1, half=half)), tmp_path / "a.exr"
        )
        spec = oiio.ImageInput.open(str(tmp_path / "a.exr")).spec()
        assert str((spec.channelformats or [spec.format])[0]) == kind


def test_no_half_file_stays_where_it_cannot_be_written(tmp_path):
    with pytest.raises(FileError, match="cannot be written"):
        write_exr(tmp_path / "missing" / "a.exr", Channels(("R",), np.zeros((2, 2, 1), np.float32), {}))
    assert not list(tmp_path.iterdir())


def test_a_full_disk_is_said_and_leaves_no_half_file(tmp_path):
    noise = np.random.default_rng(1).random((512, 512, 1)).astype(np.float32)
    soft, hard = resource.getrlimit(resource.RLIMIT_FSIZE)
    resource.setrlimit(resource.RLIMIT_FSIZE, (100_000, hard))
    try:
        with pytest.raises(FileError, match="cannot be written"):
            write_exr(tmp_path / "a.exr", Channels(("R",), noise, {}))
    finally:
        resource.setrlimit(resource.RLIMIT_FSIZE, (soft, hard))
    assert not list(tmp_path.iterdir())


def test_work_can_be_stopped_and_says_how_far_it_is():
    heard = []

    class Watch:
        def step(self, fraction, text):
            heard.append((fraction, text))
            if fraction > 0.4:
                raise Cancelled

    with pytest.raises(Cancelled):
        render(find_scene("stairs"), dataclasses.replace(SMALL, width=320, height=180), Watch())
    fractions = [fraction for fraction, text in heard if text == "Tracing"]
    assert fractions == sorted(fractions)


def test_the_picture_can_be_seen_to_refine():
    seen = []
    render(find_scene("stairs"), SMALL, preview=lambda film: seen.append(develop(film)))
    assert [int(picture.samples.max()) for picture in seen] == [1, 2, 4, 8, 16]


def test_what_looks_at_the_picture_takes_no_time_of_the_frame():
    def slowly(_):
        time.sleep(0.2)

    seen = render(find_scene("stairs"), SMALL, preview=slowly)
    assert seen.clock.wall["trace"] < 5 * 0.2, "five looks of 0.2 s"


def test_an_unfinished_frame_is_saved_and_goes_on_from_there(tmp_path):
    path, saving = tmp_path / "unfinished.npz", dataclasses.replace(SMALL, samples=32, saves=3, width=128, height=72)

    class Breaks:
        def step(self, fraction, text):
            if text == "Tracing" and fraction > 0.6:
                raise Cancelled

    with pytest.raises(Cancelled):
        render(find_scene("stairs"), saving, Breaks(), unfinished=path)
    film = read_film(path, saving)
    assert 8 <= film.taken.mean() < 32
    heard = []

    class Watch:
        def step(self, fraction, text):
            heard.append((fraction, text))

    done = render(find_scene("stairs"), saving, Watch(), film=film, unfinished=path)
    assert next(fraction for fraction, text in heard if text == "Tracing") > 0.2, "what was saved is not done again"
    assert np.array_equal(done.picture.colour, render(find_scene("stairs"), saving).picture.colour)
    assert done.clock.wall["write"] > 0
    assert all(seconds >= 0 for seconds in (*done.clock.wall.values(), *done.clock.processor.values()))


def test_without_motion_blur_all_stands_still():
    scene, blurred = find_scene("wheels"), dataclasses.replace(SMALL, scene="wheels", samples=32, frame=40)
    opens, closes = scene.cameras(40, 1.5, blur=False)
    assert np.array_equal(opens, closes)
    assert not np.array_equal(*scene.cameras(40, 1.5))
    # The same random numbers: what differs is the movement.
    assert distance(colour(blurred), colour(dataclasses.replace(blurred, motion_blur=False))) > 0.01


def test_a_soft_filter_blurs_edges():
    sharp = dataclasses.replace(SMALL, samples=128)

    def edges(settings):
        return float(np.abs(np.diff(colour(settings), axis=1)).mean())

    assert edges(dataclasses.replace(sharp, gaussian_filter=True)) < 0.98 * edges(sharp)


def test_switches_go_by_their_names():
    assert switched(("soft filter",)) == {"motion_blur": False, "gaussian_filter": True}
    with pytest.raises(InputError, match="no “fog”"):
        switched(("fog",))
    assert settings_of({"scene": "stairs"}).motion_blur, "as the scene has it, unless something is said"


def test_larger_frames_hold_more_memory():
    small, large = (
        render(find_scene("stairs"), dataclasses.replace(SMALL, samples=1, width=width, height=width // 2)).memory_gib
        for width in (64, 1024)
    )
    assert 0.01 < small < large < small + 2


@pytest.mark.parametrize(
    ("wrong", "named"),
    [
        ({"frame": 0}, "frame"), ({"frame": 73}, "frame"), ({"width": 0}, "size"), ({"height": 100_000}, "size"),
        ({"samples": 0}, "samples"), ({"noise_threshold": 0.0}, "threshold"), ({"noise_threshold": float("nan")}, "threshold"),
        ({"noise_threshold": 0.1, "samples": 4}, "min samples"), ({"seconds": -1.0}, "seconds"),
        ({"region": (5, 5, 5, 9)}, "region"), ({"region": (0, 0, 999, 9)}, "region"), ({"keep": ("trace",)}, "keep"),
        ({"resolution_percent": 0.0}, "resolution"), ({"threads": -1}, "threads"), ({"seed": -1}, "seed"),
    ],
)  # fmt: skip
def test_wrong_settings_are_named(wrong, named):
    with pytest.raises(InputError, match=named):
        render(find_scene("stairs"), dataclasses.replace(SMALL, **wrong))


class TestCommand:
    def run(self, *arguments):
        return main(["render", *map(str, arguments)])

    def test_it_names_the_scenes(self, capsys):
        assert self.run("--list", "--json") == 0
        assert [scene["scene"] for scene in json.loads(capsys.readouterr().out)] == [scene.name for scene in SCENES]

    def test_it_renders_and_says_so(self, tmp_path, capsys):
        out = tmp_path / "a.exr"
        arguments = ("--scene", "stairs", "--frame", 3, "--size", "64x36", "--samples", 4, "-o", out)
        assert self.run(*arguments, "--json", "--row", tmp_path / "t.csv") == 0
        said = json.loads(capsys.readouterr().out)
        assert said["mean_samples"] == 4
        assert said["noise"] == pytest.approx(
            relative_noise(render(find_scene("stairs"), RenderSettings("stairs", 3, 64, 36, samples=4))), rel=1e-4
        )
        assert self.run(*arguments, "--row", tmp_path / "t.csv") == 0
        rows = list(csv.DictReader(io.StringIO((tmp_path / "t.csv").read_text())))
        assert len(rows) == 2
        assert tuple(rows[0]) == ROW_COLUMNS
        assert float(rows[0]["seconds"]) > float(rows[0]["trace_seconds"]) > 0
        assert self.run(*arguments, "--warm-up", "--row", tmp_path / "t.csv") == 0
        project = make_project(shots=(make_shot("stairs"),))
        trials = read_trials((tmp_path / "t.csv").read_text(), project)
        assert [trial.left_out for trial in trials] == [FIRST_RUN, FIRST_RUN, ""]
        assert trials[2].picture == "a.exr"
        assert len(trials[2].noise_shape) == QUANTILES
        assert (trials[2].samples, trials[2].noise_threshold, trials[2].keep) == (4, None, ())

    def test_a_top_up_is_a_fresh_frame(self, tmp_path):
        common = ("--scene", "stairs", "--size", "32x18", "--float", "-o", tmp_path / "a.exr")
        self.run(*common, "--samples", 4, "--top-up", tmp_path / "sums")
        self.run(*common, "--samples", 8, "--top-up", tmp_path / "sums")
        topped = read_exr(tmp_path / "a.exr").pixels
        self.run(*common, "--samples", 8)
        assert np.array_equal(read_exr(tmp_path / "a.exr").pixels, topped)
        assert self.run(*common, "--frame", 2, "--top-up", tmp_path / "sums") == 2

    def test_switches_caps_splits_and_saves_are_in_the_header_and_the_row(self, tmp_path):
        table = tmp_path / "t.csv"
        self.run(
            *("--scene", "stairs", "--size", "32x18", "-o", tmp_path / "a.exr", "--row", table, "--saves", 2),
            *("--switches", "motion blur, soft filter", "--split", "4,1,2", "--seconds", 60, "--samples", 4),
        )
        shots = (make_shot("stairs", 100),)
        (trial,) = read_trials(table.read_text(), make_project(shots))
        assert (trial.switches, trial.split, trial.saves) == (("motion blur", "soft filter"), (4, 1, 2), 2)
        assert trial.most_seconds == 60
        assert trial.memory_gib > 0.01
        assert trial.disk_mib == pytest.approx((tmp_path / "a.exr").stat().st_size / 2**20, rel=0.1)
        assert sorted(path.name for path in tmp_path.iterdir()) == ["a.exr", "t.csv"]
        assert self.run("--scene", "stairs", "-o", tmp_path / "b.exr", "--switches", "fog") == 2

    @pytest.mark.parametrize(
        ("arguments", "said"),
        [
            (("--scene", "moon", "-o", "a.exr"), "no scene “moon”"),
            (("-o", "a.exr"), "--scene: is missing"),
            (("--scene", "stairs"), "-o: is missing"),
            (("--scene", "stairs", "-o", "a.png"), ".exr"),
            (("--scene", "stairs", "-o", "nowhere/a.exr"), "cannot be written"),
            (("--scene", "stairs", "--size", "0x0", "-o", "a.exr"), "size"),
            (("--scene", "stairs", "--samples", "0", "-o", "a.exr"), "samples"),
        ],
    )
    def test_wrong_input_is_said_and_nothing_is_written(self, arguments, said, tmp_path, monkeypatch, capsys):
        monkeypatch.chdir(tmp_path)
        assert self.run(*arguments) == 2
        assert said in capsys.readouterr().err
        assert not list(tmp_path.iterdir())

    @pytest.mark.slow
    @pytest.mark.parametrize(("how", "code"), [(signal.SIGINT, 130), (signal.SIGKILL, -9)])
    def test_stopped_or_killed_it_leaves_nothing_under_the_name(self, tmp_path, how, code):
        out = tmp_path / "a.exr"
        command = [sys.executable, "-m", "pemlo", "render", "--scene", "stairs", "--samples", "4000", "-o", str(out)]
        # It says how far it is where somebody sees that: then it is at work.
        mine, its = pty.openpty()
        # A shell gives what it runs in the background a Ctrl-C that is ignored.
        process = subprocess.Popen(
            command,
            stderr=its,
            preexec_fn=lambda: signal.signal(signal.SIGINT, signal.SIG_DFL),  # noqa: PLW1509 - one thread here
        )
        os.close(its)
        try:
            said = b""
            while b"%" not in said:
                assert select.select([mine], [], [], 60)[0], "it says nothing"
                said += os.read(mine, 1000)
            process.send_signal(how)
            process.wait(timeout=60)
            while select.select([mine], [], [], 0)[0]:
                try:
                    said += os.read(mine, 1000)
                except OSError:  # its end is closed
                    break
        finally:
            process.kill()
            os.close(mine)
        assert process.returncode == code
        assert not out.exists()
        assert how == signal.SIGKILL or b"nothing was written" in said
