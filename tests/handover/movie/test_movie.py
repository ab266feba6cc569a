"""Review movies: decoded again by PyAV, and held against what went in."""

import subprocess
import sys
import wave
from pathlib import Path

import av
import numpy as np
import OpenImageIO as oiio
import PyOpenColorIO as ocio
import pytest
from av.video.reformatter import Interpolation

from film import make_project, make_shot
from pemlo.core.errors import FileError, InputError
from pemlo.core.pixels.display import View
from pemlo.core.progress import Cancelled
from pemlo.core.project.trials import Trial
from pemlo.handover.movie.burn_in import burn, letters, letters_px, slate, strip_px
from pemlo.handover.movie.codecs import offered
from pemlo.handover.movie.make_movie import MovieOrder, make_movie, movie_picture
from pemlo.handover.movie.order import MovieWish, movie_order
from pemlo.handover.movie.timeline import finished_pictures, timeline, trial_pictures
from pemlo.handover.movie.writer import exact_fraction

CODECS = {codec.name: codec for codec in offered()}
SIZE = (256, 128)
PLACE = "{shot}/{shot}.{frame:04}.png"


def patches(seed=0):
    """Return 8 by 4 patches of codes as a picture; corners of the cube of colours among them."""
    codes = np.random.default_rng(seed).integers(0, 256, (4, 8, 3))
    codes[0] = [[0, 0, 0], [255] * 3, [255, 0, 0], [0, 255, 0], [0, 0, 255], [128] * 3, [255, 255, 0], [64, 128, 192]]
    return codes, np.repeat(np.repeat(codes, 32, 0), 32, 1).astype(np.uint8)


def write_png(picture, path):
    path.parent.mkdir(parents=True, exist_ok=True)
    image = oiio.ImageBuf(np.ascontiguousarray(picture))
    assert image.write(str(path))
    return path


def write_frames(root, shot, frames, seed=0):
    for frame in frames:
        write_png(np.full((SIZE[1], SIZE[0], 3), 10 + frame, np.uint8), root / f"{shot}/{shot}.{frame:04}.png")


# Without these the library rounds down on the way back to RGB, which is off by up to four codes of itself.
EXACT = Interpolation.BILINEAR.value | Interpolation.ACCURATE_RND.value | Interpolation.FULL_CHR_H_INT.value


def decoded(path):
    how = {"src_colorspace": 1, "dst_colorspace": 1, "src_color_range": 1, "dst_color_range": 2, "interpolation": EXACT}
    with av.open(str(path)) as file:
        stream = file.streams.video[0]
        return stream, [frame.reformat(format="rgb24", **how).to_ndarray() for frame in file.decode(video=0)]


def order_of(tmp_path, name="m.mp4", project=None, **wish):
    path = tmp_path / name
    project = project or make_project((make_shot("010", 6),))
    return movie_order(project, tmp_path, MovieWish(place=PLACE, **wish), path), path


@pytest.mark.parametrize("name", sorted(CODECS))
def test_colours_come_back_within_two_codes(tmp_path, name):
    codes, picture = patches()
    codec = CODECS[name]
    for frame in range(1, 5):
        write_png(picture, tmp_path / f"010/010.{frame:04}.png")
    order, path = order_of(tmp_path, f"m{codec.ending}", make_project((make_shot("010", 4),)), burned=())
    make_movie(order, path)
    stream, frames = decoded(path)
    assert len(frames) == 4
    assert (stream.width, stream.height, stream.average_rate) == (256, 128, 24)
    for shown in frames:
        middles = shown.reshape(4, 32, 8, 32, 3)[:, 8:24, :, 8:24].mean(axis=(1, 3))
        assert np.abs(middles - codes).max() <= 2


@pytest.mark.parametrize("layout", ["beside", "split"])
def test_a_picture_that_is_looked_at_is_that_of_the_movie(tmp_path, layout):
    write_frames(tmp_path, "010", (1, 2, 4, 5, 6))
    order, path = order_of(tmp_path, "m.mov", second="frames", second_place=PLACE, layout=layout)
    make_movie(order, path)
    for number, written in enumerate(decoded(path)[1]):
        seen = movie_picture(order, number)
        assert seen.shape == written.shape
        assert np.abs(seen.astype(int) - written).mean() < 2  # letters have edges, which no codec keeps


@pytest.mark.parametrize("fps", [23.976, 24, 25, 29.97, 30, 48])
def test_count_and_rate(tmp_path, fps):
    write_frames(tmp_path, "010", range(1, 7))
    project = make_project((make_shot("010", 6),), fps=fps if fps % 1 == 0 else exact_fraction(round(fps) * 1000 / 1001).numerator / 1001)  # fmt: skip
    order, path = order_of(tmp_path, project=project)
    made = make_movie(order, path)
    stream, frames = decoded(path)
    assert made.frames == len(frames) == 6
    assert stream.average_rate == exact_fraction(project.delivery.fps)


