"""The logbook: one open file, and the parts that ask and change it."""

from __future__ import annotations

from pathlib import Path

from sqlalchemy.exc import DBAPIError

from ondine.logbook import file
from ondine.logbook.database import Database, plain_error
from ondine.logbook.file import ClaimedFile
from ondine.logbook.pictures import Pictures
from ondine.logbook.setups import Setups
from ondine.logbook.shots import Shots
from ondine.logbook.sittings import Sittings
from ondine.logbook.state import State


class Logbook:
    """One open logbook file. Safe to use from several threads: each call is a transaction of its own."""

    def __init__(self, claimed: ClaimedFile) -> None:
        """Take over a claimed file; migrate it if it is older, and mark shots that a crash left half done."""
        self.path = claimed.path
        self._claimed = claimed
        try:
            if claimed.version < file.SCHEMA_VERSION:
                file.upgrade(self.path)
            self._database = Database(self.path)
            self.shots = Shots(self._database)
            self.sittings = Sittings(self._database)
            self.setups = Setups(self._database)
            self.pictures = Pictures(self._database)
            self.state = State(self._database)
            self.shots.recover()
        except DBAPIError as error:
            claimed.release()
            raise plain_error(self.path, error) from error
        except BaseException:
            claimed.release()
            raise

    @classmethod
    def open(cls, path: Path) -> Logbook:
        """Open or create a logbook. Raises LogbookError, having changed nothing, if the file is not ours to write."""
        return cls(file.claim(path))

    def close(self) -> None:
        """Let the file go."""
        self._database.close()
        self._claimed.release()
