"""The demo's review: the clevis lug on two meshes, the roof truss, and the brake flexure with loop, record and flag."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from ironstone.core.curves.reversals import reversals
from ironstone.core.errors import NotFound
from ironstone.core.field.axes import three_points
from ironstone.core.field.combined import combination_of
from ironstone.core.mesh.interpolation import positions
from ironstone.core.mesh.places import AtSamples
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.extremes import extremes
from ironstone.core.reading.reading import Reading
from ironstone.engine.base import keep
from ironstone.engine.reading import answers
from ironstone.engine.reading.gauges import gauge_list
from ironstone.engine.reading.profiles import PathIn
from ironstone.engine.strength.coupons import coupons_of
from ironstone.engine.strength.part_tests import part_tests_of
from ironstone.engine.strength.stacks import bring_laminates
from ironstone.formats.tables import parse_table
from ironstone.store import Review, intake
from ironstone.store.describe import rail
from ironstone.store.source import ReviewSource

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
    opened = Review.open(review) if review.exists() else Review.create(review, "Ropeway")
    with opened:
        _take_lugs(opened, data.parent / "lug")
        _take_truss(opened, data.parent / "truss")
        _take_mast(opened, data.parent / "mast")
        _take_cases(opened, data.parent / "cases")
        result = opened.result(intake(opened, files, "flexure B2", SYSTEM))
        loop = {
            "result": result.id,
            "name": "Loop",
            "x": _trace("displacement", "x", "set:driven", "mean", "mm", 1),
            "y": _trace("reaction", "x", "set:held", "sum", "kN", -1),
        }
        curve = opened.add("pairing", loop, "Curve 'Loop' made")
        reading = Reading("equivalent_plastic_strain", step=rail(result)["opening_step"])
        _, _, high = extremes(reading, result)
        if high is not None:
            _take_plans(opened, result, data, high.element)
        plain = {"scale": 1.0, "smooth": 1}
        use = {
            "x": {"column": "Stroke", "unit": "mm", "sign": 1, "zero": 0.0, **plain},
            "pairing": curve.id,
            "limits": {"force": 0.05, "stiffness": 0.05, "energy": 0.05, "deviation": 0.05},
        }
        # The zero each load cell was left at.
        for name, zero in (("specimen_F1.csv", 0.21), ("specimen_F2.csv", -0.15), (record.name, 0.34)):
            text = (data / name).read_bytes()
            parse_table(text, name)
            force = {"column": "Load cell", "unit": "kN", "sign": -1, "zero": zero, **plain}
            attachment = opened.attach(name, "text/csv", text)
            opened.add("test", {"name": name, "attachment": attachment, "use": {**use, "y": force}}, "Test record brought in")
        # Planted where plastic strain is highest: on the skin, where one can see it.
        if high is not None:
            node = int(result.mesh.node_ids[high.node])
            opened.add("flag", {"result": result.id, "node": node}, f"Flag planted at node {node}")
        opened.forget_changes()


def _take_plans(opened: Review, result: ReviewSource, data: Path, element: int) -> None:
    """The history the stroke was to follow, and the steel's input curve beside the most strained point's first loading."""
    # The places the stress was computed at: the Gauss points of a brick, 2 x 2 x 2.
    corners = np.array([[a, b, c] for a in (-1, 1) for b in (-1, 1) for c in (-1, 1)]) / np.sqrt(3.0)
    places = AtSamples(np.full(8, element), (corners + 1) / 2)
    answer = evaluate(Reading("equivalent_plastic_strain", step=len(result.steps) - 1), result, places)
    point = ",".join(f"{v:.6g}" for v in positions(result.mesh, places)[int(np.nanargmax(answer.values))])
    driven = _trace("displacement", "x", "set:driven", "mean", "mm", 1)
    strain = {**_trace("equivalent_plastic_strain", "value", f"point:{point}", "mean", "", 1), "reduce": None}
    stress = {**_trace("stress", "von-mises", f"point:{point}", "mean", "MPa", 1), "reduce": None}
    steps = {"field": "", "measure": "", "at": "", "curve": "step", "sign": 1}
    first = int(reversals(np.array(answers.trace_curve(Reading("displacement", "x"), result, "set:driven", "mean")[0].y))[0])
    plain = {"sign": 1, "zero": 0.0, "scale": 1.0, "smooth": 1}
    for name, x, y, last, record, columns in (
        ("Stroke over time", steps, driven, None, "prescribed_history.csv", (("Time", "s"), ("Stroke", "mm"))),
        ("Steel, first loading", strain, stress, first, "material_input.csv", (("Plastic strain", ""), ("True stress", "MPa"))),
    ):
        curve = opened.add("pairing", {"result": result.id, "name": name, "x": x, "y": y, "last": last}, f"Curve '{name}' made")
        attachment = opened.attach(record, "text/csv", (data / record).read_bytes())
        use = {side: {"column": c, "unit": u, **plain} for side, (c, u) in zip("xy", columns, strict=True)}
        payload = {"name": record, "attachment": attachment, "use": {**use, "pairing": curve.id}}
        opened.add("test", payload, "Test record brought in")


def _take_lugs(opened: Review, data: Path) -> None:
    """The clevis lug on two meshes, with axes about its eye and what its steel and bronze are, as the demo's model has them."""
    for mesh in ("coarse", "fine"):
        files = sorted(data.glob(f"lug_{mesh}_*.vtu"))
        if not files:
            continue
        lug = intake(opened, files, f"lug, {mesh}", SYSTEM)
        eye = three_points("eye", "cylindrical", np.zeros(3), np.array([0.0, 0.0, 1.0]), np.array([1.0, 0.0, 0.0]))
        opened.set_axes(lug, eye)
        for material, young, poisson, limits in (
            ("material 1", 210_000.0, 0.30, {"yield": 355.0, "ultimate": 510.0}),
            ("material 2", 105_000.0, 0.34, {"yield": 170.0, "ultimate": 310.0}),
        ):
            opened.set_constants(lug, material, {"young": young, "poisson": poisson, **limits})
        _take_lines(opened, opened.result(lug))
        gauges = data / "lug_gauges.csv"
        if mesh == "fine" and gauges.is_file():
            keep(opened, gauge_list(opened.result(lug), "Strain gauges", gauges.read_bytes(), gauges.name))