def levels(path):
    """Return the code in the middle of every picture."""
    return [int(frame[20:60, 100:150].mean().round()) for frame in decoded(path)[1]]


def test_frames_that_were_not_planned_are_held_or_mixed(tmp_path):
    write_frames(tmp_path, "010", (1, 4, 7))
    shot = make_shot("010", 8)
    for between in ("hold", "blend"):
        planned = shot.replace(plan=shot.asked.replace(frame_step=3, between=between))
        order, path = order_of(tmp_path, project=make_project((planned,)), burned=())
        make_movie(order, path)
        found = levels(path)
        if between == "hold":
            assert found == pytest.approx([11, 11, 11, 14, 14, 14, 17, 17], abs=1)
        else:  # mixed in light: the curve is steep so low, and codes lie a little over the straight line
            assert found == pytest.approx([11, 12, 13, 14, 15, 16, 17, 17], abs=1)
            [one] = [shown for shown in order.shown if shown.frame == 2]
            assert [share for _, share in one.parts] == pytest.approx([2 / 3, 1 / 3])


def test_missing_frames_are_slates_that_say_so(tmp_path):
    write_frames(tmp_path, "010", (1, 2, 4))
    order, path = order_of(tmp_path, project=make_project((make_shot("010", 4),)))
    made = make_movie(order, path)
    assert made.missing == 1
    assert [shown.words for shown in order.shown if shown.missing] == ["010: frame 3 is missing"]
    shown = decoded(path)[1][2]
    drawn = slate(SIZE, "010: frame 3 is missing")
    middle = slice(48, 80)
    alike = np.corrcoef(shown[middle].ravel().astype(float), drawn[middle].ravel().astype(float))[0, 1]
    assert alike > 0.95


def test_a_planned_frame_that_is_missing_is_not_held_over(tmp_path):
    write_frames(tmp_path, "010", (1, 5))
    shot = make_shot("010", 6)
    planned = shot.replace(plan=shot.asked.replace(frame_step=2))
    pictures = finished_pictures(make_project((planned,)), tmp_path, PLACE)
    shown = timeline(make_project((planned,)), pictures, 24.0)
    assert [one.missing for one in shown] == [False, False, True, True, False, False]


def test_words_can_be_read(tmp_path):
    write_frames(tmp_path, "010", range(1, 4))
    order, path = order_of(tmp_path, project=make_project((make_shot("010", 3),)), first_frame=86_400)
    make_movie(order, path)
    shown = decoded(path)[1][1].astype(float).mean(axis=2)
    drawn = np.full((SIZE[1], SIZE[0], 3), 12, np.uint8)
    burn(drawn, "010  2", order.shown[1].words, "01:00:00:01")
    strip = slice(SIZE[1] - strip_px(SIZE[1]), SIZE[1])
    alike = np.corrcoef(shown[strip].ravel(), drawn.astype(float).mean(axis=2)[strip].ravel())[0, 1]
    assert alike > 0.97
    wrong = np.full((SIZE[1], SIZE[0], 3), 12, np.uint8)
    burn(wrong, "070  8", "", "02:13:48:17")
    other = np.corrcoef(shown[strip].ravel(), wrong.astype(float).mean(axis=2)[strip].ravel())[0, 1]
    assert other < alike - 0.1


def test_each_word_can_be_switched_off(tmp_path):
    write_frames(tmp_path, "010", range(1, 2))
    project = make_project((make_shot("010", 1),))
    pictures = {}
    for burned in ((), ("shot",), ("frame",), ("timecode",), ("settings",)):
        order, path = order_of(tmp_path, f"{'-'.join(burned) or 'none'}.mp4", project, burned=burned)
        make_movie(order, path)
        pictures[burned] = decoded(path)[1][0].astype(int)
    none = pictures.pop(())
    assert np.abs(none - none[0, 0]).max() <= 2
    low = SIZE[1] - strip_px(SIZE[1])
    for burned, picture in pictures.items():
        assert np.abs(picture[:low] - none[:low]).max() <= 3, burned
        assert (picture[low:] > 150).any(), burned


def test_two_sequences_beside_each_other_and_split(tmp_path):
    write_frames(tmp_path, "010", range(1, 4))
    for frame in range(1, 4):
        write_png(np.full((SIZE[1], SIZE[0], 3), 200, np.uint8), tmp_path / f"other/010.{frame:04}.png")
    project = make_project((make_shot("010", 3),))
    for layout in ("beside", "split"):
        order, path = order_of(
            tmp_path,
            project=project,
            layout=layout,
            second="frames",
            second_place="other/{shot}.{frame:04}.png",
            burned=(),
        )
        make_movie(order, path)
        stream, frames = decoded(path)
        assert stream.width == (512 if layout == "beside" else 256)
        quarter = stream.width // 4
        assert frames[1][64, quarter] == pytest.approx([12] * 3, abs=2)
        assert frames[1][64, 3 * quarter] == pytest.approx([200] * 3, abs=2)


