"""The state of a document's film, as a window has it."""

from pathlib import Path

from pemlo.app.file_facts import FILES, FileFacts
from pemlo.app.film_state import FilmState
from pemlo.core.files.written import when_written


def state_of(document, jobs):
    return FilmState(document, jobs, FileFacts(jobs, FILES, when_written), Path)
