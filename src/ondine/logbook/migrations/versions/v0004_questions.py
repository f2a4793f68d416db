"""A picture that is not surely its shot's says so, until somebody looked."""

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Add the mark; all pairings of before count as sure."""
    with op.batch_alter_table("picture") as picture:
        picture.add_column(sa.Column("sure", sa.Boolean(), nullable=False, server_default=sa.true()))
