"""The photographer's own shapes, as all views of the window name and draw them.

They are of the logbook that is open, and told by it once it is read. A view that paints a tag has no other way to know
its name: one list, replaced as a whole, for the one window that shows a logbook.
"""

from __future__ import annotations

from collections.abc import Iterable
from typing import TYPE_CHECKING

from ondine.core.forecast.shapes import BY_KEY

if TYPE_CHECKING:
    # SQLAlchemy stands behind it.
    from ondine.logbook.own_shapes import OwnShapeRecord

PREFIX = "own-"
"""How the keys of one's own shapes begin."""

_own: dict[str, OwnShapeRecord] = {}


def set_own_shapes(shapes: Iterable[OwnShapeRecord]) -> None:
    """Name and draw these from now on, and no others."""
    _own.clear()
    _own.update({shape.key: shape for shape in shapes})


def own_shapes() -> tuple[OwnShapeRecord, ...]:
    """Return one's own shapes, by their letters."""
    return tuple(_own.values())


def own_by_letter(letter: str) -> OwnShapeRecord | None:
    """Return the shape that Shift and a letter tag."""
    return next((shape for shape in _own.values() if shape.letter == letter.upper()), None)


def shape_name(key: str) -> str:
    """Return the name of a shape; of one that was taken off the board, what its key tells of it."""
    if key in BY_KEY:
        return BY_KEY[key].name
    if key in _own:
        return _own[key].name
    return key.removeprefix(PREFIX).replace("-", " ") if key.startswith(PREFIX) else key


def drawing_of(key: str) -> str:
    """Return by which drawing a shape's glyph is known; its own key for the shapes that Ondine knows."""
    return _own[key].glyph if key in _own else key
