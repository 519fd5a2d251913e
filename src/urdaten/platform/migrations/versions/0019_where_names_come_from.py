"""Names that come into a list say where they come from, and are read once.

Revision: 0019
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0019"
down_revision = "0018"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("list_import", sa.Column("source", sa.String(), server_default="", nullable=False))
    op.execute("UPDATE list_import SET source = 'file ' || name")
    op.alter_column("list_import", "source", server_default=None)
    op.add_column("list_import", sa.Column("rows", sa.LargeBinary()))
