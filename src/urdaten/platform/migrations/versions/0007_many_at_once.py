"""Acts that were made at once, and trainings that signings begin.

Revision: 0007
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("act", sa.Column("batch", sa.Uuid(), nullable=True))
    op.create_index("ix_act_batch", "act", ["batch"], postgresql_where=sa.text("batch IS NOT NULL"))
    op.add_column("project", sa.Column("retrain_after", sa.Integer(), nullable=False, server_default="0"))
    op.alter_column("project", "retrain_after", server_default=None)
    op.add_column("training", sa.Column("automatic", sa.Boolean(), nullable=False, server_default="false"))
    op.alter_column("training", "automatic", server_default=None)


def downgrade() -> None:
    op.drop_column("training", "automatic")
    op.drop_column("project", "retrain_after")
    op.drop_index("ix_act_batch", "act")
    op.drop_column("act", "batch")
