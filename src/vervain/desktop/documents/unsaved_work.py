"""Unsaved work that a crash or a kill left: offered, looked at, taken up, or left."""

from collections.abc import Callable
from pathlib import Path
from typing import Protocol

from vervain.desktop.background import files, in_background
from vervain.desktop.message import Message
from vervain.desktop.session import Session
from vervain.desktop.settings import Settings
from vervain.files.autosave import (
    LeftOver,
    Seat,
    forget,
    left_over,
    never_saved,
    token_of,
    unsaved_folder,
)
from vervain.files.machine_file import SUFFIX
from vervain.files.reading import FileStamp
from vervain.files.versions import keep_version
from vervain.model.machine import Machine
from vervain.model.problem import Problem


def never_saved_path() -> Path:
    """The name under which work that was left and never had a file is kept among the versions."""
    return unsaved_folder() / f"never-saved{SUFFIX}"


class Owner(Protocol):
    """What it needs of the documents that it belongs to."""

    session: Session
    settings: Settings
    seat: Seat
    name_changed: Callable[[], None]

    def refuse(self, problem: Problem) -> None: ...
    def take_machine(
        self, machine: Machine, path: Path | None, stamp: FileStamp | None = None
    ) -> None: ...
    def take_seat(self, path: Path | None, stamp: FileStamp | None, token: str = "") -> None: ...


class UnsavedWork:
    """What was found of a session's file, or of machines without one."""

    def __init__(self, owner: Owner) -> None:
        self.owner = owner
        self.offered: LeftOver | None = None
        self.look_wanted: Callable[[LeftOver], None] = lambda _kept: None

    def look_for(self) -> None:
        """Looks for unsaved work of the file that the window began with, or of machines that never
        had a file, and offers it.
        """
        path = self.owner.seat.path
        if path is None:
            self.offer_never_saved()
        elif not self.owner.seat.token:
            in_background(
                lambda: left_over(path),
                lambda kept: self.offer(kept) if kept is not None else None,
                self.owner.refuse,
            )

    def offer_never_saved(self) -> None:
        """Offers the newest machine that was never saved and is open nowhere."""

        def show(found: tuple[LeftOver, ...]) -> None:
            if found:
                self.offer(found[0], len(found) - 1)

        in_background(never_saved, show, self.owner.refuse)

    def go_back_to(self, token: str) -> None:
        """Takes the machine without a file up again that had the window before."""

        def show(found: tuple[LeftOver, ...]) -> None:
            for kept in found:
                if token_of(kept.kept_in) == token:
                    self.take_up(kept)

        files.put(never_saved, show, self.owner.refuse)

    def offer(self, kept: LeftOver, others: int = 0) -> None:
        """Offers unsaved work: it is taken up, looked at, or left; nothing of it is lost."""
        self.offered = kept
        when = kept.at.astimezone().strftime("%d %b %Y, %H:%M")
        steps = [words for words in kept.steps if words]
        done = f": {'; '.join(steps[-3:])}" if steps else ""
        count = f"{len(steps)} steps" if len(steps) > 1 else "one step" if steps else "changes"
        older = " The file was changed after that." if kept.is_older else ""
        more = f" There are {others} more." if others else ""
        name = f" of “{kept.machine.name[:60]}”" if kept.of is None else ""
        self.owner.session.said.emit(
            Message(
                f"Unsaved work{name} from {when} was found, {count}{done}.{older}{more}",
                actions=(
                    ("Take it up", lambda: self.take_up(kept)),
                    ("Look at it", lambda: self.look_wanted(kept)),
                    ("Leave it", lambda: self.leave(kept)),
                ),
                stays=True,
            )
        )

    def take_up(self, kept: LeftOver) -> None:
        """Takes unsaved work up: of a file as one step that can be undone, else as the machine."""
        self.offered = None
        if kept.of is not None:
            self.owner.session.apply("Took up unsaved work", lambda _: kept.machine)
            return
        self.owner.take_machine(kept.machine, None)
        self.owner.session.saved = None
        self.owner.take_seat(None, None, token_of(kept.kept_in))
        self.owner.name_changed()

    def leave(self, kept: LeftOver) -> None:
        """Leaves unsaved work: it is not offered again, and stays among the versions."""

        def tell(_: object) -> None:
            self.owner.session.say("It was left; it stays among the versions (Ctrl+Shift+H).")
            if kept.of is None:
                self.offer_never_saved()

        self._put_aside(kept, tell)

    def _put_aside(self, kept: LeftOver, done: Callable[[object], object]) -> None:
        self.offered = None
        path, rules = kept.of or never_saved_path(), self.owner.settings.version_rules()
        files.put(
            lambda: forget(kept, lambda _, data: keep_version(path, data, rules, "unsaved")),
            done,
            self.owner.refuse,
        )

    def settle(self) -> None:
        """Moves work that was offered and not answered out of the way of a new autosave."""
        kept = self.offered
        if kept is not None and kept.of is not None:
            self._put_aside(kept, lambda _: None)
