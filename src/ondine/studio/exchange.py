"""Files that travel: a recipe or set-up is read or written in a thread of its own, and told as an event."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from ondine.core.belief.priors import Belief
from ondine.core.forecast.plan import Plan
from ondine.core.setup import BenchKind, Setup
from ondine.studio.events import Event, LogbookNamed, Notice, RecipeRead, SetupRead, Trouble
from ondine.studio.worker import Guard, Worker


class Exchange:
    """Reads what somebody opens, by its content, and writes what is in hand. `kind`: the bench of this logbook."""

    def __init__(self, kind: BenchKind, emit: Callable[[Event], None], guard: Guard) -> None:
        self._kind, self._emit = kind, emit
        self._worker = Worker("files", "reading or writing a file", guard)

    def read(self, path: Path) -> None:
        """Find out what a file is; RecipeRead, SetupRead, LogbookNamed or Trouble comes of it."""
        self._worker.do(self._read, path.absolute())

    def _read(self, path: Path) -> None:
        # Pydantic stands behind it: nobody reads a file before the first frame.
        from ondine.logbook.file_kind import FileKind, FileKindError, kind_of_file
        from ondine.logbook.recipe import RecipeError, read_recipe_file
        from ondine.logbook.setup_file import SetupFileError, read_setup_file

        try:
            match kind_of_file(path):
                case FileKind.LOGBOOK:
                    self._emit(LogbookNamed(path))
                case FileKind.RECIPE:
                    recipe = read_recipe_file(path)
                    self._emit(RecipeRead(path, recipe.name, recipe.plan, recipe.bench))
                case FileKind.SETUP:
                    found = read_setup_file(path)
                    self._emit(SetupRead(path, found.setup, found.belief, found.bench))
        except (FileKindError, RecipeError, SetupFileError) as error:
            self._emit(Trouble(str(error)))

    def write_recipe(self, plan: Plan, path: Path) -> None:
        """Write the plan as a recipe; a Notice or Trouble comes of it."""
        self._worker.do(self._write_recipe, plan, path)

    def _write_recipe(self, plan: Plan, path: Path) -> None:
        from ondine.logbook.recipe import write_recipe
        from ondine.logbook.writing import JSON, WriteError, write_text

        try:
            write_text(path, write_recipe(plan, plan.setup.name, self._kind), JSON)
        except WriteError as error:
            self._emit(Trouble(str(error)))
        else:
            self._emit(Notice(f"The recipe is written to {path}."))

    def write_setup(self, setup: Setup, belief: Belief, path: Path) -> None:
        """Write a set-up with what is believed of it; a Notice or Trouble comes of it."""
        self._worker.do(self._write_setup, setup, belief, path)

    def _write_setup(self, setup: Setup, belief: Belief, path: Path) -> None:
        from ondine.logbook.setup_file import write_setup
        from ondine.logbook.writing import WriteError

        try:
            write_setup(setup, belief, path, self._kind)
        except WriteError as error:
            self._emit(Trouble(str(error)))
        else:
            self._emit(Notice(f"The set-up is written to {path}."))

    def wait(self) -> None:
        """Wait until what was asked for is done; never called in a window that is used."""
        self._worker.wait()

    def close(self) -> None:
        """Write what is waiting, and end."""
        self._worker.close()
