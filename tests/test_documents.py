"""What the documents promise: complete tables, files that are there, pictures that are linked, lines that fit."""

import ast
import re
from pathlib import Path

import pytest

from pemlo.core.persistence import csv_launch, csv_machines, csv_shots, csv_trials

ROOT = Path(__file__).parents[1]
DOCUMENTS = sorted([*ROOT.glob("*.md"), *ROOT.glob("docs/**/*.md")])
FILES = re.compile(r"`((?:core|gui|app|cli|pemlo_simulators|studies|tests|docs)/[\w/]+\.(?:py|md))`")


@pytest.mark.parametrize(
    ("table", "columns"),
    [
        ("shots", csv_shots.COLUMNS),
        ("trials", csv_trials.COLUMNS),
        ("machines", csv_machines.COLUMNS),
        ("launch", csv_launch.COLUMNS),
    ],
)
def test_the_reference_names_every_column(table, columns):
    row = next(
        line for line in (ROOT / "docs/reference/tables.md").read_text().splitlines() if line.startswith(f"| {table} |")
    )
    named = set(re.findall(r"\w+", row))
    assert {column.name for column in columns} <= named


@pytest.mark.parametrize("document", DOCUMENTS, ids=lambda path: path.name)
def test_files_that_a_document_names_are_there(document):
    text = document.read_text()
    named = set(FILES.findall(text))
    missing = [
        name
        for name in named
        if not (ROOT / name).exists() and not any((ROOT / top / name).exists() for top in ("src", "src/pemlo"))
    ]
    links = [link for link in re.findall(r"\]\(([^)#]+)\)", text) if "://" not in link]
    missing += [link for link in links if not (document.parent / link).exists()]
    assert not missing


@pytest.mark.parametrize("document", DOCUMENTS, ids=lambda path: path.name)
def test_a_document_fits_the_width(document):
    lines = document.read_text().splitlines()
    assert [line for line in lines if len(line) > 120 and not line.startswith("|")] == []


def test_every_picture_is_linked_from_the_readme():
    readme = (ROOT / "README.md").read_text()
    pictures = sorted((ROOT / "docs/screenshots").glob("*.png"))
    assert [picture.name for picture in pictures if f"screenshots/{picture.name}" not in readme] == []
    assert 10 < len(pictures) < 20


def test_no_class_is_large():
    """One that grows past twenty methods is two."""
    large = [
        node.name
        for source in (ROOT / "src/pemlo").rglob("*.py")
        for node in ast.parse(source.read_text()).body
        if isinstance(node, ast.ClassDef) and sum(isinstance(one, ast.FunctionDef) for one in node.body) > 20
    ]
    assert large == []


def described(docstring):
    """Return the parameters that a docstring describes."""
    _, found, rest = (docstring or "").partition("Parameters\n---")
    lines = re.split(r"\n[A-Z][a-z]+\n---", rest)[0].splitlines() if found else []
    names = [re.match(r"([a-z_][\w, ]*)(?: : .*)?$", line) for line in lines if not line.startswith("-")]
    return {name.strip() for match in names if match for name in match[1].split(",")}


def test_docstrings_describe_the_parameters_that_there_are():
    wrong = []
    for source in sorted((ROOT / "src/pemlo").rglob("*.py")):
        for node in ast.walk(ast.parse(source.read_text())):
            if isinstance(node, ast.FunctionDef):
                there = {argument.arg for argument in (*node.args.args, *node.args.kwonlyargs)}
                wrong += [(source.name, node.name, name) for name in described(ast.get_docstring(node)) - there]
    assert wrong == []


def _names_of(path):
    """Every name that a module defines, takes, reads or imports, and the words of its short strings."""
    names = {path.stem}
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.ClassDef | ast.FunctionDef | ast.AsyncFunctionDef):
            names.add(node.name)
        elif isinstance(node, ast.Name):
            names.add(node.id)
        elif isinstance(node, ast.Attribute):
            names.add(node.attr)
        elif isinstance(node, ast.arg):
            names.add(node.arg)
        elif isinstance(node, ast.alias):
            names.update(node.name.split("."))
        elif isinstance(node, ast.Constant) and isinstance(node.value, str) and re.fullmatch(r"[\w ]+", node.value):
            names.update(node.value.split())
    return names


@pytest.fixture(scope="module")
def names():
    every = {"pemlo", "dev", "scipy", "optimize", "least_squares", "forceinline"}  # the last four are others'
    for folder in ("src", "tests", "studies"):
        for path in (ROOT / folder).rglob("*.py"):
            every |= _names_of(path)
    return every


@pytest.mark.parametrize("document", DOCUMENTS, ids=lambda path: path.name)
def test_names_that_a_document_gives_are_in_the_code(document, names):
    given = re.findall(r"`([A-Za-z_][\w.]*)(?:\(\))?`", document.read_text())
    files = re.compile(r"\.(py|md|csv|toml|json|html|exr|pdf|css|ics|pemlo|lock|txt)$")
    unknown = [name for name in given if not files.search(name) and not set(name.split(".")) <= names]
    assert not unknown


def test_colours_stand_in_one_place_and_jobs_begin_in_one():
    """What docs/architecture.md says of hex values and of the window's jobs."""
    modules = {path: path.read_text() for path in (ROOT / "src/pemlo").rglob("*.py")}
    coloured = {path.name for path, text in modules.items() if re.search(r"\"#[0-9a-fA-F]{6}\"", text)}
    assert coloured == {"palette.py"}
    pools = {path.name for path, text in modules.items() if "QThreadPool(" in text or "QThread(" in text}
    assert pools == {"jobs.py"}


def test_the_readme_is_one_screen():
    """About sixty lines: what, for whom, a picture, two commands, what you have after three minutes, links."""
    assert len((ROOT / "README.md").read_text().splitlines()) <= 62


def test_the_reference_names_every_command():
    from pemlo.cli.main import COMMANDS

    text = (ROOT / "docs/reference/commands.md").read_text()
    assert [name for name in COMMANDS if f"pemlo {name} " not in text] == []
