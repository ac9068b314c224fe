"""What a file proves of its own conventions: order of components, shear; the way round of elements; which stress is meant."""

from __future__ import annotations

from dataclasses import replace
from itertools import permutations
from pathlib import Path

import numpy as np
import pytest

from ironstone.core.field.axes import Axes
from ironstone.core.field.fields import Field, Setup, opening_field, stress_of
from ironstone.core.field.proved import ENGINEERING, TENSOR, Stored, proved
from ironstone.core.field.recover import internal_force
from ironstone.core.mesh.places import AtElements, AtNodes
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import Reading
from ironstone.core.statics.sense import mesh_warnings, orientations
from ironstone.store import Review, intake
from ironstone.store.describe import contents
from tests.models import field, memory
from tests.oracles.boxes import SHAPES, Shape, box
from tests.oracles.test_matrix import curved
from tests.writing import write_vtu

SOLIDS = [s for s in SHAPES if s.dimension == 3]
OURS = ("xx", "yy", "zz", "xy", "yz", "xz")
GRADIENT, TWIST = 1e-3 * np.random.default_rng(12).normal(size=(3, 3)), 1e-4 * np.array([1.0, -0.5, 0.7])
LAME, SHEAR = 120e3, 80e3


def motion(points: np.ndarray) -> np.ndarray:
    """A motion that is linear in the place but for a part that twists, small."""
    moved: np.ndarray = points @ GRADIENT.T + (points[:, 1] * points[:, 2])[:, None] * TWIST
    return moved


def strain_of(points: np.ndarray, step: float = 1e-6) -> np.ndarray:
    """The symmetric part of the gradient by central differences, (n, 6)."""
    gradient = np.stack([(motion(points + step * e) - motion(points - step * e)) / (2 * step) for e in np.eye(3)], axis=2)
    whole = (gradient + gradient.transpose(0, 2, 1)) / 2
    return np.stack([whole[:, i, j] for i, j in ((0, 0), (1, 1), (2, 2), (0, 1), (1, 2), (0, 2))], axis=1)


def told(tensor: np.ndarray, order: tuple[str, ...], engineering: bool) -> np.ndarray:
    columns = tensor * np.where(np.arange(6) < 3, 1.0, 2.0 if engineering else 1.0)
    return columns[:, [OURS.index(n) for n in order]]


@pytest.mark.parametrize("rest", list(permutations(("xy", "yz", "xz"))), ids="-".join)
@pytest.mark.parametrize("engineering", [True, False])
@pytest.mark.parametrize("location", ["element", "node", "corner"])
@pytest.mark.parametrize("shape", SOLIDS, ids=lambda s: s.name)
def test_a_strain_tells_its_order_and_its_shear_by_the_displacement(
    shape: Shape, location: str, engineering: bool, rest: tuple[str, ...]
) -> None:
    mesh = box(shape)
    order = ("xx", "yy", "zz", *rest)
    middles = np.array([mesh.points[mesh.connectivity[a:b]].mean(0) for a, b in zip(mesh.offsets, mesh.offsets[1:], strict=False)])
    at = {"element": middles, "node": mesh.points, "corner": mesh.points[mesh.connectivity]}[location]
    strain = strain_of(at)
    stress = LAME * strain[:, :3].sum(1, keepdims=True) * [1, 1, 1, 0, 0, 0] + 2 * SHEAR * strain
    stored = {
        "strain": Stored("strain", location, told(strain, order, engineering)),
        "stress": Stored("stress", location, told(stress, order, False)),
    }
    found = proved(mesh, motion(mesh.points), stored)
    assert found["strain"].order == found["stress"].order == order
    assert found["strain"].shear == (ENGINEERING if engineering else TENSOR)


