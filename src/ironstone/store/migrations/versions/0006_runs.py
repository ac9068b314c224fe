"""Runs of steps on another mesh: rows of their own that belong to a result, and go with it."""

from alembic import op

from ironstone.store.layout import lacks

revision = "0006"
down_revision = "0005"


def upgrade() -> None:
    if lacks(op.get_bind(), "result", "run_of"):
        # Written out: SQLite adds a column that refers to its own table in no other way.
        op.execute("ALTER TABLE result ADD COLUMN run_of INTEGER REFERENCES result (id) ON DELETE CASCADE")


def downgrade() -> None:
    op.drop_column("result", "run_of")
