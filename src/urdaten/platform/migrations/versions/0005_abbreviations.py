"""Abbreviations of a project.

Revision: 0005
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column(
        "project", sa.Column("abbreviations", sa.ARRAY(sa.String()), nullable=False, server_default="{}")
    )
    op.alter_column("project", "abbreviations", server_default=None)


def downgrade() -> None:
    op.drop_column("project", "abbreviations")
