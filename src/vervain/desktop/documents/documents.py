"""Opening, saving and autosaving; nothing is lost on the way, and nobody's work is written over.

Everything that writes goes through one queue, so that the newest comes last.
"""

import logging
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import NamedTuple

from PyQt6.QtCore import QObject, QTimer
from PyQt6.QtWidgets import QFileDialog, QWidget

from vervain.desktop.background import files, in_background
from vervain.desktop.documents.file_watch import FileWatch
from vervain.desktop.documents.unsaved_work import UnsavedWork, never_saved_path
from vervain.desktop.message import Message
from vervain.desktop.session import Session
from vervain.desktop.settings import Settings
from vervain.files.autosave import (
    LeftOver,
    Seat,
    drop_autosave,
    left_over,
    new_token,
    write_autosave,
)
from vervain.files.demos import DEMOS, open_demo, open_template
from vervain.files.machine_file import SUFFIX, decode_machine
from vervain.files.open_marks import OpenElsewhere, OpenMark, mark_open
from vervain.files.reading import FileStamp, is_there, read_stamped
from vervain.files.recent_files import add_recent
from vervain.files.saving import ChangedOnDisk, Saved, save_document
from vervain.files.versions import Version, open_version, versions_of
from vervain.model.machine import Machine
from vervain.model.problem import Problem

AUTOSAVE_MS = 2500
# So long closing waits for a disk before it asks.
CLOSING_S = 10.0
log = logging.getLogger("vervain")


class Opened(NamedTuple):
    """A file that was read on a worker: the machine, the file's stamp, and unsaved work of it."""

    machine: Machine
    stamp: FileStamp
    kept: LeftOver | None


