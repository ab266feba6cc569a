"""``pemlo movie``."""

import av
import numpy as np
import OpenImageIO as oiio

from film import make_project, make_shot
from pemlo.cli.main import main
from pemlo.core.persistence.document import write_project


def film(tmp_path, **more):
    write_project(make_project((make_shot("010", 4),), **more), tmp_path / "job.pemlo")
    (tmp_path / "r").mkdir()
    for frame in (1, 2, 4):
        picture = oiio.ImageBuf(np.full((64, 96, 3), 100, np.uint8))
        assert picture.write(str(tmp_path / f"r/010.{frame:04}.png"))
    return ["movie", str(tmp_path / "job.pemlo"), "--place", "r/{shot}.{frame:04}.png", "-o"]


def test_a_movie_from_the_command_line(tmp_path, capsys):
    command = film(tmp_path)
    assert main([*command, str(tmp_path / "m.mp4"), "--timecode", "01:00:00:00"]) == 0
    assert "4 frames of 96×64 px, 1 slate for missing frames" in capsys.readouterr().out
    with av.open(str(tmp_path / "m.mp4")) as file:
        assert file.streams.video[0].frames == 4


def test_wrong_words(tmp_path, capsys):
    command = film(tmp_path)
    for more in (["--burn", "everything"], ["--timecode", "x"], ["--timecode", "01:00:00;00"], ["--shots", "999"]):
        assert main([*command, str(tmp_path / "m.mp4"), *more]) == 2
        assert "pemlo:" in capsys.readouterr().err
    assert not (tmp_path / "m.mp4").exists()
