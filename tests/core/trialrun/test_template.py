"""Commands filled in for one frame: words without a shell, and nothing in a value that gives orders."""

import shlex
import subprocess
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from film import make_project
from pemlo.core.errors import InputError
from pemlo.core.project.render_ways import MachineCommand, RenderWay
from pemlo.core.project.settings import FrameSettings
from pemlo.core.trialrun.learned import learned
from pemlo.core.trialrun.output_text import marked_line, read_marked_line
from pemlo.core.trialrun.run import file_name
from pemlo.core.trialrun.sayings import read_sayings, sayings_text
from pemlo.core.trialrun.small_renderer import small_renderer
from pemlo.core.trialrun.template import FrameTask, as_reachable, check_way, filled, unreachable

SIZE = (1920, 1080)


def way(command="draw {scene} -f {frame} -o {out}", **fields):
    return RenderWay(name="main", command=command, **fields)


def task(scene="quay.scn", frame=12, region=None, **settings):
    return FrameTask("010", frame, SIZE, FrameSettings(**{"samples": 64, **settings}), scene, region=region)


def words(made_way, made_task=None, machine=""):
    return list(filled(made_way, made_task or task(), "/p/a", machine).words)


def test_three_plain_commands_by_hand():
    assert words(way("draw {scene} --frame {frame:04} --spp {samples} --out {out}")) == [
        "draw", "quay.scn", "--frame", "0012", "--spp", "64", "--out", "/p/a.exr",
    ]  # fmt: skip
    # Half the size on each side: sides where the command has no percentage, the whole size where it has one.
    half = task(resolution_percent=50)
    assert words(way("draw -x {width} -y {height} -f {frame} {out}"), half)[1:5] == ["-x", "960", "-y", "540"]
    assert words(way("draw -x {width} -p {percent} -f {frame} {out}"), half)[1:5] == ["-x", "1920", "-p", "50"]
    # One argument, whatever stands around it.
    assert words(way("draw --at={frame},{seed} --to={out}"))[1:] == ["--at=12,0", "--to=/p/a.exr"]


def test_what_is_said_in_other_words():
    table = read_sayings(
        "denoise none = --raw\ndenoise frame = --clean 1\nthreshold none =\nthreshold any = --noise {value}\n"
        "switch motion blur = --blur 1 | --blur 0\nswitch soft filter = --soft |\nregion any = --crop {value}\nregion none ="
    )
    made = way("draw {threshold} {denoise} {switches} {region} -f {frame} {out}", sayings=table)
    assert words(made)[1:] == ["--raw", "--blur", "0", "-f", "12", "/p/a.exr"]
    on = task(noise_threshold=0.05, denoise="frame", switches=("motion blur", "soft filter"), region=(0, 0, 960, 540))
    assert words(made, on)[1:] == [
        "--noise", "0.05", "--clean", "1", "--blur", "1", "--soft", "--crop", "0,0,960,540", "-f", "12", "/p/a.exr",
    ]  # fmt: skip
    with pytest.raises(InputError, match="does not say how to denoise by “neighbours”"):
        words(made, task(denoise="neighbours"))
    with pytest.raises(InputError, match="does not say how “fog” is switched on"):
        words(made, task(switches=("fog",)))
    assert read_sayings(sayings_text(table)) == table


def test_where_the_picture_lands():
    def picture(pattern):
        return filled(way(picture=pattern), task(), "/p/a").picture

    assert [picture(one) for one in ("", ".png", "{out}.{frame:04}.exr")] == ["/p/a.exr", "/p/a.png", "/p/a.0012.exr"]
    assert words(way(picture="{out}.{frame:04}.exr"))[-1] == "/p/a", "what the renderer makes its own name of"


def test_a_machine_has_its_prefix_and_its_name():
    far = way(
        "draw -f {frame} {out}",
        machines=(MachineCommand(machine="blade", prefix="reach {machine} --"), MachineCommand(machine="desk")),
    )
    assert words(far, machine="blade") == ["reach", "blade", "--", "draw", "-f", "12", "/p/a.exr"]
    assert words(far, machine="desk")[0] == "draw"


