"""Where things lie that nobody gave a place: where XDG says (its Base Directory Specification)."""

from __future__ import annotations

import os
from collections.abc import Iterator
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

from ondine.core.setup import BenchKind
from ondine.logbook.bench_kind import bench_of

APP = "ondine"


@dataclass(frozen=True)
class Places:
    """The folders of one user: `data` for logbooks, `state` and `cache` for what may be lost without harm.

    `cache` holds what can be made again.
    """

    data: Path
    state: Path
    cache: Path

    @classmethod
    def of_user(cls) -> Places:
        """Return the present user's places."""
        from platformdirs import user_cache_path, user_data_path, user_state_path

        return cls(*(of(APP, appauthor=False) for of in (user_data_path, user_state_path, user_cache_path)))

    @property
    def demo(self) -> Path:
        """The folder of the demo."""
        return self.data / "demo"

    @property
    def window(self) -> Path:
        """The file that remembers the window's size and place."""
        return self.state / "window.ini"

    @property
    def thumbnails(self) -> Path:
        """The folder of small pictures."""
        return self.cache / "thumbnails"

    # Logbooks

    def table_logbook(self) -> Path:
        """Return where the logbook of one's own table lies, or will: the first name that is no practice logbook's."""
        return next(path for path in self._named("log", "table") if bench_of(path) is not BenchKind.SIMULATED)

    def practice_logbook(self) -> Path:
        """Return where the practice logbook lies, or will: the first name that is not another logbook's."""
        return next(
            path
            for path in self._named("practice", "practice")
            if not path.exists() or bench_of(path) is BenchKind.SIMULATED
        )

    def _named(self, first: str, others: str) -> Iterator[Path]:
        yield self.data / f"{first}.ondine"
        for number in range(1, 10_000):
            yield self.data / (f"{others}.ondine" if number == 1 and others != first else f"{others}-{number}.ondine")

    # The logbook that was open last

    @property
    def _last(self) -> Path:
        return self.state / "last-logbook"

    def last_logbook(self) -> Path | None:
        """Return the logbook that was open last, None if there was none; whether it is still there is another thing."""
        with suppress(OSError, ValueError):
            text = os.fsdecode(self._last.read_bytes())
            if text and "\0" not in text:
                return Path(text)
        return None

    def remember_logbook(self, path: Path) -> None:
        """Remember the logbook that is open; where that cannot be written, the usual one opens next time."""
        with suppress(OSError):
            self.state.mkdir(parents=True, exist_ok=True)
            part = self._last.with_name(f"{self._last.name}.part")
            part.write_bytes(os.fsencode(path.absolute()))
            part.replace(self._last)
