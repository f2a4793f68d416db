"""Watches one folder for finished picture files.

It looks again and again rather than waiting for the system's notice (docs/decisions/003): whether a camera has
finished a file can only be seen by looking twice, and network folders and card readers send no notice. A folder is
listed again only after it has changed, so that one that holds tens of thousands of files costs nothing at rest.
"""

from __future__ import annotations

import os
import threading
import time
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from pathlib import Path

from ondine.logbook.intake import SUFFIXES, PictureError

POLL_S = 0.25
PATIENCE_S = 4.0
"""How long a file that cannot be read yet may still be on its way."""

RESTLESS_LOOKS = 12
"""So often a folder is listed again after it changed: some file systems tell its time only to two seconds."""

REWRITTEN_KEPT = 32
"""So many of the latest files are looked at each time: a camera may write over the same name, which no folder tells."""


@dataclass
class _Seen:
    size: int
    modified_ns: int
    since: float
    done: bool


class FolderWatch:
    """Calls `take(path)` once for each picture file that appears after the start and has stopped growing.

    `take` raises PictureError for a file that is not readable (yet); if it still does so after some seconds,
    `refuse(error)` is called. `presence(folder, bool)` is called when the folder vanishes or comes back.
    All calls come from the watching thread.
    """

    def __init__(
        self,
        folder: Path,
        take: Callable[[Path], None],
        refuse: Callable[[PictureError], None],
        presence: Callable[[Path, bool], None],
        poll_s: float = POLL_S,
    ) -> None:
        self.folder = folder
        self._take, self._refuse, self._presence = take, refuse, presence
        self._poll_s = poll_s
        self._present = True
        self._stop = threading.Event()
        self._changed_ns = -1
        self._restless = 0
        self._seen: dict[str, _Seen] = {}
        for name in self._listed() or []:
            found = self._stat(name)
            if found is not None:
                self._seen[name] = _Seen(*found, since=0.0, done=True)
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
            names = self._names_to_look_at()
            if (names is not None) != self._present:
                self._present = names is not None
                self._presence(self.folder, self._present)
            found = [(name, stat) for name in names or () if (stat := self._stat(name)) is not None]
            for name, (size, modified_ns) in sorted(found, key=lambda entry: entry[1][1]):
                self._consider(name, size, modified_ns)

    def _names_to_look_at(self) -> Iterable[str] | None:
        """New names, files that are not done, and the latest ones; None if the folder is not there."""
        try:
            changed_ns = self.folder.stat().st_mtime_ns
        except OSError:
            return None
        if changed_ns != self._changed_ns:
            self._changed_ns, self._restless = changed_ns, RESTLESS_LOOKS
        latest = list(self._seen)[-REWRITTEN_KEPT:]
        names = dict.fromkeys([*(name for name, seen in self._seen.items() if not seen.done), *latest])
        if self._restless > 0:
            self._restless -= 1
            listed = self._listed()
            if listed is None:
                return None
            here = set(listed)
            for gone in [name for name in self._seen if name not in here]:
                del self._seen[gone]
            names = dict.fromkeys([*(name for name in listed if name not in self._seen), *names])
        return names

    def _listed(self) -> list[str] | None:
        """Names of all picture files, or None if the folder is not there."""
        try:
            with os.scandir(self.folder) as entries:
                return [e.name for e in entries if e.name[0] != "." and Path(e.name).suffix.lower() in SUFFIXES]
        except OSError:
            return None

    def _stat(self, name: str) -> tuple[int, int] | None:
        try:
            stat = (self.folder / name).stat()
        except OSError:
            # It went between listing and looking: the next look tells.
            return None
        return stat.st_size, stat.st_mtime_ns

    def _consider(self, name: str, size: int, modified_ns: int) -> None:
        now = time.monotonic()
        seen = self._seen.get(name)
        if seen is None or (seen.size, seen.modified_ns) != (size, modified_ns):
            # Taken out and put in again, so that the latest stand at the end.
            self._seen.pop(name, None)
            self._seen[name] = _Seen(size, modified_ns, now, done=False)
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