def test_frames_of_trials_stand_until_the_next(tmp_path):
    write_png(np.full((SIZE[1], SIZE[0], 3), 60, np.uint8), tmp_path / "a.png")
    write_png(np.full((SIZE[1], SIZE[0], 3), 160, np.uint8), tmp_path / "b.png")
    trials = [Trial(shot="010", frame=f, samples=64, seconds=1, picture=p) for f, p in ((2, "a.png"), (5, "b.png"))]
    project = make_project((make_shot("010", 6), make_shot("020", 2)), trials=tuple(trials))
    shown = timeline(project, trial_pictures(project, tmp_path), 24.0, trials=True)
    assert [one.parts[0][0].name if one.parts else "" for one in shown] == ["a.png"] * 4 + ["b.png"] * 2 + ["", ""]
    assert shown[6].words == "020: no trial has a picture"


def test_shots_of_another_rate_keep_their_seconds(tmp_path):
    write_frames(tmp_path, "010", range(1, 13))
    shot = make_shot("010", 12).replace(fps=12.0)
    project = make_project((shot,))
    shown = timeline(project, finished_pictures(project, tmp_path, PLACE), 24.0)
    assert [one.frame for one in shown] == [frame for frame in range(1, 13) for _ in (0, 1)]


def test_pictures_of_other_proportions_stand_in_black(tmp_path):
    write_png(np.full((128, 256, 3), 100, np.uint8), tmp_path / "010/010.0001.png")
    write_png(np.full((128, 128, 3), 200, np.uint8), tmp_path / "020/020.0001.png")
    order, path = order_of(tmp_path, project=make_project((make_shot("010", 1), make_shot("020", 1))), burned=())
    make_movie(order, path)
    second = decoded(path)[1][1]
    assert second[64, 128] == pytest.approx([200] * 3, abs=2)
    assert second[64, 20] == pytest.approx([0] * 3, abs=2)


def test_odd_sides_are_made_even(tmp_path):
    write_png(np.full((101, 203, 3), 100, np.uint8), tmp_path / "010/010.0001.png")
    order, path = order_of(tmp_path, project=make_project((make_shot("010", 1),)))
    make_movie(order, path)
    stream, _ = decoded(path)
    assert (stream.width, stream.height) == (202, 100)


def test_a_view_of_a_colour_configuration(tmp_path):
    config = ocio.Config()
    config.addColorSpace(ocio.ColorSpace(name="light"))
    root = ocio.ExponentTransform([2.0, 2.0, 2.0, 1.0], direction=ocio.TRANSFORM_DIR_INVERSE)
    config.addColorSpace(ocio.ColorSpace(name="root", fromReference=root))
    config.setRole(ocio.ROLE_SCENE_LINEAR, "light")
    config.addDisplayView("screen", "plain", "root")
    (tmp_path / "c.ocio").write_text(config.serialize())
    light = np.full((128, 256, 3), 0.25, np.float32)
    image = oiio.ImageBuf(light)
    (tmp_path / "010").mkdir()
    assert image.write(str(tmp_path / "010/010.0001.exr"), "half")
    view = View(str(tmp_path / "c.ocio"), "screen", "plain")
    wish = MovieWish(place="{shot}/{shot}.{frame:04}.exr", display=view, burned=())
    path = tmp_path / "m.mp4"
    make_movie(movie_order(make_project((make_shot("010", 1),)), tmp_path, wish, path), path)
    assert decoded(path)[1][0][64, 64] == pytest.approx([127.5] * 3, abs=2)


def write_wav(path, seconds, level=0.5):
    rate = 22_050
    wave_ = (level * 32767 * np.sin(2 * np.pi * 440 * np.arange(int(seconds * rate)) / rate)).astype("<i2")
    with wave.open(str(path), "wb") as file:
        file.setnchannels(1)
        file.setsampwidth(2)
        file.setframerate(rate)
        file.writeframes(wave_.tobytes())


