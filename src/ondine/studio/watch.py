"""Watches one folder for finished picture files.

It looks again and again rather than waiting for the system's notice (docs/decisions/003): whether a camera has
finished a file can only be seen by looking twice, and network folders and card readers send no notice. A folder is
listed again only after it has changed, so that one that holds tens of thousands of files costs nothing at rest.
"""

from __future__ import annotations

import os
import stat
import threading
import time
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Protocol

from ondine.logbook.errors import LogbookError
from ondine.logbook.intake import SUFFIXES
from ondine.logbook.pairing import Pairing
from ondine.logbook.picture_error import PictureError
from ondine.logbook.raw import is_raw

POLL_S = 0.25
PATIENCE_S = 4.0
"""How long a file that cannot be read yet may still be on its way."""

AGAIN_S = 2.0
"""How long to wait before a picture is tried again that could not be logged."""

RESTLESS_LOOKS = 12
"""So often a folder is listed again after it changed: some file systems tell its time only to two seconds."""

REWRITTEN_KEPT = 32
"""So many of the latest files are looked at each time: a camera may write over the same name, which no folder tells."""


class Finder(Protocol):
    """Who is told. All calls come from the watching thread."""

    def guarded(self, job: Callable[..., object], *arguments: object) -> None:
        """Run a job, and keep whatever it raises from the thread."""

    def catch_up(self, files: Iterable[tuple[Path, datetime]]) -> None:
        """Hear of the files that lay there at the start: path, when it was written; the newest last."""

    def sighted(self) -> Pairing:
        """A file is there that was not there before."""

    def take(self, path: Path, reserved: Pairing) -> None:
        """A file has stopped growing. Raises PictureError if it is not readable (yet), LogbookError to try later."""

    def refused(self, error: PictureError) -> None:
        """A file was not readable for some seconds."""

    def dropped(self, reserved: Pairing) -> None:
        """A file that was sighted is not taken: it was refused, or it went."""

    def presence(self, folder: Path, present: bool) -> None:
        """The folder vanished or came back."""


@dataclass
class _Seen:
    size: int
    modified_ns: int
    since: float
    reserved: Pairing
    done: bool = False
    not_before: float = 0.0


class FolderWatch:
    """Tells a `Finder` of each picture file that appears after the start and has stopped growing, once."""

    def __init__(self, folder: Path, finder: Finder, poll_s: float | None = None) -> None:
        self.folder, self._finder, self._poll_s = folder, finder, POLL_S if poll_s is None else poll_s
        self._stop = threading.Event()
        self._changed_ns = -1
        self._restless = 0
        self._seen: dict[str, _Seen] = {}
        listed = self._listed()
        self.is_present = listed is not None
        for name in listed or []:
            found = self._stat(name)
            if found is not None:
                self._seen[name] = _Seen(*found, since=0.0, reserved=Pairing(), done=True)
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
        old = sorted(self._seen.items(), key=lambda entry: entry[1].modified_ns)
        self._finder.guarded(self._finder.catch_up, [(self.folder / name, _time_of(seen)) for name, seen in old])
        while not self._stop.wait(self._poll_s):
            self._finder.guarded(self.look)

    def look(self) -> None:
        """Look once."""
        names = self._names_to_look_at()
        if (names is not None) != self.is_present:
            self.is_present = names is not None
            self._finder.presence(self.folder, self.is_present)
        found = [(name, known) for name in names or () if (known := self._stat(name)) is not None]
        for name, (size, modified_ns) in sorted(found, key=lambda entry: entry[1][1]):
            if self._stop.is_set():
                return
            # Each on its own: what one file does to its reader must not hide the next.
            self._finder.guarded(self._consider, name, size, modified_ns)

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
                seen = self._seen.pop(gone)
                if not seen.done:
                    self._finder.dropped(seen.reserved)
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
        """Size and time of a regular file; None for what is none, or leads nowhere."""
        try:
            found = (self.folder / name).stat()
        except (OSError, ValueError):
            # It went between listing and looking, or is a link to nothing or to itself.
            return None
        return (found.st_size, found.st_mtime_ns) if stat.S_ISREG(found.st_mode) else None

    def _reserve(self, name: str) -> Pairing:
        """Keep a shot for a new file; the raw file and the JPEG of one name share it."""
        for other in list(self._seen)[-REWRITTEN_KEPT:]:
            if Path(other).stem == Path(name).stem and is_raw(Path(other)) != is_raw(Path(name)):
                return Pairing()
        return self._finder.sighted()

    def _consider(self, name: str, size: int, modified_ns: int) -> None:
        now = time.monotonic()
        seen = self._seen.get(name)
        if seen is None or (seen.size, seen.modified_ns) != (size, modified_ns):
            # Taken out and put in again, so that the latest stand at the end. One that goes on growing keeps the shot
            # that it was first seen after; a finished one that changes is another picture.
            self._seen.pop(name, None)
            reserved = seen.reserved if seen is not None and not seen.done else self._reserve(name)
            self._seen[name] = _Seen(size, modified_ns, now, reserved)
            return
        if seen.done or size == 0 or now < seen.not_before:
            return
        # Whatever nobody expected is told once, not at each look.
        seen.done = True
        try:
            self._finder.take(self.folder / name, seen.reserved)
        except PictureError as error:
            if now - seen.since > PATIENCE_S:
                self._finder.dropped(seen.reserved)
                self._finder.refused(error)
            else:
                seen.done = False
        except LogbookError:
            seen.done, seen.not_before = False, now + AGAIN_S


def _time_of(seen: _Seen) -> datetime:
    try:
        return datetime.fromtimestamp(seen.modified_ns / 1e9, UTC)
    except (OverflowError, OSError, ValueError):
        return datetime(1970, 1, 1, tzinfo=UTC)
