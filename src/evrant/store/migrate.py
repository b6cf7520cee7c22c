"""Brings a database to the newest schema with Alembic."""

from pathlib import Path

from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, text

LOCK = 8_214_366


def migrate(engine: Engine) -> None:
    """Upgrade to head; safe when several processes start at once."""
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    with engine.begin() as connection:
        connection.execute(text("SELECT pg_advisory_xact_lock(:lock)"), {"lock": LOCK})
        config.attributes["connection"] = connection
        command.upgrade(config, "head")
