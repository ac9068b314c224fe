"""The axes a shell's forces, strains and layers are told in: one state of stress told in several is one answer."""

from __future__ import annotations

import json
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from typer.testing import CliRunner

from ironstone.cli.every import app
from ironstone.core.errors import Impossible, IronstoneError
from ironstone.core.mesh.places import AtElements
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import Reading
from ironstone.core.reading.resolve import resolve
from ironstone.engine.strength.failure import strength_answer
from ironstone.store import Review, intake
from tests.oracles.test_strength import CARBON
from tests.writing import write_vtu

RANDOM = np.random.default_rng(8)
ANGLES = (30.0, -50.0, 90.0)
AXIS = (0.4, 1.0, -0.3)


def turned(about: np.ndarray, degrees: float) -> np.ndarray:
    """Rodrigues' formula."""
    k = np.array([[0, -about[2], about[1]], [about[2], 0, -about[0]], [-about[1], about[0], 0]])
    a = np.radians(degrees)
    return np.eye(3) + np.sin(a) * k + (1 - np.cos(a)) * k @ k


# Four skewed quadrilaterals and two triangles that lie any way in space, their corners counted from any.
NORMALS, POINTS, CELLS = [], [], []
for n in range(6):
    u, v = np.linalg.qr(RANDOM.normal(size=(3, 2)))[0].T
    NORMALS.append(np.cross(u, v))
    flat = np.array([[0, 0], [1.3, 0.1], [1.1, 0.9], [-0.2, 1.0]]) if n < 4 else np.array([[0, 0], [1.0, 0.2], [0.3, 1.1]])
    flat = np.roll(flat, n % 3, axis=0)
    CELLS.append((9 if n < 4 else 5, list(range(len(POINTS), len(POINTS) + len(flat)))))
    POINTS += [n * np.array([3.0, 0, 0]) + a * u + b * v for a, b in flat]
POINTS = np.array(POINTS)
# What acts in each element, a symmetric tensor in its plane, in space: force, moment, and the transverse force as a vector.
FORCES, MOMENTS = RANDOM.normal(size=(2, 6, 3)) * 50
SHEARS = RANDOM.normal(size=(6, 2)) * 5


def in_space(element: int, values: np.ndarray) -> np.ndarray:
    first, third = laid((1.0, 0.7, 0.2), element), NORMALS[element]
    rows = np.stack([first, np.cross(third, first)])
    if len(values) == 2:
        return values @ rows
    return rows.T @ np.array([[values[0], values[2]], [values[2], values[1]]]) @ rows


def laid(direction: object, element: int) -> np.ndarray:
    d, n = np.asarray(direction, dtype=float), NORMALS[element]
    inside = d - (d @ n) * n
    return inside / np.linalg.norm(inside)


def first_edge(element: int) -> np.ndarray:
    nodes = CELLS[element][1]
    edge = POINTS[nodes[1]] - POINTS[nodes[0]]
    return edge / np.linalg.norm(edge)


ORIENTATION = RANDOM.normal(size=(6, 3))
FIRST: dict[str, Callable[[int], np.ndarray]] = {
    "laminate": lambda e: laid(AXIS, e),
    "first edge": first_edge,
    "global": lambda e: laid((1, 0, 0), e),
    "orientation": lambda e: laid(ORIENTATION[e], e),
}


def told(element: int, values: np.ndarray, first: np.ndarray, engineering: bool = False) -> np.ndarray:
    rows = np.stack([first, np.cross(NORMALS[element], first)])
    here = in_space(element, values)
    if here.ndim == 1:
        return rows @ here
    t = rows @ here @ rows.T
    return np.array([t[0, 0], t[1, 1], t[0, 1] * (2 if engineering else 1)])


def laminate() -> bytes:
    plies = [{"sheet": f"s{k}", "material": "carbon", "thickness": 0.4, "angle": a} for k, a in enumerate(ANGLES)]
    known = {"version": 1, "units": "mm-N-s-t-MPa", "materials": {"carbon": {**CARBON.constants, "S13": 60.0, "S23": 40.0}}}
    return json.dumps(known | {"zones": [{"name": "all", "where": "all", "axis": AXIS, "plies": plies}]}).encode()


def review_of(folder: Path, data: dict[str, np.ndarray]) -> Review:
    review = Review.create(folder / "shells.ironstone")
    path = write_vtu(folder / "shells.vtu", POINTS, CELLS, cell_data={"orientation": ORIENTATION, **data})
    intake(review, [path], "shells", "mm-N-s-t-MPa")
    return review


def forces(way: str) -> dict[str, np.ndarray]:
    def every(values: np.ndarray) -> np.ndarray:
        return np.stack([told(e, values[e], FIRST[way](e)) for e in range(6)])

    shear = np.pad(every(SHEARS), ((0, 0), (0, 1)))
    return {"section_force": every(FORCES), "section_moment": every(MOMENTS), "transverse_force": shear}


