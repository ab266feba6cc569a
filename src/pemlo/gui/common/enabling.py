"""Controls that cannot be used now say why in their tip. GUI thread."""

from PySide6.QtWidgets import QWidget

from pemlo.gui.common.plain import as_tip

_WHY_NOT, _TIP, _SAID = "why not", "tip while enabled", "description while enabled"


def enable(control: QWidget, why_not: str = "") -> None:
    """Enable a control, or disable it and say why in its tip.

    Parameters
    ----------
    control : QWidget
    why_not : str, optional
        A sentence; empty where the control can be used.
    """
    before = control.property(_WHY_NOT) or ""
    if not before or control.toolTip() != as_tip(before):  # it may have got another tip meanwhile
        control.setProperty(_TIP, control.toolTip())
    if not before:
        control.setProperty(_SAID, control.accessibleDescription())
    control.setProperty(_WHY_NOT, why_not)
    control.setEnabled(not why_not)
    control.setToolTip(as_tip(why_not) if why_not else control.property(_TIP))
    control.setAccessibleDescription(why_not or control.property(_SAID))
