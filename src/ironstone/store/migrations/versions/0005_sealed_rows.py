"""Checksums of what an analyst makes and states, and of results as they came; the list of all that was made."""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"


def upgrade() -> None:
    for table in ("item", "result"):
        op.add_column(table, sa.Column("seal", sa.String, nullable=True))
    op.add_column("review", sa.Column("roll", sa.String, nullable=True))


def downgrade() -> None:
    for table in ("item", "result"):
        op.drop_column(table, "seal")
    op.drop_column("review", "roll")
