"""The logbook's first shape: set-ups, sittings, shots, tags, pictures, the desk."""

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Create all tables."""
    op.create_table(
        "setup_revision",
        sa.Column("id", sa.String(), primary_key=True),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("content", sa.String(), nullable=False),
    )
    op.create_table(
        "sitting",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("started_at", sa.DateTime(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
    )
    op.create_table(
        "shot",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("sitting_id", sa.Integer(), sa.ForeignKey("sitting.id"), nullable=False),
        sa.Column("setup_id", sa.String(), sa.ForeignKey("setup_revision.id"), nullable=False),
        sa.Column("planned_at", sa.DateTime(), nullable=False),
        sa.Column("fired_at", sa.DateTime()),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("sequence", sa.String(), nullable=False),
        sa.Column("flash_us", sa.Integer(), nullable=False),
        sa.Column("report", sa.String(), nullable=False),
        sa.Column("rating", sa.Integer(), nullable=False),
        sa.Column("note", sa.String(), nullable=False),
    )
    op.create_index("ix_shot_planned_at", "shot", ["planned_at"])
    op.create_table(
        "tag",
        sa.Column("shot_id", sa.Integer(), sa.ForeignKey("shot.id"), primary_key=True),
        sa.Column("shape", sa.String(), primary_key=True),
    )
    op.create_index("tag_shape", "tag", ["shape"])
    op.create_table(
        "picture",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("shot_id", sa.Integer(), sa.ForeignKey("shot.id")),
        sa.Column("path", sa.String(), nullable=False),
        sa.Column("sha256", sa.String(), nullable=False, unique=True),
        sa.Column("width_px", sa.Integer(), nullable=False),
        sa.Column("height_px", sa.Integer(), nullable=False),
        sa.Column("taken_at", sa.DateTime()),
        sa.Column("arrived_at", sa.DateTime(), nullable=False),
        sa.Column("exposure_s", sa.Float()),
        sa.Column("f_number", sa.Float()),
        sa.Column("iso", sa.Integer()),
        sa.Column("focal_length_m", sa.Float()),
    )
    op.create_index("ix_picture_shot_id", "picture", ["shot_id"])
    op.create_table(
        "desk",
        sa.Column("key", sa.String(), primary_key=True),
        sa.Column("value", sa.String(), nullable=False),
    )
