"""People: accounts, sign-ins, tickets an operator hands out, shares, remarks; and the server's secrets."""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"


def _when(name: str, *, nullable: bool = True) -> "sa.Column[object]":
    return sa.Column(name, sa.DateTime(timezone=True), nullable=nullable)


def upgrade() -> None:
    op.create_table(
        "account",
        sa.Column("id", sa.String(64), sa.ForeignKey("owner.id", name="fk_account_owner"), primary_key=True),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("called", sa.String(80), nullable=False),
        sa.Column("password", sa.String(200), nullable=False),
        sa.Column("operator", sa.Boolean(), nullable=False),
        _when("made", nullable=False),
        _when("ended"),
        sa.UniqueConstraint("name", name="uq_account_name"),
    )
    op.create_table(
        "sign_in",
        sa.Column("token", sa.String(64), primary_key=True),
        sa.Column("account", sa.String(64), sa.ForeignKey("account.id", name="fk_sign_in_account"), nullable=False),
        _when("made", nullable=False),
        _when("seen", nullable=False),
    )
    op.create_index("ix_sign_in_account", "sign_in", ["account"])
    op.create_table(
        "ticket",
        sa.Column("token", sa.String(64), primary_key=True),
        sa.Column("kind", sa.String(12), nullable=False),
        sa.Column("account", sa.String(64), sa.ForeignKey("account.id", name="fk_ticket_account")),
        _when("ends", nullable=False),
    )
    op.create_table(
        "share",
        sa.Column("id", sa.String(16), primary_key=True),
        sa.Column("studio", sa.String(32), sa.ForeignKey("studio.id", name="fk_share_studio"), nullable=False),
        sa.Column("account", sa.String(64), sa.ForeignKey("account.id", name="fk_share_account")),
        sa.Column("link", sa.String(64)),
        sa.Column("role", sa.String(8), nullable=False),
        sa.Column("by", sa.String(64), nullable=False),
        _when("made", nullable=False),
        _when("ends"),
        sa.UniqueConstraint("studio", "account", name="uq_share_studio_account"),
        sa.UniqueConstraint("link", name="uq_share_link"),
    )
    op.create_index("ix_share_account", "share", ["account"])
    op.create_table(
        "remark",
        sa.Column("id", sa.String(16), primary_key=True),
        sa.Column("studio", sa.String(32), sa.ForeignKey("studio.id", name="fk_remark_studio"), nullable=False),
        sa.Column("plan", sa.String(48), nullable=False),
        sa.Column("about", sa.String(200), nullable=False),
        sa.Column("words", sa.String(2000), nullable=False),
        sa.Column("by", sa.String(64), nullable=False),
        _when("at", nullable=False),
        _when("settled"),
    )
    op.create_index("ix_remark_studio", "remark", ["studio"])
    op.create_table(
        "secret",
        sa.Column("name", sa.String(32), primary_key=True),
        sa.Column("value", sa.LargeBinary(), nullable=False),
    )


def downgrade() -> None:
    for table in ("secret", "remark", "share", "ticket", "sign_in", "account"):
        op.drop_table(table)
