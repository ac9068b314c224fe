"""More of the field dictionary: Gauss points, shear convention, what is missing."""

import sqlalchemy as sa
from alembic import op

from ironstone.store.layout import lacks

revision = "0002"
down_revision = "0001"


def upgrade() -> None:
    if lacks(op.get_bind(), "field", "more"):
        op.add_column("field", sa.Column("more", sa.JSON, nullable=False, server_default="{}"))


def downgrade() -> None:
    op.drop_column("field", "more")
