"""Shapes that the photographer added to those that Ondine knows."""

from __future__ import annotations

import re
import unicodedata
from dataclasses import dataclass

from sqlalchemy import select

from ondine.core.forecast.shapes import SHAPES, Shape, ShapeGroup
from ondine.logbook.database import Database
from ondine.logbook.errors import LogbookError
from ondine.logbook.model import OwnShape

MOST_NAME = 40


@dataclass(frozen=True)
class OwnShapeRecord:
    """A shape of one's own: `letter` is its key on the board, together with Shift; `glyph` names its drawing."""

    key: str
    name: str
    letter: str
    glyph: str

    @property
    def shape(self) -> Shape:
        """The shape as searches and tags know it."""
        return Shape(self.key, self.name, ShapeGroup.OWN)


class OwnShapes:
    """Adds and forgets shapes. Tags of a shape that is forgotten stay on their shots."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def own(self) -> list[OwnShapeRecord]:
        """Return the photographer's own shapes by their letters."""
        with self._database.session() as session:
            rows = session.scalars(select(OwnShape).order_by(OwnShape.letter, OwnShape.key)).all()
            return [OwnShapeRecord(str(r.key), str(r.name), str(r.letter), str(r.glyph)) for r in rows]

    def all(self) -> tuple[Shape, ...]:
        """Return all shapes: those that Ondine knows, then one's own."""
        return (*SHAPES, *(own.shape for own in self.own()))

    def add(self, name: str, letter: str, glyph: str) -> OwnShapeRecord:
        """Add a shape. Raises LogbookError if its name or letter is taken, or says nothing."""
        name = " ".join(name.split())[:MOST_NAME]
        letter = letter.strip().upper()
        own = self.own()
        if not any(sign.isalnum() for sign in name):
            raise LogbookError("A shape needs a name. Write what it looks like, for example “twin crown”.")
        if len(letter) != 1 or not ("A" <= letter <= "Z"):
            raise LogbookError("The key of a shape is one letter from A to Z, pressed together with Shift.")
        if any(name.casefold() == shape.name.casefold() for shape in self.all()):
            raise LogbookError(f"There is a shape “{name}” already. Give this one another name.")
        if any(letter == shape.letter for shape in own):
            raise LogbookError(f"Shift {letter} is the key of another shape. Choose another letter.")
        made = OwnShapeRecord(_key(name, {shape.key for shape in self.all()}), name, letter, glyph)
        # Shapes are numbered anew: all that is drawn of them is read again.
        with self._database.changing(None) as session:
            session.add(OwnShape(**vars(made)))
        return made

    def forget(self, key: str) -> None:
        """Take a shape off the board; shots that were tagged with it keep the tag."""
        with self._database.changing(None) as session:
            found = session.get(OwnShape, key)
            if found is not None:
                session.delete(found)


def _key(name: str, taken: set[str]) -> str:
    plain = unicodedata.normalize("NFKD", name.casefold()).encode("ascii", "ignore").decode()
    stem = "own-" + (re.sub(r"[^a-z0-9]+", "-", plain).strip("-") or "shape")
    return next(key for n in range(1, 1000) if (key := stem if n == 1 else f"{stem}-{n}") not in taken)
