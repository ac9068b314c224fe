"""Laminates and failure criteria against textbook figures, symmetry, hand formulas and brute-force scaling of the load.

The carbon/epoxy with E1 181, E2 10.3, G12 7.17 GPa, nu12 0.28 is the common textbook material (Tsai and Hahn, Introduction to
Composite Materials, 1980, from memory); its strengths 1500, 1500, 40, 246, 68 MPa are of the same book.
"""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from typer.testing import CliRunner

from ironstone.cli.every import app
from ironstone.core.errors import Impossible, IronstoneError, NotFound
from ironstone.core.strength.criteria import CRITERIA, criterion_of
from ironstone.core.strength.laminate import Laminate, Ply, PlyMaterial, of_angles
from ironstone.formats.laminates import parse_laminates

CARBON = PlyMaterial(
    "carbon",
    {"E1": 181e3, "E2": 10.3e3, "G12": 7.17e3, "nu12": 0.28, "Xt": 1500.0, "Xc": 1500.0, "Yt": 40.0, "Yc": 246.0, "S12": 68.0,
     "a1": 0.02e-6, "a2": 22.5e-6},
)  # fmt: skip
STEEL = PlyMaterial("steel", {"E1": 210e3, "E2": 210e3, "G12": 210e3 / 2.6, "nu12": 0.3})
UNIAXIAL = {"Xt": (1, 0, 0), "Xc": (-1, 0, 0), "Yt": (0, 1, 0), "Yc": (0, -1, 0), "S12": (0, 0, 1)}
stresses = st.tuples(st.floats(-1400, 1400), st.floats(-240, 240), st.floats(-66, 66)).map(np.array)


def test_the_reduced_stiffness_of_the_textbook_material() -> None:
    q = CARBON.reduced_stiffness / 1e3
    assert (q[0, 0], q[1, 1], q[0, 1]) == (
        pytest.approx(181.8, abs=0.05),
        pytest.approx(10.35, abs=0.01),
        pytest.approx(2.90, abs=0.005),
    )
    turned = of_angles(CARBON, 1.0, [45]).abd[:3, :3] / 1e3
    # Tsai and Hahn's table of [45]: 56.66, 42.32, 46.59, 42.87 GPa.
    assert (turned[0, 0], turned[0, 1], turned[2, 2], turned[0, 2]) == pytest.approx((56.66, 42.32, 46.59, 42.87), abs=0.02)


def test_one_isotropic_ply_is_a_plate() -> None:
    abd = of_angles(STEEL, 3.0, [37]).abd
    assert abd[0, 0] == pytest.approx(210e3 * 3 / 0.91)
    assert abd[3, 3] == pytest.approx(210e3 * 27 / 12 / 0.91)
    np.testing.assert_allclose(abd[:3, 3:], 0, atol=1e-6)


def test_a_quasi_isotropic_stack_is_isotropic_in_its_plane_and_a_symmetric_one_does_not_couple() -> None:
    for angles in ([0, 45, -45, 90, 90, -45, 45, 0], [0, 60, -60, -60, 60, 0]):
        stack = of_angles(CARBON, 0.125, angles)
        a = stack.abd[:3, :3]
        assert a[0, 0] == pytest.approx(a[1, 1]) and a[2, 2] == pytest.approx((a[0, 0] - a[0, 1]) / 2)
        np.testing.assert_allclose(stack.abd[:3, 3:], 0, atol=1e-9 * a[0, 0])
        assert stack.symmetric and stack.balanced
    assert not of_angles(CARBON, 0.125, [0, 90]).symmetric and of_angles(CARBON, 0.125, [0, 90]).balanced
    assert not of_angles(CARBON, 0.125, [30, 30]).balanced


def test_two_crossed_plies_couple_as_by_hand() -> None:
    """B11 = (Q22 - Q11) h^2 / 8 with the ply at 0 below."""
    stack = of_angles(CARBON, 0.5, [0, 90])
    q = CARBON.reduced_stiffness
    assert stack.abd[0, 3] == pytest.approx((q[1, 1] - q[0, 0]) / 8)


