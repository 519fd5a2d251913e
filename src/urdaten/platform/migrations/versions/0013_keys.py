"""Everybody's own keys (pre).

Revision: 0013
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0013"
down_revision = "0012"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column(
        "account", sa.Column("keys", JSONB(), nullable=False, server_default=sa.text("'{}'::jsonb"))
    )


def downgrade() -> None:
    raise NotImplementedError("Restore the backup that was made before this step.")
