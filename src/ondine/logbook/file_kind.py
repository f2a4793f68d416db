"""What a file is that somebody gives to Ondine: told by its content, never by its name."""

from __future__ import annotations

from enum import StrEnum
from pathlib import Path

from ondine.core import plain
from ondine.logbook.door import MOST_TEXT_BYTES, DoorError, check_file, read_bytes
from ondine.logbook.file import MAGIC
from ondine.logbook.locking import is_held_here

PICTURES = (b"\xff\xd8\xff", b"\x89PNG", b"II*\0", b"MM\0*")


class FileKind(StrEnum):
    """What Ondine opens."""

    LOGBOOK = "logbook"
    RECIPE = "recipe"
    SETUP = "set-up"


FORMATS = {"ondine-recipe": FileKind.RECIPE, "ondine-setup": FileKind.SETUP}


class FileKindError(Exception):
    """A file that Ondine does not open; the text says what it is, as far as that can be told, and what to do."""


def kind_of_file(path: Path) -> FileKind:
    """Tell what a file is by its first bytes, or by the format that its JSON names. Raises FileKindError."""
    if is_held_here(path):
        return FileKind.LOGBOOK
    try:
        begin = _begin(path)
        if begin.startswith(MAGIC):
            return FileKind.LOGBOOK
        if begin.startswith(PICTURES):
            raise FileKindError(
                f"{path.name} is a picture. Copy it into the folder of pictures, or log it with: "
                f"ondine import {path.name}"
            )
        text = read_bytes(path, MOST_TEXT_BYTES).decode("utf-8-sig")
    except OSError as error:
        raise FileKindError(
            f"{path} cannot be opened: {error.strerror}. Check the name. To begin a new logbook there: "
            f"ondine --logbook {path.name}"
        ) from error
    except UnicodeDecodeError as error:
        raise FileKindError(_neither(path, "it is no text and no logbook")) from error
    except DoorError as error:
        raise FileKindError(_neither(path, str(error))) from error
    return _kind_of_text(path, text)


def _begin(path: Path) -> bytes:
    check_file(path, 1 << 50)
    with open(path, "rb") as file:
        return file.read(len(MAGIC))


def _kind_of_text(path: Path, text: str) -> FileKind:
    try:
        found = plain.loads(text)
    except ValueError as error:
        raise FileKindError(_neither(path, f"its text is no JSON ({error})")) from error
    named = found.get("format") if isinstance(found, dict) else None
    if not isinstance(named, str) or named not in FORMATS:
        raise FileKindError(_neither(path, "it does not say that it is one"))
    return FORMATS[named]


def _neither(path: Path, why: str) -> str:
    return f"{path.name} is no logbook, recipe or set-up of Ondine: {why}. Choose another file."
