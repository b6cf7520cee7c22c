"""The gateway to remarks: what people say about a line or a thing of a studio, open until it is settled."""

import secrets
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import cast

from sqlalchemy import Engine, Table, func, insert, select, update

from evrant.core.edits.language import EditRefused
from evrant.store import bell
from evrant.store.reading import reader
from evrant.store.revisions import split
from evrant.store.tables import RemarkRow

_N = cast(Table, RemarkRow.__table__)
MOST, MOST_LETTERS = 500, 2000


@dataclass(frozen=True)
class Remark:
    """What somebody said about a path of the studio or a line (by its key), and when it was settled."""

    id: str
    about: str
    words: str
    by: str
    at: datetime
    settled: datetime | None


class Remarks:
    """Remarks on the studios of one database; who may make them is for the gate to say."""

    def __init__(self, engine: Engine) -> None:
        self._engine, self._reader = engine, reader(engine)

    def of(self, key: str) -> list[Remark]:
        """All of a plan, what is open first, the newest first."""
        studio, plan = split(key)
        query = (
            select(_N.c.id, _N.c.about, _N.c.words, _N.c.by, _N.c.at, _N.c.settled)
            .where(_N.c.studio == studio, _N.c.plan == plan)
            .order_by(_N.c.settled.is_not(None), _N.c.at.desc())
        )
        with self._reader.connect() as connection:
            return [Remark(*row) for row in connection.execute(query)]

    def open(self, key: str) -> int:
        studio, plan = split(key)
        query = select(func.count()).where(_N.c.studio == studio, _N.c.plan == plan, _N.c.settled.is_(None))
        with self._reader.connect() as connection:
            return int(connection.execute(query).scalar_one())

    def say(self, key: str, about: str, words: str, by: str) -> None:
        """Raises EditRefused for no words, too many, or a studio that has enough of them."""
        said, (studio, plan) = words.strip(), split(key)
        if not said:
            raise EditRefused("Say something.", "words")
        if len(said) > MOST_LETTERS:
            raise EditRefused(f"A remark has at most {MOST_LETTERS} letters.", "words")
        if "\x00" in said + about:
            raise EditRefused("This holds characters that cannot be stored.", "words")
        values = {"id": secrets.token_hex(6), "studio": studio, "plan": plan, "about": about[:200], "words": said}
        with self._engine.begin() as connection:
            count = connection.execute(select(func.count()).where(_N.c.studio == studio)).scalar_one()
            if count >= MOST:
                raise EditRefused(f"A studio keeps {MOST} remarks.", "words")
            connection.execute(insert(_N).values(**values, by=by, at=datetime.now(UTC)))
            connection.execute(bell.rung(kind="remarked", studio=studio, key=key, by=by))

    def settle(self, key: str, remark: str, *, settled: bool) -> None:
        """Settled, or open again."""
        studio, plan = split(key)
        at = datetime.now(UTC) if settled else None
        here = (_N.c.id == remark, _N.c.studio == studio, _N.c.plan == plan)
        with self._engine.begin() as connection:
            connection.execute(update(_N).where(*here).values(settled=at))
            connection.execute(bell.rung(kind="remarked", studio=studio, key=key, by=""))
