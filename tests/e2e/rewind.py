"""An Urdaten's tables as they once were, put back while its server and its worker go on."""

from __future__ import annotations

import psycopg
from psycopg import sql

# The worker that runs stays known; so does the schema's version.
_LEFT = ("procrastinate_workers", "alembic_version")
_TRIES = 5


class Rewind:
    """Takes note of every table when it is made, and puts them back as often as it is called."""

    def __init__(self, dsn: str) -> None:
        """dsn: that of the superuser."""
        self._dsn = dsn
        with psycopg.connect(dsn) as connection:
            names = connection.execute(
                "SELECT tablename FROM pg_tables WHERE schemaname = 'public' AND tablename <> ALL(%s)",
                [list(_LEFT)],
            )
            self._tables = [sql.Identifier(name) for (name,) in names]
            connection.execute("CREATE SCHEMA kept")
            for table in self._tables:
                connection.execute(sql.SQL("CREATE TABLE kept.{0} AS TABLE public.{0}").format(table))

    def __call__(self) -> None:
        for left in reversed(range(_TRIES)):
            try:
                with psycopg.connect(self._dsn) as connection:
                    self._put_back(connection)
            except (psycopg.errors.DeadlockDetected, psycopg.errors.LockNotAvailable):
                if not left:
                    raise
            else:
                return

    def _put_back(self, connection: psycopg.Connection) -> None:
        # Without foreign keys and triggers: the tables agree as a whole.
        connection.execute("SET LOCAL session_replication_role = replica")
        connection.execute("SET LOCAL lock_timeout = '5s'")
        numbers = connection.execute(
            "SELECT project_id, place, sum(number) FROM revision GROUP BY 1, 2"
        ).fetchall()
        every = sql.SQL(", ").join(sql.SQL("public.{}").format(table) for table in self._tables)
        connection.execute(sql.SQL("TRUNCATE {}").format(every))
        for table in self._tables:
            put = "INSERT INTO public.{0} OVERRIDING SYSTEM VALUE SELECT * FROM kept.{0}"
            connection.execute(sql.SQL(put).format(table))
        # No revision comes twice: what the server keeps under one would be taken for what is there now.
        with connection.cursor() as cursor:
            cursor.executemany(
                "INSERT INTO revision (project_id, place, number) "
                "SELECT id, %(place)s, %(number)s FROM project WHERE id = %(project)s",
                [{"project": p, "place": place, "number": number + 1} for p, place, number in numbers],
            )
