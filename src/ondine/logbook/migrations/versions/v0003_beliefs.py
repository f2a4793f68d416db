"""Beliefs leave the set-up for revisions of their own; shots keep what the bench reported and the reservoir's level."""

import hashlib
import json

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Split each set-up that holds a belief in two, and point shots and names at both."""
    op.create_table(
        "belief_revision",
        sa.Column("id", sa.String(), primary_key=True),
        sa.Column("content", sa.String(), nullable=False),
    )
    with op.batch_alter_table("shot") as shot:
        shot.add_column(sa.Column("belief_id", sa.String(), nullable=True))
        shot.add_column(sa.Column("flash_report_us", sa.Integer()))
        shot.add_column(sa.Column("head_m", sa.Float()))
        shot.drop_column("flash_us")
    with op.batch_alter_table("kept_setup") as kept:
        kept.add_column(sa.Column("belief_id", sa.String(), nullable=True))
    connection = op.get_bind()
    for old, name, content in connection.execute(sa.text("SELECT id, name, content FROM setup_revision")).fetchall():
        _split(connection, old, name, content)
    with op.batch_alter_table("shot") as shot:
        shot.alter_column("belief_id", nullable=False)
        shot.create_foreign_key("shot_belief", "belief_revision", ["belief_id"], ["id"])
    with op.batch_alter_table("kept_setup") as kept:
        kept.alter_column("belief_id", nullable=False)
        kept.create_foreign_key("kept_belief", "belief_revision", ["belief_id"], ["id"])
    op.rename_table("desk", "state")
    _split_state(connection)


def _split(connection: sa.Connection, old: str, name: str, content: str) -> None:
    setup = _read(content)
    # What cannot be read stays as it is, for the day that somebody can.
    belief = _canonical({} if setup is None else setup.pop("beliefs", {}))
    new = content if setup is None else _canonical(setup)
    believed = _address(belief)
    _keep(connection, "belief_revision", {"id": believed, "content": belief})
    _keep(connection, "setup_revision", {"id": _address(new), "name": name, "content": new})
    for table in ("shot", "kept_setup"):
        move = sa.text(f"UPDATE {table} SET setup_id = :new, belief_id = :belief WHERE setup_id = :old")
        connection.execute(move, {"new": _address(new), "belief": believed, "old": old})
    if old != _address(new):
        connection.execute(sa.text("DELETE FROM setup_revision WHERE id = :old"), {"old": old})


def _split_state(connection: sa.Connection) -> None:
    text = connection.execute(sa.text("SELECT value FROM state WHERE key = 'setup'")).scalar()
    setup = None if text is None else _read(text)
    if setup is not None:
        belief = setup.pop("beliefs", {})
        for key, value in (("setup", setup), ("belief", belief)):
            put = sa.text("INSERT OR REPLACE INTO state (key, value) VALUES (:key, :value)")
            connection.execute(put, {"key": key, "value": _canonical(value)})


def _read(text: str) -> dict | None:
    try:
        found = json.loads(text)
    except ValueError:
        return None
    return found if isinstance(found, dict) else None


def _keep(connection: sa.Connection, table: str, values: dict) -> None:
    names = ", ".join(values)
    slots = ", ".join(f":{name}" for name in values)
    connection.execute(sa.text(f"INSERT OR IGNORE INTO {table} ({names}) VALUES ({slots})"), values)


def _canonical(values: dict) -> str:
    return json.dumps(values, sort_keys=True, separators=(",", ":"), allow_nan=False)


def _address(text: str) -> str:
    return hashlib.sha256(text.encode()).hexdigest()[:16]
