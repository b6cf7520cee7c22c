"""How each studio stands, kept with its revision; documents that cannot be read are set back to the last that can."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

from evrant.store.mend import mend

revision = "0003"
down_revision = "0002"


def upgrade() -> None:
    op.create_table(
        "standing",
        sa.Column("studio", sa.String(32), sa.ForeignKey("studio.id", name="fk_standing_studio"), primary_key=True),
        sa.Column("plan", sa.String(48), primary_key=True),
        sa.Column("number", sa.BigInteger(), nullable=False),
        sa.Column("judged_by", sa.String(64), nullable=False),
        sa.Column("told", postgresql.JSONB(), nullable=False),
    )
    mend(op.get_bind())


def downgrade() -> None:
    op.drop_table("standing")
