"""One arrow a set: its resultant by adding up, told once, nothing for what holds itself."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from ironstone.core.errors import Impossible
from ironstone.core.field.fields import Field, Memory
from ironstone.core.geometry.surface import Look, skin
from ironstone.core.statics.set_arrows import REST, set_arrows
from tests.core.test_surface import bar


def source(forces: np.ndarray, sets: dict[str, list[int]], kind: str = "reaction") -> Memory:
    mesh = replace(bar(1, (0,)), node_sets={name: np.array(nodes) for name, nodes in sets.items()})
    field = Field("pull", kind, "vector", "node", ("x", "y", "z"), "N")
    return Memory(mesh, [field], {"pull": forces[None]})


def test_the_resultant_of_each_set_stands_on_a_node_of_it_that_carries() -> None:
    rng = np.random.default_rng(2)
    forces = rng.normal(size=(8, 3))
    forces[4:] = 0
    found, names = set_arrows("pull", of := source(forces, {"foot": [0, 1, 5], "rim": [2]}), skin(of.mesh, Look()), 0)
    assert names == ["foot", "rim", REST]
    assert found.values == pytest.approx(np.array([forces[[0, 1]].sum(0), forces[2], forces[3]]))
    assert any(np.allclose(found.points[0], of.mesh.points[n]) for n in (0, 1))


def test_sets_of_the_same_forces_are_told_once_and_those_that_hold_themselves_not_at_all() -> None:
    forces = np.zeros((8, 3))
    forces[0], forces[1], forces[6] = [5, 0, 0], [-5, 0, 0], [0, 2, 0]
    of = source(forces, {"pair": [0, 1], "top": [6], "upper": [6, 7], "free": [3]})
    found, names = set_arrows("pull", of, skin(of.mesh, Look()), 0)
    assert names == ["top"]
    assert found.values.tolist() == [[0, 2, 0]]


def test_a_set_within_another_is_part_of_it_and_all_forces_are_told_once() -> None:
    forces = np.random.default_rng(5).normal(size=(8, 3))
    of = source(forces, {"ridge": [2], "top": [0, 1, 2, 3], "rim": [2, 3]})
    found, names = set_arrows("pull", of, skin(of.mesh, Look()), 0)
    assert names == ["top", REST]
    assert found.values.sum(0) == pytest.approx(forces.sum(0))


def test_what_does_not_add_up_has_no_resultant() -> None:
    of = source(np.ones((8, 3)), {}, "displacement")
    with pytest.raises(Impossible, match="does not add up"):
        set_arrows("pull", of, skin(of.mesh, Look()), 0)