def test_from_another_reference_surface_the_stiffness_is_that_moved_there() -> None:
    plain, moved = (Laminate(tuple(Ply(CARBON, 0.2, a) for a in (0, 30, 90)), e) for e in (0.0, 0.7))
    a, b, d = plain.abd[:3, :3], plain.abd[:3, 3:], plain.abd[3:, 3:]
    np.testing.assert_allclose(moved.abd[:3, 3:], b - 0.7 * a, rtol=1e-9, atol=1e-6)
    np.testing.assert_allclose(moved.abd[3:, 3:], d - 1.4 * b + 0.49 * a, rtol=1e-9, atol=1e-6)


@given(st.lists(st.floats(-90, 90), min_size=1, max_size=7), st.lists(st.floats(-100, 100), min_size=6, max_size=6))
def test_the_stress_of_the_plies_adds_up_to_the_load(angles: list[float], load: list[float]) -> None:
    stack = Laminate(tuple(Ply(CARBON, 0.1 + 0.05 * i, a) for i, a in enumerate(angles)), 0.3)
    _, stress = stack.in_plies(stack.strain_of(np.array(load)))
    force, moment = np.zeros(3), np.zeros(3)
    for ply, own, low, high in zip(stack.plies, stress, stack.heights[:-1], stack.heights[1:], strict=True):
        c, s = np.cos(np.radians(ply.angle)), np.sin(np.radians(ply.angle))
        back = np.array([[c * c, s * s, -2 * c * s], [s * s, c * c, 2 * c * s], [c * s, -c * s, c * c - s * s]])
        bottom, middle, top = own @ back.T
        # Simpson is exact: stress is linear in the ply, its moment of the second degree.
        force += (high - low) / 6 * (bottom + 4 * middle + top)
        moment += (high - low) / 6 * (low * bottom + 4 * (low + high) / 2 * middle + high * top)
    np.testing.assert_allclose(np.concatenate([force, moment]), load, atol=1e-7 * max(1.0, float(np.abs(load).max())))


def test_free_expansion_makes_no_stress_in_one_ply_and_a_balance_in_two() -> None:
    alone = of_angles(CARBON, 1.0, [25])
    np.testing.assert_allclose(alone.in_plies(alone.strain_of(np.zeros(6), -100), -100)[1], 0, atol=1e-9)
    crossed = of_angles(CARBON, 0.5, [0, 90, 90, 0])
    stress = crossed.in_plies(crossed.strain_of(np.zeros(6), -100), -100)[1][:, 1]
    assert stress[0, 1] > 10 and stress[0, 0] + stress[1, 1] == pytest.approx(0, abs=1e-9), (
        "along x: fibres of one, matrix of the other"
    )


@pytest.mark.parametrize("name", CRITERIA)
@pytest.mark.parametrize("strength", UNIAXIAL)
def test_at_its_own_strength_every_criterion_is_one(name: str, strength: str) -> None:
    at = CARBON[strength] * np.array(UNIAXIAL[strength], dtype=float)
    found = CRITERIA[name].check(CARBON, at)
    assert (found.index[0], found.reserve[0]) == (pytest.approx(1.0), pytest.approx(1.0))
    half = CRITERIA[name].check(CARBON, at / 2)
    assert half.reserve[0] == pytest.approx(2.0) and half.index[0] < 1


