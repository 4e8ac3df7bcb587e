"""Reading a file as a careful program does: bounded, stoppable, and only what is a file."""

import errno
import hashlib
import os
import stat
from collections.abc import Callable
from pathlib import Path
from typing import NamedTuple

from vervain.files.problems import FileProblem

# A machine of 10,000 conductors takes about 3 MB; what is larger is not a machine file.
LARGEST_BYTES = 64_000_000
CHUNK_BYTES = 1 << 20
# What else a name may stand for, in words.
OTHER_KINDS: tuple[tuple[Callable[[int], bool], str], ...] = (
    (stat.S_ISDIR, "a folder"),
    (stat.S_ISFIFO, "a pipe"),
    (stat.S_ISCHR, "a device"),
    (stat.S_ISBLK, "a device"),
    (stat.S_ISSOCK, "a socket"),
)
CHECK_NAME = "Check the name and the rights of the file."


class FileStamp(NamedTuple):
    """What tells one state of a file from another: where it lies, size, date, and content."""

    device: int
    inode: int
    size: int
    modified_ns: int
    digest: str


def kind_words(mode: int) -> str:
    """What a name that is no ordinary file stands for: "a pipe"; "" for an ordinary file."""
    return next((words for is_kind, words in OTHER_KINDS if is_kind(mode)), "")


def unreadable(path: Path, error: OSError | ValueError) -> FileProblem:
    """The problem of a file that cannot be read."""
    if isinstance(error, OSError):
        what = f"It cannot be read: {error.strerror or error}."
        return FileProblem(str(path), what, remedy=CHECK_NAME)
    return FileProblem(str(path), "That is not a file name.", remedy=CHECK_NAME)


def read_bytes(
    path: Path,
    largest: int = LARGEST_BYTES,
    should_continue: Callable[[], bool] = lambda: True,
    pipes: bool = False,
) -> bytes:
    """The bytes of a file, at most one more than `largest`. Pipes and devices, which may never
    end, are read only where `pipes` says so. Raises `FileProblem`, and `Cancelled` where
    `should_continue` said no.
    """
    return _read(path, largest, should_continue, pipes)[0]


def read_stamped(
    path: Path,
    largest: int = LARGEST_BYTES,
    should_continue: Callable[[], bool] = lambda: True,
) -> tuple[bytes, FileStamp]:
    """The bytes of a file with its stamp. Raises as `read_bytes`."""
    data, info = _read(path, largest, should_continue, False)
    return data, _stamp(info, data)


def stamp_of(path: Path) -> FileStamp | None:
    """The stamp of a file as it is on disk; None where there is none. Raises `FileProblem`."""
    if not is_there(path):
        return None
    return read_stamped(path)[1]


def is_there(path: Path) -> bool:
    """Whether something is under a name; where one may not look, it counts as there."""
    try:
        path.stat()
    except OSError as error:
        return error.errno not in (errno.ENOENT, errno.ENOTDIR, errno.ENAMETOOLONG, errno.ELOOP)
    except ValueError:
        return False
    return True


def files_in(folder: Path, ending: str) -> list[Path]:
    """The names in a folder that end so, in order; none where it cannot be looked into."""
    try:
        return sorted(path for path in folder.iterdir() if path.name.endswith(ending))
    except (OSError, ValueError):
        return []


def is_changed(path: Path, known: FileStamp | None) -> bool:
    """Whether a file differs from what was read or written last; its content decides where its
    date or place do not say. A file that cannot be read counts as unchanged.
    """
    try:
        info = path.stat()
    except (OSError, ValueError):
        return False
    if known is None:
        return True
    seen = (info.st_dev, info.st_ino, info.st_size, info.st_mtime_ns)
    if seen == known[:4]:
        return False
    try:
        return read_stamped(path)[1].digest != known.digest
    except FileProblem:
        return False


def digest_of(data: bytes) -> str:
    """What tells contents apart: SHA-256 in hexadecimal digits."""
    return hashlib.sha256(data).hexdigest()


class Cancelled(FileProblem):
    """Reading was stopped by the builder."""


def _stamp(info: os.stat_result, data: bytes) -> FileStamp:
    return FileStamp(info.st_dev, info.st_ino, info.st_size, info.st_mtime_ns, digest_of(data))


def _read(
    path: Path, largest: int, should_continue: Callable[[], bool], pipes: bool
) -> tuple[bytes, os.stat_result]:
    chunks: list[bytes] = []
    size = 0
    try:
        # Without waiting: opening a pipe that nobody writes to would never return.
        handle = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
        try:
            info = os.fstat(handle)
            other = kind_words(info.st_mode)
            if other and not (
                pipes and (stat.S_ISFIFO(info.st_mode) or stat.S_ISCHR(info.st_mode))
            ):
                raise FileProblem(str(path), f"It is {other}, not a file.", remedy=CHECK_NAME)
            os.set_blocking(handle, True)
            while size <= largest and (chunk := os.read(handle, CHUNK_BYTES)):
                chunks.append(chunk)
                size += len(chunk)
                if not should_continue():
                    raise Cancelled(str(path), "Opening it was stopped.")
        finally:
            os.close(handle)
    except (OSError, ValueError) as error:
        raise unreadable(path, error) from None
    return b"".join(chunks)[: largest + 1], info
