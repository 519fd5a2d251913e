"""Texts are searched by project and words in one index; sentences that recur are known; types may have no key, since a scheme has more types than there are keys.

Revision: 0017
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0017"
down_revision = "0016"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("CREATE EXTENSION IF NOT EXISTS btree_gin")
    op.drop_index("ix_text_full", "text")
    op.create_index("ix_text_full", "text", ["project_id", "words"], postgresql_using="gin")
    op.add_column("likeness", sa.Column("recurring", JSONB(), server_default=sa.text("'[]'"), nullable=False))
    op.drop_index("uq_entity_type_key", "entity_type")
    op.execute(
        "CREATE UNIQUE INDEX uq_entity_type_key ON entity_type (project_id, key) WHERE retired_at IS NULL AND key <> ''"
    )
