"""Takes widgets off the window that may still be at work.

A choice often changes the very panel that it was made in. A scroll area destroys what it holds at
once when something else is put there, and a list that has just told what was chosen goes on to tell
it otherwise: destroyed by then, it takes the program with it. So what goes is hidden, and leaves
when its event is over.
"""

from PyQt6.QtWidgets import QLayout, QScrollArea, QWidget


def put_inside(area: QScrollArea, widget: QWidget) -> None:
    """Puts a widget into a scroll area in place of what it holds."""
    before = area.takeWidget()
    area.setWidget(widget)
    if before is not None:
        # Held by the area until it leaves, or nothing would hold it.
        before.setParent(area)
        leave(before)


def clear(layout: QLayout) -> None:
    """Takes everything out of a layout, for good."""
    while (item := layout.takeAt(0)) is not None:
        widget = item.widget()
        if widget is not None:
            leave(widget)


def leave(widget: QWidget) -> None:
    """Hides a widget, which is destroyed when its event is over."""
    widget.hide()
    widget.deleteLater()