@pytest.mark.parametrize(("name", "seconds"), [("H.264", 0.4), ("H.264", 3.0), ("VP9", 0.4), ("ProRes", 3.0)])
def test_sound_is_cut_or_silent_at_the_end(tmp_path, name, seconds):
    write_frames(tmp_path, "010", range(1, 25))
    write_wav(tmp_path / "s.wav", seconds)
    order, path = order_of(tmp_path, f"m{CODECS[name].ending}", make_project((make_shot("010", 24),)), sound=tmp_path / "s.wav")  # fmt: skip
    make_movie(order, path)
    with av.open(str(path)) as file:
        sound = np.concatenate([frame.to_ndarray().astype(float).reshape(-1) if not frame.format.is_planar
                                else frame.to_ndarray().astype(float)[0] for frame in file.decode(audio=0)])  # fmt: skip
    step = 2 if name == "ProRes" else 1  # both channels in a row
    sound = sound[::step] / (32767 if name == "ProRes" else 1)
    assert len(sound) / 48_000 == pytest.approx(1.0, abs=0.06)
    loud = np.abs(sound[4_800:14_400]).max()
    assert 0.2 < loud < 0.6
    late = np.abs(sound[36_000:45_000]).max()
    assert (late < 0.02) == (seconds < 0.7)


def test_stopping_leaves_no_half_file_and_what_was_there(tmp_path):
    write_frames(tmp_path, "010", range(1, 7))
    order, path = order_of(tmp_path)
    path.write_bytes(b"before")

    class Stop:
        def step(self, fraction, text):
            if fraction > 0.4:
                raise Cancelled

    with pytest.raises(Cancelled):
        make_movie(order, path, Stop())
    assert path.read_bytes() == b"before"
    assert [one.name for one in tmp_path.iterdir() if one.is_file()] == ["m.mp4"]


_FULL = """
import resource, signal, sys
from pathlib import Path
signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
from test_movie import *
root = Path(sys.argv[1])
order, path = order_of(root, project=make_project((make_shot("010", 60),)))
resource.setrlimit(resource.RLIMIT_FSIZE, (3000, 3000))
try:
    make_movie(order, path)
except FileError as error:
    print("refused:", error.message)
"""


def test_a_disk_that_takes_no_more_leaves_no_half_file(tmp_path):
    random = np.random.default_rng(0)
    for frame in range(1, 61):
        write_png(random.integers(0, 255, (128, 256, 3), dtype=np.uint8), tmp_path / f"010/010.{frame:04}.png")
    here = Path(__file__).parent
    run = subprocess.run(
        [sys.executable, "-c", _FULL, str(tmp_path)], cwd=here, capture_output=True, text=True, check=False,
        env={"PYTHONPATH": f"{here}:{here.parents[1]}", "PATH": "/usr/bin:/bin", "HOME": str(tmp_path)},
    )  # fmt: skip
    assert "refused: m.mp4 cannot be written" in run.stdout, run.stderr
    assert [one.name for one in tmp_path.iterdir() if one.is_file()] == []


def test_a_folder_that_is_not_there(tmp_path):
    write_frames(tmp_path, "010", range(1, 7))
    order, _ = order_of(tmp_path)
    with pytest.raises(FileError, match="cannot be written"):
        make_movie(order, tmp_path / "nowhere" / "m.mp4")


def test_a_picture_that_is_damaged_is_a_slate_and_is_named(tmp_path):
    write_frames(tmp_path, "010", range(1, 7))
    (tmp_path / "010/010.0003.png").write_bytes(b"no picture")
    order, path = order_of(tmp_path)
    made = make_movie(order, path)
    assert len(made.damaged) == 1
    assert "010.0003.png" in made.damaged[0]
    assert made.frames == 6


@pytest.mark.parametrize(
    ("wish", "name", "what"),
    [
        ({"codec": "none"}, "m.mp4", "no codec"), ({}, "m.avi", "does not end"), ({"codec": "VP9"}, "m.mp4", "into .webm"),
        ({"shots": ("999",)}, "m.mp4", "no shot 999"), ({"width": 4}, "m.mp4", "px"), ({"drop": True}, "m.mp4", "drop-frame"),
        ({"sound": Path("/nowhere.wav")}, "m.mp4", "cannot be read as sound"), ({"source": "trials"}, "m.mp4", "No trial"),
    ],
)  # fmt: skip
def test_what_cannot_be_is_said(tmp_path, wish, name, what):
    write_frames(tmp_path, "010", range(1, 7))

    def make():
        order, path = order_of(tmp_path, name, **wish)
        make_movie(order, path)

    with pytest.raises((InputError, FileError), match=what):
        make()


def test_letters_are_as_large_as_they_should_be():
    assert letters_px(1080) == 30
    assert letters("010", 30).shape[0] == 42
    assert letters("", 30).shape[1] >= 1
    small = np.zeros((40, 30, 3), np.uint8)
    burn(small, "a very long name of a shot", "and settings", "00:00:00:00")  # what has no room is cut off
    assert MovieOrder((), (3, 5), 24.0, CODECS["H.264"]).side_sizes == (2, 4)
