"""Sittings say where and how it was, and what was checked before; set-ups can be kept under a name."""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Add the sitting's particulars and the shelf of named set-ups."""
    with op.batch_alter_table("sitting") as sitting:
        sitting.add_column(sa.Column("place", sa.String(), nullable=False, server_default=""))
        sitting.add_column(sa.Column("temperature_c", sa.Float()))
        sitting.add_column(sa.Column("note", sa.String(), nullable=False, server_default=""))
        sitting.add_column(sa.Column("preflight", sa.String(), nullable=False, server_default=""))
    op.create_table(
        "kept_setup",
        sa.Column("name", sa.String(), primary_key=True),
        sa.Column("setup_id", sa.String(), sa.ForeignKey("setup_revision.id"), nullable=False),
        sa.Column("kept_at", sa.DateTime(), nullable=False),
    )