def _take_lines(opened: Review, lug: ReviewSource) -> None:
    """The ligament, the bond from both sides, a circle half the bushing's wall outside the bore, and the bore's edge."""
    rim = int(lug.mesh.node_ids[int(np.argmin(np.linalg.norm(lug.mesh.points - np.array([20.0, 0.0, 12.0]), axis=1)))])
    for name, path, side in (
        ("Ligament", "line:0,20,0:0,42,0", ""),
        ("Bond, steel side", "arc:0,0,0:0,0,1:25,0,0:360", "part 1"),
        ("Bond, bronze side", "arc:0,0,0:0,0,1:25,0,0:360", "part 2"),
        ("Half a wall outside the bore", "arc:0,0,0:0,0,1:22.5,0,0:360", ""),
        ("Bore edge", f"edge:{rim}", "part 2"),
    ):
        keep(opened, PathIn(result=lug.id, name=name, path=path, side=side))


def _take_mast(opened: Review, data: Path) -> None:
    """The weather mast with its laminates, the coupons of its glass, and the four masts that were tested."""
    files = sorted(data.glob("mast_*.vtu"))
    if not files:
        return
    mast = intake(opened, files, "weather mast", SYSTEM)
    laminates, tests, coupons = (data / name for name in ("mast_laminates.json", "mast_tests.csv", "glass_coupons.csv"))
    bring_laminates(opened, mast, laminates.read_bytes(), laminates.name)
    keep(opened, coupons_of(coupons.read_bytes(), coupons.name, "glass"))
    # Wind on the mast at a load factor of 1: 0.33 N/mm on 2,400 mm.
    keep(opened, part_tests_of(opened.result(mast), tests.read_bytes(), tests.name, 792.0))


def _take_truss(opened: Review, data: Path) -> None:
    """The station's roof truss under growing snow, with the load held against the sinking of its ridge."""
    files = sorted(data.glob("truss_*.vtu"))
    if not files:
        return
    truss = intake(opened, files, "roof truss", SYSTEM)
    for part in opened.result(truss).mesh.material_or_part_names:
        opened.set_constants(truss, part, {"young": 210_000.0, "poisson": 0.30})
    sinking = {
        "result": truss,
        "name": "Snow against sinking",
        "x": _trace("displacement", "z", "set:ridge", "mean", "mm", -1),
        "y": _trace("reaction", "z", "set:supports", "sum", "kN", 1),
    }
    opened.add("pairing", sinking, "Curve 'Snow against sinking' made")
    for name, trace, expression in (
        ("sinking", sinking["x"], ""),
        ("snow", sinking["y"], ""),
        ("stiffness", None, "d(snow, sinking)"),
        ("work", None, "integral(snow, sinking)"),
    ):
        opened.add("named", {"result": truss, "name": name, "trace": trace, "expression": expression}, f"Curve '{name}' named")


# Factors of the cases by the name of the combination, as is common practice in roofs; the loads themselves are invented.
COMBINED = (
    "heavy snow=0:1.35,1:1.5,3:0.9",
    "drifted snow=0:1.35,2:1.5,3:0.9",
    "uplift=0:1,3:1.5",
    "every day=0:1",
)


def _take_cases(opened: Review, data: Path) -> None:
    """The roof truss under single loads, and the combinations it is checked by."""
    files = sorted(data.glob("case_*.vtu"))
    if not files:
        return
    cases = intake(opened, files, "roof truss, load cases", SYSTEM)
    for part in opened.result(cases).mesh.material_or_part_names:
        opened.set_constants(cases, part, {"young": 210_000.0, "poisson": 0.30})
    opened.set_combinations(cases, [combination_of(text) for text in COMBINED])


def _trace(field: str, measure: str, at: str, reduce: str, unit: str, sign: int) -> dict[str, object]:
    return {"field": field, "measure": measure, "at": at, "reduce": reduce, "averaging": "off", "order": "components",
            "unit": unit, "sign": sign}  # fmt: skip