def test_where_nothing_tells_the_ways_apart_nothing_is_found() -> None:
    """Pulled along x alone there is no shear; a stress of another body fits nothing; nothing that moves says nothing."""
    mesh = box(SOLIDS[0])
    pulled = 1e-3 * mesh.points * [1.0, 0.0, 0.0]
    plain = np.zeros((len(mesh.types), 6))
    plain[:, 0] = 1e-3
    found = proved(mesh, pulled, {"e": Stored("strain", "element", plain), "s": Stored("stress", "element", 210e3 * plain)})
    assert not found
    noise = np.random.default_rng(1).normal(size=(len(mesh.types), 6))
    assert not proved(mesh, motion(mesh.points), {"e": Stored("strain", "element", noise), "s": Stored("stress", "element", noise)})
    assert not proved(mesh, np.zeros_like(mesh.points), {"e": Stored("strain", "element", plain)})
    large = 0.3 * np.array([[1.0, 0.3, 0.1], [0.3, -0.4, 0.5], [0.1, 0.5, 0.7]])
    stored = Stored("strain", "element", np.tile(six(large), (len(mesh.types), 1)))
    assert not proved(mesh, mesh.points @ large.T, {"e": stored}), "which strain a large motion has is not known"


def six(tensor: np.ndarray) -> np.ndarray:
    return np.array([tensor[i, j] for i, j in ((0, 0), (1, 1), (2, 2), (0, 1), (1, 2), (0, 2))])


def test_a_fit_that_another_way_nearly_has_is_no_proof() -> None:
    """Little shear, and a strain that is off by as much as the shear is: every order fits nearly as well."""
    mesh = box(next(s for s in SOLIDS if s.name == "hex8"))
    stretch = 1e-3 * np.array([[1.0, 0.05, 0.0], [0.05, -0.4, 0.09], [0.0, 0.09, 0.7]])
    noise = np.random.default_rng(3).normal(size=(len(mesh.types), 6)) * 2.5e-5
    found = proved(mesh, mesh.points @ stretch.T, {"e": Stored("strain", "element", six(stretch) + noise)})
    assert "e" not in found or not found["e"].order
    exact = np.tile(six(stretch), (len(mesh.types), 1))
    assert proved(mesh, mesh.points @ stretch.T, {"e": Stored("strain", "element", exact)})["e"].order == OURS


def test_what_is_found_is_read_said_and_gives_way_to_what_is_stated(tmp_path: Path) -> None:
    mesh = box(next(s for s in SOLIDS if s.name == "hex8"))
    strain = strain_of(np.array([mesh.points[mesh.connectivity[8 * e : 8 * e + 8]].mean(0) for e in range(len(mesh.types))]))
    other = ("xx", "yy", "zz", "xy", "xz", "yz")
    cells = [(12, mesh.connectivity[8 * e : 8 * e + 8].tolist()) for e in range(len(mesh.types))]
    path = write_vtu(tmp_path / "a.vtu", mesh.points, cells, {"u": motion(mesh.points)}, {"strain": told(strain, other, True)})
    every = AtElements(np.arange(len(mesh.types)))
    with Review.create(tmp_path / "r.ironstone") as review:
        result = intake(review, [path])
        entry = next(f for f in contents(review.result())["fields"] if f["name"] == "strain")
        stands = {e["name"]: (e["value"], e["state"]) for e in entry["entries"]}
        assert (stands["order"], stands["shear"]) == ((",".join(other), "found"), ("engineering", "found"))
        assert any("found: fits the strain of the displacement within" in n for n in entry["notes"])
        assert not any("assumed" in n or "taken as tensor shear" in n for n in entry["notes"])
        for k, name in enumerate(OURS):
            found = evaluate(Reading("strain", name), review.result(), every).values
            assert found == pytest.approx(strain[:, k], abs=1e-12), name
        review.correct_fields(result, ["strain"], {"shear": "tensor"})
        assert evaluate(Reading("strain", "xy"), review.result(), every).values == pytest.approx(2 * strain[:, 3], abs=1e-12)
        review.undo()
        assert evaluate(Reading("strain", "xy"), review.result(), every).values == pytest.approx(strain[:, 3], abs=1e-12)


