"""The first form of the review file."""

from typing import Any

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None


def _id() -> sa.Column[Any]:
    return sa.Column("id", sa.Integer, primary_key=True)


def _of(table: str, name: str, nullable: bool = False) -> sa.Column[Any]:
    return sa.Column(name, sa.Integer, sa.ForeignKey(f"{table}.id", ondelete="CASCADE"), nullable=nullable)


def _text(name: str) -> sa.Column[Any]:
    return sa.Column(name, sa.String, nullable=False)


def _number(name: str, nullable: bool = False) -> sa.Column[Any]:
    return sa.Column(name, sa.Integer, nullable=nullable)


def _flag(name: str) -> sa.Column[Any]:
    return sa.Column(name, sa.Boolean, nullable=False)


def _json(name: str, nullable: bool = False) -> sa.Column[Any]:
    return sa.Column(name, sa.JSON, nullable=nullable)


def _moment() -> sa.Column[Any]:
    return sa.Column("created", sa.DateTime, nullable=False)


def _bytes() -> sa.Column[Any]:
    return sa.Column("data", sa.LargeBinary, nullable=False)


def upgrade() -> None:
    op.create_table("review", _id(), _text("name"), _moment())
    op.create_table(
        "result", _id(), _text("name"), _text("state"), _moment(), _text("system"), _flag("system_guessed"),
        _json("files"), _json("warnings"), _json("part_names"), _json("summary"),
    )  # fmt: skip
    op.create_table(
        "step", _id(), _of("result", "result_id"), _number("position"), _text("kind"),
        sa.Column("value", sa.Float, nullable=False), _text("loading"),
    )  # fmt: skip
    op.create_table(
        "field", _id(), _of("result", "result_id"), _text("name"), _text("kind"), _text("rank"), _text("location"),
        _json("components"), _text("precision"), _flag("guessed"), _flag("averaged_before"), _json("notes"),
    )  # fmt: skip
    op.create_table(
        "array", _id(), _of("result", "result_id"), _text("role"), _of("field", "field_id", nullable=True),
        _number("step", nullable=True), _text("dtype"), _number("rows"), _number("columns"), _number("rows_per_block"),
    )  # fmt: skip
    op.create_table("block", _id(), _of("array", "array_id"), _number("position"), _bytes())
    op.create_table("item", _id(), _text("kind"), _json("payload"), _flag("removed"), _number("revision"), _moment())
    op.create_table(
        "change", _id(), _of("item", "item_id"), _text("label"), _json("before", True), _json("after", True), _flag("undone")
    )
    op.create_table("attachment", _id(), _text("name"), _text("media_type"), _bytes())
    op.create_index("ix_step_result_id", "step", ["result_id"])
    op.create_index("ix_field_result_id", "field", ["result_id"])
    op.create_index("array_of_step", "array", ["field_id", "step"])
    op.create_index("array_of_result", "array", ["result_id", "role"])
    op.create_index("block_of_array", "block", ["array_id", "position"], unique=True)
    op.create_index("ix_item_kind", "item", ["kind"])


def downgrade() -> None:
    for table in ("attachment", "change", "item", "block", "array", "field", "step", "result", "review"):
        op.drop_table(table)
