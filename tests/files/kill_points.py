"""Kills every way of saving at each call to the system, before and after it: what is left?

Run as a program (`python -m tests.files.kill_points FOLDER [EVERY]`) it forks for each point; it
prints `tried, lost` and each loss. Calls are counted in a layer over `os`, through which everything
in `vervain.files` goes that writes.
"""

import os
import signal
import sys
from collections.abc import Callable
from pathlib import Path

from msgspec.structs import replace

from vervain.files.autosave import Seat, left_over, never_saved, write_autosave
from vervain.files.demos import open_template
from vervain.files.machine_file import open_machine, save_machine
from vervain.files.problems import FileProblem
from vervain.files.reading import read_stamped
from vervain.files.saving import save_document
from vervain.files.versions import VersionRules, versions_of
from vervain.model.machine import Machine

CALLS = (
    "open", "write", "fsync", "fchmod", "fchown", "ftruncate", "close", "unlink", "replace",
    "rename", "mkdir", "scandir", "stat",
)  # fmt: skip
OLD = open_template("rover")
NEW = replace(OLD, name="The new one")


class Ways:
    """The ways of saving, each on a folder of its own that holds the old machine first."""

    def __init__(self, folder: Path) -> None:
        self.path = folder / "m.vervain"
        self.rules = VersionRules(folder / "versions", 3)
        self.autosave = Seat(self.path)

    def save(self) -> None:
        save_document(NEW, self.path, read_stamped(self.path)[1], self.rules)

    def prepare(self, way: str) -> None:
        """What is there before: the old machine in its file, or in an autosave of its own."""
        if way in ("save_first", "keep_unsaved"):
            write_autosave(OLD, Seat(None, "token"))
        else:
            save_machine(OLD, self.path)

    def save_first(self) -> None:
        save_document(NEW, self.path, None, self.rules)

    def save_over_a_link(self) -> None:
        os.link(self.path, self.path.with_name("other-name.vervain"))
        save_document(NEW, self.path, read_stamped(self.path)[1], self.rules)

    def keep(self) -> None:
        write_autosave(NEW, self.autosave)

    def keep_again(self) -> None:
        write_autosave(replace(NEW, name="An older one"), self.autosave)
        write_autosave(NEW, self.autosave)

    def keep_unsaved(self) -> None:
        write_autosave(NEW, Seat(None, "token"))

    def readable(self) -> list[Machine]:
        """Every machine that the program would find again."""
        found = []
        places = [self.path, *(version.path for version in versions_of(self.path, self.rules))]
        for place in places:
            try:
                found.append(open_machine(place))
            except FileProblem:
                continue
        kept = left_over(self.path)
        found += [kept.machine] if kept else []
        return found + [kept.machine for kept in never_saved()]


WAYS = ("save", "save_first", "save_over_a_link", "keep", "keep_again", "keep_unsaved")


def killed_at(number: int, act: Callable[[], object]) -> bool:
    """Runs an act in a child process that is killed at a call; whether it came to that call."""
    child = os.fork()
    if child == 0:
        count = 0

        def counted(call: Callable[..., object]) -> Callable[..., object]:
            def counting(*given: object, **named: object) -> object:
                nonlocal count
                count += 1
                if count == number:
                    os.kill(os.getpid(), signal.SIGKILL)
                result = call(*given, **named)
                count += 1
                if count == number:
                    os.kill(os.getpid(), signal.SIGKILL)
                return result

            return counting

        for name in CALLS:
            setattr(os, name, counted(getattr(os, name)))
        act()
        os._exit(0)
    return os.WIFSIGNALED(os.waitpid(child, 0)[1])


def try_way(folder: Path, way: str, every: int = 1) -> tuple[int, list[str]]:
    """Kills one way of saving at every (or each so many-th) point: how many, and what was lost."""
    tried, lost, number = 0, [], 1
    while True:
        place = folder / f"{way}-{number}"
        place.mkdir()
        os.environ["XDG_STATE_HOME"] = str(place / "state")
        ways = Ways(place)
        ways.prepare(way)
        if not killed_at(number, getattr(ways, way)):
            return tried, lost if NEW in ways.readable() else [*lost, f"{way} when it was done"]
        tried += 1
        if not any(machine in (OLD, NEW) for machine in ways.readable()):
            lost.append(f"{way} at point {number}")
        number += every


def main() -> int:
    folder, every = Path(sys.argv[1]), int(sys.argv[2]) if len(sys.argv) > 2 else 1
    total, gone = 0, []
    for way in WAYS:
        tried, lost = try_way(folder, way, every)
        total += tried
        gone += lost
    print(f"{total} {len(gone)}", *gone)
    return 1 if gone else 0


if __name__ == "__main__":
    sys.exit(main())
