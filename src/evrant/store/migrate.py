"""Brings a database to the newest schema with Alembic."""

from pathlib import Path

from alembic import command
from alembic.config import Config
from alembic.util import CommandError
from sqlalchemy import Engine, text

from evrant.store.cluster import ClusterFault

LOCK = 8_214_366


def migrate(engine: Engine) -> None:
    """Upgrade to head; safe when several processes start at once."""
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    with engine.begin() as connection:
        connection.execute(text("SELECT pg_advisory_xact_lock(:lock)"), {"lock": LOCK})
        config.attributes["connection"] = connection
        try:
            command.upgrade(config, "head")
        except CommandError as error:
            if "locate revision" not in str(error):
                raise
            raise ClusterFault(NEWER) from error


NEWER = "This database was written by a newer Evrant. Start that one, or restore an older backup; nothing was changed."
