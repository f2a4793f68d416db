"""Files that somebody opens or writes: logbooks, recipes, set-ups, and the folder that pictures arrive in."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from PySide6.QtWidgets import QWidget

from ondine.core.setup import BenchKind, Setup
from ondine.core.setup.compare import differences
from ondine.core.units import Units, value_words
from ondine.studio.events import LogbookNamed, RecipeRead, SetupRead
from ondine.studio.studio import Studio
from ondine.ui.kit.actions import Actions
from ondine.ui.kit.bridge import Bridge
from ondine.ui.kit.files import ask_for_file, ask_for_folder, ask_where_to_write
from ondine.ui.shell.messages import Messages
from ondine.ui.shell.navigation import Navigation
from ondine.ui.table.editor import SetupEditor

OPENED = "Logbooks, recipes and set-ups (*.ondine *.json);;All files (*)"


MOST_SAID = 3
NOT_OF_THE_TABLE = ("box.", "other")
"""Whose hand turns the dials, and what this Ondine does not know, is no reason to offer another table."""


class Files:
    """Joins dialogs, the exchange and what is in hand. `open_logbook(path)` opens another logbook."""

    def __init__(
        self,
        window: QWidget,
        studio: Studio,
        editor: SetupEditor,
        navigation: Navigation,
        messages: Messages,
        bridge: Bridge,
        open_logbook: Callable[[Path], object],
    ) -> None:
        self._window, self._studio, self._editor = window, studio, editor
        self._navigation, self._messages = navigation, messages
        bridge.on(LogbookNamed, lambda event: open_logbook(event.path))
        bridge.on(RecipeRead, self._use_recipe)
        bridge.on(SetupRead, self._use_setup)

    def key_actions(self) -> Actions:
        """What keys can ask for."""
        return {
            "open_file": self.open,
            "write_recipe": self.write_recipe,
            "choose_folder": self.choose_folder,
            "back_up": self._studio.backups.now,
        }

    def open(self) -> None:
        """Ask for a file and open it."""
        ask_for_file(self._window, "Open a logbook, a recipe or a set-up", OPENED, self._studio.exchange.read)

    def write_recipe(self) -> None:
        """Ask where to write the sequence and the set-up in hand, as a recipe for others."""
        plan = self._studio.composer.plan
        name = re.sub(r"[^\w -]+", "", plan.setup.name).strip().lower().replace(" ", "-") or "recipe"
        ask_where_to_write(
            self._window,
            "Write a recipe",
            f"{name}.ondine-recipe.json",
            "Recipes (*.json)",
            lambda path: self._studio.exchange.write_recipe(plan, path),
        )

    def choose_folder(self) -> None:
        """Ask for the folder that pictures arrive in."""
        ask_for_folder(self._window, "Folder that pictures arrive in", self._studio.intake.watch)

    # What was read

    def _use_recipe(self, recipe: RecipeRead) -> None:
        """Take the sequence of a recipe in hand. The table stays: it is the one that will be fired."""
        name = recipe.name or recipe.path.name
        self._studio.composer.use_sequence(recipe.plan.sequence)
        self._navigation.go_back()
        words = f"The timings of “{name}” are in hand"
        differs = _differs(self._studio.composer.setup, recipe.plan.setup, self._editor.units)
        if not differs:
            self._messages.notice(f"{words}.")
            return
        words = f"{words}, for your own table. The recipe was made for another one: {differs}."
        self._messages.offer(
            f"{words}{self._of_bench(recipe.bench)}",
            "Use its table too",
            lambda: self._editor.use(recipe.plan.setup, recipe.plan.belief),
        )

    def _use_setup(self, found: SetupRead) -> None:
        box = self._studio.composer.setup.box
        # Whose hand turns the dials is a matter of this table, not of the file's.
        self._editor.use(replace(found.setup, box=replace(found.setup.box, in_use=box.in_use)), found.belief)
        self._messages.notice(f"The set-up “{found.setup.name}” is in hand.{self._of_bench(found.bench)}")

    def _of_bench(self, bench: BenchKind) -> str:
        if bench is BenchKind.SIMULATED and self._studio.bench.kind.is_real:
            return " It comes from the simulated bench: what it says of flow and lags is no table's. Weigh your own."
        return ""


def _differs(mine: Setup, theirs: Setup, units: Units) -> str:
    """Say how another table differs: the first few fields by name, the rest by number; nothing if it is the same."""
    found = [d for d in differences(mine, theirs) if d.path != "name" and not d.path.startswith(NOT_OF_THE_TABLE)]
    said = [
        f"{d.says.lower()} {value_words(d.path, d.other, units)}, yours {value_words(d.path, d.one, units)}"
        for d in found[:MOST_SAID]
    ]
    more = f"; and {len(found) - MOST_SAID} more" if len(found) > MOST_SAID else ""
    return "; ".join(said) + more
