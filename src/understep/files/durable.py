"""Files that are replaced whole: after a crash the old or the new one is there, never a mixture."""

from __future__ import annotations

import contextlib
import os
import secrets
import stat
from collections.abc import Iterator
from pathlib import Path

from understep.errors import InputError

PART = ".part"  # the end of the name of a file that is being written
LOCK = ".lock"


def write(path: Path, text: str) -> None:
    """Write a file, or leave the old one; what is written lasts."""
    sync(replace(path, text).parent)


def replace(path: Path, text: str) -> Path:
    """Write a file, or leave the old one; it lasts once its folder is synced. Return where it is.

    A link is followed, an old file's mode and owner are kept, and a new file has the mode that the
    umask leaves.
    """
    path = Path(os.path.realpath(path))
    try:
        old = path.stat()
    except FileNotFoundError:
        old = None
    if old is not None and not stat.S_ISREG(old.st_mode):
        raise InputError("path", "must be a regular file, or none yet", str(path))
    part = path.parent / f".{secrets.token_hex(8)}{PART}"  # as short, however long the name is
    flags = os.O_WRONLY | os.O_CREAT | os.O_EXCL | getattr(os, "O_BINARY", 0)
    handle = os.open(part, flags, 0o666 if old is None else 0o600)
    try:
        with os.fdopen(handle, "wb") as file:
            file.write(text.encode())
            file.flush()
            if old is not None:
                _become(file.fileno(), old)
            os.fsync(file.fileno())
        os.replace(part, path)
    except BaseException:
        with contextlib.suppress(OSError):
            part.unlink()
        raise
    return path


def _become(handle: int, old: os.stat_result) -> None:
    """Give a file the owner, if that is allowed, and the mode of another."""
    if hasattr(os, "fchown"):
        with contextlib.suppress(PermissionError):
            os.fchown(handle, old.st_uid, old.st_gid)
        os.fchmod(handle, stat.S_IMODE(old.st_mode))


def sync(folder: Path) -> None:
    """Let what was written into a folder last, where the system can do so for folders."""
    try:
        handle = os.open(folder, os.O_RDONLY | getattr(os, "O_DIRECTORY", 0))
    except PermissionError:  # as Windows says for every folder
        return
    try:
        with contextlib.suppress(OSError):  # some network disks
            os.fsync(handle)
    finally:
        os.close(handle)


@contextlib.contextmanager
def locked(folder: Path) -> Iterator[None]:
    """Keep other processes from writing into a folder meanwhile; they wait.

    The lock is the operating system's, and ends with the process that holds it. Where the system
    has none (in a browser, say), there is one process alone.
    """
    handle = os.open(folder / LOCK, os.O_RDWR | os.O_CREAT, 0o666)
    try:
        with contextlib.suppress(ImportError):
            _lock(handle)
        yield
    finally:
        os.close(handle)  # and with it the lock


def _lock(handle: int) -> None:
    """Wait for the lock of an open file."""
    try:
        import fcntl
    except ImportError:  # Windows
        import msvcrt

        msvcrt.locking(handle, msvcrt.LK_LOCK, 1)  # type: ignore[attr-defined]
    else:
        fcntl.flock(handle, fcntl.LOCK_EX)
