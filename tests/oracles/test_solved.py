"""Published and closed-form problems, solved here with scikit-fem, taken in and read through the command line alone.

Elliptic membrane (published standard benchmark LE1, plane stress: 92.7 MPa at the inner end of its long axis; from memory). Plate
with a small hole: Kirsch (1898). Thick cylinder: Lame (1852). Bent beam: s = M y / I. Sphere under pressure: hydrostatic.
"""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest
import skfem
from skfem.helpers import ddot, dot, sym_grad, trace
from typer.testing import CliRunner

from ironstone.cli.every import app
from tests.oracles.plane import Plane
from tests.writing import write_vtu


def reply(*words: str | Path) -> dict:
    answer = CliRunner().invoke(app, [*map(str, words), "--json"])
    assert answer.exit_code == 0, answer.stderr or answer.output
    found: dict = json.loads(answer.stdout)
    return found


def none_held(x: np.ndarray, y: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """A quarter of a body: no motion across its two planes of symmetry."""
    return np.abs(x) < 1e-9, np.abs(y) < 1e-9


@pytest.mark.parametrize(("pieces", "near"), [((4, 6), 0.03), ((10, 14), 0.006)])
def test_the_elliptic_membrane(tmp_path: Path, pieces: tuple[int, int], near: float) -> None:
    def ring(r: np.ndarray, s: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        return (2 + 1.25 * r) * np.cos(s * np.pi / 2), (1 + 1.75 * r) * np.sin(s * np.pi / 2)

    model = Plane("plane stress", 210e9, 0.3, 0.1)
    nodes = model.write(tmp_path / "le1.vtu", ring, pieces, none_held, {"right": lambda x, n: 10e6 * n})
    review = tmp_path / "le1.ironstone"
    assert reply("intake", review, tmp_path / "le1.vtu", "--units", "m-N-s-kg-Pa")["results"][0]["name"] == "le1"
    node = int(np.argmin(np.linalg.norm(nodes - [2, 0], axis=1))) + 1
    at = reply("read", review, "--field", "stress", "--measure", "yy", "--unit", "MPa", "--at", f"node:{node}")
    assert [v["value"] for v in at["values"]] == pytest.approx([92.7], rel=near)
    high = reply("read", review, "--field", "stress", "--measure", "yy", "--unit", "MPa", "--extremes")["max"]
    assert high["value"] == pytest.approx(92.7, rel=near) and high["xyz"] == pytest.approx([2, 0, 0])
    balance = reply("balance", review)
    assert balance["applied"]["force"][:2] == pytest.approx([10e6 * 0.1 * 2.75, 10e6 * 0.1 * 3.25], rel=2e-3), "p t times half axes"
    assert np.linalg.norm(balance["residual"]["force"]) < 1e-6 * np.linalg.norm(balance["applied"]["force"])


@pytest.mark.parametrize(("pieces", "near"), [((8, 6), 0.06), ((20, 16), 0.02)])
def test_a_small_hole_in_a_plate_in_tension(tmp_path: Path, pieces: tuple[int, int], near: float) -> None:
    """Three times the far stress at the hole's side, minus once at its crown; a plate twenty radii wide."""

    def plate(r: np.ndarray, s: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        angle, reach = s * np.pi / 2, 20.0
        outer = reach / np.maximum(np.cos(angle), np.sin(angle))
        radius = outer**r
        return radius * np.cos(angle), radius * np.sin(angle)

    def pull(x: np.ndarray, n: np.ndarray) -> np.ndarray:
        return np.stack([100.0 * (x[0] > 20 - 1e-6), 0 * x[0]])

    nodes = Plane("plane stress", 70e3, 0.33, 2.0).write(tmp_path / "hole.vtu", plate, pieces, none_held, {"right": pull})
    review = tmp_path / "hole.ironstone"
    reply("intake", review, tmp_path / "hole.vtu", "--units", "mm-N-s-t-MPa")
    for place, measure, exact in (([0, 1], "xx", 300.0), ([1, 0], "yy", -100.0)):
        node = int(np.argmin(np.linalg.norm(nodes - place, axis=1))) + 1
        value = reply("read", review, "--field", "stress", "--measure", measure, "--at", f"node:{node}")["values"][0]["value"]
        assert value == pytest.approx(exact, rel=near + 0.01), "a plate that wide is 1 % off one without end"
    reply("state", review, "--axes", "hole")
    hoop = reply("read", review, "--field", "stress", "--measure", "hoop", "--axes", "hole", "--extremes")
    assert hoop["max"]["value"] == pytest.approx(300.0, rel=near + 0.01) and hoop["max"]["xyz"] == pytest.approx(
        [0, 1, 0], abs=1e-9
    )
    assert reply("balance", review)["verdict"] == "agrees"


def lame(radius: float) -> tuple[float, float]:
    """Radial and hoop stress of a cylinder of 10 and 20 mm under 60 MPa from within."""
    mean = 60 * 100 / 300
    return mean - mean * 400 / radius**2, mean + mean * 400 / radius**2


@pytest.mark.parametrize(("pieces", "near"), [((3, 4), 0.06), ((8, 8), 0.012)])
def test_a_thick_cylinder_in_plane_strain(tmp_path: Path, pieces: tuple[int, int], near: float) -> None:
    def ring(r: np.ndarray, s: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        return (10 + 10 * r) * np.cos(s * np.pi / 2), (10 + 10 * r) * np.sin(s * np.pi / 2)

    Plane("plane strain", 210e3, 0.3).write(tmp_path / "ring.vtu", ring, pieces, none_held, {"left": lambda x, n: -60.0 * n})
    review = tmp_path / "ring.ironstone"
    reply("intake", review, tmp_path / "ring.vtu", "--units", "mm-N-s-t-MPa")
    reply("state", review, "--model", "plane strain", "--axes", "bore")
    for radius, averaging in ((10.0, "off"), (15.0, "part"), (20.0, "off")):
        at = f"point:{radius / np.sqrt(2)},{radius / np.sqrt(2)},0"
        for measure, exact in zip(("radial", "hoop"), lame(radius), strict=True):
            answer = reply(
                "read", review, "--field", "stress", "--measure", measure, "--axes", "bore", "--at", at, "--averaging", averaging
            )
            assert answer["values"][0]["value"] == pytest.approx(exact, abs=near * 100), (radius, measure)
    axial = reply("read", review, "--field", "stress", "--measure", "zz", "--at", "point:14,3,0")["values"][0]["value"]
    assert axial == pytest.approx(2 * 0.3 * 20, abs=near * 20), "nu (s_r + s_h), the same everywhere"


@pytest.mark.parametrize(("pieces", "near"), [((3, 2), 0.06), ((8, 3), 0.012)])
def test_a_thick_cylinder_as_a_body_of_revolution(tmp_path: Path, pieces: tuple[int, int], near: float) -> None:
    """Radii 10 to 20, height 8, held along the axis at both ends; pressure from within, over the whole turn."""

    def section(r: np.ndarray, s: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        return 10 + 10 * r, 8 * s

    def held(x: np.ndarray, y: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        return np.zeros(len(x), bool), (np.abs(y) < 1e-9) | (np.abs(y - 8) < 1e-9)

    model = Plane("axisymmetric", 210e3, 0.3)
    model.write(tmp_path / "turned.vtu", section, pieces, held, {"left": lambda x, n: -60.0 * n})
    review = tmp_path / "turned.ironstone"
    reply("intake", review, tmp_path / "turned.vtu", "--units", "mm-N-s-t-MPa")
    reply("state", review, "--model", "axisymmetric")
    for radius in (10.0, 20.0):
        for measure, exact in zip(("xx", "zz"), lame(radius), strict=True):
            value = reply("read", review, "--field", "stress", "--measure", measure, "--at", f"point:{radius},4,0")["values"][0][
                "value"
            ]
            assert value == pytest.approx(exact, abs=near * 100), (radius, measure)
    balance = reply("balance", review)
    assert balance["verdict"] == "agrees", balance
    assert np.abs(balance["applied"]["force"]).max() < 1e-6, "pressure on a bore has no resultant round the axis"


@pytest.mark.parametrize(("pieces", "near"), [((4, 1), 0.06), ((10, 3), 0.012)])
def test_a_cantilever_under_its_tips_shear(tmp_path: Path, pieces: tuple[int, int], near: float) -> None:
    """100 x 10 x 5 mm under 200 N at the tip: root fibre stress M c / I, deflection P L^3 / 3 E I and the part of shear."""

    def beam(r: np.ndarray, s: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        return 100 * r, 10 * (s - 0.5)

    inertia, shear = 5 * 10**3 / 12, 200.0

    def parabola(x: np.ndarray, n: np.ndarray) -> np.ndarray:
        return np.stack([0 * x[1], -shear / (2 * inertia) * (25 - x[1] ** 2)])

    def held(x: np.ndarray, y: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        return np.abs(x) < 1e-9, (np.abs(x) < 1e-9) & (np.abs(y) < 1e-9)

    nodes = Plane("plane stress", 70e3, 0.0, 5.0).write(
        tmp_path / "beam.vtu", beam, pieces, held, {"right": parabola, "left": lambda x, n: -parabola(x, n)}
    )
    review = tmp_path / "beam.ironstone"
    reply("intake", review, tmp_path / "beam.vtu", "--units", "mm-N-s-t-MPa")
    for x in (0.0, 50.0):
        node = int(np.argmin(np.linalg.norm(nodes - [x, 5], axis=1))) + 1
        value = reply("read", review, "--field", "stress", "--measure", "xx", "--averaging", "part", "--at", f"node:{node}")[
            "values"
        ][0]["value"]
        assert value == pytest.approx(shear * (100 - x) * 5 / inertia, rel=near)
    tip = int(np.argmin(np.linalg.norm(nodes - [100, 0], axis=1))) + 1
    down = reply("read", review, "--field", "displacement", "--measure", "y", "--at", f"node:{tip}")["values"][0]["value"]
    slender = shear * 100**3 / (3 * 70e3 * inertia)
    assert -down == pytest.approx(slender * (1 + 0.6 * (10 / 100) ** 2), rel=near / 4), "shear adds 6/5 P L / G A"
    middle = reply("read", review, "--field", "stress", "--measure", "xx", "--at", "point:50,0,0")["values"]
    assert abs(middle[0]["value"]) < 0.002 * shear * 50 * 5 / inertia, "nothing on the neutral axis"


def test_a_sphere_under_pressure_has_no_distortion_to_tell_of(tmp_path: Path) -> None:
    """Pressed by 80 MPa all round, linear tetrahedra hold the exact answer: -80 every way, no triaxiality, no Lode angle."""
    ball = skfem.MeshTet.init_ball(2)
    element = skfem.ElementVector(skfem.ElementTetP1())
    basis = skfem.CellBasis(ball, element)
    young, poisson = 1000.0, 0.25
    lam, mu = young * poisson / (1 + poisson) / (1 - 2 * poisson), young / 2 / (1 + poisson)

    @skfem.BilinearForm
    def stiffness(u, v, _w):  # type: ignore[no-untyped-def]
        e, d = sym_grad(u), sym_grad(v)
        return lam * trace(e) * trace(d) + 2 * mu * ddot(e, d)

    @skfem.LinearForm
    def press(v, w):  # type: ignore[no-untyped-def]
        return -80.0 * dot(w.n, v)

    middle = int(np.argmin(np.linalg.norm(ball.p, axis=0)))
    along = int(np.argmax(ball.p[0] - np.abs(ball.p[1]) - np.abs(ball.p[2])))
    across = int(np.argmax(ball.p[1] - np.abs(ball.p[0]) - np.abs(ball.p[2])))
    dofs = basis.nodal_dofs
    fixed = np.array([*dofs[:, middle], dofs[1, along], dofs[2, along], dofs[2, across]])
    u = skfem.solve(*skfem.condense(stiffness.assemble(basis), press.assemble(skfem.FacetBasis(ball, element)), D=fixed))
    at = skfem.CellBasis(ball, element, quadrature=(np.eye(4)[:, 1:].T, np.ones(4)))
    e = np.asarray(sym_grad(at.interpolate(u)))
    full = 2 * mu * e + lam * (e[0, 0] + e[1, 1] + e[2, 2]) * np.eye(3)[:, :, None, None]
    stress = np.stack([full[i, j] for i, j in ((0, 0), (1, 1), (2, 2), (0, 1), (1, 2), (0, 2))], -1).reshape(-1, 6)
    raw = ball.t.T.ravel()
    cells = [(10, list(range(4 * i, 4 * i + 4))) for i in range(ball.t.shape[1])]
    for kind in (np.float64, np.float32):
        name = f"sphere_{np.dtype(kind).name}"
        path = write_vtu(tmp_path / f"{name}.vtu", ball.p.T[raw], cells, {"stress": stress.astype(kind), "GlobalIds": raw + 1})
        review = tmp_path / f"{name}.ironstone"
        reply("intake", review, path, "--units", "mm-N-s-t-MPa")
        pressure = reply("read", review, "--field", "stress", "--measure", "pressure", "--extremes")
        assert (pressure["min"]["value"], pressure["max"]["value"]) == pytest.approx((80.0, 80.0))
        for measure in ("triaxiality", "lode-angle"):
            answer = reply("read", review, "--field", "stress", "--measure", measure, "--extremes")
            assert answer["min"] is None and answer["max"] is None
            assert any("nothing distorts there" in c for c in answer["caveats"])
