"""What was removed by hand is known as removed, so that a merge with another logbook does not bring it back.

SQLite's own triggers keep the marks: no way of removing or adding can forget them.
"""

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None

PER_SHOT = {"tag": "shape", "label": "word"}
BY_KEY = {"own_shape": "key", "saved_search": "name", "kept_setup": "name"}
COLUMNS = {"note": "{row}.note = ''", "rating": "{row}.rating = 0", "keeper": "NOT {row}.keeper"}


def _mark(kind: str, shot: str, word: str) -> str:
    return f"INSERT OR IGNORE INTO removed (kind, shot_id, word) VALUES ('{kind}', {shot}, {word});"


def _unmark(kind: str, shot: str, word: str) -> str:
    return f"DELETE FROM removed WHERE kind = '{kind}' AND shot_id = {shot} AND word = {word};"


def _rows(table: str, shot: str, key: str) -> tuple[str, str]:
    return (
        f"CREATE TRIGGER removed_{table} AFTER DELETE ON {table} BEGIN "
        f"{_mark(table, shot.format(row='old'), f'old.{key}')} END",
        f"CREATE TRIGGER added_{table} AFTER INSERT ON {table} BEGIN "
        f"{_unmark(table, shot.format(row='new'), f'new.{key}')} END",
    )


def _column(name: str, nothing: str) -> tuple[str, str]:
    was, now = nothing.format(row="old"), nothing.format(row="new")
    empty = "''"
    return (
        f"CREATE TRIGGER removed_{name} AFTER UPDATE OF {name} ON shot WHEN NOT ({was}) AND {now} BEGIN "
        f"{_mark(name, 'new.id', empty)} END",
        f"CREATE TRIGGER added_{name} AFTER UPDATE OF {name} ON shot WHEN NOT ({now}) BEGIN "
        f"{_unmark(name, 'new.id', empty)} END",
    )


TRIGGERS = (
    *(trigger for table, key in PER_SHOT.items() for trigger in _rows(table, "{row}.shot_id", key)),
    *(trigger for table, key in BY_KEY.items() for trigger in _rows(table, "0", key)),
    *(trigger for name, nothing in COLUMNS.items() for trigger in _column(name, nothing)),
)


def upgrade() -> None:
    """Add the table of marks and what fills it."""
    op.create_table(
        "removed",
        sa.Column("kind", sa.String(), primary_key=True),
        sa.Column("shot_id", sa.Integer(), primary_key=True),
        sa.Column("word", sa.String(), primary_key=True),
    )
    connection = op.get_bind()
    for trigger in TRIGGERS:
        connection.exec_driver_sql(trigger)