@pytest.mark.parametrize("way", FIRST)
def test_section_forces_told_in_any_axes_give_the_plies_one_stress(tmp_path: Path, way: str) -> None:
    (tmp_path / "plain").mkdir()
    plain = review_of(tmp_path / "plain", forces("laminate"))
    review = review_of(tmp_path, forces(way))
    for name in forces(way):
        review.correct_fields(review.result().id, [name], {"surface_axes": way})
    for criterion in ("tsai-wu", "hashin+bond"):
        wanted, found = (strength_answer(r.result(), laminate(), "l.json", criterion, 0)["worst"] for r in (plain, review))
        assert found["exposure"] == pytest.approx(wanted["exposure"])
        assert all(found[k] == wanted[k] for k in ("element", "position", "place", "mode"))
    said = " ".join(strength_answer(review.result(), laminate(), "l.json", "tsai-wu", 0)["assumed"])
    assert "as stated" in said


@pytest.mark.parametrize("way", FIRST)
def test_mid_plane_strain_turns_with_the_change_of_the_angle_as_its_shear(tmp_path: Path, way: str) -> None:
    small = FORCES * 1e-5
    strain = {w: np.stack([told(e, small[e], FIRST[w](e), engineering=True) for e in range(6)]) for w in ("laminate", way)}
    (tmp_path / "plain").mkdir()
    wanted = strength_answer(
        review_of(tmp_path / "plain", {"midplane_strain": strain["laminate"]}).result(), laminate(), "l.json", "tsai-wu", 0
    )["worst"]
    review = review_of(tmp_path, {"midplane_strain": strain[way]})
    review.correct_fields(review.result().id, ["midplane_strain"], {"surface_axes": way})
    found = strength_answer(review.result(), laminate(), "l.json", "tsai-wu", 0)["worst"]
    assert found["exposure"] == pytest.approx(wanted["exposure"])


@pytest.mark.parametrize("way", ["each ply", *FIRST])
def test_layers_told_in_any_axes_are_one_stress_in_the_ply(tmp_path: Path, way: str) -> None:
    """Each ply's own axes stand by its angle from the laminate's."""
    layers = {}
    for k, angle in enumerate(ANGLES):
        firsts = [turned(NORMALS[e], angle) @ FIRST["laminate"](e) if way == "each ply" else FIRST[way](e) for e in range(6)]
        layers[f"Ply {k + 1} Stress"] = np.stack([told(e, FORCES[e] * (k + 1), firsts[e]) for e in range(6)])
    review = review_of(tmp_path, layers)
    result = review.result().id
    review.correct_fields(result, ["Ply Stress"], {"surface_axes": way})
    review.set_laminates(result, json.loads(laminate()), "l.json")
    for k, angle in enumerate(ANGLES):
        own = [told(e, FORCES[e] * (k + 1), turned(NORMALS[e], angle) @ FIRST["laminate"](e)) for e in range(6)]
        for i, measure in enumerate(("11", "22", "12")):
            found = evaluate(
                Reading("stress in plies", measure, layer=str(k + 1)), review.result(), AtElements(np.arange(6))
            ).values
            assert found == pytest.approx(np.stack(own)[:, i]), (measure, k)


def test_what_is_not_stated_is_said_and_what_is_stated_is_not_turned_again(tmp_path: Path) -> None:
    review = review_of(tmp_path, {f"Ply {k} Stress": FORCES for k in (1, 2, 3)})
    source = review.result()
    assert "not stated" in " ".join(resolve(Reading("Ply Stress", "xx"), source).caveats)
    review.correct_fields(source.id, ["Ply Stress"], {"surface_axes": "first edge"})
    stated = review.result()
    assert "in the first edge of each element" in resolve(Reading("Ply Stress", "xx"), stated).sentence()
    with pytest.raises(Impossible, match="as stated"):
        resolve(Reading("Ply Stress", "xx", axes="element"), stated)
    with pytest.raises(IronstoneError, match="cannot be"):
        review.correct_fields(source.id, ["orientation"], {"surface_axes": "first edge"})


def test_the_command_line_states_the_axes_as_the_page_does(tmp_path: Path) -> None:
    review = review_of(tmp_path, {f"Ply {k} Stress": FORCES for k in (1, 2, 3)})
    path = review.path
    review.close()
    words = ["state", str(path), "--field", "Ply Stress", "--surface-axes"]
    assert CliRunner().invoke(app, [*words, "first edge"]).exit_code == 0
    with Review.open(path) as again:
        assert again.result().fields["Ply Stress"].surface_axes == "first edge"
    refused = CliRunner().invoke(app, [*words, "sideways"])
    assert refused.exit_code == 2 and "They can be: each ply; laminate; first edge" in refused.output
