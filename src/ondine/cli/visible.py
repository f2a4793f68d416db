"""What commands print: a terminal obeys control characters, so those of notes and file names are shown instead."""

from __future__ import annotations

import sys
from collections.abc import Iterator
from contextlib import contextmanager, redirect_stderr, redirect_stdout
from typing import Any, TextIO

_MEANT = "\n\t"


def visible(text: str) -> str:
    r"""Return a text with each control character as its escape: ESC as \x1b. Lines and tabs stay."""
    if text.isprintable():
        return text
    return "".join(sign if sign.isprintable() or sign in _MEANT else _escaped(sign) for sign in text)


def _escaped(sign: str) -> str:
    return sign.encode("unicode_escape").decode("ascii")


class VisibleStream:
    """A text stream that shows control characters; all else of it, its `buffer` too, is the stream's own."""

    def __init__(self, stream: TextIO) -> None:
        self._stream = stream

    def write(self, text: str) -> int:
        """Write a text."""
        self._stream.write(visible(text))
        return len(text)

    def write_as_it_is(self, text: str) -> None:
        """Write what Ondine itself wants the terminal to obey."""
        self._stream.write(text)
        self._stream.flush()

    def __getattr__(self, name: str) -> Any:
        return getattr(self._stream, name)


@contextmanager
def visible_output() -> Iterator[None]:
    """Show control characters in all that is printed meanwhile."""
    with (
        redirect_stdout(VisibleStream(sys.stdout)),
        redirect_stderr(VisibleStream(sys.stderr)),
    ):
        yield
