"""The net under the window: a bug, a signal or the end of the session never takes work along."""

import contextlib
import logging
import os
import signal
import socket
import sys
import threading
import traceback
from types import FrameType, TracebackType

from PyQt6.QtCore import QObject, QSocketNotifier
from PyQt6.QtGui import QGuiApplication, QSessionManager
from PyQt6.sip import voidptr

from vervain.desktop.documents.documents import Documents
from vervain.desktop.message import Message
from vervain.desktop.session import Session
from vervain.files.state_folder import log_path
from vervain.model.machine import Machine

SIGNALS = (signal.SIGTERM, signal.SIGHUP, signal.SIGINT)
log = logging.getLogger("vervain")


class SafetyNet(QObject):
    """Keeps the machine of a window when something goes wrong: once for each machine, and told once
    for each kind of bug, however often painting repeats it.
    """

    def __init__(self, session: Session, documents: Documents) -> None:
        super().__init__(documents)
        self.session, self.documents = session, documents
        self._kept_machine: Machine | None = None
        self._seen: dict[str, int] = {}
        self._ended_by = 0
        self._notifier: QSocketNotifier | None = None

    def spread(self) -> None:
        """Takes over what nothing else catches: bugs of any thread, signals, the session's end."""
        sys.excepthook = self.caught
        threading.excepthook = lambda given: self.caught(
            given.exc_type, given.exc_value or given.exc_type(), given.exc_traceback
        )
        application = QGuiApplication.instance()
        if isinstance(application, QGuiApplication):
            application.commitDataRequest.connect(self._session_ends)
        if threading.current_thread() is threading.main_thread():
            self._hear_signals()

    def caught(
        self, kind: type[BaseException], error: BaseException, where: TracebackType | None
    ) -> None:
        """A bug first saves the machine, then says what happened and where the log is."""
        # Whatever fails here, Qt must not be told: it would end the program.
        with contextlib.suppress(Exception):
            if issubclass(kind, KeyboardInterrupt):
                self.end(signal.SIGINT)
                return
            text = "".join(traceback.format_exception(kind, error, where))
            count = self._seen[text] = self._seen.get(text, 0) + 1
            if count == 1 or count in (10, 100, 1000):
                log.error("%s%s", f"for the {count}th time: " if count > 1 else "", text)
                sys.stderr.write(text)
            kept = ""
            if self.session.machine is not self._kept_machine:
                self._kept_machine = self.session.machine
                kept = self.documents.keep_now()
            if count == 1:
                self.session.said.emit(
                    Message(
                        f"Something went wrong in Vervain. {kept} Details are in {log_path()}.",
                        is_bad=True,
                        stays=True,
                    )
                )

    def end(self, number: int) -> None:
        """Ends the program as a signal asks, after keeping what was not saved."""
        self._ended_by = number
        log.info("ended by signal %d: %s", number, self.documents.keep_now())
        application = QGuiApplication.instance()
        if isinstance(application, QGuiApplication):
            application.setQuitOnLastWindowClosed(False)
            self.documents.close_whatever_happens()
            application.exit(128 + number)

    def _session_ends(self, manager: QSessionManager) -> None:
        log.info("the session ends: %s", self.documents.keep_now())

    def _hear_signals(self) -> None:
        """Brings signals to the event loop, which would not hear them while it waits."""
        ours, theirs = socket.socketpair()
        for end in (ours, theirs):
            end.setblocking(False)
        signal.set_wakeup_fd(theirs.fileno(), warn_on_full_buffer=False)
        self._sockets = ours, theirs

        def remember(number: int, frame: FrameType | None) -> None:
            self._ended_by = number

        for number in SIGNALS:
            signal.signal(number, remember)

        def heard() -> None:
            with contextlib.suppress(OSError):
                os.read(ours.fileno(), 64)
            if self._ended_by:
                self.end(self._ended_by)

        self._notifier = QSocketNotifier(voidptr(ours.fileno()), QSocketNotifier.Type.Read, self)
        self._notifier.activated.connect(heard)
