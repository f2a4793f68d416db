"""The one way in which Ondine writes a file that somebody named: whole or not at all, and over nothing else.

What is written lands beside its place, reaches the disk, and is renamed. A full disk, a pulled plug or a slip in the
name leaves what was there before.
"""

from __future__ import annotations

import codecs
import os
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import BinaryIO

from ondine.logbook.locking import is_held_here
from ondine.logbook.parts import part_beside

SNIFFED_BYTES = 4096
WRITABLE = 0o222
"""The bits by which a file may be written by anybody at all."""


class WriteError(Exception):
    """A file that was not written; the text says why and what to do. What was there is untouched."""


@dataclass(frozen=True)
class Kind:
    """A kind of file: what people call it, how its name ends, and how it begins (nothing for text)."""

    name: str
    endings: tuple[str, ...]
    begins: bytes = b""

    def fits(self, begin: bytes) -> bool:
        """Whether a file that begins so may be of this kind; an empty one may."""
        if self.begins:
            return begin.startswith(self.begins) or not begin
        # Other programs write text as UTF-16, of which every second byte may be none.
        return b"\0" not in begin or begin.startswith((codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE))


CSV = Kind("table", (".csv", ".txt"))
JSON = Kind("JSON file", (".json",))
PNG = Kind("PNG", (".png",), b"\x89PNG\r\n\x1a\n")
PDF = Kind("PDF", (".pdf",), b"%PDF")


def check_target(path: Path, *kinds: Kind) -> Path:
    """Return the place where a file of one of these kinds may be written, links resolved.

    Raises WriteError for a name that ends otherwise, and where something lies already that is not of the kind it names.
    """
    kind = next((known for known in kinds if path.suffix.lower() in known.endings), None)
    if kind is None:
        wanted = " or ".join(ending for known in kinds for ending in known.endings)
        raise WriteError(f"{path} is not written: its name must end in {wanted}. Give it such a name.")
    try:
        place = path.resolve()
        if not place.exists():
            return place
        if not place.is_file():
            raise WriteError(f"{path} is not written: it is a folder or a device. Give the name of a file.")
        if is_held_here(place):
            raise WriteError(f"{path} is not written: it is the logbook that is open. Choose another name.")
        with open(place, "rb") as file:
            begin = file.read(SNIFFED_BYTES)
        if not place.stat().st_mode & WRITABLE:
            # A rename would replace it all the same; its owner said that it shall stay.
            raise WriteError(
                f"{path} is not written: it is write-protected. Choose another name, or take the protection off."
            )
    except (OSError, ValueError, RuntimeError) as error:
        raise WriteError(_cannot(path, error)) from error
    if not kind.fits(begin):
        raise WriteError(
            f"{path} is not written: what lies there is no {kind.name}, and it would be lost. It was left untouched: "
            "choose another name."
        )
    return place


def write_whole(path: Path, write: Callable[[BinaryIO], object], *kinds: Kind) -> None:
    """Write a file of one of these kinds, replacing one of the same kind. Raises WriteError."""
    place = check_target(path, *kinds)
    part = part_beside(place)
    try:
        try:
            with open(part, "xb") as file:
                write(file)
                file.flush()
                os.fsync(file.fileno())
            if place.exists():
                part.chmod(place.stat().st_mode & 0o7777)
            part.replace(place)
        except BaseException:
            part.unlink(missing_ok=True)
            raise
        sync_folder(place.parent)
    except OSError as error:
        raise WriteError(_cannot(path, error)) from error


def write_text(path: Path, text: str, *kinds: Kind) -> None:
    """Write UTF-8 text as `write_whole` does. Raises WriteError."""
    write_whole(path, lambda file: file.write(text.encode("utf-8")), *kinds)


def sync_folder(folder: Path) -> None:
    """Make a rename in a folder outlast a pulled plug, where the file system can."""
    handle = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(handle)
    except OSError:
        # Some network folders cannot; the file itself is on the disk.
        pass
    finally:
        os.close(handle)


def _cannot(path: Path, error: Exception) -> str:
    why = error.strerror if isinstance(error, OSError) and error.strerror else str(error)
    return f"{path} cannot be written: {why}. What was there is untouched: choose another place."
