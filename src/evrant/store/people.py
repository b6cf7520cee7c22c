"""The gateway to people: accounts, who is signed in, tickets, who may do what with which studio.

Passwords are kept as Argon2id hashes, everything a browser or a link holds as its SHA-256 only.
"""

import secrets
from dataclasses import dataclass
from datetime import UTC, date, datetime, time, timedelta
from enum import IntEnum
from functools import cached_property
from hashlib import sha256
from typing import Any, Literal, cast

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError
from sqlalchemy import Engine, Table, delete, false, func, insert, or_, select, update
from sqlalchemy.dialects.postgresql import insert as upsert
from sqlalchemy.engine import Connection

from evrant.core.edits.language import EditRefused
from evrant.store.reading import reader
from evrant.store.revisions import NotFound, split
from evrant.store.tables import AccountRow, OwnerRow, SecretRow, ShareRow, SignInRow, StudioRow, TicketRow

_A, _O = cast(Table, AccountRow.__table__), cast(Table, OwnerRow.__table__)
_I, _K = cast(Table, SignInRow.__table__), cast(Table, TicketRow.__table__)
_H, _S = cast(Table, ShareRow.__table__), cast(Table, StudioRow.__table__)
_X = cast(Table, SecretRow.__table__)

IDLE, LONGEST = timedelta(days=14), timedelta(days=60)
"""A browser that does not come back so long is signed out; and each is, after the longest time."""
SEEN_EVERY = timedelta(minutes=10)
TICKET = timedelta(days=7)
SHORTEST, MOST_LETTERS = 10, 200
"""Letters of a password: fewer are guessed, more are no password."""
MOST_SHARES = 50
Kind = Literal["invitation", "password"]


class Role(IntEnum):
    """What somebody may do with a studio: look, change, or give away."""

    LOOKER = 1
    EDITOR = 2
    OWNER = 3

    @property
    def word(self) -> str:
        return self.name.lower()


@dataclass(frozen=True)
class Account:
    """Someone who signs in."""

    id: str
    name: str
    called: str
    operator: bool
    ended: bool = False


@dataclass(frozen=True)
class Share:
    """With whom a studio is shared; `called` is empty for a link."""

    id: str
    called: str
    role: Role
    ends: datetime | None

    @property
    def over(self) -> bool:
        return self.ends is not None and self.ends <= _now()


@dataclass(frozen=True)
class Shared:
    """A studio somebody else shares with an account."""

    id: str
    name: str
    owner: str
    role: Role


def digest(token: str) -> str:
    return sha256(token.encode("utf-8", "replace")).hexdigest()


def folded(name: str) -> str:
    """A name as it is compared: no capitals, no spaces round it, nothing that is not seen."""
    return "".join(ch for ch in " ".join(name.split()).casefold() if ch.isprintable())[:80]


