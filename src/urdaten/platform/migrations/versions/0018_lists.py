"""Lists have options, entries an identifier, a source and a switch; what is done to lists can be undone; each entry's finds are
counted.

Revision: 0018
"""

from __future__ import annotations

import sys
import unicodedata
from hashlib import blake2b

import regex
import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0018"
down_revision = "0017"
branch_labels = None
depends_on = None


_UNSEEN = regex.compile(r"\p{Default_Ignorable_Code_Point}+")
_ALIKE = {
    **dict.fromkeys(map(ord, "‘’‛ʼ＇"), "'"),
    **dict.fromkeys(map(ord, "‐‑‒–—―−﹘﹣－"), "-"),
    **{code: " " for code in range(0x80, sys.maxunicode) if unicodedata.category(chr(code)) == "Zs"},
}


def spelling_key(written: str) -> int:
    """As core.lists has it when this migration was written."""
    form = " ".join(written.split())
    seen = _UNSEEN.sub("", form) or form
    folded = unicodedata.normalize("NFD", unicodedata.normalize("NFD", seen).casefold())
    folded = unicodedata.normalize("NFC", folded.translate(_ALIKE))
    digest = blake2b(folded.encode(errors="surrogatepass"), digest_size=8).digest()
    return int.from_bytes(digest, "little", signed=True)


def upgrade() -> None:
    _lists()
    _entries()
    op.create_table(
        "list_act",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column(
            "project_id", sa.Integer(), sa.ForeignKey("project.id", ondelete="CASCADE"), nullable=False
        ),
        sa.Column("list_id", sa.Integer(), sa.ForeignKey("list.id", ondelete="CASCADE"), nullable=False),
        sa.Column("account_id", sa.Integer(), sa.ForeignKey("account.id", ondelete="SET NULL")),
        sa.Column("said", sa.String(), nullable=False),
        sa.Column("entries", sa.Integer(), nullable=False),
        sa.Column("of_list", JSONB(), nullable=False),
        sa.Column("steps", JSONB(), nullable=False),
        sa.Column("undone_at", sa.DateTime(timezone=True)),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
    )
    op.create_index("ix_list_act_project_id_id", "list_act", ["project_id", "id"])
    op.create_table(
        "list_import",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column(
            "project_id", sa.Integer(), sa.ForeignKey("project.id", ondelete="CASCADE"), nullable=False
        ),
        sa.Column("list_id", sa.Integer(), sa.ForeignKey("list.id", ondelete="CASCADE"), nullable=False),
        sa.Column("account_id", sa.Integer(), sa.ForeignKey("account.id", ondelete="SET NULL")),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("data", sa.LargeBinary(), nullable=False),
        sa.Column("plan", JSONB(), nullable=False),
        sa.Column("looked", JSONB()),
        sa.Column("act_id", sa.Integer(), sa.ForeignKey("list_act.id", ondelete="SET NULL")),
        sa.Column("job_id", sa.Integer(), sa.ForeignKey("job.id", ondelete="SET NULL")),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
    )
    op.create_index("ix_list_import_project_id", "list_import", ["project_id"])
    op.create_index("ix_list_import_list_id", "list_import", ["list_id"])
    op.create_table(
        "compiled_lists",
        sa.Column(
            "project_id",
            sa.Integer(),
            sa.ForeignKey("project.id", ondelete="CASCADE"),
            primary_key=True,
            autoincrement=False,
        ),
        sa.Column("change", sa.Integer(), nullable=False),
        sa.Column("data", sa.LargeBinary(), nullable=False),
    )
    op.create_table(
        "entry_finds",
        sa.Column(
            "text_id",
            sa.Integer(),
            sa.ForeignKey("text.id", ondelete="CASCADE"),
            primary_key=True,
            autoincrement=False,
        ),
        sa.Column("entry_id", sa.Integer(), primary_key=True, autoincrement=False),
        sa.Column(
            "project_id", sa.Integer(), sa.ForeignKey("project.id", ondelete="CASCADE"), nullable=False
        ),
        *(
            sa.Column(name, sa.Integer(), nullable=False)
            for name in (
                "finds",
                "judged",
                "right",
                "sentences",
                "with_right",
                "with_wrong",
                "unsigned",
                "small",
            )
        ),
    )
    op.create_index("ix_entry_finds_project_id_entry_id", "entry_finds", ["project_id", "entry_id"])
    op.create_table(
        "entry_worth",
        sa.Column("entry_id", sa.Integer(), primary_key=True, autoincrement=False),
        sa.Column(
            "project_id", sa.Integer(), sa.ForeignKey("project.id", ondelete="CASCADE"), nullable=False
        ),
        sa.Column("list_id", sa.Integer(), nullable=False),
        *(sa.Column(name, sa.Integer(), nullable=False) for name in ("finds", "judged", "right", "small")),
        sa.Column("harm", sa.Float(), nullable=False),
    )
    for name, columns in (
        ("harm", ["list_id", "harm", "entry_id"]),
        ("finds", ["list_id", "finds", "entry_id"]),
    ):
        op.create_index(f"ix_entry_worth_{name}", "entry_worth", columns)
    op.create_index("ix_entry_worth_project_id", "entry_worth", ["project_id"])
    # What was kept as evidence is of another make and goes: it is found anew.
    op.execute("DELETE FROM evidence")
    op.add_column("evidence", sa.Column("small", sa.JSON(), nullable=False))
    op.add_column("counted", sa.Column("weighed", sa.String(), server_default=sa.text("''"), nullable=False))
    op.alter_column("counted", "weighed", server_default=None)