@pytest.mark.parametrize(
    ("command", "match"),
    [
        ("draw {frmae} {out}", "is no field"), ("draw {frame {out}", "no field"), ("draw {out}", "put {frame}"),
        ("draw {frame}", "put {out}"), ("draw '{frame} {out}", "quote is left open"),
    ],
)  # fmt: skip
def test_wrong_templates_are_refused(command, match):
    with pytest.raises(InputError) as error:
        check_way(way(command))
    assert match in str(error.value)


@given(st.text(min_size=1, max_size=40))
def test_a_value_is_one_word_whatever_it_holds(scene):
    made = way("draw {scene} -f {frame} {out}")
    try:
        found = words(made, task(scene=scene))
    except InputError:
        return  # it begins with a minus, or cannot be seen
    assert found == ["draw", scene, "-f", "12", "/p/a.exr"]


@pytest.mark.parametrize("scene", ["a; touch MARK", "$(touch MARK)", "`touch MARK`", "a' b", "{frame}", "a\\", "* ?"])
def test_a_shell_takes_no_orders_from_a_value(tmp_path, scene):
    made = filled(way("printf %s {scene} # {frame} {out}", shell=True), task(scene=scene), "/p/a")
    done = subprocess.run(made.words, cwd=tmp_path, capture_output=True, text=True, check=True)
    assert done.stdout == scene
    assert not list(tmp_path.iterdir())


def test_a_value_is_no_option():
    with pytest.raises(InputError, match="take it for an option"):
        words(way(), task(scene="--delete-all"))


def test_what_a_command_cannot_set_stands_as_asked():
    made = way("draw -f {frame} -s {samples} {out}")
    assert "resolution_percent" in unreachable(made)
    assert "samples" not in unreachable(made)
    asked = FrameSettings(samples=256, denoise="frame")
    wanted = FrameSettings(samples=16, resolution_percent=25, noise_threshold=0.1)
    assert as_reachable(made, wanted, asked) == FrameSettings(samples=16, denoise="frame")


def test_the_small_renderer_reaches_every_lever():
    assert unreachable(small_renderer()) == ()
    line = words(
        small_renderer(),
        task("stairs", noise_threshold=0.1, min_samples=4, denoise="neighbours 8 2", keep=("light",), most_seconds=9, split=(4, 1, 2)),
    )  # fmt: skip
    for pair in (("--noise-threshold", "0.1"), ("--min-samples", "4"), ("--denoise", "neighbours 8 2"), ("--keep", "light"), ("--seconds", "9"), ("--split", "4,1,2")):  # fmt: skip
        assert line[line.index(pair[0]) + 1] == pair[1]


PASTED = [
    (
        "/opt/draw/bin/draw -s 64 quay.scn --frame 0012 --noise-threshold 0.05 -o /film/quay.0012.png",
        "/opt/draw/bin/draw -s {samples} quay.scn --frame {frame:04} --noise-threshold {threshold} -o {out}",
    ),
    (
        "draw --start=12 --end=12 --resolution 1920x1080 --percent 50 \\\n  --seed 7 out.exr",
        "draw --start={frame} --end={frame} --resolution {width}x{height} --percent {percent} --seed {seed} {out}",
    ),
    ("draw --threads 8 --crop 0,0,100,50 12", "draw --threads 8 --crop {region} 12"),
]


@pytest.mark.parametrize(("pasted", "template"), PASTED)
def test_a_pasted_command_is_learned(pasted, template):
    assert learned(pasted, make_project()).command == template


def test_what_is_not_recognised_is_named():
    made = learned("draw --threads 8 --frame 3 7 --out a.exr", make_project())
    assert made.unknown == ("8", "7")


@given(st.text(max_size=60))
def test_any_text_is_learned_or_refused(text):
    try:
        made = learned(text, make_project())
    except InputError:
        return
    assert shlex.split(made.command)


def test_a_marked_line_is_read_and_written():
    text = "frame [frame:5] done in [seconds:12.3 s], peak [memory:3.1 GiB]"
    assert marked_line(read_marked_line(text)) == text
    with pytest.raises(InputError, match="nothing is marked"):
        read_marked_line("done in 12.3 s")


@pytest.mark.parametrize("shot", ["../../x", "/x", "..", "a/b", "", "x" * 300, "nul\0", "010"])
def test_no_shot_leads_out_of_the_folder_of_pictures(shot):
    name = file_name(shot)
    assert Path("/films/pictures", f"{name}-0001.exr").resolve().parent == Path("/films/pictures")
    assert len(name) <= 60
    assert shot != "010" or name == "010"
