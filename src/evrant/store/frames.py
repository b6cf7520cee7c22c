"""The gateway to test frames that are kept with a studio."""

from hashlib import sha256
from typing import Any, cast

from sqlalchemy import Table, delete, select
from sqlalchemy.dialects.postgresql import insert as upsert

from evrant.core.studio.past import MOST_FRAMES
from evrant.store.revisions import NotFound, Revisions, split, utc_now
from evrant.store.tables import FrameRow

_F = cast(Table, FrameRow.__table__)


class Frames(Revisions):
    """Test frames of one owner's studios."""

    def keep_frame(self, studio_id: str, picture: bytes, told: dict[str, Any]) -> str:
        """Keep a test frame; its name is the picture's SHA-256. The oldest go when there are too many."""
        bare, _ = split(studio_id)
        key = sha256(picture).hexdigest()
        values = {"studio": bare, "sha256": key, "told": told, "picture": picture, "at": utc_now()}
        with self._engine.begin() as connection:
            self._lock(connection, studio_id)
            same = upsert(_F).values(**values)
            connection.execute(same.on_conflict_do_update(index_elements=[_F.c.studio, _F.c.sha256], set_=values))
            newest = select(_F.c.sha256).where(_F.c.studio == bare).order_by(_F.c.at.desc()).limit(MOST_FRAMES)
            connection.execute(delete(_F).where(_F.c.studio == bare, _F.c.sha256.not_in(newest)))
        return key

    def frame(self, studio_id: str, key: str) -> tuple[bytes, dict[str, Any]]:
        """A kept test frame and what was told with it. Raises NotFound."""
        bare, _ = split(studio_id)
        query = select(_F.c.picture, _F.c.told).where(_F.c.studio == bare, _F.c.sha256 == key)
        with self._reader.connect() as connection:
            self._check_owner(connection, studio_id)
            found = connection.execute(query).one_or_none()
        if found is None:
            raise NotFound("That test frame is not kept any more.")
        return bytes(found.picture), dict(found.told)

    def frames(self, studio_id: str, most: int = 12) -> list[tuple[str, dict[str, Any]]]:
        """The newest test frames by name, each with what was told with it."""
        bare, _ = split(studio_id)
        query = select(_F.c.sha256, _F.c.told).where(_F.c.studio == bare).order_by(_F.c.at.desc()).limit(most)
        with self._reader.connect() as connection:
            self._check_owner(connection, studio_id)
            return [(str(row.sha256), dict(row.told)) for row in connection.execute(query)]
