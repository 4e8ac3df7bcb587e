"""Watches the file of a machine, so that another's change is told at once."""

from collections.abc import Callable
from pathlib import Path

from PyQt6 import sip
from PyQt6.QtCore import QFileSystemWatcher, QObject, QTimer

from vervain.desktop.background import files
from vervain.files.reading import FileStamp, is_changed, is_there

# Programs write a file in several steps; it is looked at when they are through.
QUIET_MS = 250


class FileWatch(QObject):
    """Tells when the file that is followed holds something else (`changed(False)`), or is gone
    (`changed(True)`). `known` gives what it held last; looking waits until everything of our own is
    written.
    """

    def __init__(
        self,
        parent: QObject,
        known: Callable[[], FileStamp | None],
        changed: Callable[[bool], object],
    ) -> None:
        super().__init__(parent)
        self._known, self._changed = known, changed
        self._path: Path | None = None
        self._told: tuple[bool, FileStamp | None] | None = None
        self._watcher: QFileSystemWatcher | None = None
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(QUIET_MS)
        self._timer.timeout.connect(self.look)

    def follow(self, path: Path | None) -> None:
        """Follows another file, or none."""
        self._told = None
        if self._watcher is not None:
            watched = [*self._watcher.files(), *self._watcher.directories()]
            if watched:
                self._watcher.removePaths(watched)
        self._path = path
        self._watch()

    def _watch(self) -> None:
        if self._path is None:
            return
        if self._watcher is None:
            self._watcher = QFileSystemWatcher(self)
            self._watcher.fileChanged.connect(lambda _: self._timer.start())
            self._watcher.directoryChanged.connect(lambda _: self._timer.start())
        # A file that is replaced is another one to the watcher; its folder tells.
        watched = (*self._watcher.files(), *self._watcher.directories())
        for place in (self._path, self._path.parent):
            if str(place) not in watched and is_there(place):
                self._watcher.addPath(str(place))

    def look(self) -> None:
        """Looks on a worker whether the file is as it was."""
        path = self._path
        if path is None:
            return

        def differs() -> tuple[bool, FileStamp | None] | None:
            known = self._known()
            if known is None:
                return None
            is_gone = not is_there(path)
            return (is_gone, known) if is_gone or is_changed(path, known) else None

        def tell(found: tuple[bool, FileStamp | None] | None) -> None:
            # The window may be gone by the time that the worker has looked.
            if (
                sip.isdeleted(self)
                or path != self._path
                or (found and found[1] is not self._known())
            ):
                return
            self._watch()
            is_news = found is not None and found != self._told
            self._told = found
            if found is not None and is_news:
                self._changed(found[0])

        files.put(differs, tell, lambda _: None)
