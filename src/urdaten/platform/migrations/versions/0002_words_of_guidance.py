"""Rulings on hard cases beside each entity type's examples; what a rule is for, in words.

Revision: 0002
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column(
        "entity_type", sa.Column("rulings", sa.ARRAY(sa.String()), nullable=False, server_default="{}")
    )
    op.alter_column("entity_type", "rulings", server_default=None)
    op.add_column("rule", sa.Column("about", sa.String(), nullable=False, server_default=""))
    op.alter_column("rule", "about", server_default=None)


def downgrade() -> None:
    op.drop_column("rule", "about")
    op.drop_column("entity_type", "rulings")
