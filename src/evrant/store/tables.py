"""Typed tables. Studios are documents in an append-only list of revisions."""

from datetime import datetime
from typing import Any

from sqlalchemy import (
    BigInteger,
    DateTime,
    ForeignKey,
    ForeignKeyConstraint,
    Identity,
    Index,
    LargeBinary,
    MetaData,
    String,
    UniqueConstraint,
)
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column

NAMES = {
    "ix": "ix_%(table_name)s_%(column_0_N_name)s",
    "uq": "uq_%(table_name)s_%(column_0_N_name)s",
    "fk": "fk_%(table_name)s_%(column_0_N_name)s",
    "pk": "pk_%(table_name)s",
}


class Written(str):
    """JSON text that is written as it stands."""

    __slots__ = ()


class Base(DeclarativeBase):
    metadata = MetaData(naming_convention=NAMES)


class OwnerRow(Base):
    """Someone who has studios; one local owner for now."""

    __tablename__ = "owner"
    id: Mapped[str] = mapped_column(String(64), primary_key=True)
    name: Mapped[str] = mapped_column(String(200))


class StudioRow(Base):
    """A studio's handle; its content is in its revisions."""

    __tablename__ = "studio"
    id: Mapped[str] = mapped_column(String(32), primary_key=True)
    owner: Mapped[str] = mapped_column(ForeignKey("owner.id"), index=True)
    name: Mapped[str] = mapped_column(String(80))
    archived: Mapped[bool] = mapped_column(default=False)
    created: Mapped[datetime] = mapped_column(DateTime(timezone=True))
    touched: Mapped[datetime] = mapped_column(DateTime(timezone=True))


class RevisionRow(Base):
    """One version of a plan's document. Rows are only ever added.

    `parent` is the revision the content grew from; for undo, redo and restore it is the revision
    whose document this one repeats.
    """

    __tablename__ = "revision"
    studio: Mapped[str] = mapped_column(String(32), primary_key=True)
    plan: Mapped[str] = mapped_column(String(48), primary_key=True)
    number: Mapped[int] = mapped_column(BigInteger, primary_key=True, autoincrement=False)
    parent: Mapped[int | None] = mapped_column(BigInteger)
    cause: Mapped[str] = mapped_column(String(12))
    edit_id: Mapped[str] = mapped_column(String(64))
    label: Mapped[str] = mapped_column(String(300))
    document: Mapped[dict[str, Any]] = mapped_column(JSONB)
    edit: Mapped[dict[str, Any] | None] = mapped_column(JSONB)
    schema: Mapped[int] = mapped_column()
    by: Mapped[str] = mapped_column(String(64))
    at: Mapped[datetime] = mapped_column(DateTime(timezone=True))

    __table_args__ = (
        ForeignKeyConstraint(["studio"], ["studio.id"]),
        UniqueConstraint("studio", "edit_id"),
        Index("ix_revision_studio_plan_cause", "studio", "plan", "cause", "number"),
    )


class LongJobRow(Base):
    """A long job: what was asked, how far it is, and its one answer. The queue's own tables only carry its id."""

    __tablename__ = "long_job"
    id: Mapped[str] = mapped_column(String(32), primary_key=True)
    owner: Mapped[str] = mapped_column(ForeignKey("owner.id"))
    studio: Mapped[str] = mapped_column(String(48))
    kind: Mapped[str] = mapped_column(String(16))
    key: Mapped[str] = mapped_column(String(128))
    asked: Mapped[dict[str, Any]] = mapped_column(JSONB)
    state: Mapped[str] = mapped_column(String(12))
    progress: Mapped[str] = mapped_column(String(300))
    answer: Mapped[dict[str, Any] | None] = mapped_column(JSONB)
    attempts: Mapped[int] = mapped_column()
    cancel: Mapped[bool] = mapped_column()
    at: Mapped[datetime] = mapped_column(DateTime(timezone=True))

    __table_args__ = (
        UniqueConstraint("owner", "key"),
        Index("ix_long_job_owner_studio_kind", "owner", "studio", "kind", "at"),
    )


class StandingRow(Base):
    """How the newest revision of a studio's plan stands, for the list: the ledger's worst line in words.

    `judged_by` names the rules that judged it, so that newer rules judge it anew.
    """

    __tablename__ = "standing"
    studio: Mapped[str] = mapped_column(ForeignKey("studio.id"), primary_key=True)
    plan: Mapped[str] = mapped_column(String(48), primary_key=True)
    number: Mapped[int] = mapped_column(BigInteger)
    judged_by: Mapped[str] = mapped_column(String(64))
    told: Mapped[dict[str, Any]] = mapped_column(JSONB)


