"""Gives the application its palette and its sheet of styles. GUI thread."""

from collections.abc import Callable

from PySide6.QtGui import QPalette
from PySide6.QtWidgets import QApplication, QStyleFactory

from pemlo.app.appearance import Appearance
from pemlo.gui.common.colours import BARE, ON_PICTURE, SURROUND, Colours, mixed, use
from pemlo.gui.common.density import set_compact
from pemlo.gui.common.fonts import font, load_fonts


def apply_theme(app: QApplication, appearance: Appearance) -> None:
    """Show the whole application as a person chose it, at once."""
    for step in theme_steps(app, appearance):
        step()


def theme_steps(app: QApplication, appearance: Appearance) -> tuple[Callable[[], None], ...]:
    """Return what shows the application in a theme, in steps that take less time than a hand notices.

    A window that is seen meanwhile should not paint itself between them.
    """
    load_fonts()
    look = use(appearance.theme)
    set_compact(compact=appearance.compact)
    sheet = _sheet(look, compact=appearance.compact)
    if app.styleSheet() == sheet:  # shown already; a sheet that is set again dresses every widget again, for a second
        return ()

    def undress() -> None:
        if not app.styleSheet():
            app.setStyle(QStyleFactory.create("Fusion"))
        app.setStyleSheet("")  # from one sheet to another takes three times as long as from none
        app.setFont(font())

    def colour() -> None:
        app.setPalette(_palette(look))

    def dress() -> None:
        app.setStyleSheet(sheet)

    def paint() -> None:
        for widget in app.allWidgets():
            widget.update()

    return undress, colour, dress, paint


def _palette(look: Colours) -> QPalette:
    palette = QPalette()
    role = QPalette.ColorRole
    pairs = {
        role.Window: look.sheet, role.Base: look.sheet, role.AlternateBase: look.window, role.Button: look.sheet,
        role.WindowText: look.ink, role.Text: look.ink, role.ButtonText: look.ink, role.ToolTipText: look.ink,
        role.ToolTipBase: look.raised, role.Highlight: look.time_light, role.HighlightedText: look.ink,
        role.PlaceholderText: look.faint, role.Link: look.time, role.Mid: look.line, role.Light: look.raised,
        role.Dark: look.line, role.Midlight: look.line, role.Shadow: look.line, role.Accent: look.time,
    }  # fmt: skip
    for which, colour in pairs.items():
        palette.setColor(which, colour)
    palette.setColor(QPalette.ColorGroup.Disabled, role.Text, look.faint)
    palette.setColor(QPalette.ColorGroup.Disabled, role.ButtonText, look.faint)
    palette.setColor(QPalette.ColorGroup.Disabled, role.WindowText, look.faint)
    return palette


def _sheet(look: Colours, *, compact: bool) -> str:
    names = {
        "WINDOW": look.window, "SHEET": look.sheet, "RAISED": look.raised, "LINE": look.line, "INK": look.ink,
        "SECOND": look.second, "FAINT": look.faint, "TIMELIGHT": look.time_light, "TIME": look.time,
        "PICTURELIGHT": look.picture_light, "PICTURE": look.picture, "BARE": BARE, "SURROUND": SURROUND,
        "ONPICTURE": ON_PICTURE, "LIMITLIGHT": look.limit_light, "LIMIT": look.limit,
        "HOVER": mixed(look.sheet, look.window, 0.6),
    }  # fmt: skip
    text = _STYLES + (_COMPACT if compact else "")
    for name, colour in names.items():
        text = text.replace(f"@{name}", colour.name())
    return text


