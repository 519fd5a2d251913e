"""Where texts come from, and imports: files as they were sent, what was found in them, and plans.

Revision: 0015
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0015"
down_revision = "0014"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("text", sa.Column("meta", JSONB(), server_default=sa.text("'{}'"), nullable=False))
    op.add_column("text", sa.Column("source", sa.String(), server_default="", nullable=False))
    op.add_column("text", sa.Column("place", sa.String(), server_default="", nullable=False))
    op.add_column("text", sa.Column("aside", JSONB(), server_default=sa.text("'[]'"), nullable=False))
    op.create_index("ix_text_project_id_source", "text", ["project_id", "source"])
    op.create_table(
        "intake",
        sa.Column("id", sa.Integer(), primary_key=True),
        _project(),
        sa.Column("account_id", sa.Integer(), sa.ForeignKey("account.id", ondelete="SET NULL")),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("plan", JSONB(), nullable=False),
        sa.Column("looked", JSONB()),
        sa.Column("report", JSONB()),
        sa.Column("job_id", sa.Integer(), sa.ForeignKey("job.id", ondelete="SET NULL")),
        sa.Column("version", sa.Integer(), nullable=False),
        _made(),
    )
    op.create_index("ix_intake_project_id", "intake", ["project_id"])
    op.create_table(
        "intake_file",
        sa.Column("id", sa.Integer(), primary_key=True),
        _intake(),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("size", sa.BigInteger(), nullable=False),
    )
    op.create_index("ix_intake_file_intake_id", "intake_file", ["intake_id"])
    op.create_table(
        "intake_part",
        sa.Column(
            "file_id", sa.Integer(), sa.ForeignKey("intake_file.id", ondelete="CASCADE"), primary_key=True
        ),
        sa.Column("number", sa.Integer(), primary_key=True),
        sa.Column("content", sa.LargeBinary(), nullable=False),
    )
    op.create_table(
        "intake_refusal",
        sa.Column("id", sa.Integer(), primary_key=True),
        _intake(),
        sa.Column("source", sa.String(), nullable=False),
        sa.Column("place", sa.String(), nullable=False),
        sa.Column("why", sa.String(), nullable=False),
        sa.Column("content", sa.String(), nullable=False),
    )
    op.create_index("ix_intake_refusal_intake_id", "intake_refusal", ["intake_id"])
    op.create_table(
        "intake_plan",
        sa.Column("id", sa.Integer(), primary_key=True),
        _project(),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("plan", JSONB(), nullable=False),
        _made(),
        sa.UniqueConstraint("project_id", "name", name=op.f("uq_intake_plan_project_id_name")),
    )


def _project() -> sa.Column[int]:
    return sa.Column(
        "project_id", sa.Integer(), sa.ForeignKey("project.id", ondelete="CASCADE"), nullable=False
    )


def _intake() -> sa.Column[int]:
    return sa.Column(
        "intake_id", sa.Integer(), sa.ForeignKey("intake.id", ondelete="CASCADE"), nullable=False
    )


def _made() -> sa.Column[object]:
    return sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False)


def downgrade() -> None:
    raise NotImplementedError("Restore the backup that was made before this step.")
