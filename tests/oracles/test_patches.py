"""Supports, driven and loaded patches of a model whose file has no sets: found by what its nodes do, named by where they are."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from ironstone.core.field.fields import Field, Memory
from ironstone.core.field.recover import internal_force
from ironstone.core.mesh.mesh import Mesh
from ironstone.core.mesh.patches import Done, Patch, patches
from ironstone.core.statics.loaded import left_by_stress
from ironstone.store import Review, intake
from ironstone.store.describe import contents
from tests.oracles.boxes import SHAPES, Shape, box
from tests.writing import bar_of_hexahedra, write_vtu

SIZE = (2.0, 3.0, 1.5)
WIDE = [s for s in SHAPES if s.dimension > 1]


def of(mesh: Mesh, members: np.ndarray, value: float = 5.0) -> np.ndarray:
    return np.where(members, value, 0.0)


def pulled(mesh: Mesh) -> np.ndarray:
    """Held at x = 0, moved by 0.1 along x at the other end, thinner in between."""
    share = mesh.points[:, 0] / SIZE[0]
    across = 0.01 * np.sin(np.pi * share)[:, None] * (mesh.points - np.array(SIZE) / 2)
    across[:, 0] = 0.1 * share
    return across


def at(mesh: Mesh, x: float) -> np.ndarray:
    return np.isclose(mesh.points[:, 0], x, atol=1e-9)


@pytest.mark.parametrize("shape", WIDE, ids=lambda s: s.name)
def test_the_ends_of_a_pulled_body_are_its_support_and_what_drives_it(shape: Shape) -> None:
    mesh = box(shape, counts=(4, 4, 4), size=SIZE)
    moved = pulled(mesh)
    ends = at(mesh, 0.0) | at(mesh, SIZE[0])
    found = patches(mesh, Done(of(mesh, ends), np.abs(moved), moved))
    assert {n: set(p.nodes) for n, p in found.items()} == {
        "support at x = 0": set(np.flatnonzero(at(mesh, 0.0))),
        "driven at x = 2": set(np.flatnonzero(at(mesh, SIZE[0]))),
    }
    without = patches(mesh, Done(None, np.abs(moved), moved))
    assert set(without) >= {"support at x = 0", "driven at x = 2"}
    assert all("reactions" not in p.how for p in without.values())


@pytest.mark.parametrize("scale", [1e-3, 1.0, 1e3])
def test_two_feet_are_two_supports_and_a_load_is_where_it_acts(scale: float) -> None:
    shape = next(s for s in SHAPES if s.name == "hex8")
    mesh = box(shape, counts=(8, 4, 4), size=tuple(scale * v for v in (8.0, 2.0, 2.0)))  # type: ignore[arg-type]
    x, _, z = (mesh.points / scale).T
    feet = (z == 0) & ((x <= 1) | (x >= 7))
    moved = np.where(feet[:, None], 0.0, 1e-3 * (mesh.points + scale))
    loaded = (z == 2) & (np.abs(x - 4) <= 1)
    found = patches(mesh, Done(of(mesh, feet), np.abs(moved), moved, of(mesh, loaded, 2.0)))
    kinds = [n.split()[0] for n in found]
    assert sorted(kinds) == ["loaded", "support", "support"]
    assert {len(p.nodes) for n, p in found.items() if n.startswith("support")} == {int((feet & (x <= 1)).sum())}
    (load,) = (p for n, p in found.items() if n.startswith("loaded"))
    assert set(load.nodes) == set(np.flatnonzero(loaded))


def test_planes_of_symmetry_are_told_from_supports() -> None:
    """An eighth of a cube under pressure: no side moves square to itself where the body was cut."""
    mesh = box(next(s for s in SHAPES if s.name == "hex20"), size=SIZE)
    moved = 0.01 * mesh.points * [1.0, -0.5, 0.7] * (1 + 0.1 * mesh.points[:, [1]])
    found = patches(mesh, Done(None, np.abs(moved), moved))
    assert {"symmetry at x = 0", "symmetry at y = 0", "symmetry at z = 0"} <= set(found)


def test_reactions_nearly_everywhere_say_nothing_of_supports() -> None:
    mesh = box(next(s for s in SHAPES if s.name == "tet4"))
    noise = np.abs(np.random.default_rng(1).normal(size=len(mesh.points))) + 0.1
    moved = np.random.default_rng(2).normal(size=(len(mesh.points), 3))
    assert not patches(mesh, Done(noise, np.abs(moved), moved))
    assert not patches(mesh, Done(noise)), "without a displacement either"
    assert not patches(mesh, Done(np.zeros(len(mesh.points)), np.zeros_like(moved), moved * 0))


def test_a_node_whose_displacement_is_missing_is_not_taken_to_stand_still() -> None:
    mesh = box(next(s for s in SHAPES if s.name == "hex8"), counts=(4, 4, 4), size=SIZE)
    moved = pulled(mesh)
    moved[at(mesh, 0.0)] = np.nan
    assert not any(n.startswith(("support", "symmetry at x = 0")) for n in patches(mesh, Done(None, np.abs(moved), moved)))
    half = pulled(mesh)
    half[at(mesh, 0.0) & (mesh.points[:, 1] > 1.5)] = np.nan
    found = patches(mesh, Done(None, np.abs(half), half))
    (support,) = (p for n, p in found.items() if n.startswith("support"))
    assert set(support.nodes) == set(np.flatnonzero(at(mesh, 0.0) & (mesh.points[:, 1] <= 1.5)))


def series(folder: Path, sets: bool) -> list[Path]:
    """A bar of cubes pulled in three steps; the last element is a set of the file, or none is."""
    points, cells, _ = bar_of_hexahedra(4, shared=True)
    files = []
    for step in range(3):
        moved = np.zeros_like(points)
        moved[:, 0] = 0.01 * step * points[:, 0]
        pull = np.zeros_like(points)
        pull[points[:, 0] == 0, 0], pull[points[:, 0] == 4, 0] = -2.5 * step, 2.5 * step
        data = {"displacement": moved, "reaction": pull}
        if sets:
            data["grip"] = (points[:, 0] == 4).astype(np.int32)
        files.append(write_vtu(folder / f"s_{step}.vtu", points, cells, data, time=float(step)))
    return files


def test_a_strangers_series_has_its_load_against_displacement_at_once(tmp_path: Path) -> None:
    with Review.create(tmp_path / "r.ironstone") as review:
        intake(review, series(tmp_path, sets=False))
        told = {s["name"]: s for s in contents(review.result())["sets"]}
        assert set(told) == {"support at x = 0", "driven at x = 4"}
        assert told["support at x = 0"]["held"] == "held" and told["driven at x = 4"]["moves"]
        assert all(s["found"].startswith("found: its nodes") and s["made"] is None for s in told.values())
        source = review.result()
        assert source.summary["set_sums"]["support at x = 0"][2][0] == pytest.approx(-20.0)
        assert source.summary["set_means"]["driven at x = 4"][2][0] == pytest.approx(0.08)


def test_sets_of_the_file_stand_alone(tmp_path: Path) -> None:
    with Review.create(tmp_path / "r.ironstone") as review:
        intake(review, series(tmp_path, sets=True))
        (only,) = contents(review.result())["sets"]
        assert (only["name"], only["found"]) == ("grip", None)


SOLIDS = [s for s in SHAPES if s.dimension == 3]


def straight_pull(mesh: Mesh) -> np.ndarray:
    """The forces of an even stress of 7 along x: on both ends, by the integral of its traction, and nothing anywhere else."""
    stress = np.zeros((len(mesh.connectivity), 6))
    stress[:, 0] = 7.0
    source = Memory(mesh, [Field("stress", "stress", "tensor", "corner", ("xx",), "")], {"stress": stress[None]})
    return internal_force(source, 0, stress)


@pytest.mark.parametrize("shape", SOLIDS, ids=lambda s: s.name)
def test_what_a_stress_leaves_at_free_nodes_is_where_a_body_is_loaded(shape: Shape) -> None:
    mesh = box(shape, counts=(4, 4, 4), size=SIZE)
    held = {"support at x = 0": Patch(np.flatnonzero(at(mesh, 0.0)), "found: its nodes do not move at any step")}
    found = left_by_stress(mesh, straight_pull(mesh), held)
    assert list(found) == ["loaded at x = 2"]
    assert set(found["loaded at x = 2"].nodes) <= set(np.flatnonzero(at(mesh, SIZE[0])))
    assert straight_pull(mesh)[found["loaded at x = 2"].nodes, 0].sum() == pytest.approx(7.0 * SIZE[1] * SIZE[2], rel=0.05)


def test_forces_that_cancel_over_a_side_still_tell_the_side_that_carries_the_whole() -> None:
    """An error at every node, as an even stress in bent elements leaves it, whose sums over the cross sections are nothing."""
    mesh = box(next(s for s in SHAPES if s.name == "hex8"), counts=(6, 4, 4), size=SIZE)
    sections = np.unique(mesh.points[:, 0].round(9), return_inverse=True)[1]
    force = straight_pull(mesh)
    error = np.random.default_rng(8).normal(size=force.shape) * np.abs(force).max()
    for k in range(sections.max() + 1):
        error[sections == k] -= error[sections == k].mean(0)
    held = {"support at x = 0": Patch(np.flatnonzero(at(mesh, 0.0)), "found: its nodes do not move at any step")}
    found = left_by_stress(mesh, force + error, held)
    assert {n: set(p.nodes) for n, p in found.items()} == {"loaded at x = 2": set(np.flatnonzero(at(mesh, SIZE[0])))}


def test_weight_is_no_load_on_a_patch_and_nothing_is_nothing() -> None:
    mesh = box(next(s for s in SHAPES if s.name == "hex8"), counts=(4, 4, 4), size=SIZE)
    held = {"support at x = 0": Patch(np.flatnonzero(at(mesh, 0.0)), "found: its nodes do not move at any step")}
    weight = np.zeros((len(mesh.points), 3))
    weight[:, 2] = -np.bincount(mesh.connectivity, minlength=len(mesh.points))
    assert not left_by_stress(mesh, weight, held)
    assert not left_by_stress(mesh, np.zeros_like(weight), held)
    assert not left_by_stress(mesh, np.full_like(weight, np.nan), held)


def test_a_roller_is_a_support_and_says_so() -> None:
    """Held square to one end alone, pulled at the other: nodes that slide are held, not loaded and not driven."""
    mesh = box(next(s for s in SHAPES if s.name == "hex8"), counts=(4, 2, 2), size=SIZE)
    moved = mesh.points * np.array([0.05, -0.015, -0.015])
    ends = at(mesh, 0.0) | at(mesh, SIZE[0])
    found = patches(mesh, Done(of(mesh, ends), np.abs(moved), moved))
    assert {n: set(p.nodes) for n, p in found.items()} == {
        "driven at x = 2": set(np.flatnonzero(at(mesh, SIZE[0]))),
        "support at x = 0": set(np.flatnonzero(at(mesh, 0.0))),
    }
    assert "in some direction" in found["support at x = 0"].how
    left = left_by_stress(mesh, straight_pull(mesh), {}, Done(of(mesh, ends)))
    assert not left, "what carries a reaction is no load"
