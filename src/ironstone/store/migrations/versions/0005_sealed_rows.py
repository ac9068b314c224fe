"""Checksums of what an analyst makes and states, and of results as they came; the list of all that was made."""

import sqlalchemy as sa
from alembic import op

from ironstone.store.layout import lacks

revision = "0005"
down_revision = "0004"


def upgrade() -> None:
    for table, name in (("item", "seal"), ("result", "seal"), ("review", "roll")):
        if lacks(op.get_bind(), table, name):
            op.add_column(table, sa.Column(name, sa.String, nullable=True))


def downgrade() -> None:
    for table in ("item", "result"):
        op.drop_column(table, "seal")
    op.drop_column("review", "roll")
