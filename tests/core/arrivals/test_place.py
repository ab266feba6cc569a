"""Names of frames, read and written, and folders of them, as people and machines leave them."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pemlo.core.arrivals.place import FrameName, place_of
from pemlo.core.arrivals.scan import scan

PLACE = "renders/{shot}/{shot}.{frame:04}.exr"
names = st.text(st.characters(codec="utf-8", exclude_characters="/\\\x00\n{}", exclude_categories=["Cs", "Cc"]), min_size=1,
                max_size=12).filter(lambda name: name.strip() and name not in (".", ".."))  # fmt: skip


@given(names, st.integers(-2_000_000, 2_000_000))
def test_what_is_written_is_read_again(shot, frame):
    for pattern in (PLACE, "{shot}_{frame:06}.png", "out/{frame:1}/{shot}.exr"):
        try:
            place = place_of(pattern)
        except ValueError:
            assert "{frame" not in pattern.rsplit("/", maxsplit=1)[-1]
            continue
        assert place.read(place.path(FrameName(shot, frame))) == FrameName(shot, frame)


@pytest.mark.parametrize(
    ("pattern", "path", "found"),
    [
        (PLACE, "renders/070/070.0012.exr", FrameName("070", 12)),
        (PLACE, "renders/070/070.12345678.exr", FrameName("070", 12345678)),
        (PLACE, "renders/070/070.-0003.exr", FrameName("070", -3)),
        (PLACE, "renders/070/071.0012.exr", None),  # the shot is another in each place
        (PLACE, "renders/070/070.012.exr", None),  # too few digits
        (PLACE, "renders/070/070.0012.exr.tmp", None),
        (PLACE, "renders/080 été/080 été.0001.exr", FrameName("080 été", 1)),
        ("{shot}/{layer}/v{take}/f{frame:03}.exr", "a/hair/v2/f007.exr", FrameName("a", 7, "hair", "2")),
        ("film.{frame:04}.png", "film.0001.png", FrameName("", 1)),
        ("a+b(c).{frame}.exr", "a+b(c).5.exr", FrameName("", 5)),  # signs of regular expressions mean themselves
    ],
)
def test_names_as_they_are_found(pattern, path, found):
    assert place_of(pattern).read(path) == found


@pytest.mark.parametrize(
    ("pattern", "words"),
    [("", "no {frame}"), ("{shot}.exr", "no {frame}"), ("{frame}/{shot}.exr", "no {frame}"),
     ("{scene}.{frame}.exr", "not a field"), ("{frame}.{exr", "brace")],
)  # fmt: skip
def test_a_place_that_is_none_says_what_is_wrong(pattern, words):
    with pytest.raises(ValueError, match=words):
        place_of(pattern)


def fill(folder, *frames, shot="010", size=3):
    home = folder / "renders" / shot
    home.mkdir(parents=True, exist_ok=True)
    for frame in frames:
        (home / f"{shot}.{frame:04d}.exr").write_bytes(b"x" * size)
    return home


def test_folders_of_frames_are_found_with_what_could_not_be_read(tmp_path):
    home = fill(tmp_path, 1, 2, 3)
    fill(tmp_path, 1, shot="020")
    (home / "notes.txt").write_text("x")
    (home / "010.0009.exr").mkdir()
    (home / "010.0010.exr").symlink_to(tmp_path / "nowhere")
    found = scan(place_of(PLACE), tmp_path)
    assert [(one.found.shot, one.found.frame) for one in found.arrivals] == [
        ("010", 1),
        ("010", 2),
        ("010", 3),
        ("020", 1),
    ]
    assert len(found.troubles) == 2
    assert any("is a folder" in words for words in found.troubles)
    assert any("cannot be looked at" in words for words in found.troubles)
    left = ["010.0001.exr", "010.0002.exr", "010.0003.exr", "010.0009.exr", "010.0010.exr", "notes.txt"]
    assert sorted(one.name for one in home.iterdir()) == left


def test_a_place_that_is_not_there_is_said_and_one_from_the_root_is_read(tmp_path):
    assert "There is no folder gone" in scan(place_of(PLACE), tmp_path / "gone").troubles[0]
    fill(tmp_path, 5)
    found = scan(place_of(f"{tmp_path}/{PLACE}"), tmp_path / "elsewhere")
    assert [one.found.frame for one in found.arrivals] == [5]
