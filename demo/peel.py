"""A bonded strap peeling off the weather mast: a new mesh at every step, finer where the bond gives way.

The strap is a membrane under tension on a bed of adhesive: T (w,xx + w,yy) = k w where it is bonded, nothing where it has come off.
Its left end is lifted more and more, a little more at one side than at the other; the bond gives way where the strap stands farther
off than a limit, and stays open. Linear triangles, refined anew at each step around the place where the bond ends. Strap, adhesive
and lift are invented. Run ``python -m demo.peel`` to solve it again.

Straight across, the bond ends where the lift L has run down to the limit c: at a = l (L - c) / c, with l = sqrt(T / k).
"""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import numpy as np
import skfem
from scipy.sparse.linalg import splu
from skfem.helpers import dot, grad

from demo.vtu import write_unshared

DATA = Path(__file__).parent / "data" / "peel"
LENGTH, WIDTH, TENSION, BED, LIMIT = 120.0, 30.0, 40.0, 0.4, 0.05
LIFTS = (0.08, 0.12, 0.18, 0.24, 0.30, 0.36)
# How much more one side is lifted than the middle, as a share.
SKEW = 0.25
ROUNDS = 2


@skfem.BilinearForm
def membrane(u, v, _):
    return TENSION * dot(grad(u), grad(v))


@skfem.BilinearForm
def bed(u, v, w):
    return BED * w.bonded * u * v


@dataclass
class State:
    """nodes (n, 2), elements (e, 3), how far the strap stands off at the nodes (n,), which elements are bonded (e,)."""

    nodes: np.ndarray
    elements: np.ndarray
    away: np.ndarray
    bonded: np.ndarray


def start(fine: int = 2) -> skfem.MeshTri:
    mesh = skfem.MeshTri.init_tensor(np.linspace(0, LENGTH, 25), np.linspace(-WIDTH / 2, WIDTH / 2, 7))
    return mesh.refined(fine - 1) if fine > 1 else mesh


def solve(skew: float = SKEW, lifts: tuple[float, ...] = LIFTS) -> list[State]:
    """Every lift, each on its own mesh."""
    states: list[State] = []
    opened: list[State] = []
    for lift in lifts:
        mesh = start()
        for turn in range(ROUNDS + 1):
            state = _equilibrium(mesh, lift, skew, opened)
            if turn < ROUNDS:
                ends = state.bonded[_beside(mesh)].min(0) != state.bonded[_beside(mesh)].max(0)
                mesh = mesh.refined(np.flatnonzero(ends))
        states.append(state)
        opened = [state]
    return states


def _beside(mesh: skfem.MeshTri) -> np.ndarray:
    """Of each element itself and its neighbours over its three sides, (4, elements)."""
    sides = mesh.f2t[:, mesh.t2f]
    own = np.arange(mesh.nelements)
    other = np.where(sides[0] == own, sides[1], sides[0])
    return np.vstack([own, np.where(other < 0, own, other)])


def _equilibrium(mesh: skfem.MeshTri, lift: float, skew: float, opened: list[State]) -> State:
    basis = skfem.Basis(mesh, skfem.ElementTriP1())
    plain = basis.with_element(skfem.ElementTriP0())
    stiffness = membrane.assemble(basis)
    middle = mesh.p[:, mesh.t].mean(1)
    bonded = np.ones(mesh.nelements, dtype=bool)
    for before in opened:
        bonded &= _was_bonded(before, middle)
    ends = np.flatnonzero(np.isclose(mesh.p[0], 0.0))
    far = np.flatnonzero(np.isclose(mesh.p[0], LENGTH))
    free = np.setdiff1d(np.arange(basis.N), np.concatenate([ends, far]))
    away = np.zeros(basis.N)
    away[ends] = lift * (1 + skew * 2 * mesh.p[1, ends] / WIDTH)
    for _ in range(400):
        whole = (stiffness + bed.assemble(basis, bonded=plain.interpolate(bonded.astype(float)))).tocsc()
        found = away.copy()
        found[free] = splu(whole[free][:, free]).solve(-(whole[free] @ away))
        gives = bonded & (found[mesh.t].mean(0) > LIMIT)
        if not gives.any():
            return State(mesh.p.T.copy(), mesh.t.T.copy(), found, bonded)
        bonded &= ~gives
    raise RuntimeError("the bond does not come to rest")


def _was_bonded(state: State, points: np.ndarray) -> np.ndarray:
    """Whether places (2, n) lay in a bonded element of the step before."""
    mesh = skfem.MeshTri(state.nodes.T, state.elements.T)
    return state.bonded[mesh.element_finder()(*points)]


def bare(state: State) -> np.ndarray:
    """The elements (e, 3) where the strap has come off."""
    return state.elements[~state.bonded]


def bond_end(state: State) -> np.ndarray:
    """Where the bond ends: the sides (s, 2) of bonded elements that are sides of those that have come off too."""
    sides = np.sort(state.elements[:, [[0, 1], [1, 2], [2, 0]]].reshape(-1, 2), axis=1)
    both, first, times = np.unique(sides, axis=0, return_inverse=True, return_counts=True)
    bonded = np.bincount(first.ravel(), weights=np.repeat(state.bonded, 3), minlength=len(both))
    return both[(times == 2) & (bonded == 1)]


def main() -> None:
    """Solve and write three files a lift: the strap, the face of the mast that is bare, and the end of the bond."""
    DATA.mkdir(parents=True, exist_ok=True)
    for number, (lift, state) in enumerate(zip(LIFTS, solve(), strict=True)):
        flat = np.zeros(len(state.nodes))
        write_unshared(
            DATA / f"peel_{number}.vtu",
            lift,
            np.column_stack([state.nodes, flat]),
            state.elements,
            {"displacement": np.column_stack([flat, flat, state.away]), "separation": state.away,
             "lifted": np.isclose(state.nodes[:, 0], 0).astype(np.uint8)},
            {},
            {"bonded": state.bonded.astype(np.float32)},
            moment="LoadFactor",
        )  # fmt: skip
        for name, of in (("bare", bare(state)), ("front", bond_end(state))):
            held, own = np.unique(of, return_inverse=True)
            nodes = np.column_stack([state.nodes, flat])[held]
            # The face of the mast stays where it is, the end of the bond moves with the strap.
            moved = {} if name == "bare" else {"displacement": np.column_stack([flat, flat, state.away])[held]}
            write_unshared(
                DATA / f"{name}_{number}.vtu", lift, nodes, own.reshape(of.shape),
                {**moved, "separation": state.away[held]}, {}, {}, moment="LoadFactor",
            )  # fmt: skip
        print(f"lift {lift:g}: {len(state.elements)} elements, {state.bonded.mean():.0%} of them bonded")


if __name__ == "__main__":
    main()
