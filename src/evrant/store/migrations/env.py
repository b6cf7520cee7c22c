"""Alembic's entry: runs on the connection that migrate() opened."""

from alembic import context

from evrant.store.tables import Base

connection = context.config.attributes["connection"]


def ours(name: str | None, kind: str, parents: object) -> bool:
    """Tables of the task queue belong to its own package."""
    return not (kind == "table" and (name or "").startswith("procrastinate_"))


context.configure(connection=connection, target_metadata=Base.metadata, compare_type=True, include_name=ours)
with context.begin_transaction():
    context.run_migrations()
