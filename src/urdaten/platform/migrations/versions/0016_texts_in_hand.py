"""Texts in hand: searched by their words, changed many at once with a way back, and a bin.

Revision: 0016
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB, TSVECTOR

revision = "0016"
down_revision = "0015"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "text_act",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column(
            "project_id", sa.Integer(), sa.ForeignKey("project.id", ondelete="CASCADE"), nullable=False
        ),
        sa.Column("account_id", sa.Integer(), sa.ForeignKey("account.id", ondelete="SET NULL")),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("texts", sa.Integer(), nullable=False),
        sa.Column("steps", JSONB(), nullable=False),
        sa.Column("undone_at", sa.DateTime(timezone=True)),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
    )
    op.create_index("ix_text_act_project_id_id", "text_act", ["project_id", "id"])
    op.create_table(
        "binned_text",
        sa.Column("id", sa.Integer(), primary_key=True, autoincrement=False),
        sa.Column(
            "project_id", sa.Integer(), sa.ForeignKey("project.id", ondelete="CASCADE"), nullable=False
        ),
        sa.Column("account_id", sa.Integer(), sa.ForeignKey("account.id", ondelete="SET NULL")),
        sa.Column("title", sa.String(), nullable=False),
        sa.Column("body_digest", sa.String(), nullable=False),
        sa.Column("sentences", sa.Integer(), nullable=False),
        sa.Column("signed", sa.Integer(), nullable=False),
        sa.Column("held", JSONB(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
    )
    op.create_index("ix_binned_text_project_id_created_at", "binned_text", ["project_id", "created_at", "id"])
    op.create_table(
        "likeness",
        sa.Column(
            "project_id",
            sa.Integer(),
            sa.ForeignKey("project.id", ondelete="CASCADE"),
            primary_key=True,
            autoincrement=False,
        ),
        sa.Column("newest", sa.Integer(), nullable=False),
        sa.Column("pairs", JSONB(), nullable=False),
        sa.Column("job_id", sa.Integer(), sa.ForeignKey("job.id", ondelete="SET NULL")),
    )
    op.add_column(
        "text", sa.Column("words", TSVECTOR(), server_default=sa.text("''::tsvector"), nullable=False)
    )
    # Near enough to how the program cuts words; a text that is edited is written as it does.
    op.execute(
        "UPDATE text SET words = strip(to_tsvector('simple', title || ' ' || left(body, 100000))) "
        "WHERE char_length(body) > 0"
    )
    op.create_index("ix_text_full", "text", ["words"], postgresql_using="gin")
    op.execute("CREATE INDEX ix_text_long ON text (project_id) WHERE char_length(body) > 100000")


def downgrade() -> None:
    raise NotImplementedError("Restore the backup that was made before this step.")
