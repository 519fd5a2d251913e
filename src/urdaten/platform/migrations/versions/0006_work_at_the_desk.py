"""Questions, evidence turned down, verdicts on evidence, and schemes whose spans may overlap.

Revision: 0006
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None


def upgrade() -> None:
    for column in ("question", "answer"):
        op.add_column("annotation", sa.Column(column, sa.String(), nullable=False, server_default=""))
        op.alter_column("annotation", column, server_default=None)
    op.add_column("project", sa.Column("overlap", sa.String(), nullable=False, server_default="apart"))
    op.alter_column("project", "overlap", server_default=None)
    op.create_table(
        "turned_down",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column(
            "sentence_id",
            sa.Integer(),
            sa.ForeignKey("annotation.sentence_id", ondelete="CASCADE"),
            nullable=False,
        ),
        sa.Column("start", sa.Integer(), nullable=False),
        sa.Column("end", sa.Integer(), nullable=False),
        sa.Column(
            "type_id", sa.Integer(), sa.ForeignKey("entity_type.id", ondelete="CASCADE"), nullable=False
        ),
        sa.UniqueConstraint(
            "sentence_id",
            "start",
            "end",
            "type_id",
            name=op.f("uq_turned_down_sentence_id_start_end_type_id"),
        ),
    )
    op.create_table(
        "verdict",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column(
            "act_id", sa.Integer(), sa.ForeignKey("act.id", ondelete="CASCADE"), nullable=False, index=True
        ),
        sa.Column("source", sa.String(), nullable=False),
        sa.Column("maker", sa.String(), nullable=False),
        sa.Column("start", sa.Integer(), nullable=False),
        sa.Column("end", sa.Integer(), nullable=False),
        sa.Column(
            "type_id", sa.Integer(), sa.ForeignKey("entity_type.id", ondelete="CASCADE"), nullable=False
        ),
        sa.Column("taken", sa.Boolean(), nullable=False),
    )


def downgrade() -> None:
    op.drop_table("verdict")
    op.drop_table("turned_down")
    op.drop_column("project", "overlap")
    for column in ("answer", "question"):
        op.drop_column("annotation", column)
