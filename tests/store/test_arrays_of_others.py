"""Arrays as other programs write them: begun late, zero and one, two by two, no tensor at all, six values at a node."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest

from ironstone.core.kinds import guess_kind
from ironstone.core.mesh.places import AtElements
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import Reading
from ironstone.core.units import SYSTEMS, convert
from ironstone.store import Review, intake
from ironstone.store.describe import contents
from ironstone.store.source import ReviewSource
from tests.writing import HEX, bar_of_hexahedra, write_vtu

RANDOM = np.random.default_rng(4)


@pytest.fixture
def review(tmp_path: Path) -> Iterator[Review]:
    with Review.create(tmp_path / "r.ironstone") as made:
        yield made


def taken(review: Review, folder: Path, *steps: dict, points: dict | None = None) -> ReviewSource:  # type: ignore[type-arg]
    """A bar of three cubes; element arrays of each step."""
    place, cells, _ = bar_of_hexahedra(3, shared=True)
    files = [write_vtu(folder / f"s_{k}.vtu", place, cells, points or {}, data) for k, data in enumerate(steps)]
    return review.result(intake(review, files))


def test_a_field_that_begins_later_has_no_value_before(review: Review, tmp_path: Path) -> None:
    late = {"plastic_strain": np.array([0.1, 0.2, 0.3]), "flags": np.array([1, 0, 1], dtype=np.int32)}
    source = taken(review, tmp_path, {"stress": np.ones((3, 6))}, {"stress": np.ones((3, 6)), **late}, {"stress": np.ones((3, 6))})
    at = [source.values("plastic_strain", step)[:, 0] for step in range(3)]
    assert np.isnan(at[0]).all() and np.isnan(at[2]).all()
    assert at[1].tolist() == [0.1, 0.2, 0.3]
    assert any("'plastic_strain' is missing in 2 of 3 steps" in w for w in source.warnings)
    assert source.mesh.element_sets["flags"].tolist() == [0, 2]


@pytest.mark.parametrize("name", ["material", "mat_id", "region", "subdomains", "cell_tags", "gmsh:physical", "group"])
def test_zero_and_one_of_a_name_that_divides_the_body_are_parts_and_no_set(review: Review, tmp_path: Path, name: str) -> None:
    stress = np.zeros((3, 6))
    stress[:, 0] = 100, 300, 300
    source = taken(review, tmp_path, {name: np.array([0, 1, 1], dtype=np.int64), "stress": stress})
    assert len(source.mesh.part_names) == 2
    assert not source.mesh.element_sets
    means = evaluate(Reading("stress", "xx", averaging="material"), source, AtElements(np.arange(3))).values
    assert means == pytest.approx([100, 300, 300]), "nothing is averaged from one to the other"


def test_numbers_of_another_name_are_a_set_as_before(review: Review, tmp_path: Path) -> None:
    source = taken(review, tmp_path, {"loaded side": np.array([0, 1, 1], dtype=np.int64)})
    assert source.mesh.element_sets["loaded side"].tolist() == [1, 2]


def test_what_is_no_symmetric_tensor_is_not_read_as_one(review: Review, tmp_path: Path) -> None:
    """A deformation gradient is the identity at first: that it is no tensor shows at a later step."""
    identity = np.tile(np.eye(3).ravel(), (3, 1))
    sheared = identity.copy()
    sheared[:, 1] = 0.2
    steps = [{"F": f, "stress": np.ones((3, 9))} for f in (identity, sheared)]
    source = taken(review, tmp_path, *steps)
    assert "F" not in source.fields and "stress" in source.fields
    assert any("'F' is no symmetric tensor: its halves differ by up to 0.2" in w for w in source.warnings)


def test_three_principal_values_are_three_numbers(review: Review, tmp_path: Path) -> None:
    values = RANDOM.normal(size=(3, 3))
    source = taken(review, tmp_path, {"principal_stress": values})
    for k in range(3):
        field = source.fields[f"principal_stress {k + 1}"]
        assert (field.rank, field.kind, field.unit) == ("scalar", "stress", "MPa")
        assert source.values(field.name, 0)[:, 0] == pytest.approx(values[:, k])


def test_two_by_two_is_told_from_four_components_by_its_numbers_and_can_be_stated(review: Review, tmp_path: Path) -> None:
    xx, xy, yy = RANDOM.normal(size=(3, 3)) * 50
    source = taken(review, tmp_path, {"stress": np.stack([xx, xy, xy, yy], axis=1)})
    for name, values in (("xx", xx), ("yy", yy), ("xy", xy)):
        assert evaluate(Reading("stress", name), source, AtElements(np.arange(3))).values == pytest.approx(values), name
    entry = next(f for f in contents(source)["fields"] if f["name"] == "stress")
    assert any("two by two" in n for n in entry["notes"])
    review.correct_fields(source.id, ["stress"], {"layout": "xx, yy, zz, xy"})
    again = review.result(source.id)
    assert evaluate(Reading("stress", "yy"), again, AtElements(np.arange(3))).values == pytest.approx(xy)
    review.correct_fields(source.id, ["stress"], {"layout": "xx, xy, yx, yy"})
    assert evaluate(Reading("stress", "yy"), review.result(source.id), AtElements(np.arange(3))).values == pytest.approx(yy)


def test_four_components_that_are_not_two_by_two_stay_as_they_were(review: Review, tmp_path: Path) -> None:
    four = RANDOM.normal(size=(3, 4))
    source = taken(review, tmp_path, {"stress": four})
    for k, name in enumerate(("xx", "yy", "zz", "xy")):
        assert evaluate(Reading("stress", name), source, AtElements(np.arange(3))).values == pytest.approx(four[:, k])


def test_six_values_at_a_node_are_a_motion_and_a_rotation(review: Review, tmp_path: Path) -> None:
    moved, turned = RANDOM.normal(size=(2, 16, 3))
    pulled = RANDOM.normal(size=(16, 6))
    source = taken(review, tmp_path, {}, points={"displacement": np.hstack([moved, turned]), "reaction": pulled})
    assert source.fields["displacement"].kind == "displacement"
    assert source.values("displacement", 0) == pytest.approx(moved)
    assert source.values("displacement (rotation)", 0) == pytest.approx(turned)
    assert source.fields["displacement (rotation)"].kind == "rotation"
    assert source.values("reaction (moment)", 0) == pytest.approx(pulled[:, 3:])


@pytest.mark.parametrize(
    ("name", "kind"),
    [
        ("von_mises", "stress"),
        ("VonMisesStress", "stress"),
        ("sigma_eq", "stress"),
        ("strain_energy_density", "energy density"),
        ("damage", "damage"),
        ("equivalent_plastic_strain", "plastic strain"),
        ("axial_stress", "axial stress"),
        ("contact_gap", "contact gap"),
        ("density", "density"),
    ],
)
def test_a_scalar_is_known_by_its_name(name: str, kind: str) -> None:
    assert guess_kind(name, 1)[0] == kind


@pytest.mark.parametrize("system", SYSTEMS.values(), ids=lambda s: s.name)
def test_every_system_of_units_hangs_together(system: object) -> None:
    """Force is mass times length over time squared, stress force over area."""
    one = np.ones(1)
    for unit in ("force", "stress", "mass", "length"):
        assert getattr(system, unit)
    force = convert(one, f"{system.mass}*{system.length}/{system.time}**2", system.force)  # type: ignore[attr-defined]
    assert force == pytest.approx(1.0)
    assert convert(one, f"{system.force}/{system.length}**2", system.stress) == pytest.approx(1.0)  # type: ignore[attr-defined]


def test_gauss_points_are_counted_from_all_steps(review: Review, tmp_path: Path) -> None:
    """A tetrahedron beside a brick: of the brick's eight points one alone has a value at the first step."""
    points = np.concatenate([HEX, [[2.0, 0.5, 0.5]]])
    cells = [(12, list(range(8))), (10, [1, 2, 5, 8])]
    files = []
    for step in range(2):
        table = np.full((2, 8, 6), np.nan)
        table[0, : 1 if step == 0 else 8] = 5.0
        table[1, :1] = 7.0
        files.append(write_vtu(tmp_path / f"g_{step}.vtu", points, cells, {}, {"stress": table.reshape(2, -1)}))
    source = review.result(intake(review, files))
    assert source.fields["stress"].points == 8
    for step in range(2):
        found = evaluate(Reading("stress", "xx", step=step), source, AtElements(np.arange(2))).values
        assert np.nan_to_num(found) == pytest.approx([0.0, 7.0] if step == 0 else [5.0, 7.0])


