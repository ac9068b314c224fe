"""Changes that are undone together with the one before them."""

import sqlalchemy as sa
from alembic import op

from ironstone.store.layout import lacks

revision = "0004"
down_revision = "0003"


def upgrade() -> None:
    if lacks(op.get_bind(), "change", "joined"):
        op.add_column("change", sa.Column("joined", sa.Boolean, nullable=False, server_default=sa.false()))


def downgrade() -> None:
    op.drop_column("change", "joined")
