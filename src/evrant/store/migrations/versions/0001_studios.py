"""Owners, studios and their revisions."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0001"
down_revision = None


def upgrade() -> None:
    op.create_table(
        "owner",
        sa.Column("id", sa.String(64), primary_key=True),
        sa.Column("name", sa.String(200), nullable=False),
    )
    op.create_table(
        "studio",
        sa.Column("id", sa.String(32), primary_key=True),
        sa.Column("owner", sa.String(64), sa.ForeignKey("owner.id", name="fk_studio_owner"), nullable=False),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("archived", sa.Boolean(), nullable=False),
        sa.Column("created", sa.DateTime(timezone=True), nullable=False),
        sa.Column("touched", sa.DateTime(timezone=True), nullable=False),
    )
    op.create_index("ix_studio_owner", "studio", ["owner"])
    op.create_table(
        "revision",
        sa.Column("studio", sa.String(32), sa.ForeignKey("studio.id", name="fk_revision_studio"), nullable=False),
        sa.Column("plan", sa.String(48), nullable=False),
        sa.Column("number", sa.BigInteger(), nullable=False),
        sa.Column("parent", sa.BigInteger()),
        sa.Column("cause", sa.String(12), nullable=False),
        sa.Column("edit_id", sa.String(64), nullable=False),
        sa.Column("label", sa.String(300), nullable=False),
        sa.Column("document", postgresql.JSONB(), nullable=False),
        sa.Column("edit", postgresql.JSONB()),
        sa.Column("schema", sa.Integer(), nullable=False),
        sa.Column("by", sa.String(64), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.PrimaryKeyConstraint("studio", "plan", "number", name="pk_revision"),
        sa.UniqueConstraint("studio", "edit_id", name="uq_revision_studio_edit_id"),
    )
    op.create_index("ix_revision_studio_plan_cause", "revision", ["studio", "plan", "cause", "number"])
    op.execute("INSERT INTO owner (id, name) VALUES ('local', 'Local owner')")


def downgrade() -> None:
    op.drop_table("revision")
    op.drop_table("studio")
    op.drop_table("owner")
