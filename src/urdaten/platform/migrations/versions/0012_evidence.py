"""The evidence store, and what of it a change of lists can touch (pre).

Revision: 0012
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None


def _references(table: str, other: str, *, name: str = "") -> sa.ForeignKeyConstraint:
    column = name or f"{other}_id"
    return sa.ForeignKeyConstraint(
        [column], [f"{other}.id"], name=f"fk_{table}_{column}_{other}", ondelete="CASCADE"
    )


def upgrade() -> None:
    op.add_column("text", sa.Column("cut", sa.Integer(), nullable=False, server_default="0"))
    op.create_table(
        "list_change",
        sa.Column("project_id", sa.Integer(), nullable=False),
        sa.Column("number", sa.Integer(), autoincrement=False, nullable=False),
        sa.Column("words", sa.ARRAY(sa.Integer()), nullable=False),
        _references("list_change", "project"),
        sa.PrimaryKeyConstraint("project_id", "number", name="pk_list_change"),
    )
    op.create_table(
        "evidence",
        sa.Column("text_id", sa.Integer(), autoincrement=False, nullable=False),
        sa.Column("project_id", sa.Integer(), nullable=False),
        sa.Column("stamp", sa.String(), nullable=False),
        sa.Column("made_with", sa.String(), nullable=False),
        sa.Column("cut", sa.Integer(), nullable=False),
        sa.Column("words", sa.ARRAY(sa.Integer()), nullable=False),
        sa.Column("lists_at", sa.Integer(), nullable=False),
        sa.Column("lists", sa.JSON(), nullable=False),
        sa.Column("patterns", sa.ARRAY(sa.String()), nullable=False),
        sa.Column("matches", sa.JSON(), nullable=False),
        sa.Column("tagger_key", sa.String(), nullable=False),
        sa.Column("tagger", sa.JSON(), nullable=False),
        sa.Column("counted", sa.String(), nullable=False),
        _references("evidence", "project"),
        _references("evidence", "text"),
        sa.PrimaryKeyConstraint("text_id", name="pk_evidence"),
    )
    op.create_index("ix_evidence_project_id", "evidence", ["project_id"])
    op.create_table(
        "finds",
        sa.Column("text_id", sa.Integer(), autoincrement=False, nullable=False),
        sa.Column("source", sa.String(), nullable=False),
        sa.Column("maker", sa.Integer(), autoincrement=False, nullable=False),
        sa.Column("project_id", sa.Integer(), nullable=False),
        *(
            sa.Column(name, sa.Integer(), nullable=False)
            for name in ("finds", "judged", "right", "sentences", "with_right", "with_wrong", "unsigned")
        ),
        sa.Column("trouble", sa.String(), nullable=False),
        _references("finds", "project"),
        _references("finds", "text"),
        sa.PrimaryKeyConstraint("text_id", "source", "maker", name="pk_finds"),
    )
    op.create_index("ix_finds_project_id_source_maker", "finds", ["project_id", "source", "maker"])
    op.create_table(
        "counted",
        sa.Column("project_id", sa.Integer(), nullable=False),
        sa.Column("stamp", sa.String(), nullable=False),
        sa.Column("moment", sa.BigInteger(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("summed", sa.String(), nullable=False),
        sa.Column("sums", sa.JSON(), nullable=False),
        _references("counted", "project"),
        sa.PrimaryKeyConstraint("project_id", name="pk_counted"),
    )


def downgrade() -> None:
    raise NotImplementedError("Restore the backup that was made before this step.")
