"""Files dropped on a window: machines, lists, parts."""

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtGui import QDragEnterEvent, QDropEvent

from vervain.desktop.documents.other_windows import open_in_others
from vervain.files.machine_file import SUFFIX

LIST_ENDINGS = (".csv", ".tsv", ".txt", ".xlsx")


class FileDrop:
    """Takes what is dropped on a window: the first file by its ending, further machines in windows
    of their own.
    """

    def __init__(
        self,
        take_list: Callable[[Path], None],
        take_parts: Callable[[Path], None],
        open_machine: Callable[[Path], None],
    ) -> None:
        self.take_list, self.take_parts, self.open_machine = take_list, take_parts, open_machine

    def enter(self, event: QDragEnterEvent) -> None:
        """Lets files that are dragged over the window be dropped."""
        if _paths(event):
            event.acceptProposedAction()

    def take(self, event: QDropEvent) -> None:
        """Opens, or takes in, what is dropped."""
        paths = _paths(event)
        if not paths:
            return
        open_in_others(more for more in paths[1:] if more.suffix.lower() == SUFFIX)
        ending = paths[0].suffix.lower()
        if ending in LIST_ENDINGS:
            self.take_list(paths[0])
        elif ending == ".toml":
            self.take_parts(paths[0])
        else:
            self.open_machine(paths[0])


def _paths(event: QDropEvent) -> list[Path]:
    data = event.mimeData()
    urls = data.urls() if data is not None else []
    return [Path(url.toLocalFile()) for url in urls if url.isLocalFile()]