_COMPACT = """
QLineEdit, QComboBox, QAbstractSpinBox { padding: 0px 6px; }
QPushButton { padding: 1px 8px; }
QPushButton:focus { padding: 0px 7px; }
QPushButton[link="true"] { padding: 1px 4px; }
QHeaderView::section { padding: 1px 5px; }
"""
_STYLES = """
QMainWindow, QDialog { background: @SHEET; }
QMenuBar { background: @WINDOW; color: @SECOND; padding: 2px 6px; border-bottom: 1px solid @LINE; }
QMenuBar::item { padding: 3px 8px; background: transparent; }
QMenuBar::item:selected { background: @LINE; color: @INK; }
QMenu { background: @RAISED; color: @INK; border: 1px solid @LINE; padding: 4px; }
QMenu::item { padding: 5px 28px 5px 12px; }
QMenu::item:selected { background: @TIMELIGHT; color: @INK; }
QMenu::item:disabled { color: @FAINT; }
QMenu::separator { height: 1px; background: @LINE; margin: 4px 8px; }
QToolTip { background: @RAISED; color: @INK; border: 1px solid @LINE; padding: 4px; }
QTableView, QListView { background: @SHEET; border: none; gridline-color: @LINE; selection-background-color: @TIMELIGHT;
  selection-color: @INK; outline: none; }
QTableView::item { padding: 0 3px; border-bottom: 1px solid @LINE; }
QTableView::item:selected { background: @TIMELIGHT; color: @INK; }
QTableView::item:focus { border: 1px solid @TIME; }
QHeaderView { background: @SHEET; }
QHeaderView::section { background: @SHEET; color: @SECOND; border: none; border-bottom: 1px solid @SECOND;
  padding: 4px 5px; font-size: 12px; font-weight: 400; }
QTableCornerButton::section { background: @SHEET; border: none; }
QLineEdit, QComboBox, QAbstractSpinBox { background: @RAISED; color: @INK; border: 1px solid @FAINT; padding: 3px 6px;
  border-radius: 2px; selection-background-color: @TIMELIGHT; selection-color: @INK; min-height: 18px; }
QAbstractSpinBox QLineEdit { border: none; padding: 0; background: transparent; min-height: 0; }
QTableView QLineEdit, QTableView QComboBox { padding: 0 5px; border: 1px solid @TIME; border-radius: 0; }
QPlainTextEdit[field="true"] { background: @RAISED; color: @INK; border: 1px solid @FAINT; border-radius: 2px; }
QPlainTextEdit[field="true"]:focus { border: 1px solid @TIME; }
QLineEdit:focus, QComboBox:focus { border: 1px solid @TIME; }
QLineEdit[wrong="true"], QComboBox[wrong="true"] { border: 1px solid @LIMIT; background: @LIMITLIGHT; }
QComboBox::drop-down { border: none; width: 14px; }
QComboBox { padding: 3px 2px 3px 4px; }
QToolButton#opens { border: none; background: transparent; color: @SECOND; padding: 0 4px; }
QFrame#calendar { background: @RAISED; border: 1px solid @SECOND; }
QFrame#calendar QLabel, QCalendarWidget QWidget { background: @RAISED; color: @INK; }
QCalendarWidget QToolButton { background: @RAISED; color: @INK; border: none; padding: 3px 6px; font-weight: 600; }
QCalendarWidget QAbstractItemView { background: @RAISED; color: @INK; selection-background-color: @INK;
  selection-color: @SHEET; outline: none; }
QLabel#reason { background: @LIMITLIGHT; color: @INK; border: 1px solid @LIMIT; padding: 4px 6px; }
QWidget#entry QLineEdit { padding: 3px 4px; font-size: 12px; }
QComboBox QAbstractItemView { background: @RAISED; border: 1px solid @LINE; selection-background-color: @TIMELIGHT; }
QPushButton { background: @SHEET; color: @INK; border: 1px solid @SECOND; border-radius: 3px; padding: 4px 10px; }
QPushButton:hover { background: @TIMELIGHT; }
QPushButton:focus { border: 2px solid @TIME; padding: 3px 9px; }
QPushButton[step="true"] { padding: 4px 2px; }
QPushButton:disabled { color: @FAINT; border-color: @LINE; }
QPushButton[main="true"] { background: @INK; color: @SHEET; border-color: @INK; }
QPushButton[main="true"]:hover { background: @TIME; }
QPushButton[main="true"]:disabled { background: @LINE; border-color: @LINE; }
QPushButton[link="true"] { border: none; background: transparent; color: @SECOND; text-decoration: underline;
  padding: 3px 4px; }
QPushButton[action="true"] { text-align: left; background: @RAISED; border: 1px solid @LINE; padding: 0px; }
QPushButton[action="true"]:hover { border: 1px solid @INK; }
QPushButton[action="true"]:focus { border: 1px solid @TIME; }
QPushButton[action="true"] QLabel { background: transparent; }
QPushButton[link="true"]:hover { color: @INK; }
QPushButton[link="true"]:disabled { color: @FAINT; text-decoration: none; }
QPushButton[link="true"]:focus { border: 1px solid @TIME; padding: 2px 3px; }
QLabel[role="title"] { font-weight: 600; }
QLabel[role="second"] { color: @SECOND; }
QLabel[role="faint"] { color: @FAINT; }
QLabel[role="limit"] { color: @LIMIT; }
QLabel[role="time"] { color: @TIME; }
QLabel[role="picture"] { color: @PICTURE; font-weight: 600; }
QFrame#worth { background: @PICTURELIGHT; border: none; }
QFrame#worth QLabel { background: transparent; }
QFrame#onpicture { background: @BARE; border: none; }
QFrame#onpicture QLabel, QFrame#onpicture QPushButton { background: transparent; color: @ONPICTURE; }
QFrame#onpicture QPushButton { border: none; padding: 3px 6px; text-decoration: none; }
QFrame#onpicture QPushButton:hover { text-decoration: underline; }
QFrame#onpicture QPushButton:checked { font-weight: 600; border-bottom: 2px solid @ONPICTURE; }
QFrame#onpicture QPushButton:focus { border: 1px solid @ONPICTURE; padding: 2px 5px; }
QFrame#onpicture QComboBox, QFrame#onpicture QLineEdit { background: @BARE; color: @ONPICTURE;
  border: 1px solid @SURROUND; }
QFrame#onpicture QComboBox:focus, QFrame#onpicture QLineEdit:focus { border: 1px solid @ONPICTURE; }
QFrame#onpicture QFrame#upright { background: @SURROUND; }
QCheckBox { color: @INK; spacing: 6px; }
QCheckBox::indicator { width: 12px; height: 12px; border: 1px solid @SECOND; background: @RAISED; }
QCheckBox::indicator:checked { background: @INK; border: 3px solid @RAISED; outline: 1px solid @INK; }
QCheckBox:focus { text-decoration: underline; }
QFrame#rule { background: @LINE; border: none; max-height: 1px; }
QFrame#upright { background: @LINE; border: none; max-width: 1px; }
QFrame#card { background: @RAISED; border: 1px solid @LINE; border-left: 4px solid @INK; }
QFrame#card QLabel { background: transparent; }
QFrame#card QPushButton { background: @RAISED; }
QFrame#card QPushButton[main="true"] { background: @INK; }
QFrame#card QPushButton[link="true"] { background: transparent; }
QFrame#problems { background: @LIMITLIGHT; border: none; border-bottom: 1px solid @LIMIT; }
QFrame#problems QLabel { background: transparent; }
QFrame#rail, QFrame#background { background: @WINDOW; border: none; }
QFrame#rail { border-right: 1px solid @LINE; }
QFrame#verdict { background: @SHEET; border: none; }
QFrame#background { border-top: 1px solid @LINE; }
QScrollBar:vertical { background: @SHEET; width: 10px; border: none; }
QScrollBar:horizontal { background: @SHEET; height: 10px; border: none; }
QScrollBar::handle { background: @LINE; border-radius: 4px; min-height: 24px; min-width: 24px; margin: 1px; }
QScrollBar::add-line, QScrollBar::sub-line { width: 0; height: 0; }
QScrollBar::add-page, QScrollBar::sub-page { background: transparent; }
QFrame#side QSlider { min-height: 18px; max-height: 18px; }
QFrame#side QSlider::groove:horizontal { background: @LINE; height: 4px; border: none; }
QFrame#side QSlider::handle:horizontal { background: @INK; width: 6px; margin: -5px 0; border: none; }
QFrame#side QSlider::handle:horizontal:focus { background: @TIME; }
QFrame#side { border: none; }
QSplitter::handle { background: @LINE; }
QSplitter::handle:vertical { height: 1px; }
QSplitter::handle:horizontal { width: 1px; }
QScrollArea { border: none; background: @SHEET; }
QProgressBar { border: 1px solid @LINE; background: @SHEET; height: 8px; border-radius: 0; }
QProgressBar::chunk { background: @TIME; }
"""
