"""Rankings of the queue outlive the server (pre).

Revision: 0011
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0011"
down_revision = "0010"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "ranking",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("project_id", sa.Integer(), nullable=False),
        sa.Column("digest", sa.String(), nullable=False),
        sa.Column("sentences", sa.ARRAY(sa.Integer()), nullable=False),
        sa.Column("worths", sa.ARRAY(sa.Float()), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.text("now()"), nullable=False),
        sa.ForeignKeyConstraint(
            ["project_id"], ["project.id"], name="fk_ranking_project_id_project", ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("id", name="pk_ranking"),
        sa.UniqueConstraint("project_id", "digest", name="uq_ranking_project_id_digest"),
    )


def downgrade() -> None:
    raise NotImplementedError("Restore the backup that was made before this step.")