class FrameRow(Base):
    """A test frame of a studio: a small picture (JPEG) by its hash, and what was told with it."""

    __tablename__ = "frame"
    studio: Mapped[str] = mapped_column(ForeignKey("studio.id"), primary_key=True)
    sha256: Mapped[str] = mapped_column(String(64), primary_key=True)
    told: Mapped[dict[str, Any]] = mapped_column(JSONB)
    picture: Mapped[bytes] = mapped_column(LargeBinary)
    at: Mapped[datetime] = mapped_column(DateTime(timezone=True))


class AccountRow(Base):
    """Someone who signs in; `name` is what they type, folded, `called` what others read. An ended account signs in no
    more."""

    __tablename__ = "account"
    id: Mapped[str] = mapped_column(ForeignKey("owner.id"), primary_key=True)
    name: Mapped[str] = mapped_column(String(80), unique=True)
    called: Mapped[str] = mapped_column(String(80))
    password: Mapped[str] = mapped_column(String(200))
    operator: Mapped[bool] = mapped_column()
    made: Mapped[datetime] = mapped_column(DateTime(timezone=True))
    ended: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))


class SignInRow(Base):
    """A browser that is signed in, by the SHA-256 of what its cookie holds."""

    __tablename__ = "sign_in"
    token: Mapped[str] = mapped_column(String(64), primary_key=True)
    account: Mapped[str] = mapped_column(ForeignKey("account.id"), index=True)
    made: Mapped[datetime] = mapped_column(DateTime(timezone=True))
    seen: Mapped[datetime] = mapped_column(DateTime(timezone=True))


class TicketRow(Base):
    """What an operator hands out, used once: an invitation, or a way to a new password."""

    __tablename__ = "ticket"
    token: Mapped[str] = mapped_column(String(64), primary_key=True)
    kind: Mapped[str] = mapped_column(String(12))
    account: Mapped[str | None] = mapped_column(ForeignKey("account.id"))
    ends: Mapped[datetime] = mapped_column(DateTime(timezone=True))


class ShareRow(Base):
    """A studio shared with an account, or with whoever has a link (kept as its SHA-256)."""

    __tablename__ = "share"
    id: Mapped[str] = mapped_column(String(16), primary_key=True)
    studio: Mapped[str] = mapped_column(ForeignKey("studio.id"))
    account: Mapped[str | None] = mapped_column(ForeignKey("account.id"), index=True)
    link: Mapped[str | None] = mapped_column(String(64), unique=True)
    role: Mapped[str] = mapped_column(String(8))
    by: Mapped[str] = mapped_column(String(64))
    made: Mapped[datetime] = mapped_column(DateTime(timezone=True))
    ends: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))

    __table_args__ = (UniqueConstraint("studio", "account"),)


class RemarkRow(Base):
    """Something said about a line or a thing of a studio, open until it is settled."""

    __tablename__ = "remark"
    id: Mapped[str] = mapped_column(String(16), primary_key=True)
    studio: Mapped[str] = mapped_column(ForeignKey("studio.id"), index=True)
    plan: Mapped[str] = mapped_column(String(48))
    about: Mapped[str] = mapped_column(String(200))
    words: Mapped[str] = mapped_column(String(2000))
    by: Mapped[str] = mapped_column(String(64))
    at: Mapped[datetime] = mapped_column(DateTime(timezone=True))
    settled: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))


class AttemptRow(Base):
    """Something that may be tried so often only, by the SHA-256 of what it is."""

    __tablename__ = "attempt"
    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    what: Mapped[str] = mapped_column(String(64))
    at: Mapped[datetime] = mapped_column(DateTime(timezone=True))

    __table_args__ = (Index("ix_attempt_what_at", "what", "at"),)


class SecretRow(Base):
    """What all processes of one server know and nobody else."""

    __tablename__ = "secret"
    name: Mapped[str] = mapped_column(String(32), primary_key=True)
    value: Mapped[bytes] = mapped_column(LargeBinary)


def ours(name: str | None, kind: str, parents: object) -> bool:
    """Whether a thing found in the database is the app's own: tables of the task queue belong to its package."""
    return not (kind == "table" and (name or "").startswith("procrastinate_"))
