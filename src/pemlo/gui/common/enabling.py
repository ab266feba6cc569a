"""Controls that cannot be used now say why in their tip. GUI thread."""

from PySide6.QtWidgets import QWidget

from pemlo.gui.common.plain import set_tip

_TIP, _WHY_NOT = "tip while enabled", "why not"


def enable(control: QWidget, why_not: str = "") -> None:
    """Enable a control, or disable it and say why in its tip.

    Parameters
    ----------
    control : QWidget
    why_not : str, optional
        A sentence; empty where the control can be used.
    """
    before = control.property(_WHY_NOT) or ""
    control.setEnabled(not why_not)
    if why_not == before:
        return
    if not before:
        control.setProperty(_TIP, control.toolTip())
    control.setProperty(_WHY_NOT, why_not)
    if why_not:
        set_tip(control, why_not)
    else:
        control.setToolTip(control.property(_TIP))
    control.setAccessibleDescription(why_not or control.property(_TIP))
