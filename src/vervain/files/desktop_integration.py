"""Vervain among the programs of a desktop: its entry, icons, file type, manual page and completion,
put where the specifications of freedesktop.org (desktop entry 1.5, icon theme, shared MIME info,
base directory) look for them, and taken away again.
"""

import os
import shutil
import subprocess
import sys
from pathlib import Path
from typing import NamedTuple

from vervain.data import FOLDER
from vervain.files.problems import FileProblem
from vervain.files.writing import write_whole

SYSTEM = Path("/usr/local/share")
SHIPPED = FOLDER / "desktop"
SIZES = (16, 22, 24, 32, 48, 64, 128, 256)
APP, MACHINE = "vervain", "application-x-vervain-machine"
# What keeps an index of what was put in; each is run where it is there.
INDEXES = (
    ("update-desktop-database", "applications"), ("update-mime-database", "mime"),
    ("gtk-update-icon-cache", "icons/hicolor"),
)  # fmt: skip
LONGEST_S = 60


class Placed(NamedTuple):
    """A file that ships, and where it goes below the data folder."""

    source: str
    target: str


def placed_files() -> tuple[Placed, ...]:
    """Everything that is put in."""
    found = [
        Placed("vervain.desktop", "applications/vervain.desktop"),
        Placed("vervain.xml", "mime/packages/vervain.xml"),
        Placed("vervain.metainfo.xml", "metainfo/vervain.metainfo.xml"),
        Placed("vervain.1", "man/man1/vervain.1"),
        Placed("vervain.bash", "bash-completion/completions/vervain"),
        Placed("vervain.zsh", "zsh/site-functions/_vervain"),
        Placed(f"{APP}.svg", f"icons/hicolor/scalable/apps/{APP}.svg"),
        Placed(f"{APP}-symbolic.svg", f"icons/hicolor/symbolic/apps/{APP}-symbolic.svg"),
        Placed(f"{MACHINE}.svg", f"icons/hicolor/scalable/mimetypes/{MACHINE}.svg"),
    ]
    for size in SIZES:
        for name, kind in ((APP, "apps"), (MACHINE, "mimetypes")):
            target = f"icons/hicolor/{size}x{size}/{kind}/{name}.png"
            found.append(Placed(f"icons/{name}-{size}.png", target))
    return tuple(found)


def user_folder() -> Path:
    """The data folder of the user (XDG base directory)."""
    given = os.environ.get("XDG_DATA_HOME", "")
    return Path(given) if given.startswith("/") else Path.home() / ".local/share"


def install(folder: Path, command: tuple[str, ...] = ()) -> list[Path]:
    """Puts everything below a data folder; `command` is what the entry starts. Raises
    `FileProblem`.
    """
    started = " ".join(map(quoted, command or _command()))
    written = []
    for source, target in placed_files():
        data = (SHIPPED / source).read_bytes()
        if source == "vervain.desktop":
            data = data.replace(b"Exec=vervain", f"Exec={started}".encode())
        path = folder / target
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise FileProblem(str(path.parent), f"It cannot be made: {error.strerror}.") from None
        write_whole(path, data)
        written.append(path)
    _index(folder)
    return written


def remove(folder: Path) -> list[Path]:
    """Takes everything away again that `install` puts below a data folder; what is not there is no
    fault. Raises `FileProblem`.
    """
    gone = []
    for _, target in placed_files():
        path = folder / target
        try:
            path.unlink()
        except FileNotFoundError:
            continue
        except OSError as error:
            raise FileProblem(str(path), f"It cannot be taken away: {error.strerror}.") from None
        gone.append(path)
    _index(folder)
    return gone


def quoted(command: str) -> str:
    """A word of a command for the Exec key: quoted where it has a reserved character, with those
    of quoted strings escaped (desktop entry 1.5, Exec).
    """
    reserved = set(" \t\n\"'\\><~|&;$*?#()`")
    if not reserved & set(command):
        return command.replace("%", "%%")
    for letter in '\\"`$':
        command = command.replace(letter, f"\\{letter}")
    # The backslash is escaped once more, as in every string of an entry.
    return f'"{command}"'.replace("\\", "\\\\").replace("%", "%%")


def _command() -> tuple[str, ...]:
    """How this program is started: by its name where the shell finds it, else by its path."""
    found = shutil.which("vervain")
    if found is not None:
        return ("vervain",)
    started = Path(sys.argv[0])
    if started.name == "vervain":
        return (str(started.resolve()),)
    return sys.executable, "-m", "vervain"


def _index(folder: Path) -> None:
    """Lets the desktop's own tools look again; without them it looks by itself, later."""
    for tool, below in INDEXES:
        program, target = shutil.which(tool), folder / below
        if program is not None and target.is_dir():
            extra = ["--ignore-theme-index", "--quiet"] if tool.startswith("gtk") else []
            subprocess.run(
                [program, *extra, str(target)], capture_output=True, timeout=LONGEST_S, check=False
            )
