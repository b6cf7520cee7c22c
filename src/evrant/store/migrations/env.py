"""Alembic's entry: runs on the connection that migrate() opened."""

from alembic import context

from evrant.store.tables import Base, ours

connection = context.config.attributes["connection"]

context.configure(connection=connection, target_metadata=Base.metadata, compare_type=True, include_name=ours)
with context.begin_transaction():
    context.run_migrations()
