"""A log of any length: shots in the order of their time, their figures to search by, their words in a full-text index.

Keepers, labels, shapes of one's own, saved searches, a bin; a raw file beside its picture. The figures are reckoned
later, beside the open window (`logbook.facts_table`): a long log is not kept waiting for them.
"""

import sqlalchemy as sa
from alembic import op

from ondine.core.log.facts import setup_words
from ondine.core.setup.wire import setup_from_json

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None

FIGURES = (
    "interval_ms", "gap_ms", "open_ms", "second_open_ms", "flash_ms", "after_touchdown_ms", "touchdown_sd_ms",
    "after_meeting_ms", "meeting_sd_ms", "crater_clocks", "size_ratio", "diameter_mm", "height_mm", "head_mm",
    "viscosity_mpa_s", "temperature_c", "power", "f_number", "iso", "exposure_ms",
)  # fmt: skip

WORDS = tuple(
    f"CREATE VIRTUAL TABLE {name} USING fts5({columns}, tokenize = 'unicode61 remove_diacritics 2', prefix = '2 3')"
    for name, columns in (
        ("shot_words", "note, label"), ("sitting_words", "name, place, note"), ("setup_words", "words")
    )
)  # fmt: skip
"""Of shots, sittings and set-ups apart: a sitting that is renamed changes one row, not all its shots."""

LABELS = "coalesce((SELECT group_concat(word, ' ') FROM label WHERE shot_id = {shot}), '')"

FILL = (
    f"INSERT INTO shot_words (rowid, note, label) SELECT id, note, {LABELS.format(shot='shot.id')} FROM shot "
    "WHERE note != ''",
    "INSERT INTO sitting_words (rowid, name, place, note) SELECT id, name, place, note FROM sitting",
    "INSERT INTO setup_words (rowid, words) SELECT rowid, words FROM setup_revision",
)


def _trigger(name: str, when: str, table: str, does: str) -> str:
    return f"CREATE TRIGGER {name} AFTER {when} ON {table} BEGIN {does} END"


def _shot_told(shot: str, note: str) -> str:
    """Tell a shot's words anew, whether it had any or not."""
    return (
        f"DELETE FROM shot_words WHERE rowid = {shot}; "
        f"INSERT INTO shot_words (rowid, note, label) VALUES ({shot}, {note}, {LABELS.format(shot=shot)});"
    )


_NOTE_OF = "coalesce((SELECT note FROM shot WHERE id = {shot}), '')"
_SITTING = "INSERT INTO sitting_words (rowid, name, place, note) VALUES (new.id, new.name, new.place, new.note);"
_SETUP = "INSERT INTO setup_words (rowid, words) VALUES (new.rowid, new.words);"

_TIME = "UPDATE shot SET at = coalesce(new.fired_at, new.planned_at) WHERE id = new.id;"
"""A column of its own, written by SQLite, so that the order of time is read from an index alone. (A generated column
would do, but SQLite before 3.41 reads the whole row for it all the same.)
"""

TRIGGERS = (
    _trigger("time_of_new_shot", "INSERT", "shot", _TIME),
    _trigger("time_of_shot", "UPDATE OF fired_at, planned_at", "shot", _TIME),
    _trigger("words_of_new_shot", "INSERT", "shot WHEN new.note != ''", _shot_told("new.id", "new.note")),
    _trigger("words_of_shot", "UPDATE OF note", "shot", _shot_told("new.id", "new.note")),
    _trigger("words_of_lost_shot", "DELETE", "shot", "DELETE FROM shot_words WHERE rowid = old.id;"),
    _trigger("words_of_label", "INSERT", "label", _shot_told("new.shot_id", _NOTE_OF.format(shot="new.shot_id"))),
    _trigger("words_of_lost_label", "DELETE", "label", _shot_told("old.shot_id", _NOTE_OF.format(shot="old.shot_id"))),
    _trigger("words_of_new_sitting", "INSERT", "sitting", _SITTING),
    _trigger(
        "words_of_sitting", "UPDATE OF name, place, note", "sitting",
        f"DELETE FROM sitting_words WHERE rowid = new.id; {_SITTING}",
    ),
    _trigger("words_of_lost_sitting", "DELETE", "sitting", "DELETE FROM sitting_words WHERE rowid = old.id;"),
    _trigger("words_of_new_setup", "INSERT", "setup_revision", _SETUP),
    _trigger(
        "words_of_setup", "UPDATE OF words", "setup_revision",
        f"DELETE FROM setup_words WHERE rowid = new.rowid; {_SETUP}",
    ),
)  # fmt: skip


def upgrade() -> None:
    """Add columns, tables and indices; fill the words."""
    for table, column in (
        ("setup_revision", sa.Column("words", sa.String(), nullable=False, server_default="")),
        ("shot", sa.Column("keeper", sa.Boolean(), nullable=False, server_default=sa.false())),
        ("shot", sa.Column("binned_at", sa.String())),
        ("shot", sa.Column("at", sa.String(), nullable=False, server_default="")),
        ("picture", sa.Column("beside_path", sa.String())),
        ("picture", sa.Column("beside_sha256", sa.String())),
    ):
        op.add_column(table, column)
    op.drop_index("tag_shape", "tag")
    shot = lambda: sa.Column("shot_id", sa.Integer(), sa.ForeignKey("shot.id"), primary_key=True)  # noqa: E731
    op.create_table("label", shot(), sa.Column("word", sa.String(), primary_key=True))
    op.create_table(
        "own_shape",
        sa.Column("key", sa.String(), primary_key=True),
        *(sa.Column(name, sa.String(), nullable=False) for name in ("name", "letter", "glyph")),
    )
    op.create_table(
        "saved_search",
        sa.Column("name", sa.String(), primary_key=True),
        sa.Column("line", sa.String(), nullable=False),
        sa.Column("saved_at", sa.String(), nullable=False),
    )
    op.create_table(
        "shot_facts",
        shot(),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("timing", sa.Integer(), nullable=False),
        sa.Column("drops", sa.Integer(), nullable=False),
        *(sa.Column(name, sa.Float()) for name in FIGURES),
    )
    connection = op.get_bind()
    for name, on in (
        ("shot_by_time", "shot (at)"),
        ("shot_by_sitting", "shot (sitting_id)"),
        ("shot_by_setup", "shot (setup_id)"),
        ("shot_by_rating", "shot (rating)"),
        ("shot_by_state", "shot (state)"),
        ("shot_by_bench", "shot (bench)"),
        ("shot_kept", "shot (keeper) WHERE keeper"),
        ("shot_in_bin", "shot (binned_at) WHERE binned_at IS NOT NULL"),
        ("picture_in_question", "picture (shot_id) WHERE NOT sure"),
        ("tag_by_shape", "tag (shape, shot_id)"),
        ("ix_picture_beside_sha256", "picture (beside_sha256)"),
        ("label_word", "label (word)"),
    ):
        connection.exec_driver_sql(f"CREATE INDEX {name} ON {on}")
    for number, content in connection.exec_driver_sql("SELECT id, content FROM setup_revision").fetchall():
        connection.exec_driver_sql("UPDATE setup_revision SET words = ? WHERE id = ?", (_words(content), number))
    for statement in ("UPDATE shot SET at = coalesce(fired_at, planned_at)", *WORDS, *FILL, *TRIGGERS):
        connection.exec_driver_sql(statement)


def _words(content: object) -> str:
    try:
        return setup_words(setup_from_json(str(content)))
    except ValueError:
        # A set-up that cannot be read any more is found by its shots.
        return ""
