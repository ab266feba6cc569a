"""Logs by example: styles that the code does not know, made up here as people's programs write them."""

from datetime import datetime, timedelta

import numpy as np
import pytest

from pemlo.core.arrivals.log_reader import LogReader, clock_time, pattern_of, try_on
from pemlo.core.errors import FileError, InputError
from pemlo.core.project.watching import LogExample, LogMark


def example(line, **texts):
    """Mark texts of a line; of one that appears twice the last."""
    return LogExample(
        line=line,
        marks=tuple(LogMark(field=name, begin=line.rindex(text), end=line.rindex(text) + len(text))
                    for name, text in texts.items()),
    )  # fmt: skip


STYLES = {
    "sentences": (
        example("21.04.2031 22:04:11 | node=desk | 070 #0012 | took 00:04:02.17 | peak 3.1G", frame="0012",
                seconds="00:04:02.17", shot="070", machine="desk", memory="3.1G"),
        lambda shot, frame, host, s: f"21.04.2031 23:00:00 | node={host} | {shot} #{frame:04d} | took "
        f"{int(s // 3600):02d}:{int(s % 3600 // 60):02d}:{s % 60:05.2f} | peak 4.2G",
    ),
    "short": (
        example("ok f12 A_010 4m02s desk", frame="12", seconds="4m02s", shot="A_010", machine="desk"),
        lambda shot, frame, host, s: f"ok f{frame} {shot} {int(s // 60)}m{int(s % 60):02d}s {host}",
    ),
    "plain": (
        example("Frame 12 (shot 070): Time: 4:02", frame="12", seconds="4:02", shot="070"),
        lambda shot, frame, host, s: f"Frame {frame} (shot {shot}): Time: {int(s // 60)}:{int(s % 60):02d}",
    ),
    "seconds": (
        example("shot=070;frame=12;host=desk;t=242.1 s", frame="12", seconds="242.1 s", shot="070", machine="desk"),
        lambda shot, frame, host, s: f"shot={shot};frame={frame};host={host};t={s:.1f} s",
    ),
}  # fmt: skip


@pytest.mark.parametrize("style", STYLES)
def test_a_style_is_learned_from_one_line(style, tmp_path):
    mark, write = STYLES[style]
    random = np.random.default_rng(3)
    wanted = {
        (str(random.choice(["070", "A_010"])), frame): (
            str(random.choice(["desk", "old-tower"])),
            random.uniform(70, 900),
        )
        for frame in range(1, 300)
    }
    lines = [write(shot, frame, host, seconds) for (shot, frame), (host, seconds) in wanted.items()]
    noise = ["", "loading textures 12 of 40", "WARNING: 3 lights have no shadow"]
    log = tmp_path / "any.log"
    log.write_text("\n".join([*noise, *lines]) + "\n", encoding="utf-8")
    pattern = pattern_of(mark, [*noise, *lines])
    said = try_on([pattern], [*noise, *lines])
    assert (said.read, said.unread) == (len(lines), 2)
    assert said.first_unread[0] == "loading textures 12 of 40"
    for one in LogReader(log, [pattern]).read_on():
        host, seconds = wanted[one.shot, one.frame]
        assert one.seconds == pytest.approx(seconds, rel=0.02)
        assert one.machine in ("", host)


def test_begin_and_end_may_lie_apart_and_cross_midnight(tmp_path):
    begin = example("[23:58:10] taken up 070/11 by desk", frame="11", shot="070", begun="23:58:10", machine="desk")
    end = example("[23:59:50] put down 070/11", frame="11", shot="070", ended="23:59:50")
    log = tmp_path / "a.log"
    log.write_text("[23:58:10] taken up 070/11 by desk\n[23:58:20] taken up 070/12 by blade\n"
                   "[23:59:50] put down 070/11\n[00:03:20] put down 070/12\n")  # fmt: skip
    lines = log.read_text().splitlines()
    frames = LogReader(log, [pattern_of(begin, lines), pattern_of(end, lines)]).read_on()
    assert [(frame.frame, frame.machine, frame.seconds) for frame in frames] == [(11, "desk", 100), (12, "blade", 300)]


def test_a_log_that_grows_is_read_on_and_one_that_is_new_from_its_beginning(tmp_path):
    mark, write = STYLES["seconds"]
    log = tmp_path / "a.log"
    log.write_text(write("070", 1, "desk", 10.0) + "\n" + write("070", 2, "desk", 11.0)[:20])
    reader = LogReader(log, [pattern_of(mark)])
    assert [one.frame for one in reader.read_on()] == [1]  # the second has no end yet
    with log.open("a") as file:
        file.write(write("070", 2, "desk", 11.0)[20:] + "\n" + write("070", 3, "desk", 12.0) + "\n")
    assert [(one.frame, one.seconds) for one in reader.read_on()] == [(2, 11.0), (3, 12.0)]
    assert reader.read_on() == ()
    log.unlink()
    log.write_text(write("070", 9, "desk", 13.0) + "\n")
    assert [one.frame for one in reader.read_on()] == [9]
    log.unlink()
    with pytest.raises(FileError, match=r"a\.log cannot be read"):
        reader.read_on()


@pytest.mark.parametrize(
    ("line", "marks", "words"),
    [
        ("frame 12 took 4:02", {"frame": "12"}, "mark which characters"),
        ("frame 12 took 4:02", {"seconds": "4:02"}, "mark which characters"),
    ],
)
def test_what_is_not_enough_is_said(line, marks, words):
    with pytest.raises(ValueError, match=words):
        example(line, **marks)


def test_what_cannot_be_read_is_said():
    with pytest.raises(InputError, match="cannot be read"):
        pattern_of(example("frame twelve took 4:02", frame="twelve", seconds="4:02"))


def at(*parts):
    return datetime(*parts)  # noqa: DTZ001 - a log does not say its zone


@pytest.mark.parametrize(
    ("text", "moment"),
    [
        ("2031-04-21 22:04:11", at(2031, 4, 21, 22, 4, 11)),
        ("2031/04/21 22:04:11", at(2031, 4, 21, 22, 4, 11)),
        ("21.04.2031 22:04:11", at(2031, 4, 21, 22, 4, 11)),
        ("2031-04-21 22:04:11,250", at(2031, 4, 21, 22, 4, 11) + timedelta(milliseconds=250)),
        ("22:04:11", at(1900, 1, 1, 22, 4, 11)),
    ],
)
def test_clock_times_as_logs_have_them(text, moment):
    assert clock_time(text).replace(tzinfo=None) == moment
