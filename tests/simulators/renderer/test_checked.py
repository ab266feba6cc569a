"""What comes from files is checked before compiled code reads it: a wrong index there ends the program."""

import dataclasses
import zipfile

import numpy as np
import pytest

from pemlo.core.errors import FileError
from pemlo_simulators.renderer.film import blank_film
from pemlo_simulators.renderer.film_file import read_film, write_film
from pemlo_simulators.renderer.kept import KeptData
from pemlo_simulators.renderer.render import render
from pemlo_simulators.renderer.scenes import find_scene
from pemlo_simulators.renderer.settings import RenderSettings

SMALL = RenderSettings("stairs", width=32, height=18, samples=2)
KEEPS = dataclasses.replace(SMALL, keep=("prepare", "light"))


@pytest.fixture(scope="module")
def kept(tmp_path_factory):
    """Return a folder with data that a frame has kept."""
    folder = tmp_path_factory.mktemp("kept")
    render(find_scene("stairs"), KEEPS, kept_in=folder)
    return folder


def arrays_of(path):
    with np.load(path) as file:
        return {name: file[name] for name in file.files}


def changed(arrays, name, change):
    array = arrays[name].copy()
    return {**arrays, name: change(array)}


def filled(value, place=0):
    def change(array):
        array.reshape(-1)[place] = value
        return array

    return change


WORLDS = {
    "a material that is not there": ("material", filled(10_000)),
    "a part that is not there": ("part", filled(-1)),
    "loose shapes beyond the last": ("loose", filled(2**30, 1)),
    "a root that is not there": ("roots", filled(2**30)),
    "a shape of no kind": ("kinds", filled(99)),
    "links out of the nodes": ("links", lambda links: np.where(links == 0, 2**30, links)),
    "links in circles": ("links", lambda links: np.where(links[..., 1:] == 0, 0, links)),
    "rows with fewer numbers": ("rows", lambda rows: rows[:, :3]),
    "no number": ("rows", filled(np.nan)),
    "another type": ("links", lambda links: links.astype(np.int64)),
    "fewer shapes": ("rows", lambda rows: rows[:-1]),
    "a material of no kind": ("materials", filled(77.0)),
}
LIGHTS = {
    "a light that is not there": ("of_shape", filled(10_000)),
    "more cells than there are": ("table_cells", filled(2**20)),
    "cells that come to fewer than none": ("cache_cells", filled(-4)),
    "a light of no kind": ("kinds", filled(77)),
    "fewer chances": ("chance", lambda chance: chance[:-1]),
    "an endless room": ("size", filled(np.inf)),
}


READERS = {"prepare": KeptData.read_world, "light": KeptData.read_lights}


@pytest.mark.parametrize(
    ("stage", "name", "change"),
    [
        pytest.param(stage, *change, id=what)
        for stage, changes in (("prepare", WORLDS), ("light", LIGHTS))
        for what, change in changes.items()
    ],
)
def test_kept_data_that_lead_astray_are_refused(kept, tmp_path, stage, name, change):
    file = f"stairs.{stage}.npz"
    np.savez(tmp_path / file, **changed(arrays_of(kept / file), name, change))
    with pytest.raises(FileError, match="cannot be read"):
        READERS[stage](KeptData(tmp_path, "stairs"))


@pytest.mark.parametrize("raw", [b"", b"PK", b"not an archive", b"PK\x03\x04" + b"\0" * 200])
def test_what_is_no_archive_is_refused(tmp_path, raw):
    for stage in ("prepare", "light"):
        (tmp_path / f"stairs.{stage}.npz").write_bytes(raw)
    (tmp_path / "film.npz").write_bytes(raw)
    for read in (KeptData(tmp_path, "stairs").read_world, KeptData(tmp_path, "stairs").read_lights):
        with pytest.raises(FileError, match="cannot be read"):
            read()
    with pytest.raises(FileError, match="holds no sums"):
        read_film(tmp_path / "film.npz", SMALL)


@pytest.mark.parametrize(
    "words",
    ["{'descr': '<f8', 'shape': (", "{'descr': '<f8', 'shape': (1,)", "\n", "{'descr': 'O', 'fortran_order': 0}"],
)
def test_arrays_whose_own_header_is_damaged_are_refused(kept, tmp_path, words):
    """A header is a line of Python in NumPy's own format: https://numpy.org/neps/nep-0001-npy-format.html."""
    arrays = arrays_of(kept / "stairs.prepare.npz")
    np.savez(tmp_path / "stairs.prepare.npz", **arrays)
    header = words.encode().ljust(117) + b"\n"
    with zipfile.ZipFile(tmp_path / "stairs.prepare.npz", "w") as file:
        for name in arrays:
            file.writestr(f"{name}.npy", b"\x93NUMPY\x01\x00" + len(header).to_bytes(2, "little") + header)
    with pytest.raises(FileError, match="cannot be read"):
        KeptData(tmp_path, "stairs").read_world()


def test_kept_data_that_are_right_are_read_again(kept):
    data = KeptData(kept, "stairs")
    assert len(data.read_world().kinds) == len(data.read_lights().of_shape)


def test_sums_of_another_size_are_refused(tmp_path):
    path = tmp_path / "film.npz"
    write_film(path, SMALL, blank_film(SMALL))
    assert read_film(path, SMALL).taken.shape == (18, 32)
    for film in (
        blank_film(dataclasses.replace(SMALL, width=16)),
        blank_film(SMALL)._replace(taken=-np.ones((18, 32), np.int32)),
    ):
        write_film(path, SMALL, film)
        with pytest.raises(FileError, match="holds no sums"):
            read_film(path, SMALL)
