"""Writing a file so that at every moment either the old or the new one is there, whole.

The new content goes into a temporary beside the file, is flushed, and takes the file's name; then
the folder is flushed, so that the name outlives a power cut too. A temporary is locked while it is
written: one that is not was left behind by a kill, and may hold work.
"""

import errno
import fcntl
import os
import secrets
import stat
from pathlib import Path

from vervain.files.problems import FileProblem
from vervain.files.reading import kind_words

TEMPORARY_ENDING = ".saving"
LONGEST_NAME_BYTES = 255
ELSEWHERE = "Nothing was lost. Save it under another name or in another folder."


def shortened(name: str, most_bytes: int) -> str:
    """A file name cut so that it takes at most so many bytes, at the border of a character."""
    data = os.fsencode(name)
    if len(data) <= most_bytes:
        return name
    return data[:most_bytes].decode("utf-8", "ignore")


def write_whole(path: Path, data: bytes, clears_unfinished: bool = True) -> None:
    """Writes a file whole, or raises `FileProblem` and leaves what was there.

    Links are followed; a file's rights and, where that is allowed, its owner stay. A
    write-protected file is refused, and so is a folder; into a pipe or a device the bytes are
    written, it is never replaced. `clears_unfinished` takes away what killed writings of the same
    file left behind.
    """
    try:
        info = _existing(path)
        if info is not None and kind_words(info.st_mode):
            _write_into(path, data, info.st_mode)
            return
        target = path.resolve()
        if info is not None:
            _refuse_protected(path, info)
        _replace(target, data, info)
    except OSError as error:
        raise _unwritable(path, error) from None
    except (ValueError, RuntimeError):
        raise FileProblem(str(path), "That is not a file name.", remedy=ELSEWHERE) from None
    if clears_unfinished:
        for left in unfinished(target):
            _remove(left)


def unfinished(path: Path) -> list[Path]:
    """The temporaries of a file that killed writings left behind, oldest first; one that is being
    written right now is not among them.
    """
    prefix = _temporary_prefix(path.name)
    found: list[tuple[int, Path]] = []
    try:
        for entry in os.scandir(path.parent):
            if entry.name.startswith(prefix) and entry.name.endswith(TEMPORARY_ENDING):
                left = path.parent / entry.name
                if entry.is_file(follow_symlinks=False) and not is_locked(left):
                    found.append((entry.stat().st_mtime_ns, left))
    except (OSError, ValueError):
        return []
    return [left for _, left in sorted(found)]


def make_folder(folder: Path) -> None:
    """Makes a folder with those above it. Raises `FileProblem`."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        what = f"The folder cannot be made: {error.strerror or error}."
        raise FileProblem(str(folder), what, remedy=ELSEWHERE) from None


def _existing(path: Path) -> os.stat_result | None:
    try:
        return path.stat()
    except FileNotFoundError:
        return None


def _refuse_protected(path: Path, info: os.stat_result) -> None:
    if not info.st_mode & 0o222 or not os.access(path, os.W_OK):
        raise FileProblem(str(path), "It is write-protected.", remedy=ELSEWHERE)


def _unwritable(path: Path, error: OSError) -> FileProblem:
    return FileProblem(
        str(path), f"It cannot be written: {error.strerror or error}.", remedy=ELSEWHERE
    )


def _write_into(path: Path, data: bytes, mode: int) -> None:
    """Writes into a pipe or a device; refuses anything else that is no file."""
    if not (stat.S_ISFIFO(mode) or stat.S_ISCHR(mode)):
        raise FileProblem(str(path), f"It is {kind_words(mode)}, not a file.", remedy=ELSEWHERE)
    handle = os.open(path, os.O_WRONLY | os.O_NONBLOCK | os.O_CLOEXEC)
    try:
        os.set_blocking(handle, True)
        _write_all(handle, data)
    finally:
        os.close(handle)


def _temporary_prefix(name: str) -> str:
    return f".{shortened(name, 160)}."


def _replace(target: Path, data: bytes, info: os.stat_result | None) -> None:
    name = f"{_temporary_prefix(target.name)}{secrets.token_hex(4)}{TEMPORARY_ENDING}"
    temporary = target.parent / name
    # Made as the umask says; a file that is there keeps its own rights.
    mode = 0o666 if info is None else stat.S_IMODE(info.st_mode) & 0o700
    handle, is_needed = -1, False
    try:
        handle = os.open(temporary, os.O_WRONLY | os.O_CREAT | os.O_EXCL | os.O_CLOEXEC, mode)
        _lock(handle)
        _write_all(handle, data)
        if info is not None:
            _keep_rights(handle, info)
        os.fsync(handle)
        if info is not None and info.st_nlink > 1:
            is_needed = True
            _write_in_place(target, data)
            temporary.unlink()
        else:
            temporary.replace(target)
        _flush_folder(target.parent)
    except BaseException:
        # While a file with several names is written over, its temporary is the whole one.
        if not is_needed:
            _remove(temporary)
        raise
    finally:
        if handle >= 0:
            os.close(handle)


def _write_in_place(target: Path, data: bytes) -> None:
    """Writes over a file that has several names, so that all keep showing the same; meanwhile the
    temporary holds the new content.
    """
    handle = os.open(target, os.O_WRONLY | os.O_CLOEXEC)
    try:
        _write_all(handle, data)
        os.ftruncate(handle, len(data))
        os.fsync(handle)
    finally:
        os.close(handle)


def _write_all(handle: int, data: bytes) -> None:
    rest = memoryview(data)
    while rest:
        rest = rest[os.write(handle, rest) :]


def _keep_rights(handle: int, info: os.stat_result) -> None:
    made = os.fstat(handle)
    if (made.st_uid, made.st_gid) != (info.st_uid, info.st_gid):
        try:
            os.fchown(handle, info.st_uid, info.st_gid)
        except OSError as error:
            if error.errno not in (errno.EPERM, errno.EACCES, errno.EINVAL):
                raise
    os.fchmod(handle, stat.S_IMODE(info.st_mode))


def _flush_folder(folder: Path) -> None:
    """Puts the names of a folder on the disk; file systems that cannot do that need not."""
    handle = os.open(folder, os.O_RDONLY | os.O_DIRECTORY | os.O_CLOEXEC)
    try:
        os.fsync(handle)
    except OSError as error:
        if error.errno not in (errno.EINVAL, errno.ENOTSUP, errno.EBADF, errno.EROFS):
            raise
    finally:
        os.close(handle)


def _lock(handle: int) -> None:
    """Marks a file as being written; where locks are not known nothing tells, and nothing fails."""
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        return


def is_locked(path: Path) -> bool:
    """Whether somebody holds a file's lock; one that is not there, or may not be read, is free."""
    try:
        handle = os.open(path, os.O_RDONLY | os.O_CLOEXEC | os.O_NOFOLLOW)
    except (OSError, ValueError):
        return False
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        return True
    except OSError:
        return False
    finally:
        os.close(handle)
    return False


def _remove(path: Path) -> None:
    try:
        path.unlink(missing_ok=True)
    except OSError:
        return
