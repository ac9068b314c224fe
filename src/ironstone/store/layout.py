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
    from alembic import command
    from alembic.config import Config

    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    config.attributes["connection"] = connection
    command.upgrade(config, "head")
