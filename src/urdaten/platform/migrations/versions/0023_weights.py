"""Weights of policies, and versions of pipelines that have a name or are published.

Revision: 0023
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0023"
down_revision = "0022"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "artefact",
        sa.Column("digest", sa.String(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("data", sa.LargeBinary(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.PrimaryKeyConstraint("digest", name=op.f("pk_artefact")),
    )
    op.create_table(
        "weights",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("project_id", sa.Integer(), nullable=False),
        sa.Column("job_id", sa.Integer()),
        sa.Column("plan", postgresql.JSONB(), nullable=False),
        sa.Column("weigher", postgresql.JSONB(), nullable=False),
        sa.Column("refers", postgresql.JSONB(), nullable=False),
        sa.Column("figures", postgresql.JSONB(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_weights")),
        sa.ForeignKeyConstraint(
            ["project_id"], ["project.id"], name=op.f("fk_weights_project_id_project"), ondelete="CASCADE"
        ),
        sa.ForeignKeyConstraint(
            ["job_id"], ["job.id"], name=op.f("fk_weights_job_id_job"), ondelete="SET NULL"
        ),
    )
    op.create_index(op.f("ix_weights_project_id"), "weights", ["project_id"])
    op.add_column("pipeline_version", sa.Column("name", sa.String(), server_default="", nullable=False))
    op.add_column(
        "pipeline_version", sa.Column("published", sa.Boolean(), server_default="false", nullable=False)
    )
    op.add_column("pipeline_version", sa.Column("bundle", sa.String()))
    op.create_foreign_key(
        op.f("fk_pipeline_version_bundle_artefact"), "pipeline_version", "artefact", ["bundle"], ["digest"]
    )
    op.create_index(op.f("ix_pipeline_version_bundle"), "pipeline_version", ["bundle"])
    op.create_index(
        "uq_pipeline_version_published",
        "pipeline_version",
        ["project_id"],
        unique=True,
        postgresql_where=sa.text("published"),
    )
    # A policy names the weights that it goes by.
    op.execute("UPDATE pipeline_version SET plan = jsonb_set(plan, '{policy,weights}', '\"\"')")
