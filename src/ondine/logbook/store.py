"""The logbook: one open file, and the parts that ask and change it."""

from __future__ import annotations

import sqlite3
from pathlib import Path

from sqlalchemy.exc import DBAPIError

from ondine.logbook.database import Database, plain_error
from ondine.logbook.errors import LogbookError, sqlite_words
from ondine.logbook.facts_table import FactsTable
from ondine.logbook.file import ClaimedFile, claim
from ondine.logbook.identity import settle_identity
from ondine.logbook.migrate import create, migrated
from ondine.logbook.names import Names
from ondine.logbook.outcomes import OutcomeFile
from ondine.logbook.own_shapes import OwnShapes
from ondine.logbook.parts import sweep
from ondine.logbook.pictures import Pictures
from ondine.logbook.said import SaidTable
from ondine.logbook.search import Search
from ondine.logbook.setups import Setups
from ondine.logbook.shots import Shots
from ondine.logbook.sittings import Sittings
from ondine.logbook.state import State


class Logbook:
    """One open logbook file. Safe to use from several threads: each call is a transaction of its own.

    `made_up_for`: shots whose outcome could not be written when they fired, and is now.
    """

    def __init__(self, claimed: ClaimedFile) -> None:
        """Take over a claimed file; migrate it if it is older, and mark shots that a crash left half done."""
        self.path = claimed.path
        self._claimed = claimed
        try:
            if claimed.version == 0:
                create(self.path)
            else:
                migrated(claimed)
            claimed.lock.hold_file()
            settle_identity(self.path)
            sweep(self.path.parent)
            self._database = Database(self.path)
            self.shots = Shots(self._database)
            self.said = SaidTable(self._database)
            self.sittings = Sittings(self._database)
            self.setups = Setups(self._database)
            self.pictures = Pictures(self._database)
            self.state = State(self._database)
            self.shapes = OwnShapes(self._database)
            self.names = Names(self._database)
            self.search = Search(self._database)
            self.facts = FactsTable(self._database)
            self.shots.recover()
            self.made_up_for = self._make_up_for()
        except DBAPIError as error:
            claimed.release()
            raise plain_error(self.path, error) from error
        except sqlite3.Error as error:
            claimed.release()
            raise LogbookError(sqlite_words(self.path, error)) from error
        except BaseException:
            claimed.release()
            raise

    def _make_up_for(self) -> list[int]:
        """Take in what could not be written when it happened; return the shots."""
        kept = OutcomeFile(self.path)
        outcomes = kept.read()
        done = [outcome.shot_id for outcome in outcomes if self.shots.finish(outcome)]
        if outcomes:
            kept.forget()
        return done

    @classmethod
    def open(cls, path: Path) -> Logbook:
        """Open or create a logbook. Raises LogbookError, having changed nothing, if the file is not ours to write."""
        return cls(claim(path))

    def came_from_outside(self) -> None:
        """Read everything anew: shots were written past this logbook's own parts, and may lack their figures."""
        self._database.touched.note(None)
        self.facts.look_again()

    def close(self) -> None:
        """Let the file go."""
        self._database.close()
        self._claimed.release()
