"""Asks for the name of a file or folder, and goes on when it is given: the window never waits for it."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog, QWidget

Mode = QFileDialog.FileMode


def ask_for_file(parent: QWidget, title: str, kinds: str, does: Callable[[Path], object]) -> QFileDialog:
    """Ask which file to open; `kinds` is a filter in Qt's words. Calls `does(path)` if one is chosen."""
    dialog = QFileDialog(parent, title, "", kinds)
    dialog.setFileMode(Mode.ExistingFile)
    return _opened(dialog, does)


def ask_where_to_write(
    parent: QWidget, title: str, name: str, kinds: str, does: Callable[[Path], object]
) -> QFileDialog:
    """Ask where to write a file called `name` for now. Calls `does(path)` if a place is chosen."""
    dialog = QFileDialog(parent, title, name, kinds)
    dialog.setAcceptMode(QFileDialog.AcceptMode.AcceptSave)
    dialog.setFileMode(Mode.AnyFile)
    dialog.setDefaultSuffix(Path(name).suffix.removeprefix("."))
    dialog.selectFile(name)
    return _opened(dialog, does)


def ask_for_folder(
    parent: QWidget, title: str, does: Callable[[Path], object], near: Path | None = None
) -> QFileDialog:
    """Ask for a folder, first of all in one that is `near`. Calls `does(path)` if one is chosen."""
    dialog = QFileDialog(parent, title, "" if near is None else str(near))
    dialog.setFileMode(Mode.Directory)
    dialog.setOption(QFileDialog.Option.ShowDirsOnly)
    return _opened(dialog, does)


def _opened(dialog: QFileDialog, does: Callable[[Path], object]) -> QFileDialog:
    dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    dialog.fileSelected.connect(lambda path: does(Path(path)) if path else None)
    dialog.open()
    return dialog
