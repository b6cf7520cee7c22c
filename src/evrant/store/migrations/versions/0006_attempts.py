"""Attempts that are counted by all processes together: wrong passwords, accounts made from one address."""

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"


def upgrade() -> None:
    op.create_table(
        "attempt",
        sa.Column("id", sa.BigInteger(), sa.Identity(), primary_key=True),
        sa.Column("what", sa.String(64), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
    )
    op.create_index("ix_attempt_what_at", "attempt", ["what", "at"])


def downgrade() -> None:
    op.drop_table("attempt")
