"""Alembic's door into the logbook: it is given an open connection, never a URL."""

from alembic import context

context.configure(connection=context.config.attributes["connection"], render_as_batch=True)
with context.begin_transaction():
    context.run_migrations()
