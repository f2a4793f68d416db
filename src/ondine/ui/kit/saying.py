"""How a part of the window says a sentence without knowing the window."""

from __future__ import annotations

from typing import Protocol, runtime_checkable

from PySide6.QtWidgets import QWidget


@runtime_checkable
class Speaks(Protocol):
    """A window with a place for messages."""

    def say(self, message: str) -> None:
        """Show a message that needs no answer."""
        ...


def say(part: QWidget, message: str) -> None:
    """Let the window that a part is in say a sentence."""
    window = part.window()
    if isinstance(window, Speaks):
        window.say(message)
