"""Every pattern in the source of the program, and lines that were made to mislead it."""

import ast
import importlib
import re
import string
from pathlib import Path

import pemlo
from limits import limited

LETTERS = 40_000
LIMIT_S = 3.0  # what grows with the square takes minutes
TOP = Path(pemlo.__file__).parents[1]
METHODS = ("compile", "match", "search", "sub", "split", "fullmatch", "finditer", "findall")
# What lines are made of: runs of one of these, and an end at which no pattern may match.
PIECES = (
    *("1", "a", " ", ".", ",", ":", "-", "x", "#", "_", "0", "{", "(", "\t", "é", "%", ">", "=", "h", "1h", "1 ", "a "),
    *("1,", "1.", "a1", "1:", " ,", "--", "a.", "1x", ", a", "{a}", "1 h", "frame ", "a_", "A", "1h1", "1,1", "due "),
)
ENDS = ("", "\x00frame")


def _patterns_in(value):
    """Return the patterns that stand in rows and tables; those alone are read off the source."""
    if isinstance(value, dict):
        value = tuple(value.values())
    if not isinstance(value, tuple):
        return []
    return [one for inside in value for one in ([inside] if isinstance(inside, re.Pattern) else _patterns_in(inside))]


def _calls(tree):
    for node in ast.walk(tree):
        if (
            isinstance(node, ast.Call)
            and isinstance(node.func, ast.Attribute)
            and node.func.attr in METHODS
            and isinstance(node.func.value, ast.Name)
            and node.func.value.id == "re"
        ):
            yield node


def _method(pattern, tree, module):
    """Return how a pattern that has a name is used."""
    uses = {
        one.attr
        for one in ast.walk(tree)
        if isinstance(one, ast.Attribute)
        and isinstance(one.value, ast.Name)
        and getattr(module, one.value.id, 0) == pattern
    }
    return "match" if uses and uses <= {"match", "fullmatch"} else "search"


def found_patterns(*folders):
    """Return the patterns of some folders, with where they stand and how they are used; and where one is made later."""
    found, made_later = {}, set()
    for path in sorted(path for folder in folders for path in (TOP / folder).rglob("*.py")):
        text, where = path.read_text(), path.relative_to(TOP).as_posix().removeprefix("pemlo/")
        if not re.search(r"^import re$", text, re.MULTILINE):
            continue
        module = importlib.import_module(".".join(path.relative_to(TOP).with_suffix("").parts))
        tree = ast.parse(text)
        for name, value in vars(module).items():
            if isinstance(value, re.Pattern):
                found[where, value] = (f"{where} {name}", value, _method(value, tree, module))
            for number, one in enumerate(_patterns_in(value)):
                found.setdefault((where, one), (f"{where} {name} {number}", one, "search"))
        for node in _calls(tree):
            flags = next(
                (one for one in (*node.args[1:], *(k.value for k in node.keywords)) if "re." in ast.unparse(one)), None
            )
            try:
                made = [
                    eval(compile(ast.Expression(one), where, "eval"), dict(vars(module)))
                    for one in (node.args[0], flags)
                    if one
                ]
            except NameError:
                made_later.add(where)
                continue
            pattern = re.compile(*made)
            method = "match" if node.func.attr in ("match", "fullmatch") else "search"
            found.setdefault((where, pattern), (f"{where}:{node.lineno}", pattern, method))
    return list(found.values()), made_later


def hostile_lines():
    for piece in PIECES:
        run = (piece * LETTERS)[:LETTERS]
        for end in ENDS:
            yield run + end
    yield string.printable * (LETTERS // 100)


def try_on_hostile_lines(pattern, method):
    """Search in every line, each under the limit."""
    for line in hostile_lines():
        with limited(LIMIT_S, of_processor=True):
            getattr(pattern, method)(line)
