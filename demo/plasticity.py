"""Small-strain J2 plasticity with Voce isotropic and Prager linear kinematic hardening, by radial return.

Voigt order is xx, yy, zz, xy, yz, xz; strains carry engineering shear. Stress in MPa, length in mm.
Source of the algorithm and of the consistent tangent: Simo and Hughes, Computational Inelasticity (1998), box 3.2.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

IDENTITY = np.array([1.0, 1.0, 1.0, 0.0, 0.0, 0.0])
DEVIATOR = np.diag([1.0, 1.0, 1.0, 0.5, 0.5, 0.5]) - np.outer(IDENTITY, IDENTITY) / 3.0
CONTRACTION = np.array([1.0, 1.0, 1.0, 2.0, 2.0, 2.0])


@dataclass(frozen=True)
class Steel:
    """Constants of the plate's steel: moduli and hardening in MPa."""

    young: float = 206_000.0
    poisson: float = 0.3
    yield_stress: float = 285.0
    voce_saturation: float = 45.0
    voce_rate: float = 18.0
    kinematic_modulus: float = 2_600.0

    @property
    def shear(self) -> float:
        return self.young / (2.0 * (1.0 + self.poisson))

    @property
    def bulk(self) -> float:
        return self.young / (3.0 * (1.0 - 2.0 * self.poisson))

    def flow_stress(self, p: np.ndarray) -> np.ndarray:
        return self.yield_stress + self.voce_saturation * (1.0 - np.exp(-self.voce_rate * p))

    def flow_slope(self, p: np.ndarray) -> np.ndarray:
        return self.voce_saturation * self.voce_rate * np.exp(-self.voce_rate * p)


@dataclass(frozen=True)
class State:
    """Internal variables at the Gauss points: plastic strain and back stress (..., 6), equivalent plastic strain (...)."""

    plastic: np.ndarray
    back: np.ndarray
    equivalent: np.ndarray

    @classmethod
    def virgin(cls, shape: tuple[int, ...]) -> State:
        return cls(np.zeros((*shape, 6)), np.zeros((*shape, 6)), np.zeros(shape))


def return_map(steel: Steel, strain: np.ndarray, old: State) -> tuple[np.ndarray, np.ndarray, State]:
    """Stress (..., 6), consistent tangent (..., 6, 6) and new state for a total strain (..., 6) with engineering shear."""
    shear, bulk = steel.shear, steel.bulk
    elastic = strain - old.plastic
    pressure_part = bulk * elastic[..., :3].sum(-1)[..., None] * IDENTITY
    deviator = 2.0 * shear * elastic @ DEVIATOR.T
    relative = deviator - old.back
    norm = np.sqrt((relative**2 * CONTRACTION).sum(-1))
    trial = np.sqrt(1.5) * norm
    plastic = trial > steel.flow_stress(old.equivalent)
    increment = np.zeros_like(trial)
    for _ in range(40):
        p = old.equivalent + increment
        residual = trial - (3.0 * shear + steel.kinematic_modulus) * increment - steel.flow_stress(p)
        slope = 3.0 * shear + steel.kinematic_modulus + steel.flow_slope(p)
        change = np.where(plastic, residual / slope, 0.0)
        increment = np.maximum(increment + change, 0.0)
        if np.abs(change).max(initial=0.0) < 1e-15:
            break
    direction = relative / np.maximum(norm, 1e-30)[..., None]
    flow = np.sqrt(1.5) * increment[..., None] * direction
    stress = pressure_part + deviator - 2.0 * shear * flow
    theta = 1.0 - 3.0 * shear * increment / np.maximum(trial, 1e-30)
    hardening = steel.kinematic_modulus + steel.flow_slope(old.equivalent + increment)
    theta_bar = np.where(plastic, 1.0 / (1.0 + hardening / (3.0 * shear)) - (1.0 - theta), 0.0)
    tangent = (
        bulk * np.outer(IDENTITY, IDENTITY)
        + 2.0 * shear * theta[..., None, None] * DEVIATOR
        - 2.0 * shear * theta_bar[..., None, None] * direction[..., :, None] * direction[..., None, :]
    )
    new = State(
        plastic=old.plastic + flow * CONTRACTION,
        back=old.back + (2.0 / 3.0) * steel.kinematic_modulus * flow,
        equivalent=old.equivalent + increment,
    )
    return stress, tangent, new
