"""The database: declarative base, engine, and the transaction that one act runs in."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from datetime import datetime
from functools import cache

from sqlalchemy import (
    ARRAY,
    ColumnElement,
    DateTime,
    Engine,
    Integer,
    MetaData,
    any_,
    cast,
    create_engine,
    func,
)
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import DeclarativeBase, InstrumentedAttribute, Mapped, Session, mapped_column
from sqlalchemy.types import TypeEngine


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


def among(
    column: InstrumentedAttribute[int] | ColumnElement[int], numbers: Iterable[int]
) -> ColumnElement[bool]:
    """Is the column one of these numbers? One parameter however many they are, where IN has one for each."""
    return column == any_(cast(list(numbers), ARRAY(Integer)))


@cache
def engine_for(database_url: str) -> Engine:
    """One engine per address and process."""
    return create_engine(database_url, pool_pre_ping=True, pool_size=8, max_overflow=16)


@contextmanager
def transaction(database_url: str) -> Iterator[Session]:
    """A session whose work is committed at the end, or undone when an exception leaves it."""
    with Session(engine_for(database_url), expire_on_commit=False) as db, db.begin():
        yield db
