"""Rounds: portions of annotation work.

Revision: 0008
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "round",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column(
            "project_id", sa.Integer(), sa.ForeignKey("project.id", ondelete="CASCADE"), nullable=False
        ),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("note", sa.String(), nullable=False),
        sa.Column("priority", sa.Integer(), nullable=False),
        sa.Column("suggestions", sa.Boolean(), nullable=False),
        sa.Column("open", sa.Boolean(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.UniqueConstraint("project_id", "name", name=op.f("uq_round_project_id_name")),
    )
    op.create_table("round_text", *_pair("text"))
    op.create_index("ix_round_text_text_id", "round_text", ["text_id"])
    op.create_table("round_person", *_pair("account"))
    op.create_index("ix_round_person_account_id", "round_person", ["account_id"])


def _pair(other: str) -> list[sa.Column[int]]:
    return [
        sa.Column(
            f"{table}_id", sa.Integer(), sa.ForeignKey(f"{table}.id", ondelete="CASCADE"), primary_key=True
        )
        for table in ("round", other)
    ]


def downgrade() -> None:
    op.drop_table("round_person")
    op.drop_table("round_text")
    op.drop_table("round")
