"""The demo's review: the brake flexure of the Ironstone Ridge ropeway, its loop, its test record, one flag."""

from __future__ import annotations

from pathlib import Path

from ironstone.core.errors import NotFound
from ironstone.core.evaluate import extremes
from ironstone.core.reading import Reading
from ironstone.formats.tables import parse_table
from ironstone.store import Review, intake
from ironstone.store.describe import rail

SYSTEM = "mm-N-s-t-MPa"


def make(review: Path, data: Path, fresh: bool = False) -> None:
    """Make the review from the result files unless it is there already."""
    if fresh or not review.exists():
        for old in review.parent.glob(review.name + "*"):
            old.unlink()
    if review.exists():
        with Review.open(review) as opened:
            if opened.results():
                return
    files = sorted(data.glob("flexure_*.vtu"))
    record = data / "specimen_F3.csv"
    if not files or not record.is_file():
        raise NotFound(f"The demo's files are not in {data}.", "Run this from the project's folder, or 'make demo-data'.")
    opened = Review.open(review) if review.exists() else Review.create(review, "Brake flexure")
    with opened:
        result = opened.result(intake(opened, files, "flexure B2", SYSTEM))
        loop = {
            "result": result.id,
            "name": "Loop",
            "x": _trace("displacement", "x", "set:driven", "mean", "mm", 1),
            "y": _trace("reaction", "x", "set:held", "sum", "kN", -1),
        }
        opened.add("pairing", loop, "Curve 'Loop' made")
        text = record.read_bytes()
        parse_table(text, record.name)
        plain = {"scale": 1.0, "smooth": 1}
        use = {
            "x": {"column": "Stroke", "unit": "mm", "sign": 1, "zero": 0.0, **plain},
            "y": {"column": "Load cell", "unit": "kN", "sign": -1, "zero": 0.34, **plain},
            "limits": {"force": 0.05, "stiffness": 0.05, "energy": 0.05, "deviation": 0.05},
        }
        attachment = opened.attach(record.name, "text/csv", text)
        opened.add("test", {"name": record.name, "attachment": attachment, "use": use}, "Test record brought in")
        # Planted where plastic strain is highest: on the skin, where one can see it.
        reading = Reading("equivalent_plastic_strain", step=rail(result)["opening_step"])
        _, _, high = extremes(reading, result)
        if high is not None:
            node = int(result.mesh.node_ids[high.node])
            opened.add("flag", {"result": result.id, "node": node}, f"Flag planted at node {node}")
        opened.forget_changes()


def _trace(field: str, measure: str, at: str, reduce: str, unit: str, sign: int) -> dict[str, object]:
    return {"field": field, "measure": measure, "at": at, "reduce": reduce, "averaging": "off", "order": "components",
            "unit": unit, "sign": sign}  # fmt: skip
