"""The demo's steel against closed forms of uniaxial and shear plasticity (from common mechanics)."""

from __future__ import annotations

import numpy as np
import pytest

from demo.plasticity import State, Steel, return_map

STEEL = Steel()
PERFECT = Steel(voce_saturation=0.0, kinematic_modulus=0.0)


def shear_path(steel: Steel, gammas: np.ndarray) -> np.ndarray:
    state, stresses = State.virgin((1,)), []
    for gamma in gammas:
        strain = np.array([[0, 0, 0, gamma, 0, 0]])
        stress, _, state = return_map(steel, strain, state)
        stresses.append(stress[0, 3])
    return np.array(stresses)


def test_below_yield_the_steel_is_elastic() -> None:
    strain = np.array([[1e-3, 0, 0, 0, 0, 0]])
    stress, tangent, state = return_map(STEEL, strain, State.virgin((1,)))
    lame = STEEL.bulk - 2 / 3 * STEEL.shear
    assert stress[0] == pytest.approx([(lame + 2 * STEEL.shear) * 1e-3, lame * 1e-3, lame * 1e-3, 0, 0, 0])
    assert state.equivalent[0] == 0.0
    assert tangent[0] @ strain[0] == pytest.approx(stress[0])


def test_perfect_plasticity_in_shear_stops_at_yield_over_root_three() -> None:
    tau = shear_path(PERFECT, np.linspace(0, 0.05, 40))
    assert tau[-1] == pytest.approx(PERFECT.yield_stress / np.sqrt(3.0))


def test_unloading_is_elastic_and_kinematic_hardening_brings_yield_forward() -> None:
    """Prager: the elastic range keeps its width of twice the flow stress, so yield in reverse comes early."""
    steel = Steel(voce_saturation=0.0)
    out = np.linspace(0, 0.03, 60)
    back = np.linspace(0.03, -0.03, 240)[1:]
    tau = shear_path(steel, np.concatenate([out, back]))
    top = tau[59]
    slopes = np.diff(tau[59:]) / np.diff(np.concatenate([out[-1:], back]))
    assert slopes[0] == pytest.approx(steel.shear, rel=1e-6)
    yielded = int(np.argmax(slopes < 0.5 * steel.shear))
    assert tau[59 + yielded] == pytest.approx(top - 2 * steel.yield_stress / np.sqrt(3.0), abs=25.0)
    assert top > steel.yield_stress / np.sqrt(3.0)


def test_the_stress_lies_on_the_yield_surface_after_any_plastic_step() -> None:
    rng = np.random.default_rng(4)
    strain = rng.normal(0, 5e-3, (50, 6))
    stress, _, state = return_map(STEEL, strain, State.virgin((50,)))
    relative = stress - state.back
    relative[:, :3] -= relative[:, :3].mean(1, keepdims=True)
    size = np.sqrt(1.5 * ((relative[:, :3] ** 2).sum(1) + 2 * (relative[:, 3:] ** 2).sum(1)))
    yielding = state.equivalent > 0
    assert yielding.sum() > 25
    assert size[yielding] == pytest.approx(STEEL.flow_stress(state.equivalent[yielding]), rel=1e-9)


def test_plastic_flow_keeps_the_volume() -> None:
    strain = np.random.default_rng(5).normal(0, 1e-2, (20, 6))
    _, _, state = return_map(STEEL, strain, State.virgin((20,)))
    assert np.abs(state.plastic[:, :3].sum(1)).max() < 1e-12


def test_the_tangent_is_the_derivative_of_the_stress() -> None:
    rng = np.random.default_rng(6)
    _, _, old = return_map(STEEL, rng.normal(0, 3e-3, (10, 6)), State.virgin((10,)))
    strain = rng.normal(0, 4e-3, (10, 6))
    _, tangent, _ = return_map(STEEL, strain, old)
    for column in range(6):
        step = np.zeros(6)
        step[column] = 1e-8
        ahead, behind = return_map(STEEL, strain + step, old)[0], return_map(STEEL, strain - step, old)[0]
        assert (ahead - behind) / 2e-8 == pytest.approx(tangent[:, :, column], rel=1e-3, abs=60.0)