def _lists() -> None:
    op.add_column("list", sa.Column("options", JSONB(), server_default=sa.text("'{}'"), nullable=False))
    op.add_column("list", sa.Column("size", sa.Integer(), server_default=sa.text("0"), nullable=False))
    op.add_column("list", sa.Column("removed_at", sa.DateTime(timezone=True)))
    for name in ("options", "size"):
        op.alter_column("list", name, server_default=None)
    op.execute("UPDATE list SET size = (SELECT count(*) FROM list_entry e WHERE e.list_id = list.id)")
    op.drop_constraint("uq_list_project_id_name", "list", type_="unique")
    op.create_index(
        "uq_list_project_id_name",
        "list",
        ["project_id", "name"],
        unique=True,
        postgresql_where=sa.text("removed_at IS NULL"),
    )
    op.add_column(
        "list_change",
        sa.Column("entries", sa.ARRAY(sa.Integer()), server_default=sa.text("'{}'"), nullable=False),
    )
    op.alter_column("list_change", "entries", server_default=None)


def _entries() -> None:
    added = {
        "identifier": sa.Column("identifier", sa.String(), server_default=sa.text("''"), nullable=False),
        "on": sa.Column("on", sa.Boolean(), server_default=sa.true(), nullable=False),
        "source": sa.Column("source", sa.String(), server_default=sa.text("''"), nullable=False),
        "written": sa.Column("written", sa.String(), server_default=sa.text("''"), nullable=False),
        "keys": sa.Column("keys", sa.ARRAY(sa.BigInteger()), server_default=sa.text("'{}'"), nullable=False),
    }
    for name, column in added.items():
        op.add_column("list_entry", column)
        op.alter_column("list_entry", name, server_default=None)
    connection = op.get_bind()
    rows = connection.execute(sa.text("SELECT id, preferred, variants FROM list_entry")).all()
    changed = [
        {
            "number": number,
            "written": "\n".join([preferred, *variants]),
            "keys": sorted({spelling_key(one) for one in (preferred, *variants)}),
        }
        for number, preferred, variants in rows
    ]
    if changed:
        connection.execute(
            sa.text("UPDATE list_entry SET written = :written, keys = :keys WHERE id = :number"), changed
        )
    op.create_index(
        "ix_list_entry_written",
        "list_entry",
        ["list_id", "written"],
        postgresql_using="gin",
        postgresql_ops={"written": "gin_trgm_ops"},
    )
    op.create_index("ix_list_entry_keys", "list_entry", ["keys"], postgresql_using="gin")
    op.create_index(
        "ix_list_entry_off",
        "list_entry",
        ["list_id", "preferred", "id"],
        postgresql_where=sa.text('NOT "on"'),
    )