@pytest.mark.parametrize(
    ("s1", "s2", "t"), [(500.0, 20.0, 30.0), (-600.0, -90.0, -25.0), (300.0, -60.0, 10.0), (-200.0, 15.0, 50.0)]
)
def test_under_combined_stress_every_index_is_the_formula_as_it_is_printed(s1: float, s2: float, t: float) -> None:
    """Each written out here once more, after its paper, with the strengths as numbers."""
    xt, xc, yt, yc, s, nu = 1500.0, 1500.0, 40.0, 246.0, 68.0, 0.28
    x, y = xt if s1 > 0 else xc, yt if s2 > 0 else yc
    st, e1, e2 = yc / 2, 181e3, 10.3e3
    fibre = (s1 / xt) ** 2 + (t / s) ** 2 if s1 > 0 else (s1 / xc) ** 2
    matrix = (s2 / yt) ** 2 + (t / s) ** 2
    if s2 < 0:
        matrix = (s2 / (2 * st)) ** 2 + ((yc / (2 * st)) ** 2 - 1) * s2 / yc + (t / s) ** 2
    strain1, strain2 = (s1 - nu * s2) / e1, s2 / e2 - nu * s1 / e1
    expected = {
        "max-stress": max(abs(s1) / x, abs(s2) / y, abs(t) / s),
        "max-strain": max(
            strain1 * e1 / xt, -strain1 * e1 / xc, strain2 * e2 / yt, -strain2 * e2 / yc, abs(t) / s
        ),
        "tsai-hill": (s1 / x) ** 2 - s1 * s2 / x**2 + (s2 / y) ** 2 + (t / s) ** 2,
        "tsai-wu": s1**2 / (xt * xc) + s2**2 / (yt * yc) + (t / s) ** 2 + (1 / xt - 1 / xc) * s1 + (1 / yt - 1 / yc) * s2
        - s1 * s2 / np.sqrt(xt * xc * yt * yc),
        "hoffman": (s1**2 - s1 * s2) / (xt * xc) + s2**2 / (yt * yc) + (t / s) ** 2
        + (1 / xt - 1 / xc) * s1 + (1 / yt - 1 / yc) * s2,
        "hashin": max(fibre, matrix),
    }  # fmt: skip
    for name, value in expected.items():
        assert CRITERIA[name].check(CARBON, np.array([s1, s2, t])).index[0] == pytest.approx(value), name
    other = PlyMaterial("other", {**CARBON.constants, "S23": 90.0, "F12": -1e-6})
    wu = expected["tsai-wu"] + s1 * s2 / np.sqrt(xt * xc * yt * yc) - 2e-6 * s1 * s2
    assert CRITERIA["tsai-wu"].check(other, np.array([s1, s2, t])).index[0] == pytest.approx(wu)
    if s2 < 0 and s1 < 0:
        weaker = (s2 / 180.0) ** 2 + ((yc / 180.0) ** 2 - 1) * s2 / yc + (t / s) ** 2
        assert CRITERIA["hashin"].check(other, np.array([s1, s2, t])).index[0] == pytest.approx(max(fibre, weaker))


def brute(name: str, scaled: np.ndarray, fixed: np.ndarray) -> float:
    """The first factor at which the criterion's own expression reaches 1, by small steps and halving."""
    factors = np.linspace(0, 40, 4001)
    index = CRITERIA[name].check(CARBON, factors[:, None] * scaled + fixed).index
    over = np.flatnonzero(index >= 1)
    if not len(over):
        return np.inf
    low, high = factors[max(over[0] - 1, 0)], factors[over[0]]
    for _ in range(60):
        middle = (low + high) / 2
        reached = CRITERIA[name].check(CARBON, middle * scaled + fixed).index[0] >= 1
        low, high = (low, middle) if reached else (middle, high)
    return float(high)


@pytest.mark.parametrize("name", CRITERIA)
@settings(max_examples=30)
@given(scaled=stresses, fixed=st.tuples(st.floats(-60, 60), st.floats(-20, 20), st.floats(-20, 20)).map(np.array))
def test_the_reserve_factor_is_what_scaling_the_load_by_force_gives(name: str, scaled: np.ndarray, fixed: np.ndarray) -> None:
    if np.linalg.norm(scaled / [1500, 40, 68]) < 0.1:
        return
    for still in (np.zeros(3), fixed):
        found = CRITERIA[name].check(CARBON, scaled, still)
        expected = brute(name, scaled, still)
        if np.isfinite(expected):
            assert found.reserve[0] == pytest.approx(expected, rel=2e-3), found.modes[found.mode[0]]
        else:
            assert found.reserve[0] > 39.9


