"""The door for files from elsewhere: regular files of a bounded size, with a name that can be written down."""

from __future__ import annotations

import stat
from pathlib import Path

from ondine.logbook.locking import is_held_here

MOST_TEXT_BYTES = 1_000_000
"""Of a recipe or set-up, which has a few thousand."""


class DoorError(ValueError):
    """A file that is not let in; the text says why."""


def check_file(path: Path, most_bytes: int) -> None:
    """Raise DoorError for what is no regular file or too large, before a byte of it is read; OSError if it is away."""
    found = path.stat()
    if is_held_here(path):
        raise DoorError("it is the logbook that is open")
    if not stat.S_ISREG(found.st_mode):
        raise DoorError("it is a folder or a device, not a file")
    if found.st_size > most_bytes:
        raise DoorError(f"it has {found.st_size / 1e6:.1f} MB, more than the {most_bytes / 1e6:g} MB of any sound one")
    try:
        str(path).encode("utf-8")
    except UnicodeEncodeError as error:
        raise DoorError("its name holds bytes that are no text. Rename it") from error


def read_bytes(path: Path, most_bytes: int) -> bytes:
    """Read a regular file. Raises DoorError, OSError."""
    check_file(path, most_bytes)
    with open(path, "rb") as file:
        # It may grow while it is read.
        found = file.read(most_bytes + 1)
    if len(found) > most_bytes:
        raise DoorError(f"it has more than {most_bytes / 1e6:g} MB")
    return found
