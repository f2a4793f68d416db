"""Brings the studio's events, from whatever thread, into the window's, to those who asked for their kind."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypeVar

from PySide6.QtCore import QObject, Signal

from ondine.studio.events import Event

E = TypeVar("E")


class Bridge(QObject):
    """Call `send` from any thread; handlers are called in the thread that owns the bridge."""

    _posted = Signal(object)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._handlers: dict[type, list[Callable[[Any], object]]] = {}
        self._posted.connect(self._deliver)

    def on(self, kind: type[E], handler: Callable[[E], object]) -> None:
        """Call a handler for every event of a kind, after those that asked before."""
        self._handlers.setdefault(kind, []).append(handler)

    @property
    def kinds(self) -> frozenset[type]:
        """The kinds of events that somebody handles."""
        return frozenset(self._handlers)

    def send(self, event: Event) -> None:
        """Pass an event on."""
        self._posted.emit(event)

    def _deliver(self, event: Event) -> None:
        for handler in self._handlers.get(type(event), ()):
            handler(event)
