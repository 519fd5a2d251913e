"""The database: declarative base, engine, and the transaction that one act runs in."""

from __future__ import annotations

import logging
from collections.abc import Callable, Iterable, Iterator, Sequence
from contextlib import contextmanager
from datetime import datetime
from functools import cache
from itertools import islice
from typing import Any

import psycopg
from psycopg import sql
from sqlalchemy import (
    ARRAY,
    ColumnElement,
    DateTime,
    Engine,
    Integer,
    MetaData,
    Table,
    TableValuedAlias,
    any_,
    bindparam,
    cast,
    create_engine,
    func,
    select,
)
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.exc import DBAPIError, SQLAlchemyError
from sqlalchemy.orm import DeclarativeBase, InstrumentedAttribute, Mapped, Session, mapped_column
from sqlalchemy.types import TypeEngine

from urdaten.platform.faults import translated

_log = logging.getLogger(__name__)

# Requests of one server that lean on the database at a time; there are more threads than that, so that nobody who holds a
# connection waits for a thread, and half as many connections again for what is no request.
CONNECTIONS = 24
CONNECTION_WAIT_S = 10.0


class Base(DeclarativeBase):
    """Base of all tables; constraint names are made by rule so that migrations can name them."""

    metadata = MetaData(
        naming_convention={
            "ix": "ix_%(table_name)s_%(column_0_N_name)s",
            "uq": "uq_%(table_name)s_%(column_0_N_name)s",
            "ck": "ck_%(table_name)s_%(constraint_name)s",
            "fk": "fk_%(table_name)s_%(column_0_name)s_%(referred_table_name)s",
            "pk": "pk_%(table_name)s",
        }
    )
    type_annotation_map = {  # noqa: RUF012 - SQLAlchemy reads this class attribute
        datetime: DateTime(timezone=True),
    }


JSON: TypeEngine[object] = JSONB()


class Stamped:
    """Mixin: when the row was made."""

    created_at: Mapped[datetime] = mapped_column(server_default=func.now())


class KeptFact(Base):
    """Something that the program knows of its own database, by name."""

    __tablename__ = "kept_fact"

    name: Mapped[str] = mapped_column(primary_key=True)
    value: Mapped[str]


def table_of(row: type[Base]) -> Table:
    """The table of these rows, for statements that are made once and need nothing of the mapper."""
    table = row.__table__
    assert isinstance(table, Table)
    return table


def columns_of(**columns: TypeEngine[Any]) -> TableValuedAlias:
    """Parameters that hold arrays of one length, as a table: one statement for however many rows."""
    arrays = [bindparam(name, type_=ARRAY(kind)) for name, kind in columns.items()]
    return func.unnest(*arrays).table_valued(*columns).render_derived()


def among(
    column: InstrumentedAttribute[int] | ColumnElement[int], numbers: Iterable[int]
) -> ColumnElement[bool]:
    """Is the column one of these numbers? One parameter however many they are, where IN has one for each."""
    return column == any_(cast(list(numbers), ARRAY(Integer)))


@cache
def engine_for(database_url: str) -> Engine:
    """One engine per address and process. It has a connection for everybody who may ask for one at a time."""
    return create_engine(
        database_url,
        pool_pre_ping=True,
        pool_size=CONNECTIONS,
        max_overflow=CONNECTIONS // 2,
        pool_timeout=CONNECTION_WAIT_S,
        # A statement's parameters are texts of people; they belong into no log.
        hide_parameters=True,
    )


@cache
def snapshots_of(database_url: str) -> Engine:
    """As `engine_for`, with the same connections, for transactions that see one state of the database."""
    return engine_for(database_url).execution_options(isolation_level="REPEATABLE READ")


@contextmanager
def transaction(database_url: str, *, snapshot: bool = False) -> Iterator[Session]:
    """A session whose work is committed at the end, or undone when an exception leaves it.

    It takes a connection when it is first asked something. With `snapshot` all its reads see the database as it was at
    the first of them. What the driver raises leaves as an error of ours: see platform.faults.
    """
    engine = snapshots_of(database_url) if snapshot else engine_for(database_url)
    try:
        with Session(engine, expire_on_commit=False) as db, db.begin():
            yield db
    except (SQLAlchemyError, psycopg.Error) as fault:
        error = translated(fault)
        if error is None:
            raise
        _log.warning("The database refused: %s", type(getattr(fault, "orig", fault)).__name__)
        raise error from fault


