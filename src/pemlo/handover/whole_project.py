"""A whole project as one folder that opens elsewhere: the document, its pictures and their small copies. Files."""

import os
import shutil
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from tempfile import mkdtemp

from pemlo.core.errors import FileError
from pemlo.core.files.header import is_picture
from pemlo.core.files.trial_pictures import small_beside
from pemlo.core.persistence.document import write_project
from pemlo.core.persistence.whole_files import why_not_written
from pemlo.core.progress import Monitor, Unwatched
from pemlo.core.project.project import Project

PICTURES = "pictures"
_LONGEST_NAME = 200  # bytes: file systems take 255, and small copies have longer endings


@dataclass(frozen=True)
class PackedFile:
    """A file that goes along: where it lies, what it is called in the folder, and its bytes."""

    source: Path
    name: str
    bytes: int


@dataclass(frozen=True)
class Pack:
    """What would go into the folder.

    Attributes
    ----------
    project : Project
        With names of pictures that hold in the folder.
    files : tuple of PackedFile
    missing : tuple of str
        Pictures that the project names, and that are not there; small copies of them go along where there are any.
    left_aside : tuple of str
        Files that it names as pictures, and that are none.
    """

    project: Project
    files: tuple[PackedFile, ...]
    missing: tuple[str, ...]
    left_aside: tuple[str, ...] = ()

    @property
    def bytes(self) -> int:
        """What all pictures weigh; the document is small beside them."""
        return sum(file.bytes for file in self.files)


def pack_of(project: Project, folder: Path) -> Pack:
    """Return what a folder with the whole project would hold; looks at files and writes nothing.

    Parameters
    ----------
    project : Project
    folder : path
        From which relative names of pictures are taken.
    """
    named = dict.fromkeys(name for trial in project.trials for name in (trial.picture, trial.error_against) if name)
    taken: set[str] = set()
    renamed: dict[str, str] = {}
    files: list[PackedFile] = []
    missing: list[str] = []
    aside: list[str] = []
    for name in named:
        source = folder / name
        exists, small = source.is_file(), [path for path in small_beside(source) if is_picture(path)]
        if exists and not is_picture(source):
            aside.append(name)
            continue
        if not exists:
            missing.append(name)
        if not exists and not small:
            continue
        inside = Path(PICTURES) / _free(source.name, taken)
        renamed[name] = inside.as_posix()
        if exists:
            files.append(_packed(source, inside))
        places = dict(zip(small_beside(source), small_beside(inside), strict=True))
        files += [_packed(path, places[path]) for path in small]
    return Pack(_with_names(project, renamed), tuple(files), tuple(missing), tuple(aside))


def _packed(source: Path, inside: Path) -> PackedFile:
    return PackedFile(source, inside.as_posix(), source.stat().st_size)


def _free(name: str, taken: set[str]) -> str:
    """Return a name that no other file has, letters of both sizes alike: some systems do not tell them apart."""
    stem, dot, ending = name.rpartition(".")
    while len(f"{stem}-{len(taken)}{dot}{ending}".encode("utf-8", "surrogateescape")) > _LONGEST_NAME and stem:
        stem = stem[:-1]
    found, number = f"{stem}{dot}{ending}", 2
    while found.lower() in taken:
        found, number = f"{stem}-{number}{dot}{ending}", number + 1
    taken.add(found.lower())
    return found


def _with_names(project: Project, names: Mapping[str, str]) -> Project:
    trials = tuple(
        trial.model_copy(
            update={
                "picture": names.get(trial.picture, trial.picture),
                "error_against": names.get(trial.error_against, trial.error_against),
            }
        )
        for trial in project.trials
    )
    return project.model_copy(update={"trials": trials})


def write_pack(pack: Pack, target: Path, name: str, monitor: Monitor | None = None) -> Path:
    """Write the folder; it is whole, or not there.

    Parameters
    ----------
    pack : Pack
    target : path
        Of the folder, which must not be there, or be empty.
    name : str
        Of the project's file in it.
    monitor : Monitor, optional

    Returns
    -------
    path
        Of the project's file.

    Raises
    ------
    FileError
        If it cannot be written, such as on a full disk.
    Cancelled
        From the monitor; then nothing is left behind.
    """
    watch = monitor or Unwatched()
    target = Path(os.path.abspath(target))  # noqa: PTH100 - without the dots, and without following links
    beside: Path | None = None
    done = 0
    try:
        if target.exists() and (not target.is_dir() or any(target.iterdir())):
            raise FileError(f"{target.name} exists already, and is not empty.", "Name a folder that is not there.")
        target.parent.mkdir(parents=True, exist_ok=True)
        beside = Path(mkdtemp(prefix=".pemlo-packing-", dir=target.parent))
        beside.chmod(0o755)
        (beside / PICTURES).mkdir()
        for file in pack.files:
            watch.step(done / max(pack.bytes, 1), f"Packing {file.name}")
            shutil.copyfile(file.source, beside / file.name)
            done += file.bytes
        write_project(pack.project, beside / name)
        if target.exists():
            target.rmdir()
        beside.rename(target)
    except OSError as error:
        hint = "Check that the place may be written and has room."
        raise FileError(f"{target.name} cannot be written: {why_not_written(error)}.", hint) from error
    finally:
        if beside is not None:
            shutil.rmtree(beside, ignore_errors=True)
    return target / name
