"""Each shot knows which bench made it: invented pictures are told from real ones for ever."""

import sqlalchemy as sa
from alembic import op

from ondine.core.setup import BenchKind
from ondine.logbook.migrations.benches import bench_of_shot

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Add the kind of bench, and tell it of the shots that are there as far as anything of them tells it."""
    with op.batch_alter_table("shot") as shot:
        shot.add_column(sa.Column("bench", sa.String(), nullable=False, server_default=BenchKind.UNKNOWN.value))
    connection = op.get_bind()
    rows = connection.exec_driver_sql(
        "SELECT shot.id, report, flash_report_us, content, "
        "(SELECT path FROM picture WHERE shot_id = shot.id ORDER BY id LIMIT 1) "
        "FROM shot LEFT JOIN setup_revision ON setup_revision.id = setup_id"
    ).fetchall()
    kinds = {number: bench_of_shot(*tells) for number, *tells in rows}
    for number, kind in kinds.items():
        connection.exec_driver_sql("UPDATE shot SET bench = ? WHERE id = ?", (kind.value, number))
    found = set(kinds.values())
    # Where they agree, so does the logbook; where they do not, the window asks.
    for kind in (BenchKind.SIMULATED, BenchKind.BY_HAND):
        if found == {kind}:
            connection.exec_driver_sql("INSERT OR REPLACE INTO state VALUES ('bench', ?)", (kind.value,))
