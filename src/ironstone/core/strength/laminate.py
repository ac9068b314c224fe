"""Classical lamination theory: from plies to the stiffness of a laminate, and from its loads to the stress in every ply.

Jones, Mechanics of Composite Materials (1999), chapters 2 and 4, from memory. Strains and stresses of a ply are in its own axes,
11, 22 and 12, shear strain as gamma. z runs from the reference surface, from the first ply (the bottom) to the last.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np

from ironstone.core.errors import Impossible
from ironstone.core.mesh.mesh import Float

PLACES = ("bottom", "middle", "top")
ELASTIC = ("E1", "E2", "G12", "nu12")


@dataclass(frozen=True)
class PlyMaterial:
    """A ply's constants by their names: E1, E2, G12, nu12; a1, a2 (thermal expansion); strengths, positive: Xt, Xc, Yt, Yc, S12,
    S13 and S23 between the plies. notes: what is said of them, as source, basis, direction."""

    name: str
    constants: dict[str, float]
    notes: dict[str, str] = field(default_factory=dict)

    def __getitem__(self, name: str) -> float:
        if name not in self.constants:
            raise Impossible(f"The material '{self.name}' has no {name}.", "State it in the laminate's file.")
        return self.constants[name]

    def get(self, name: str, usual: float) -> float:
        return self.constants.get(name, usual)

    @cached_property
    def reduced_stiffness(self) -> Float:
        """Q (3, 3) of plane stress in the ply's axes."""
        e1, e2, g, nu = (self[name] for name in ELASTIC)
        below = 1.0 - nu * nu * e2 / e1
        if not (e1 > 0 and e2 > 0 and g > 0 and below > 0):
            raise Impossible(
                f"The constants of '{self.name}' are those of no elastic material.", "Moduli are above zero and nu12² below E1/E2."
            )
        return np.array([[e1, nu * e2, 0.0], [nu * e2, e2, 0.0], [0.0, 0.0, g * below]]) / below

    @cached_property
    def expansion(self) -> Float:
        """Free strain per degree (3,) in the ply's axes."""
        return np.array([self.get("a1", 0.0), self.get("a2", 0.0), 0.0])


@dataclass(frozen=True)
class Ply:
    """One ply of a stack. sheet: the cut sheet it is of, which may run through several zones. angle: degrees from the laminate's
    first axis to the fibres, towards its second."""

    material: PlyMaterial
    thickness: float
    angle: float
    sheet: str = ""


def strain_into_ply(angle: float) -> Float:
    """Turns a strain (xx, yy, gamma xy) of the laminate's axes into those of a ply, (3, 3)."""
    c, s = np.cos(np.radians(angle)), np.sin(np.radians(angle))
    return np.array([[c * c, s * s, c * s], [s * s, c * c, -c * s], [-2 * c * s, 2 * c * s, c * c - s * s]])


