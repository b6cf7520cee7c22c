"""Long jobs, and the task queue that carries them."""

import sqlalchemy as sa
from alembic import op
from procrastinate.schema import SchemaManager
from sqlalchemy.dialects import postgresql

revision = "0002"
down_revision = "0001"


def upgrade() -> None:
    op.create_table(
        "long_job",
        sa.Column("id", sa.String(32), primary_key=True),
        sa.Column("owner", sa.String(64), sa.ForeignKey("owner.id", name="fk_long_job_owner"), nullable=False),
        sa.Column("studio", sa.String(48), nullable=False),
        sa.Column("kind", sa.String(16), nullable=False),
        sa.Column("key", sa.String(128), nullable=False),
        sa.Column("asked", postgresql.JSONB(), nullable=False),
        sa.Column("state", sa.String(12), nullable=False),
        sa.Column("progress", sa.String(300), nullable=False),
        sa.Column("answer", postgresql.JSONB()),
        sa.Column("attempts", sa.Integer(), nullable=False),
        sa.Column("cancel", sa.Boolean(), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.UniqueConstraint("owner", "key", name="uq_long_job_owner_key"),
    )
    op.create_index("ix_long_job_owner_studio_kind", "long_job", ["owner", "studio", "kind", "at"])
    cursor = op.get_bind().connection.cursor()
    cursor.execute(SchemaManager.get_schema())
    cursor.close()


def downgrade() -> None:
    op.drop_table("long_job")
