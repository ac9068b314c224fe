"""The lug's question: hoop stress at the bond, in the lug and in the bushing."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from ironstone.core.field.fields import constants_of
from ironstone.core.mesh.places import AtCorners, AtNodes
from ironstone.core.reading.error_estimate import error_estimate
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.extremes import meeting
from ironstone.core.reading.reading import Reading
from ironstone.core.reading.trace import trace
from ironstone.store import Review
from ironstone.store.source import ReviewSource

BOND = 25.0


@pytest.fixture(scope="module")
def lugs(demo_file: Path):  # type: ignore[no-untyped-def]
    with Review.open(demo_file) as review:
        yield {name: review.result(f"lug, {name}") for name in ("coarse", "fine")}


def at_bond(source: ReviewSource) -> np.ndarray:
    """Nodes of the bond at mid thickness where nothing singular is near."""
    x, y, z = source.mesh.points.T
    return np.flatnonzero((np.abs(np.hypot(x, y) - BOND) < 1e-6) & (np.abs(z) < 4.1) & (np.abs(y) > 20))


def test_hoop_stress_at_the_bond_is_two_numbers_that_differ_as_theory_says(lugs: dict[str, ReviewSource]) -> None:
    """Bonded: hoop and axial strain and radial stress are the same on both sides, so hoop stress follows from the other side's."""
    source = lugs["fine"]
    mesh = source.mesh
    young, poisson = constants_of(mesh, source.setup, "young", "poisson")
    checked = 0
    for node in at_bond(source):
        answer = {m: meeting(Reading("stress", m, axes="eye"), source, int(node)).values for m in ("radial", "hoop", "axial")}
        element = answer["hoop"].element
        steel, bronze = (element[young[element] == e] for e in (210e3, 105e3))
        assert len(steel) and len(bronze)
        value = {m: [v.values[np.isin(v.element, side)].mean() for side in (steel, bronze)] for m, v in answer.items()}
        e, nu = young[steel[0]], poisson[steel[0]]
        hoop_strain = (value["hoop"][0] - nu * (value["radial"][0] + value["axial"][0])) / e
        axial_strain = (value["axial"][0] - nu * (value["radial"][0] + value["hoop"][0])) / e
        e, nu = young[bronze[0]], poisson[bronze[0]]
        expected = e / (1 - nu**2) * (hoop_strain + nu * axial_strain) + nu / (1 - nu) * value["radial"][0]
        scale = abs(value["hoop"][0])
        assert value["hoop"][1] == pytest.approx(expected, abs=0.05 * scale)
        assert value["radial"][0] == pytest.approx(value["radial"][1], abs=0.1 * scale)
        assert value["hoop"][0] / value["hoop"][1] == pytest.approx(2.0, abs=0.5), "near the ratio of the moduli"
        checked += 1
    assert checked >= 6


def test_an_average_across_the_bond_exists_in_neither(lugs: dict[str, ReviewSource]) -> None:
    source = lugs["fine"]
    for node in at_bond(source):
        kept = evaluate(Reading("stress", "hoop", "material", axes="eye"), source, AtNodes(np.array([node])))
        assert len(kept.values) == 2, "one value for each material"
        across = evaluate(Reading("stress", "hoop", "all", axes="eye"), source, AtNodes(np.array([node])))
        assert kept.values.min() + 10 < across.values[0] < kept.values.max() - 10
        assert any("exists in neither" in c for c in across.caveats)
        found = meeting(Reading("stress", "hoop", axes="eye"), source, int(node))
        assert found.jump_within_material < 0.2 * found.jump, "across the bond physics, within a material error"


def test_the_finer_mesh_has_the_smaller_error(lugs: dict[str, ReviewSource]) -> None:
    total = {name: error_estimate(Reading("stress"), source).total for name, source in lugs.items()}
    assert total["fine"] < 0.5 * total["coarse"] < 0.05


@pytest.mark.parametrize("mesh", ["coarse", "fine"])
def test_the_lug_is_in_balance_at_every_step(lugs: dict[str, ReviewSource], mesh: str) -> None:
    source = lugs[mesh]
    every = np.arange(len(source.mesh.points))
    for axis in "xyz":
        held = trace(Reading("reaction", axis), source, AtNodes(every), "sum").values
        pulled = trace(Reading("applied_force", axis), source, AtNodes(every), "sum").values
        assert held + pulled == pytest.approx(np.zeros(9), abs=0.5)
    along = trace(Reading("applied_force", "x"), source, AtNodes(every), "sum").values
    assert along[0] == pytest.approx(60_000.0, rel=0.002), "the pull, by the cosine pressure of its pin"


def test_forces_recovered_from_stress_are_the_solvers(lugs: dict[str, ReviewSource]) -> None:
    """Internal force at the held end against the file's reaction; inside, nothing is left but the error of the stress."""
    source = lugs["fine"]
    held = source.mesh.node_sets["held"]
    inner = np.asarray(source.values("internal force", 0))
    assert inner[held].sum(0)[0] == pytest.approx(-60_000.0, rel=0.01)
    x = source.mesh.points[:, 0]
    free = np.abs(np.hypot(*source.mesh.points[:, :2].T) - 20.0) > 1e-6
    inside = free & (x > -118.0)
    assert np.abs(inner[inside]).max() < 0.05 * np.abs(inner).max()


def test_recovered_strain_gives_back_the_solvers_stress(lugs: dict[str, ReviewSource]) -> None:
    source = lugs["fine"]
    raw = evaluate(Reading("stress", "von-mises"), source, AtCorners()).values
    again = evaluate(Reading("elastic stress from strain", "von-mises"), source, AtCorners())
    assert any("Recovered here" in c for c in again.caveats)
    assert np.sqrt(np.mean((again.values - raw) ** 2)) < 0.03 * raw.max(), "corner derivatives against extrapolated Gauss points"


def test_the_swinging_rope_moves_the_largest_hoop_stress(lugs: dict[str, ReviewSource]) -> None:
    source = lugs["coarse"]
    over = Reading("stress", "hoop", axes="eye", over="largest")
    largest = evaluate(over, source, AtCorners()).values
    each = [evaluate(Reading("stress", "hoop", axes="eye", step=s), source, AtCorners()).values for s in range(9)]
    assert largest == pytest.approx(np.max(each, axis=0))
    when = evaluate(Reading("stress", "hoop", axes="eye", over="largest", when=True), source, AtCorners())
    assert when.unit == "s"
    assert when.values == pytest.approx(np.argmax(each, axis=0) * 0.5)
