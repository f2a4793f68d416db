"""Pictures that are not where they were: found again by their content, wherever they went."""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path

from ondine.core.numbers import counted
from ondine.logbook.card import CardGoneError, pictures_in
from ondine.logbook.intake import MAX_BYTES
from ondine.logbook.store import Logbook

MOST_FILES = 500_000
"""An archive of many years has so many."""


@dataclass
class Moved:
    """Where pictures lie now, by their content's SHA-256; how many are still missing; what could not be read."""

    found: dict[str, Path] = field(default_factory=dict)
    missing: int = 0
    unread: list[str] = field(default_factory=list)

    @property
    def words(self) -> str:
        """All of it in a sentence."""
        parts = [f"{counted(len(self.found), 'moved picture')} found"]
        if self.missing:
            parts.append(f"{self.missing} still missing")
        if self.unread:
            parts.append(f"{counted(len(self.unread), 'file')} cannot be read")
        return ", ".join(parts) + "."


def find_moved(
    logbook: Logbook,
    folder: Path,
    progress: Callable[[int, int], None] = lambda done, of: None,
    is_cancelled: Callable[[], bool] = lambda: False,
) -> Moved:
    """Look for the pictures of a logbook that are not where they were, in a folder and the folders in it.

    Files that still have their names are looked at first, so that most are found soon; nothing is changed. Raises
    CardGoneError if the folder cannot be read.
    """
    lost = {sha256: path for sha256, path in logbook.pictures.contents().items() if not path.exists()}
    done = Moved()
    if not lost:
        return done
    names = {path.name for path in lost.values()}
    files = pictures_in(folder, MOST_FILES)
    files.sort(key=lambda path: (path.name not in names, str(path)))
    for number, path in enumerate(files, start=1):
        if is_cancelled() or not lost:
            break
        try:
            if path.stat().st_size <= MAX_BYTES:
                sha256 = _sha256(path)
                if lost.pop(sha256, None) is not None:
                    done.found[sha256] = path
        except OSError as error:
            if not folder.is_dir():
                raise CardGoneError(f"{folder} went while it was searched. Put it back, then look again.") from error
            done.unread.append(f"{path.name} cannot be read ({error.strerror}).")
        progress(number, len(files))
    done.missing = len(lost)
    return done


def _sha256(path: Path) -> str:
    with open(path, "rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()
