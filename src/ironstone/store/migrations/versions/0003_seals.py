"""Checksums of the blocks. Those of a review made before are taken of what it holds now."""

import sqlalchemy as sa
from alembic import op

from ironstone.store import seal
from ironstone.store.layout import lacks

revision = "0003"
down_revision = "0002"


def upgrade() -> None:
    connection = op.get_bind()
    if lacks(connection, "seal"):
        op.create_table(
            "seal",
            sa.Column("block_id", sa.Integer, sa.ForeignKey("block.id", ondelete="CASCADE"), primary_key=True),
            sa.Column("sums", sa.LargeBinary, nullable=False),
        )
    connection.execute(sa.text("DELETE FROM seal"))
    held = sa.text(
        "SELECT block.id, block.position, block.data, a.id AS array_id, a.result_id, a.role, a.field_id, a.step, a.dtype, a.rows, "
        "a.columns, a.rows_per_block FROM block JOIN array AS a ON a.id = block.array_id"
    )
    for row in connection.execute(held):
        sums = seal.sums(row.data, seal.mark(row), row.position)
        connection.execute(sa.text("INSERT INTO seal (block_id, sums) VALUES (:block, :sums)"), {"block": row.id, "sums": sums})


def downgrade() -> None:
    op.drop_table("seal")
