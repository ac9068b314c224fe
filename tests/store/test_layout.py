"""The layouts of review files that are named by the migrations' files are those that Alembic knows."""

from __future__ import annotations

from pathlib import Path

from alembic.config import Config
from alembic.script import ScriptDirectory

from ironstone.store import Review
from ironstone.store.layout import MIGRATIONS, laid_out, layouts


def test_layouts_are_those_of_alembic_and_a_new_review_has_the_newest(tmp_path: Path) -> None:
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    scripts = ScriptDirectory.from_config(config)
    assert set(layouts()) == {script.revision for script in scripts.walk_revisions()}
    assert layouts()[-1] == scripts.get_current_head()
    with Review.create(tmp_path / "new.ironstone") as review, review.engine.connect() as connection:
        assert laid_out(connection) == layouts()[-1]