class People:
    """Accounts and shares of one database."""

    def __init__(self, engine: Engine) -> None:
        self._engine, self._reader = engine, reader(engine)

    @cached_property
    def _hasher(self) -> PasswordHasher:
        return PasswordHasher()

    @cached_property
    def _nobody(self) -> str:
        """A hash that is checked where there is no account, so that both take as long."""
        return self._hasher.hash(secrets.token_hex(16))

    # --- the server's secret -----------------------------------------------------------------

    def secret(self, name: str = "token") -> bytes:
        """A secret all processes on this database share; made when it is first asked for."""
        query = select(_X.c.value).where(_X.c.name == name)
        with self._reader.connect() as connection:
            held = connection.execute(query).scalar()
        if held is not None:
            return bytes(held)
        made = upsert(_X).values(name=name, value=secrets.token_bytes(32)).on_conflict_do_nothing()
        with self._engine.begin() as connection:
            connection.execute(made)
            return bytes(connection.execute(query).scalar_one())

    # --- accounts ----------------------------------------------------------------------------

    def add(self, name: str, password: str, *, operator: bool = False) -> Account:
        """A new account. Raises EditRefused for a name that is taken or a password that is too short."""
        hashed = self._hashed(password)
        with self._engine.begin() as connection:
            return self._add(connection, name, hashed, operator=operator)

    def _add(self, connection: Connection, name: str, hashed: str, *, operator: bool) -> Account:
        called = " ".join(name.split())
        if not 2 <= len(called) <= 80 or not called.isprintable():
            raise EditRefused("A name has 2 to 80 letters.", "name")
        key, now = secrets.token_hex(8), _now()
        connection.execute(insert(_O).values(id=key, name=called))
        values = {"id": key, "name": folded(called), "called": called, "password": hashed, "operator": operator}
        query = upsert(_A).values(**values, made=now).on_conflict_do_nothing().returning(_A.c.id)
        if connection.execute(query).scalar() is None:
            raise EditRefused("That name is taken.", "name")
        return Account(key, values["name"], called, operator)  # type: ignore[arg-type]

    def accounts(self) -> list[Account]:
        query = select(_A).order_by(_A.c.name)
        with self._reader.connect() as connection:
            return [_account(row) for row in connection.execute(query)]

    def named(self, name: str) -> Account | None:
        """The account of that name that is not ended."""
        query = select(_A).where(_A.c.name == folded(name), _A.c.ended.is_(None))
        with self._reader.connect() as connection:
            row = connection.execute(query).first()
        return None if row is None else _account(row)

    def names(self, keys: set[str]) -> dict[str, str]:
        """What accounts are called, by id."""
        query = select(_A.c.id, _A.c.called).where(_A.c.id.in_(keys))
        with self._reader.connect() as connection:
            return {row.id: row.called for row in connection.execute(query)}

    def proves(self, account: str, password: str) -> bool:
        """Whether a password is an account's."""
        with self._reader.connect() as connection:
            held = connection.execute(select(_A.c.password).where(_A.c.id == account)).scalar()
        return held is not None and self._right(held, password)

    def change_password(self, account: str, new: str) -> None:
        """A new password; every browser that was signed in is signed out. Raises EditRefused."""
        self._set_password(account, self._hashed(new))

    def _set_password(self, account: str, hashed: str) -> None:
        with self._engine.begin() as connection:
            connection.execute(update(_A).where(_A.c.id == account).values(password=hashed))
            connection.execute(delete(_I).where(_I.c.account == account))
            connection.execute(delete(_K).where(_K.c.account == account))

    def end(self, account: str) -> None:
        """No more sign-in for an account; what it has stays until it is deleted."""
        with self._engine.begin() as connection:
            connection.execute(update(_A).where(_A.c.id == account).values(ended=_now()))
            connection.execute(delete(_I).where(_I.c.account == account))

    def forget(self, account: str) -> None:
        """Take an account's own name, sign-ins and shares away for good; its studios are to be gone before. Raises
        EditRefused while it has studios."""
        with self._engine.begin() as connection:
            left = connection.execute(select(func.count()).where(_S.c.owner == account)).scalar_one()
            if left:
                raise EditRefused(f"Delete your {left} studios first.", "forget")
            for table in (_I, _K, _H):
                connection.execute(delete(table).where(table.c.account == account))
            connection.execute(delete(_A).where(_A.c.id == account))
            connection.execute(update(_O).where(_O.c.id == account).values(name="someone who has left"))

    # --- signing in --------------------------------------------------------------------------

    def sign_in(self, name: str, password: str) -> str | None:
        """The token of a new sign-in, or None where name or password is wrong."""
        query = select(_A.c.id, _A.c.password).where(_A.c.name == folded(name), _A.c.ended.is_(None))
        with self._reader.connect() as connection:
            row = connection.execute(query).first()
        if not self._right(row.password if row else self._nobody, password) or row is None:
            return None
        if self._hasher.check_needs_rehash(row.password):
            with self._engine.begin() as connection:
                hashed = self._hasher.hash(password)
                connection.execute(update(_A).where(_A.c.id == row.id).values(password=hashed))
        return self._begun(row.id)

    def _begun(self, account: str) -> str:
        token, now = secrets.token_urlsafe(32), _now()
        with self._engine.begin() as connection:
            connection.execute(insert(_I).values(token=digest(token), account=account, made=now, seen=now))
            connection.execute(delete(_I).where(or_(_I.c.seen < now - IDLE, _I.c.made < now - LONGEST)))
        return token

    def signed_in(self, token: str) -> Account | None:
        """Whose browser holds a token, while its sign-in lasts."""
        if not token:
            return None
        now, key = _now(), digest(token)
        query = (
            select(_A, _I.c.seen)
            .join(_I, _I.c.account == _A.c.id)
            .where(_I.c.token == key, _A.c.ended.is_(None), _I.c.seen > now - IDLE, _I.c.made > now - LONGEST)
        )
        with self._reader.connect() as connection:
            row = connection.execute(query).first()
        if row is None:
            return None
        if row.seen < now - SEEN_EVERY:
            with self._engine.begin() as connection:
                connection.execute(update(_I).where(_I.c.token == key).values(seen=now))
        return _account(row)

    def sign_out(self, token: str) -> None:
        with self._engine.begin() as connection:
            connection.execute(delete(_I).where(_I.c.token == digest(token)))

    # --- tickets -----------------------------------------------------------------------------

    def hand_out(self, kind: Kind, account: str | None = None) -> str:
        """A ticket used once within a week: an invitation, or a way to a new password for an account."""
        token = secrets.token_urlsafe(24)
        with self._engine.begin() as connection:
            connection.execute(insert(_K).values(token=digest(token), kind=kind, account=account, ends=_now() + TICKET))
        return token

    def ticket(self, token: str, kind: Kind) -> bool:
        """Whether a ticket is still good."""
        query = select(_K.c.token).where(_K.c.token == digest(token), _K.c.kind == kind, _K.c.ends > _now())
        with self._reader.connect() as connection:
            return connection.execute(query).scalar() is not None

    def join(self, invitation: str, name: str, password: str) -> str:
        """An account by an invitation, which is used up; the token of its first sign-in. Raises EditRefused."""
        hashed = self._hashed(password)
        with self._engine.begin() as connection:
            self._use(connection, invitation, "invitation")
            made = self._add(connection, name, hashed, operator=False)
        return self._begun(made.id)

    def renew(self, ticket: str, password: str) -> None:
        """A new password by a ticket, which is used up. Raises EditRefused."""
        hashed = self._hashed(password)
        with self._engine.begin() as connection:
            account = self._use(connection, ticket, "password")
        if account is not None:
            self._set_password(account, hashed)

    def _use(self, connection: Connection, token: str, kind: Kind) -> str | None:
        query = delete(_K).where(_K.c.token == digest(token), _K.c.kind == kind, _K.c.ends > _now())
        row = connection.execute(query.returning(_K.c.account)).first()
        if row is None:
            raise EditRefused("This address was used before, or its week is over. Ask for another.", "")
        found: str | None = row.account
        return found

    # --- shares ------------------------------------------------------------------------------

    def role(self, studio_id: str, account: str | None, link: str = "") -> tuple[str, Role] | None:
        """The owner of a studio, and what an account or the holder of a link may do with it; None for nothing, and
        where there is no such studio."""
        bare, _ = split(studio_id)
        shared = select(_H.c.account, _H.c.role).where(
            _H.c.studio == bare,
            or_(_H.c.ends.is_(None), _H.c.ends > _now()),
            or_(_H.c.account == account if account else false(), _H.c.link == digest(link) if link else false()),
        )
        with self._reader.connect() as connection:
            owner = connection.execute(select(_S.c.owner).where(_S.c.id == bare)).scalar()
            rows = connection.execute(shared).all() if owner is not None and owner != account else []
        if owner is None:
            return None
        if owner == account:
            return owner, Role.OWNER
        roles = [Role[row.role.upper()] for row in rows]
        return (owner, max(roles)) if roles else None

    def shares(self, studio_id: str) -> list[Share]:
        query = (
            select(_H.c.id, _A.c.called, _H.c.role, _H.c.ends)
            .join(_A, _A.c.id == _H.c.account, isouter=True)
            .where(_H.c.studio == split(studio_id)[0])
            .order_by(_H.c.made)
        )
        with self._reader.connect() as connection:
            rows = connection.execute(query).all()
        return [Share(row.id, row.called or "", Role[row.role.upper()], row.ends) for row in rows]

    def share_with(self, studio_id: str, by: str, name: str, role: Role) -> None:
        """Share a studio with an account by its name; who has it already gets the other role. Raises EditRefused."""
        other = self.named(name)
        if other is None:
            raise EditRefused("Nobody of that name has an account here.", "name")
        if other.id == by:
            raise EditRefused("That is you; the studio is yours.", "name")
        if role is Role.OWNER:
            raise EditRefused("A studio has one owner; share it to look at or to change.", "role")
        values = {"role": role.word, "by": by, "made": _now(), "ends": None}
        self._room_for(studio_id)
        query = upsert(_H).values(id=secrets.token_hex(6), studio=split(studio_id)[0], account=other.id, **values)
        with self._engine.begin() as connection:
            connection.execute(query.on_conflict_do_update(index_elements=[_H.c.studio, _H.c.account], set_=values))

    def share_by_link(self, studio_id: str, by: str, until: date | None) -> str:
        """A link to look at a studio, to the end of a day where one is given; told once. Raises EditRefused."""
        ends = None if until is None else datetime.combine(until, time(23, 59, 59), UTC)
        if ends is not None and ends <= _now():
            raise EditRefused("That day is over.", "until")
        self._room_for(studio_id)
        token = secrets.token_urlsafe(24)
        values = {"studio": split(studio_id)[0], "link": digest(token), "role": Role.LOOKER.word, "by": by}
        with self._engine.begin() as connection:
            connection.execute(insert(_H).values(id=secrets.token_hex(6), **values, made=_now(), ends=ends))
        return token

    def _room_for(self, studio_id: str) -> None:
        if len(self.shares(studio_id)) >= MOST_SHARES:
            raise EditRefused(f"A studio is shared {MOST_SHARES} times at most; take one back first.", "")

    def take_back(self, studio_id: str, share: str) -> None:
        with self._engine.begin() as connection:
            connection.execute(delete(_H).where(_H.c.id == share, _H.c.studio == split(studio_id)[0]))

    def of_link(self, token: str) -> str:
        """The studio a link leads to. Raises NotFound."""
        query = select(_H.c.studio).where(_H.c.link == digest(token), or_(_H.c.ends.is_(None), _H.c.ends > _now()))
        with self._reader.connect() as connection:
            found = connection.execute(query).scalar()
        if found is None:
            raise NotFound("This link leads nowhere any more. Ask whoever sent it for another.")
        return str(found)

    def shared_with(self, account: str) -> list[Shared]:
        """Studios others share with an account, touched last first."""
        query = (
            select(_S.c.id, _S.c.name, _O.c.name.label("owner"), _H.c.role)
            .join(_S, _S.c.id == _H.c.studio)
            .join(_O, _O.c.id == _S.c.owner)
            .where(_H.c.account == account, or_(_H.c.ends.is_(None), _H.c.ends > _now()), _S.c.archived.is_(False))
            .order_by(_S.c.touched.desc())
        )
        with self._reader.connect() as connection:
            return [Shared(row.id, row.name, row.owner, Role[row.role.upper()]) for row in connection.execute(query)]

    # --- passwords ---------------------------------------------------------------------------

    def _hashed(self, password: str) -> str:
        if len(password) < SHORTEST:
            raise EditRefused(f"A password has at least {SHORTEST} letters; a few words will do.", "password")
        if len(password) > MOST_LETTERS:
            raise EditRefused(f"A password has at most {MOST_LETTERS} letters.", "password")
        return self._hasher.hash(password)

    def _right(self, held: str, password: str) -> bool:
        if len(password) > MOST_LETTERS:
            return False
        try:
            return self._hasher.verify(held, password)
        except (VerificationError, InvalidHashError):
            return False


def _account(row: Any) -> Account:
    return Account(row.id, row.name, row.called, row.operator, row.ended is not None)


def _now() -> datetime:
    return datetime.now(UTC)