@pytest.mark.parametrize("shape", SOLIDS, ids=lambda s: s.name)
def test_a_body_numbered_the_other_way_round_is_the_same_body(shape: Shape) -> None:
    """Mirrored in its natural coordinates r and s: every node stands where it stood."""
    plain = box(shape, bend=curved) if shape.quadratic else box(shape)
    swapped = np.array([int(np.argmin(np.abs(shape.nodes - n).sum(1))) for n in shape.nodes[:, [1, 0, 2]]])
    size = len(shape.nodes)
    joined = plain.connectivity.reshape(-1, size).copy()
    joined[::2] = joined[::2][:, swapped]
    other = replace(plain, connectivity=joined.ravel())
    assert orientations(plain).tolist() == [1] * len(plain.types)
    assert orientations(other)[::2].tolist() == [-1] * len(plain.types[::2])
    assert [w for w in mesh_warnings(other)] == [
        f"{len(plain.types[::2])} elements are numbered the other way round: they are the same body, and are read as it."
    ]
    assert other.volumes == pytest.approx(plain.volumes)
    forces = []
    for mesh in (plain, other):
        components = np.zeros((len(mesh.connectivity), 6))
        components[:, 0] = 3.0 + mesh.points[mesh.connectivity][:, 1]
        components[:, 3] = mesh.points[mesh.connectivity][:, 0]
        source = memory(mesh, (field("stress", "stress", "corner"), components))
        forces.append(internal_force(source, 0, components))
    assert forces[1] == pytest.approx(forces[0], abs=1e-9 * np.abs(forces[0]).max())


def test_a_folded_element_is_a_doubt() -> None:
    mesh = box(next(s for s in SOLIDS if s.name == "hex8"))
    points = mesh.points.copy()
    points[mesh.connectivity[6]] = points[mesh.connectivity[0]] - 0.5
    folded = replace(mesh, points=points)
    assert (orientations(folded) == 0).any()
    assert any("folded" in w for w in mesh_warnings(folded))


def test_the_stress_as_computed_is_meant_where_an_averaged_one_is_there_too() -> None:
    mesh = box(SOLIDS[0])
    averaged = field("stress", "stress", "node", averaged_before=True)
    computed = field("stress of elements", "stress", "element")
    source = memory(mesh, (averaged, np.ones((len(mesh.points), 6))), (computed, np.ones((len(mesh.types), 6))))
    assert stress_of(source.fields) is source.fields["stress of elements"]
    assert opening_field(source.fields) is source.fields["stress of elements"]
    alone = memory(mesh, (averaged, np.ones((len(mesh.points), 6))))
    assert opening_field(alone.fields) is alone.fields["stress"]


def test_components_in_cylindrical_axes_have_their_short_names() -> None:
    mesh = box(next(s for s in SOLIDS if s.name == "hex8"))
    pipe = Axes("pipe", "cylindrical", (-5.0, -5.0, 0.0))
    values = np.random.default_rng(2).normal(size=(len(mesh.types), 6))
    moved = np.random.default_rng(3).normal(size=(len(mesh.points), 3))
    pairs = (field("stress", "stress", "element"), values), (field("u", "displacement", "node"), moved)
    source = memory(mesh, *pairs, setup=Setup(axes={"pipe": pipe}))
    every = AtElements(np.arange(len(mesh.types)))
    for short, plain in (("rr", "xx"), ("tt", "yy"), ("rt", "xy"), ("tz", "yz"), ("rz", "xz"), ("r", "radial"), ("theta", "hoop")):
        a, b = (evaluate(Reading("stress", name, axes="pipe"), source, every).values for name in (short, plain))
        np.testing.assert_array_equal(a, b)
    a, b = (evaluate(Reading("u", name, axes="pipe"), source, AtNodes(np.arange(8))).values for name in ("r", "radial"))
    np.testing.assert_array_equal(a, b)


def test_what_laminates_give_opens_before_a_displacement() -> None:
    mesh = box(SOLIDS[0])
    moved = field("u", "displacement", "node")
    plies = Field("stress in plies", "stress", "ply", "element", ("11",), "MPa", recovered="by lamination theory", layers=2)
    source = memory(mesh, (moved, np.zeros((len(mesh.points), 3))))
    assert opening_field({**source.fields, plies.name: plies}) is plies
