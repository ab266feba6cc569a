"""Has Qt's types made on the window's thread, before another thread uses them. GUI thread; a tenth of a second.

The binding makes a type when it is first asked for. Two threads that do so at once - one that loads the other stages,
one that paints - ended the process.
"""

from importlib import import_module

MODULES = ("QtCore", "QtGui", "QtWidgets")


def make_types() -> None:
    """Ask for every type of the modules that the stages use."""
    for name in MODULES:
        module = import_module(f"PySide6.{name}")
        for one in dir(module):
            getattr(module, one)
