"""All that people say of shots, read and put back as a whole: what undo needs."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from sqlalchemy.orm import Session

from ondine.logbook.database import Database
from ondine.logbook.shots import PAGE, batched


@dataclass(frozen=True)
class Said:
    """What is said of one shot. `binned_at`: as the file holds it, None for a shot that is in no bin."""

    rating: int
    keeper: bool
    note: str
    binned_at: str | None
    shapes: frozenset[str]
    labels: frozenset[str]


class SaidTable:
    """Reads and puts back what is said."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def of(self, shot_ids: Iterable[int]) -> dict[int, Said]:
        """Return what is said of shots; of none that are not there."""
        found = {}
        with self._database.session() as session:
            for part in batched(shot_ids, PAGE):
                slots = ", ".join("?" for _ in part)
                shapes, labels = (_by_shot(session, *names, part) for names in (("tag", "shape"), ("label", "word")))
                rows = session.connection().exec_driver_sql(
                    f"SELECT id, rating, keeper, note, binned_at FROM shot WHERE id IN ({slots})", tuple(part)
                )
                for number, rating, keeper, note, binned_at in rows:
                    found[number] = Said(
                        rating, bool(keeper), note, binned_at, shapes.get(number, frozenset()),
                        labels.get(number, frozenset()),
                    )  # fmt: skip
        return found

    def put_back(self, now: Mapping[int, Said], then: Mapping[int, Said]) -> None:
        """Change what was said of shots from `now` to `then`; what is the same in both is left as it is."""
        changed = [number for number in then if number in now and now[number] != then[number]]
        with self._database.changing(changed) as session:
            connection = session.connection()
            columns = [
                (said.rating, said.keeper, said.note, said.binned_at, number)
                for number in changed
                if _columns(said := then[number]) != _columns(now[number])
            ]
            if columns:
                connection.exec_driver_sql(
                    "UPDATE shot SET rating = ?, keeper = ?, note = ?, binned_at = ? WHERE id = ?", columns
                )
            for table, column, part in (("tag", "shape", "shapes"), ("label", "word", "labels")):
                gone = [(n, t) for n in changed for t in getattr(now[n], part) - getattr(then[n], part)]
                back = [(n, t) for n in changed for t in getattr(then[n], part) - getattr(now[n], part)]
                if gone:
                    connection.exec_driver_sql(f"DELETE FROM {table} WHERE shot_id = ? AND {column} = ?", gone)
                if back:
                    connection.exec_driver_sql(f"INSERT OR IGNORE INTO {table} (shot_id, {column}) VALUES (?, ?)", back)


def _columns(said: Said) -> tuple[object, ...]:
    return said.rating, said.keeper, said.note, said.binned_at


def _by_shot(session: Session, table: str, column: str, shot_ids: list[int]) -> dict[int, frozenset[str]]:
    slots = ", ".join("?" for _ in shot_ids)
    rows = session.connection().exec_driver_sql(
        f"SELECT shot_id, {column} FROM {table} WHERE shot_id IN ({slots})", tuple(shot_ids)
    )
    found: dict[int, set[str]] = {}
    for number, text in rows:
        found.setdefault(number, set()).add(text)
    return {number: frozenset(texts) for number, texts in found.items()}