@contextmanager
def beside(db: Session) -> Iterator[Session]:
    """Another session that reads the very state of the database that this one does, for another thread.

    What this one has written itself is not in it; see `has_written`.
    """
    snapshot = db.scalars(select(func.pg_export_snapshot())).one()
    bind = db.get_bind()
    assert isinstance(bind, Engine)
    with Session(bind.execution_options(isolation_level="REPEATABLE READ")) as other, other.begin():
        driver = other.connection().connection.driver_connection
        assert isinstance(driver, psycopg.Connection)
        driver.execute(sql.SQL("SET TRANSACTION SNAPSHOT {}").format(snapshot))
        yield other


def has_written(db: Session) -> bool:
    """Has this transaction changed anything yet? What it reads then may be rolled back, so nobody keeps it."""
    return db.scalar(select(func.pg_current_xact_id_if_assigned())) is not None


def attempt(db: Session, write: Callable[[], object]) -> bool:
    """Write what can be left as it is where somebody else has written the same since this transaction's snapshot. Is it
    written?"""
    try:
        with db.begin_nested():
            write()
    except (DBAPIError, psycopg.Error) as fault:
        # COPY speaks with the driver itself.
        if not isinstance(fault.orig if isinstance(fault, DBAPIError) else fault, _RACES):
            raise
        return False
    return True


# What a transaction that reads a snapshot meets where rows were written after it.
_RACES = (psycopg.errors.SerializationFailure, psycopg.errors.UniqueViolation)


@contextmanager
def _copying(db: Session, table: str, columns: Sequence[str]) -> Iterator[psycopg.Copy]:
    names = sql.SQL(", ").join(map(sql.Identifier, columns))
    statement = sql.SQL("COPY {} ({}) FROM STDIN").format(sql.Identifier(table), names)
    driver = db.connection().connection.driver_connection
    assert isinstance(driver, psycopg.Connection)
    with driver.cursor() as cursor, cursor.copy(statement) as copy:
        yield copy


def copy_rows(db: Session, table: str, columns: Sequence[str], rows: Iterable[Sequence[object]]) -> None:
    """Many rows at once, by COPY, within this transaction."""
    with _copying(db, table, columns) as copy:
        for row in rows:
            copy.write_row(row)


def copy_lines(db: Session, table: str, columns: Sequence[str], rows: Iterable[Sequence[object]]) -> None:
    """As `copy_rows`, of texts, whole numbers, truth values and lists of texts or numbers alone, which are written out a block at a time: lists take the driver longest."""
    with _copying(db, table, columns) as copy:
        lines = map(_line, rows)
        while block := "".join(islice(lines, _LINES_AT_ONCE)):
            copy.write(block)


_LINES_AT_ONCE = 2000
# What ends a field or a row in the text form of COPY, and in a list what ends an element.
_IN_FIELD = str.maketrans({"\\": "\\\\", "\t": "\\t", "\n": "\\n", "\r": "\\r"})
_IN_LIST = str.maketrans({"\\": "\\\\", '"': '\\"'})


def _line(row: Sequence[object]) -> str:
    fields = [value if isinstance(value, str) else _field(value) for value in row]
    line = "\t".join(fields)
    # Hardly any has a sign in it that means something here.
    if "\\" in line or "\n" in line or "\r" in line or line.count("\t") != len(fields) - 1:
        line = "\t".join(
            one.translate(_IN_FIELD) if isinstance(value, str | list) else one
            for value, one in zip(row, fields, strict=True)
        )
    return line + "\n"


def _field(value: object) -> str:
    if isinstance(value, bool):
        return "t" if value else "f"
    if isinstance(value, list):
        parts = [f'"{one.translate(_IN_LIST)}"' if isinstance(one, str) else str(one) for one in value]
        return "{" + ",".join(parts) + "}"
    return "\\N" if value is None else str(value)


def copy_numbers(db: Session, table: str, columns: Sequence[str], rows: Iterable[tuple[int, ...]]) -> None:
    """As `copy_rows`, of whole numbers alone, in a third of the time."""
    line = "\t".join(["%d"] * len(columns)) + "\n"
    with _copying(db, table, columns) as copy:
        copy.write("".join([line % row for row in rows]))


# So many rows at once change what a query's best way is.
MANY = 1000


def count_anew(db: Session, *tables: str) -> None:
    """Tell the database how large these tables have become, which it would find out a minute later by itself."""
    names = sql.SQL(", ").join(map(sql.Identifier, tables))
    driver = db.connection().connection.driver_connection
    assert isinstance(driver, psycopg.Connection)
    driver.execute(sql.SQL("ANALYZE {}").format(names))
