"""Widgets that hand the focus they are given on to one of their children."""

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QWidget


class LedFocus(QWidget):
    """A widget whose focus is that of one child. Tab still goes through all of its children: with a
    focus proxy of Qt's it would jump to that child, past the buttons before it.
    """

    _leader: QWidget | None = None

    @property
    def leader(self) -> QWidget:
        """The child that takes the focus; the widget itself while none is named."""
        at = self._leader
        return at.leader if isinstance(at, LedFocus) else self if at is None else at

    def lead_focus_to(self, child: QWidget) -> None:
        """From now on this child takes the focus."""
        self._leader = child

    def setFocus(self, reason: Qt.FocusReason = Qt.FocusReason.OtherFocusReason) -> None:
        if self._leader is None:
            super().setFocus(reason)
        else:
            self._leader.setFocus(reason)