class Documents(QObject):
    """The file of a session: where it is, what it held last, and whose its autosave is."""

    def __init__(
        self,
        parent: QWidget,
        session: Session,
        settings: Settings,
        autosaves: bool = True,
        stamp: FileStamp | None = None,
    ) -> None:
        super().__init__(parent)
        self.window_widget, self.session, self.settings = parent, session, settings
        self.autosaves = autosaves
        self.name_changed: Callable[[], None] = lambda: None
        self.compare_wanted: Callable[[Path], None] = lambda _path: None
        self.is_closing = False
        self.seat = Seat(session.path)
        self.known: FileStamp | None = None
        self._moved: set[Seat] = set()
        self.unsaved = UnsavedWork(self)
        self._mark = OpenMark(-1)
        self._asked = 0
        self._opening = 0
        self._being_saved: Machine | None = None
        self._has_autosave = self._close_anyway = False
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(AUTOSAVE_MS)
        self._timer.timeout.connect(self.autosave)
        self.watch = FileWatch(self, lambda: self.known, self._changed_on_disk)
        session.machine_changed.connect(self._machine_changed)
        session.meter_set.connect(settings.keep_meter)
        self.take_seat(session.path, stamp)

    # What happens to the machine.

    def _machine_changed(self) -> None:
        self._close_anyway = False
        if not self.session.is_saved:
            # Not started anew: steady work is kept as often as work with pauses.
            if not self._timer.isActive():
                self._timer.start()
            return
        self._timer.stop()
        if self._has_autosave:
            self._drop_autosave()

    def refuse(self, problem: Problem) -> None:
        """Says a problem in the message line."""
        log.warning("%s", problem)
        self.session.said.emit(Message(str(problem), is_bad=True, stays=True))

    def new_machine(self) -> None:
        """Starts an empty machine."""
        self.take_machine(Machine(name="New machine", meter=self.settings.meter()), None)
        self.session.stage_wanted.emit("Machine")

    def take_machine(
        self, machine: Machine, path: Path | None, stamp: FileStamp | None = None
    ) -> None:
        """Shows another machine; unsaved changes of the one before are kept in its autosave."""
        self._timer.stop()
        self._keep_what_is_left()
        self.unsaved.settle()
        self._opening += 1
        # What was just kept stays: it is not the autosave of the machine that comes.
        self._has_autosave = False
        self.session.replace_machine(machine, path)
        self.take_seat(path, stamp)

    def _keep_what_is_left(self) -> None:
        session = self.session
        if session.is_saved or not self.autosaves:
            return
        if session.path is None:
            name, token = session.machine.name, self.seat.token
            session.said.emit(
                Message(
                    f"“{name}” was not saved; it is kept and can be taken up again.",
                    actions=(("Go back to it", lambda: self.unsaved.go_back_to(token)),),
                    stays=True,
                )
            )
        self.autosave()

    def take_seat(self, path: Path | None, stamp: FileStamp | None, token: str = "") -> None:
        """Marks a file as open here and watches it; a further window on it gets an autosave of its
        own, and is told.
        """
        self._mark.release()
        if path is not None and self.autosaves:
            self.settings.keep_recent(path)
            told = partial(add_recent, path, self.settings.recent_list)
            in_background(told, lambda _: None, self.refuse)
        self._has_autosave = bool(token)
        self._being_saved = None
        self.known = stamp
        self.seat = Seat(path, token or ("" if path else new_token()))
        self.watch.follow(path)
        if not self.autosaves:
            return
        mark = mark_open(path or self.seat.token)
        if isinstance(mark, OpenElsewhere):
            self.seat = Seat(path, new_token())
            mark_own = mark_open(self.seat.token)
            self._mark = mark_own if isinstance(mark_own, OpenMark) else OpenMark(-1)
            since = f" since {mark.since[11:16]} UTC" if mark.since else ""
            words = (
                f"{path.name if path else 'It'} is open in another window of Vervain{since}. "
                "What is saved there is told here before it is written over."
            )
            # After the window is built, which may only be under way.
            QTimer.singleShot(0, lambda: self.session.said.emit(Message(words, stays=True)))
        else:
            self._mark = mark

    # Opening.

    def ask_open(self) -> None:
        """Asks for a machine file and opens it."""
        name, _ = QFileDialog.getOpenFileName(
            self.window_widget, "Open a machine", "", f"Machines (*{SUFFIX});;All files (*)"
        )
        if name:
            self.open_path(Path(name))

    def open_path(self, path: Path) -> None:
        """Opens a machine file on a worker, which can be stopped; unsaved work of it is offered."""
        self._opening += 1
        number, began = self._opening, time.monotonic()

        def should_continue() -> bool:
            return number == self._opening and not self.is_closing

        def read() -> Opened:
            data, stamp = read_stamped(path, should_continue=should_continue)
            return Opened(decode_machine(data, str(path)), stamp, left_over(path))

        is_reading = True

        def show(found: Opened) -> None:
            nonlocal is_reading
            is_reading = False
            if not should_continue():
                return
            log.info("opened %s in %.2f s", path, time.monotonic() - began)
            self.take_machine(found.machine, path, found.stamp)
            if found.kept is not None and not self.seat.token:
                self.unsaved.offer(found.kept)

        def refused(problem: Problem) -> None:
            nonlocal is_reading
            is_reading = False
            if should_continue():
                self.refuse_opening(path, problem)

        def tell() -> None:
            if is_reading and should_continue():
                stop = ("Stop", self.stop_opening)
                self.session.said.emit(
                    Message(f"Opening {path.name} …", actions=(stop,), stays=True)
                )

        in_background(read, show, refused)
        QTimer.singleShot(700, tell)

    def refuse_opening(self, path: Path, problem: Problem) -> None:
        """Says why a file cannot be opened, and offers what there is of it besides."""
        rules = self.settings.version_rules()

        def besides() -> tuple[LeftOver | None, Version | None]:
            return left_over(path), next(iter(versions_of(path, rules)), None)

        def tell(found: tuple[LeftOver | None, Version | None]) -> None:
            kept, version = found
            actions: list[tuple[str, Callable[[], object]]] = []
            if kept is not None:
                actions.append(("Open its unsaved work", lambda: self.open_as(kept.machine, path)))
            if version is not None:
                actions.append(("Open its last version", lambda: self.open_version(version, path)))
            message = Message(str(problem), is_bad=True, actions=tuple(actions), stays=True)
            self.session.said.emit(message)

        log.warning("%s", problem)
        in_background(besides, tell, self.refuse)

    def open_as(self, machine: Machine, path: Path) -> None:
        """Opens a machine as the one of a file that holds something else, or is gone."""
        self.take_machine(machine, path)
        self.session.saved = None
        self.name_changed()

    def open_version(self, version: Version, path: Path) -> None:
        """Opens a version as the machine of its file."""
        in_background(
            lambda: open_version(version), lambda machine: self.open_as(machine, path), self.refuse
        )

    def stop_opening(self) -> None:
        """Gives up what is being opened."""
        self._opening += 1
        self.session.say("Opening was stopped; nothing was changed.")

    def versions_path(self) -> Path:
        """The file whose versions belong to the session; machines without one share a place."""
        return self.session.path or never_saved_path()

    # Saving.

    def save(self) -> None:
        """Saves to the machine's file; asks for one where there is none."""
        if self.session.path is None:
            self.ask_save()
        else:
            self.save_to(self.session.path)

    def ask_save(self) -> None:
        """Asks for a file name and saves there; never over a file that the dialog did not show."""
        start = str(self.session.path or f"{self.session.machine.name}{SUFFIX}".replace("/", "_"))
        name, _ = QFileDialog.getSaveFileName(
            self.window_widget, "Save the machine", start, f"Machines (*{SUFFIX})"
        )
        if not name:
            return
        asked = Path(name)
        path = asked if asked.suffix == SUFFIX else asked.with_name(asked.name + SUFFIX)
        if path == asked or not is_there(path):
            self.save_to(path, replaces=path == asked)
            return
        self.session.said.emit(
            Message(
                f"There is a {path.name} already.",
                actions=(
                    ("Replace it", lambda: self.save_to(path, replaces=True)),
                    ("Choose another name", self.ask_save),
                ),
                is_bad=True,
                stays=True,
            )
        )

    def save_to(self, path: Path, replaces: bool = False) -> None:
        """Saves, after everything that is being written; the autosave goes once the file is safe.
        `replaces` writes over what another program or window saved meanwhile.
        """
        session, seat = self.session, self.seat
        machine, rules = session.machine, self.settings.version_rules()
        is_own, asked = path == session.path, self._asked
        self._being_saved = machine

        def write() -> Saved:
            # Asked for only now: an earlier save of the queue may just have written it.
            saved = save_document(machine, path, self.known if is_own else None, rules, replaces)
            if is_own:
                self.known = saved.stamp
            else:
                self._moved.add(seat)
            if self.autosaves:
                drop_autosave(seat)
                drop_autosave(Seat(path))
            return saved

        def done(saved: Saved) -> None:
            log.info("saved %s", path)
            session.saved = machine
            if session.path != path:
                session.path = path
                self.take_seat(path, saved.stamp)
            self.known = saved.stamp
            self._has_autosave = self._asked > asked
            self._being_saved = None
            self.watch.follow(path)
            self._machine_changed()
            self.name_changed()
            session.say(f"Saved to {path.name}. {saved.unkept}".strip())

        def refused(problem: Problem) -> None:
            self._being_saved = None
            self._machine_changed()
            if isinstance(problem, ChangedOnDisk):
                self._tell_changed(path, problem.what)
            else:
                self.refuse(problem)

        files.put(write, done, refused)

    # Others on the file.

    def _changed_on_disk(self, is_gone: bool) -> None:
        path = self.session.path
        if path is None:
            return
        if is_gone:
            self.session.said.emit(
                Message(
                    f"{path.name} was removed or renamed; Ctrl+S writes it again.",
                    is_bad=True,
                    stays=True,
                )
            )
            return
        self._tell_changed(path, f"{path.name} was changed by another program or window.")

    def _tell_changed(self, path: Path, what: str) -> None:
        """Tells of another's work in the file, and offers what can be done about it."""
        actions: list[tuple[str, Callable[[], object]]] = [
            ("What differs", lambda: self.compare_wanted(path)),
            ("Open it", lambda: self.open_path(path)),
            ("Keep both", lambda: self.keep_both(path)),
            ("Save over it", lambda: self.save_to(path, replaces=True)),
        ]
        self.session.said.emit(Message(what, is_bad=True, actions=tuple(actions), stays=True))

    def keep_both(self, path: Path) -> None:
        """Saves this machine beside the other under a free name, and goes on with that."""
        number = 2
        while is_there(path.with_name(f"{path.stem}-{number}{path.suffix}")):
            number += 1
        self.save_to(path.with_name(f"{path.stem}-{number}{path.suffix}"))

    # Keeping.

    def autosave(self) -> None:
        """Writes the autosave through the queue, if there is anything unsaved."""
        session = self.session
        if session.is_saved or not self.autosaves or session.machine is self._being_saved:
            return
        self.unsaved.settle()
        machine, seat, base = session.machine, self.seat, self.known.digest if self.known else ""
        steps = session.unsaved_steps()
        self._asked += 1
        number = self._asked
        self._has_autosave = True

        def write() -> None:
            # Nothing newer waits, and no save has meanwhile taken the machine to another file.
            if (number == self._asked or seat != self.seat) and seat not in self._moved:
                write_autosave(machine, seat, base, steps)

        files.put(write, lambda _: None, self.refuse)

    def _drop_autosave(self) -> None:
        seat = self.seat
        self._has_autosave = False
        files.put(lambda: drop_autosave(seat), lambda _: None, self.refuse)

    def keep_now(self) -> str:
        """Writes the autosave at once, for a crash or an end that does not wait; tells in words
        where it is. Never raises.
        """
        session = self.session
        if session.is_saved or not self.autosaves:
            return "Your machine is saved."
        try:
            files.wait(2.0)
            base = self.known.digest if self.known else ""
            kept = write_autosave(session.machine, self.seat, base, session.unsaved_steps())
        except Exception as error:
            log.exception("the autosave failed")
            return f"The autosave failed too: {error}"
        return f"Your machine is kept in {kept}."

    def close(self) -> bool:
        """Keeps what was not saved in the autosave; False where even that failed, and is said.
        Closing once more then closes all the same.
        """
        self._timer.stop()
        if self._close_anyway:
            return True
        if not files.wait(CLOSING_S):
            self._refuse_closing("The disk does not answer.")
            return False
        session = self.session
        if not session.is_saved and self.autosaves and session.machine is not self._being_saved:
            base = self.known.digest if self.known else ""
            try:
                write_autosave(session.machine, self.seat, base, session.unsaved_steps())
            except Exception as error:
                log.exception("the autosave failed while closing")
                self._refuse_closing(str(error))
                return False
        self._mark.release()
        return True

    def close_whatever_happens(self) -> None:
        """Closes the window without asking or waiting for what cannot be kept."""
        self._close_anyway = True
        self.window_widget.close()

    def _refuse_closing(self, why: str) -> None:
        self._close_anyway = True
        self.session.said.emit(
            Message(
                f"{why} What was not saved could not be kept. Save it elsewhere (Ctrl+Shift+S), or "
                "close again to give it up.",
                is_bad=True,
                stays=True,
            )
        )

    # What ships.

    def open_demo(self, key: str = DEMOS[0].key) -> None:
        """Opens a demo, the main one where none is named."""
        self.take_machine(open_demo(key), None)

    def open_template(self, key: str) -> None:
        """Begins a machine from a template: what was there is kept, as when another is opened."""
        template = open_template(key)
        self.take_machine(template, None)
        self.session.say(f"{template.name}: rename it, change it; nothing is joined yet.")
