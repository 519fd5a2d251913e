"""Alembic's entry: runs migrations on the connection that `migrate` hands over."""

from __future__ import annotations

from alembic import context

context.configure(connection=context.config.attributes["connection"], target_metadata=None)
context.run_migrations()