@dataclass(frozen=True)
class Laminate:
    """Plies from the bottom to the top. offset: how far the reference surface lies above the middle of the thickness."""

    plies: tuple[Ply, ...]
    offset: float = 0.0

    def __post_init__(self) -> None:
        if not self.plies or any(not p.thickness > 0 for p in self.plies):
            raise Impossible("A laminate has plies, each of some thickness.", "Look at its zones.")

    @property
    def thickness(self) -> float:
        return float(sum(p.thickness for p in self.plies))

    @cached_property
    def heights(self) -> Float:
        """z of the borders of the plies from the reference surface, (plies + 1,)."""
        edges = np.concatenate([[0.0], np.cumsum([p.thickness for p in self.plies])])
        return edges - self.thickness / 2 - self.offset

    @cached_property
    def stiffnesses(self) -> Float:
        """Reduced stiffness of each ply in the laminate's axes, (plies, 3, 3)."""
        turns = [strain_into_ply(p.angle) for p in self.plies]
        return np.stack([t.T @ p.material.reduced_stiffness @ t for t, p in zip(turns, self.plies, strict=True)])

    @cached_property
    def abd(self) -> Float:
        """The laminate's stiffness (6, 6): forces and moments per length from mid-plane strain and curvature."""
        low, high = self.heights[:-1, None, None], self.heights[1:, None, None]
        a = (self.stiffnesses * (high - low)).sum(0)
        b = (self.stiffnesses * (high**2 - low**2)).sum(0) / 2
        d = (self.stiffnesses * (high**3 - low**3)).sum(0) / 3
        return np.block([[a, b], [b, d]])

    def thermal_load(self, change: float) -> Float:
        """Forces and moments per length (6,) that would hold the plies' free expansion back."""
        free = np.stack([np.linalg.solve(strain_into_ply(p.angle), p.material.expansion) for p in self.plies]) * change
        push = np.einsum("pij,pj->pi", self.stiffnesses, free)
        low, high = self.heights[:-1, None], self.heights[1:, None]
        return np.concatenate([(push * (high - low)).sum(0), (push * (high**2 - low**2)).sum(0) / 2])

    def strain_of(self, load: Float, change: float = 0.0) -> Float:
        """Mid-plane strain and curvature (..., 6) of forces and moments per length (..., 6) and a change of temperature."""
        whole = np.asarray(load, dtype=np.float64) + self.thermal_load(change)
        return np.asarray(np.linalg.solve(self.abd, whole[..., None])[..., 0], dtype=np.float64)

    @property
    def symmetric(self) -> bool:
        """Whether the stack is its own mirror image about its middle."""
        pairs = zip(self.plies, self.plies[::-1], strict=True)
        return all(
            a.material == b.material
            and np.isclose(a.thickness, b.thickness)
            and abs((a.angle - b.angle + 90.0) % 180.0 - 90.0) < 1e-9
            for a, b in pairs
        )

    @property
    def balanced(self) -> bool:
        """Whether every ply off the axes has one at the other sign: stretching and shear do not couple."""
        a = self.abd
        return bool(np.abs(a[[0, 1], 2]).max() <= 1e-9 * np.abs(a[:3, :3]).max())

    @cached_property
    def places(self) -> Float:
        """z of the bottom, middle and top of each ply, (plies, 3)."""
        edges = self.heights
        return np.stack([edges[:-1], (edges[:-1] + edges[1:]) / 2, edges[1:]], axis=1)

    def in_ply(self, ply: int, place: int, strain: Float) -> tuple[Float, Float]:
        """Strain and stress of one ply at one place, (n, 3) each in its own axes, of mid-plane strain and curvature (n, 6)."""
        z, chosen = self.places[ply, place], self.plies[ply]
        own = (strain[:, :3] + z * strain[:, 3:]) @ strain_into_ply(chosen.angle).T
        return own, own @ chosen.material.reduced_stiffness.T

    @cached_property
    def residual(self) -> Float:
        """Strain of the free laminate per degree of temperature, (6,)."""
        return self.strain_of(np.zeros(6), 1.0)

    def residual_in_ply(self, ply: int, place: int, change: float) -> Float:
        """Stress (3,) that a change of temperature leaves in a ply of the free laminate."""
        chosen = self.plies[ply]
        own = self.in_ply(ply, place, self.residual[None] * change)[0][0]
        return np.asarray((own - chosen.material.expansion * change) @ chosen.material.reduced_stiffness.T, dtype=np.float64)

    @cached_property
    def interlaminar(self) -> Float:
        """Interlaminar shear (23, 13) of each ply at its three places per transverse force (x, y), (plies, 3, 2, 2).

        By equilibrium, -z-integral of the gradients of in-plane stress, from the bottom up, where the moments change along x with
        the one force and along y with the other (cylindrical bending both ways; Rohwer 1988, from memory).
        """
        flexible = np.linalg.inv(self.abd)
        along = [flexible[:, 3], flexible[:, 4]]
        low, z = self.heights[:-1], self.places
        found = np.zeros((len(self.plies), len(PLACES), 2, 2))
        below = np.zeros((2, 2))
        for k, (stiff, ply) in enumerate(zip(self.stiffnesses, self.plies, strict=True)):
            c, s = np.cos(np.radians(ply.angle)), np.sin(np.radians(ply.angle))
            turn = np.array([[-s, c], [c, s]])
            for at in range(len(PLACES)):
                span, first = z[k, at] - low[k], (z[k, at] ** 2 - low[k] ** 2) / 2
                grown = [stiff @ (f[:3] * span + f[3:] * first) for f in along]
                # Rows xz, yz; of a force along x the gradients of xx and xy by x, along y those of xy and yy by y.
                here = below - np.array([[grown[0][0], grown[1][2]], [grown[0][2], grown[1][1]]])
                found[k, at] = turn @ here
            below = here
        return found

    def in_plies(self, strain: Float, change: float = 0.0) -> tuple[Float, Float]:
        """Strain and stress in ply axes, (..., plies, 3 places, 3), of mid-plane strain and curvature (..., 6); places bottom,
        middle, top. The stress is that of the strain less the free expansion."""
        strain = np.asarray(strain, dtype=np.float64)
        at = strain[..., None, None, :3] + self.places[..., None] * strain[..., None, None, 3:]
        turns = np.stack([strain_into_ply(p.angle) for p in self.plies])
        own = np.einsum("pij,...pkj->...pki", turns, at)
        q = np.stack([p.material.reduced_stiffness for p in self.plies])
        free = np.stack([p.material.expansion for p in self.plies])[:, None] * change
        return own, np.einsum("pij,...pkj->...pki", q, own - free)


def of_angles(material: PlyMaterial, thickness: float, angles: Sequence[float]) -> Laminate:
    """A laminate of one material, each ply of one thickness."""
    return Laminate(tuple(Ply(material, thickness, a) for a in angles))