@given(stresses)
def test_without_a_constant_part_the_reserve_scales_as_the_inverse_of_the_load(stress: np.ndarray) -> None:
    for criterion in CRITERIA.values():
        one, two = (criterion.check(CARBON, k * stress).reserve[0] for k in (1.0, 2.0))
        assert one == pytest.approx(2 * two, rel=1e-9) or np.isinf(one)


def test_the_modes_say_what_fails_and_switch_where_the_normal_stress_changes_sign() -> None:
    hashin = CRITERIA["hashin"]
    for stress, words in (((1000, 1, 5), "fibre, tension"), ((-1400, 1, 5), "fibre, compression"),
                          ((10, 30, 20), "matrix, tension"), ((10, -200, 20), "matrix, compression")):  # fmt: skip
        found = hashin.check(CARBON, np.array(stress, dtype=float))
        assert found.modes[found.mode[0]] == words
    either = [hashin.check(CARBON, np.array([-1e-6, s, 50.0])) for s in (1e-9, -1e-9)]
    assert either[0].index[0] == pytest.approx(either[1].index[0], rel=1e-6), "at no normal stress both are the shear term"
    assert [o.modes[o.mode[0]] for o in either] == ["matrix, tension", "matrix, compression"]


def test_puck_is_continuous_between_its_modes() -> None:
    puck = CRITERIA["puck"]
    angles = np.linspace(0, np.pi, 200_001)
    around = np.column_stack([np.zeros_like(angles), -60 * np.cos(angles), 60 * np.sin(angles)])
    found = puck.check(CARBON, around)
    assert np.abs(np.diff(found.index)).max() < 1e-4
    letters = {found.modes[m][-2:] for m in np.unique(found.mode)}
    assert len(letters) == 3, "A, B and C are all met on the way round"


def test_the_off_axis_strength_of_one_ply_is_the_formula_of_the_book() -> None:
    """Tsai-Hill: 1/s^2 = c^4/X^2 + (1/S^2 - 1/X^2) c^2 s^2 + s^4/Y^2 (Jones, from memory)."""
    for angle in (5, 20, 45, 70, 90):
        stack = of_angles(CARBON, 1.0, [angle])
        stress = stack.in_plies(stack.strain_of(np.array([1.0, 0, 0, 0, 0, 0])))[1][0, 1]
        c, s = np.cos(np.radians(angle)), np.sin(np.radians(angle))
        inverse = c**4 / 1500**2 + (1 / 68**2 - 1 / 1500**2) * c**2 * s**2 + s**4 / 40**2
        assert CRITERIA["tsai-hill"].check(CARBON, stress).reserve[0] == pytest.approx(1 / np.sqrt(inverse))


def test_where_there_is_no_stress_there_is_no_index() -> None:
    for criterion in CRITERIA.values():
        found = criterion.check(CARBON, np.array([[np.nan, 1, 1], [1.0, 1, 1]]))
        assert np.isnan(found.index[0]) and np.isnan(found.reserve[0]) and np.isfinite(found.index[1])
        assert np.isinf(criterion.check(CARBON, np.zeros(3)).reserve[0]), "no load, no failure at any factor"


def test_what_a_criterion_lacks_and_one_there_is_not_are_named() -> None:
    assert criterion_of("tsai-wu").lacking(STEEL) == ["Xt", "Xc", "Yt", "Yc", "S12"]
    with pytest.raises(NotFound, match="no criterion 'guess'"):
        criterion_of("guess")
    with pytest.raises(Impossible, match="has no E1"):
        PlyMaterial("bare", {}).reduced_stiffness  # noqa: B018
    with pytest.raises(Impossible, match="no elastic material"):
        PlyMaterial("odd", {"E1": 1.0, "E2": 9.0, "G12": 1.0, "nu12": 0.9}).reduced_stiffness  # noqa: B018


