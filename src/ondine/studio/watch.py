"""Watches one folder for finished picture files.

It looks again and again rather than waiting for the system's notice (docs/decisions/003): whether a camera has
finished a file can only be seen by looking twice, and network folders and card readers send no notice.
"""

from __future__ import annotations

import threading
import time
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from ondine.logbook.intake import SUFFIXES, PictureError

POLL_S = 0.25
PATIENCE_S = 4.0
"""How long a file that cannot be read yet may still be on its way."""


@dataclass
class _Seen:
    size: int
    modified_ns: int
    since: float
    done: bool


class FolderWatch:
    """Calls `take(path)` once for each picture file that appears after the start and has stopped growing.

    `take` raises PictureError for a file that is not readable (yet); if it still does so after some seconds,
    `refuse(error)` is called. `presence(bool)` is called when the folder vanishes or comes back.
    All calls come from the watching thread.
    """

    def __init__(
        self,
        folder: Path,
        take: Callable[[Path], None],
        refuse: Callable[[PictureError], None],
        presence: Callable[[bool], None],
        poll_s: float = POLL_S,
    ) -> None:
        self.folder = folder
        self._take, self._refuse, self._presence = take, refuse, presence
        self._poll_s = poll_s
        self._present = True
        self._stop = threading.Event()
        self._seen: dict[str, _Seen] = {}
        for name, size, modified in self._look() or []:
            self._seen[name] = _Seen(size, modified, 0.0, done=True)
        self._thread = threading.Thread(target=self._run, name="folder-watch", daemon=True)

    def start(self) -> None:
        """Begin to watch."""
        self._thread.start()

    def stop(self) -> None:
        """Stop, and wait until a picture in hand is done with."""
        self._stop.set()
        if self._thread.is_alive():
            self._thread.join(timeout=10)

    def _run(self) -> None:
        while not self._stop.wait(self._poll_s):
            found = self._look()
            if (found is not None) != self._present:
                self._present = found is not None
                self._presence(self._present)
            for name, size, modified in sorted(found or [], key=lambda entry: entry[2]):
                self._consider(name, size, modified)

    def _look(self) -> list[tuple[str, int, int]] | None:
        """List picture files, or None if the folder is not there."""
        try:
            found = []
            for path in self.folder.iterdir():
                if path.suffix.lower() in SUFFIXES and not path.name.startswith("."):
                    stat = path.stat()
                    found.append((path.name, stat.st_size, stat.st_mtime_ns))
            return found
        except FileNotFoundError:
            # Either the folder is gone, or a file went between listing and looking: the next look tells.
            return [] if self.folder.is_dir() else None
        except OSError:
            return None

    def _consider(self, name: str, size: int, modified: int) -> None:
        now = time.monotonic()
        seen = self._seen.get(name)
        if seen is None or (seen.size, seen.modified_ns) != (size, modified):
            self._seen[name] = _Seen(size, modified, now, done=False)
            return
        if seen.done or size == 0 or self._stop.is_set():
            return
        try:
            self._take(self.folder / name)
            seen.done = True
        except PictureError as error:
            if now - seen.since > PATIENCE_S:
                seen.done = True
                self._refuse(error)
