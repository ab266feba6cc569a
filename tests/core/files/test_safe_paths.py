"""What is written stays in its folder, whatever names and links say."""

import pytest

from pemlo.core.errors import FileError
from pemlo.core.files.safe_paths import inside


@pytest.mark.parametrize("name", ["../x", "/abs/x", "a/../../x", ".", "", "out/x", "a/.."])
def test_a_path_that_leads_out_is_refused(tmp_path, name):
    folder = tmp_path / "frames"
    folder.mkdir()
    (folder / "out").symlink_to(tmp_path)
    with pytest.raises(FileError, match=r"leads out of the folder frames\."):
        inside(folder, name)


def test_a_path_inside_is_kept(tmp_path):
    (tmp_path / "b").mkdir()
    (tmp_path / "a").symlink_to(tmp_path / "b")
    assert inside(tmp_path, "a/x.exr") == tmp_path / "a/x.exr"
    assert inside(tmp_path, "c/../x") == tmp_path / "c/../x"


def test_a_folder_reached_through_a_link_is_the_same_folder(tmp_path):
    real = tmp_path / "real"
    real.mkdir()
    link = tmp_path / "link"
    link.symlink_to(real)
    assert inside(link, "x.exr") == link / "x.exr"