@pytest.mark.parametrize(
    ("real", "imaginary"),
    [
        ("heat_real", "heat_imag"),
        ("heat_re", "heat_im"),
        ("real_heat", "imag_heat"),
        ("Re(heat)", "Im(heat)"),
        ("heat (real)", "heat (imaginary)"),
        ("heat.real", "heat.imag"),
    ],
)
def test_the_two_parts_of_a_harmonic_are_known_by_their_names(review: Review, tmp_path: Path, real: str, imaginary: str) -> None:
    a, b = RANDOM.normal(size=(2, 3))
    source = taken(review, tmp_path, {real: a, imaginary: b, "reach": a})
    field = source.fields["heat"]
    assert field.harmonic
    found = evaluate(Reading("heat", phase="magnitude"), source, AtElements(np.arange(3))).values
    assert found == pytest.approx(np.hypot(a, b))
    assert not source.fields["reach"].harmonic


@pytest.mark.parametrize(("stress", "remark"), [(3e8, True), (400.0, False)])
def test_units_that_make_numbers_no_structure_has_are_remarked_until_they_are_stated(
    review: Review, tmp_path: Path, stress: float, remark: bool
) -> None:
    source = taken(review, tmp_path, {"stress": np.full((3, 6), stress)})
    doubt = next(d for d in contents(source)["doubts"] if "state no unit" in d["said"])
    assert ("Are they in m and Pa?" in doubt["why"]) is remark
    assert doubt["acts"][0]["words"] == {"system": "m-N-s-kg-Pa" if remark else "mm-N-s-t-MPa"}, "what is likely comes first"
    review.set_units(source.id, "m-N-s-kg-Pa")
    assert not any("state no unit" in d["said"] for d in contents(review.result())["doubts"])
