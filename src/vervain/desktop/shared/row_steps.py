"""Which row the keys that walk a list lead to: arrows, pages, ends."""

from PyQt6.QtCore import Qt

PAGE = 10
STEPS = {
    Qt.Key.Key_Up: -1,
    Qt.Key.Key_Down: 1,
    Qt.Key.Key_PageUp: -PAGE,
    Qt.Key.Key_PageDown: PAGE,
}


def row_after(key: int, row: int, count: int) -> int | None:
    """The row that a key leads to from `row` of `count` rows; None: the key does not walk."""
    if not count:
        return None
    if key == Qt.Key.Key_Home:
        return 0
    if key == Qt.Key.Key_End:
        return count - 1
    step = STEPS.get(Qt.Key(key))
    return None if step is None else max(0, min(count - 1, row + step))
