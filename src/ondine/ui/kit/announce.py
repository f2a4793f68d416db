"""Says aloud what just happened, for those who hear the window instead of seeing it."""

from __future__ import annotations

from PySide6.QtGui import QAccessible, QAccessibleAnnouncementEvent
from PySide6.QtWidgets import QWidget


def announce(part: QWidget, words: str, urgent: bool = False) -> None:
    """Tell the accessibility bus; `urgent` interrupts what is being read. Costs nothing where nobody listens."""
    if not words or not QAccessible.isActive():
        return
    event = QAccessibleAnnouncementEvent(part, words)
    if urgent:
        event.setPoliteness(QAccessible.AnnouncementPoliteness.Assertive)
    QAccessible.updateAccessibility(event)
