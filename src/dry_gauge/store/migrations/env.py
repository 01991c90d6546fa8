"""Alembic's entry: runs the migrations on the connection that `store.database.migrate` hands over."""

from alembic import context

from dry_gauge.store.models import Base

connection = context.config.attributes["connection"]
context.configure(connection=connection, target_metadata=Base.metadata)
with context.begin_transaction():
    context.run_migrations()
