"""The ways to look at what was found in the log."""

from __future__ import annotations

SHEET, TABLE, ATLAS, GROUPS, COMPARE, FILM, CARD = "Sheet", "Table", "Atlas", "Timings", "Compare", "Film", "Card"
KINDS = (
    (SHEET, "The shots found as pictures  Ctrl H"),
    (TABLE, "The shots found as a table  Ctrl H"),
    (ATLAS, "The shots found over two of their figures: which timings made which shapes  Ctrl H"),
    (GROUPS, "The shots found by equal timing: how often each was fired, and how often it hit  Ctrl Shift H"),
    (COMPARE, "The selected shots side by side, down to the best of them  Ctrl R"),
    (FILM, "The instants of one splash, one after the other  Ctrl Shift R"),
    (CARD, "Pictures of a camera's card, matched to their shots by time  Ctrl Shift I"),
)
"""Each with what it is, for the hand that rests on it."""
