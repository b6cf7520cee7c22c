"""Test frames: small pictures readings are taken from, kept beside the studio's document."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0004"
down_revision = "0003"


def upgrade() -> None:
    op.create_table(
        "frame",
        sa.Column("studio", sa.String(32), sa.ForeignKey("studio.id", name="fk_frame_studio"), primary_key=True),
        sa.Column("sha256", sa.String(64), primary_key=True),
        sa.Column("told", postgresql.JSONB(), nullable=False),
        sa.Column("picture", sa.LargeBinary(), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
    )


def downgrade() -> None:
    op.drop_table("frame")
