"""How a review file is laid out: the layouts this program knows, and bringing an older one up to the newest, by Alembic.

Alembic is loaded only where there is something to bring up: most reviews that are opened are of the newest layout.
"""

from __future__ import annotations

from pathlib import Path

from sqlalchemy import Connection, inspect

MIGRATIONS = Path(__file__).parent / "migrations"


def layouts() -> list[str]:
    """The layouts of review files this program knows, the newest last: each has a migration, whose file begins with its name."""
    return sorted(path.name.split("_")[0] for path in (MIGRATIONS / "versions").glob("[0-9]*.py"))


def laid_out(connection: Connection) -> str | None:
    """The layout of an open review file; None where it has no tables yet."""
    if not inspect(connection).has_table("alembic_version"):
        return None
    found = connection.exec_driver_sql("SELECT version_num FROM alembic_version").scalar()
    return None if found is None else str(found)


def bring_up(connection: Connection) -> None:
    """Give a file the newest layout, in the transaction of this connection; one that has it is left alone."""
    if laid_out(connection) == layouts()[-1]:
        return
    # Begun by hand: Python's module for SQLite begins none before a change of the layout, each of which would stand by itself. A
    # program that was killed between two would leave a file that neither layout fits.
    connection.exec_driver_sql("BEGIN IMMEDIATE")
    from alembic import command
    from alembic.config import Config

    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    config.attributes["connection"] = connection
    command.upgrade(config, "head")


def lacks(connection: Connection, table: str, column: str = "") -> bool:
    """Whether a table, or a column of it, is still to be made: older programs could be killed between the steps of a migration."""
    known = inspect(connection)
    if not known.has_table(table):
        return True
    return bool(column) and column not in {c["name"] for c in known.get_columns(table)}
