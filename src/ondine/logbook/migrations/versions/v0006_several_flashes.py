"""A shot has any number of flashes, and the bench reports each: the one that older shots report becomes a list of one.

Their sequences stay as they were written: they are read with one flash, all drops from the first valve.
"""

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Put a list in the place of the one number."""
    with op.batch_alter_table("shot") as shot:
        shot.add_column(sa.Column("flash_reports_us", sa.String()))
    op.get_bind().exec_driver_sql(
        "UPDATE shot SET flash_reports_us = '[' || flash_report_us || ']' WHERE flash_report_us IS NOT NULL"
    )
    with op.batch_alter_table("shot") as shot:
        shot.drop_column("flash_report_us")