FILE = {
    "version": 1,
    "units": "mm-N-s-t-MPa",
    "materials": {"carbon": CARBON.constants | {"source": "made up"}},
    "zones": [
        {
            "name": "wall",
            "where": "all",
            "plies": [
                {"sheet": f"s{i}", "material": "carbon", "thickness": 0.125, "angle": a} for i, a in enumerate((0, 90, 90, 0))
            ],
        }
    ],
}


def test_a_laminate_from_the_command_line(tmp_path: Path) -> None:
    path = tmp_path / "wall.json"
    path.write_text(json.dumps(FILE))
    words = ["laminate", str(path), "--load", "100,0,0,0,0,0", "--criterion", "max-stress", "--json"]
    ran = CliRunner().invoke(app, words)
    assert ran.exit_code == 0, ran.stderr
    (zone,) = json.loads(ran.stdout)["zones"]
    assert zone["thickness"] == pytest.approx(0.5) and len(zone["plies"]) == 12
    np.testing.assert_allclose(zone["B"], 0, atol=1e-6)
    ply = zone["plies"][3]
    assert (ply["position"], ply["sheet"], ply["place"], ply["angle"]) == (2, "s1", "bottom", 90)
    # By hand: strain N/A of a cross-ply; the crossed plies carry E2 across their fibres.
    q = CARBON.reduced_stiffness * 0.25
    a = np.array([[q[0, 0] + q[1, 1], 2 * q[0, 1]], [2 * q[0, 1], q[0, 0] + q[1, 1]]])
    strain = np.linalg.solve(a, [100, 0])
    across = 4 * (q[0, 1] * strain[1] + q[1, 1] * strain[0])
    assert ply["stress"][1] == pytest.approx(across) and ply["index"] == pytest.approx(across / 40)
    assert ply["reserve"] == pytest.approx(40 / across) and ply["mode"] == "matrix, tension"
    assert zone["worst"]["position"] in (2, 3)
    plain = json.loads(CliRunner().invoke(app, ["laminate", str(path), "--json"]).stdout)["zones"][0]
    assert plain["strain"] is None and plain["plies"][0]["stress"] is None
    assert "reserve" in CliRunner().invoke(app, words[:-1]).stdout
    for bad in (["--load", "1,2"], ["--load", "1,2,3,4,5,nan"], ["--criterion", "guess"]):
        refused = CliRunner().invoke(app, ["laminate", str(path), *bad])
        assert refused.exit_code == 2 and "Traceback" not in refused.stderr


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"version": 2}, "is of version 2"),
        ({"units": "feet"}, "states no units"),
        ({"materials": {}}, "'materials' is missing"),
        ({"materials": {"carbon": {**CARBON.constants, "Yt": -40}}}, "Yt of 'carbon' is not above zero"),
        ({"materials": {"carbon": {**CARBON.constants, "E1": True}}}, "E1 of 'carbon' is not a number"),
        ({"zones": []}, "'zones' is missing"),
        ({"zones": [{"name": "a", "plies": [{"material": "wood", "thickness": 1}]}]}, "is of no material of the file"),
        ({"zones": [{"name": "a", "plies": [{"material": "carbon", "thickness": 0}]}]}, "is not above zero"),
        ({"zones": [{"name": "a", "plies": [{"material": "carbon", "thickness": 1}]}] * 2}, "Two zones are called 'a'"),
        ({"zones": [{"plies": []}]}, "Zone 1 has no name"),
    ],
)
def test_what_is_wrong_in_a_laminate_file_is_told(change: dict, said: str) -> None:
    with pytest.raises(IronstoneError, match=said):
        parse_laminates(json.dumps({**FILE, **change}).encode(), "wall.json")


@given(st.binary(max_size=200))
def test_whatever_a_laminate_file_holds_the_answer_is_laminates_or_a_reason(data: bytes) -> None:
    with pytest.raises(IronstoneError):
        parse_laminates(data, "wall.json")
