"""An inspection window in the lug's shank, with rounded and with sharp corners, each on four meshes.

A quarter of a square plate in plane stress, pulled from both ends; its inner border is a square window. Quadratic quadrilaterals of
eight nodes, 3 x 3 Gauss points, stress from 2 x 2 brought to the nodes. Each mesh has twice as many elements along each side as the
one before. At the rounded corner the peak settles; at the sharp one it grows with every mesh: there is no finite stress to come to.
Plate, window and pull are invented. Run ``python -m demo.window`` to solve it again.
"""

from __future__ import annotations

from pathlib import Path

import numpy as np
from scipy.sparse import coo_matrix
from scipy.sparse.linalg import splu

from demo.vtu import write_unshared

DATA = Path(__file__).parent / "data" / "window"
YOUNG, POISSON, THICKNESS = 210_000.0, 0.30, 24.0
HALF, WINDOW, CORNER, PULL = 42.0, 14.0, 5.0, 60.0
CORNERS = {"rounded": CORNER, "sharp": 0.0}
REFINED = (1, 2, 4, 8)
# Natural places of the nodes of an element: corners, then the middles of its sides.
NODES = np.array([[-1, -1], [1, -1], [1, 1], [-1, 1], [0, -1], [1, 0], [0, 1], [-1, 0]], dtype=float)
GAUSS = np.array([-1.0, 1.0]) / np.sqrt(3.0)


def shape(xi: np.ndarray) -> np.ndarray:
    """Functions of the eight nodes at places (n, 2), (n, 8)."""
    r, s = xi[:, :1], xi[:, 1:]
    a, b = NODES[:, 0], NODES[:, 1]
    corner = (1 + r * a) * (1 + s * b) * (r * a + s * b - 1) / 4
    along = np.where(a == 0, (1 - r**2) * (1 + s * b) / 2, (1 - s**2) * (1 + r * a) / 2)
    return np.where(a * b != 0, corner, along)


def slopes(xi: np.ndarray) -> np.ndarray:
    """Their derivatives, (n, 8, 2)."""
    r, s = xi[:, :1], xi[:, 1:]
    a, b = NODES[:, 0], NODES[:, 1]
    by_r = np.where(a * b != 0, a * (1 + s * b) * (2 * r * a + s * b) / 4, np.where(a == 0, -r * (1 + s * b), a * (1 - s**2) / 2))
    by_s = np.where(a * b != 0, b * (1 + r * a) * (2 * s * b + r * a) / 4, np.where(b == 0, -s * (1 + r * a), b * (1 - r**2) / 2))
    return np.stack([by_r, by_s], axis=2)


def inner(t: np.ndarray, radius: float) -> np.ndarray:
    """The window's border from the x axis (t 0) over its corner (1) to the y axis (2), (n, 2)."""
    bend = 0.5 if radius else 0.0
    straight = WINDOW - radius
    first = np.stack([np.full_like(t, WINDOW), straight * np.clip(t / (1 - bend), 0, 1)], 1)
    turn = np.pi / 2 * np.clip((t - (1 - bend)) / max(2 * bend, 1e-9), 0, 1)
    round_ = np.stack([straight + radius * np.cos(turn), straight + radius * np.sin(turn)], 1)
    last = np.stack([straight * np.clip((2 - t) / (1 - bend), 0, 1), np.full_like(t, WINDOW)], 1)
    return np.where((t <= 1 - bend)[:, None], first, np.where((t >= 1 + bend)[:, None], last, round_))


def outer(t: np.ndarray) -> np.ndarray:
    return HALF * np.stack([np.clip(2 - t, 0, 1), np.clip(t, 0, 1)], 1)


def mesh(radius: float, refined: int) -> tuple[np.ndarray, np.ndarray]:
    """Nodes (n, 2) and elements (e, 8) of a quarter."""
    around, out = 8 * refined, 4 * refined
    t = np.linspace(0, 2, 2 * around + 1)
    # Finer towards the window, by the same map on every mesh: each has half the size of the one before everywhere.
    share = np.expm1(1.8 * np.linspace(0, 1, 2 * out + 1)) / np.expm1(1.8)
    grid = (1 - share)[None, :, None] * inner(t, radius)[:, None] + share[None, :, None] * outer(t)[:, None]
    number = np.full(grid.shape[:2], -1)
    kept = (np.add.outer(np.arange(2 * around + 1) % 2, np.arange(2 * out + 1) % 2)) < 2
    number[kept] = np.arange(kept.sum())
    i, j = (2 * k.ravel() for k in np.meshgrid(np.arange(around), np.arange(out), indexing="ij"))
    # Outwards, then round: the corners run against the clock.
    places = [(0, 0), (0, 2), (2, 2), (2, 0), (0, 1), (1, 2), (2, 1), (1, 0)]
    return grid[kept], np.stack([number[i + a, j + b] for a, b in places], axis=1)


def solve(radius: float, refined: int) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
    """Nodes, elements, displacement (n, 2), reaction (n, 2), stress at the nodes of each element (e, 8, 6)."""
    nodes, elements = mesh(radius, refined)
    law = YOUNG / (1 - POISSON**2) * np.array([[1, POISSON, 0], [POISSON, 1, 0], [0, 0, (1 - POISSON) / 2]])
    points = np.array([-np.sqrt(0.6), 0.0, np.sqrt(0.6)])
    weights = np.array([5.0, 8.0, 5.0]) / 9
    own = np.zeros((len(elements), 16, 16))
    for r, wr in zip(points, weights, strict=True):
        for s, ws in zip(points, weights, strict=True):
            rows, size = _rows(nodes, elements, np.array([[r, s]]))
            own += np.einsum("eci,cd,edj,e->eij", rows, law, rows, size * wr * ws * THICKNESS)
    dofs = (2 * elements[:, :, None] + np.arange(2)).reshape(len(elements), 16)
    i, j = np.repeat(dofs, 16, axis=1), np.tile(dofs, (1, 16))
    whole = coo_matrix((own.ravel(), (i.ravel(), j.ravel())), shape=(2 * len(nodes),) * 2).tocsc()
    load = np.zeros(2 * len(nodes))
    edge = np.flatnonzero(np.isclose(nodes[:, 0], HALF))
    edge = edge[np.argsort(nodes[edge, 1])]
    for a, m, b in zip(edge[:-2:2], edge[1:-1:2], edge[2::2], strict=True):
        load[2 * np.array([a, m, b])] += PULL * THICKNESS * (nodes[b, 1] - nodes[a, 1]) * np.array([1, 4, 1]) / 6
    held = np.concatenate([2 * np.flatnonzero(np.isclose(nodes[:, 0], 0)), 2 * np.flatnonzero(np.isclose(nodes[:, 1], 0)) + 1])
    free = np.setdiff1d(np.arange(2 * len(nodes)), held)
    moved = np.zeros(2 * len(nodes))
    moved[free] = splu(whole[free][:, free]).solve(load[free])
    reaction = np.zeros_like(moved)
    reaction[held] = (whole @ moved)[held]
    inside = np.zeros((len(elements), 4, 3))
    for q, (r, s) in enumerate([(a, b) for a in GAUSS for b in GAUSS]):
        rows, _ = _rows(nodes, elements, np.array([[r, s]]))
        inside[:, q] = np.einsum("cd,edj,ej->ec", law, rows, moved[dofs])
    at = NODES * np.sqrt(3.0)
    outward = np.stack([(1 + at[:, 0] * a) * (1 + at[:, 1] * b) / 4 for a in (-1, 1) for b in (-1, 1)], axis=1)
    flat = np.einsum("nq,eqc->enc", outward, inside)
    stress = np.zeros((len(elements), 8, 6))
    stress[..., [0, 1, 3]] = flat
    return nodes, elements, moved.reshape(-1, 2), reaction.reshape(-1, 2), stress


def _rows(nodes: np.ndarray, elements: np.ndarray, xi: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Rows that make strain of displacement at a place, (e, 3, 16), and the size of the map there, (e,)."""
    slope = slopes(xi)[0]
    jacobian = np.einsum("na,enx->eax", slope, nodes[elements])
    physical = np.einsum("exa,na->enx", np.linalg.inv(jacobian), slope)
    rows = np.zeros((len(elements), 3, 16))
    rows[:, 0, 0::2] = rows[:, 2, 1::2] = physical[..., 0]
    rows[:, 1, 1::2] = rows[:, 2, 0::2] = physical[..., 1]
    return rows, np.linalg.det(jacobian)


def main() -> None:
    """Solve and write a file for each corner and mesh."""
    DATA.mkdir(parents=True, exist_ok=True)
    for name, radius in CORNERS.items():
        for number, refined in enumerate(REFINED, start=1):
            nodes, elements, moved, reaction, stress = solve(radius, refined)
            flat = np.zeros((len(nodes), 1))
            sets = {
                "pulled": np.isclose(nodes[:, 0], HALF),
                "mirror_x": np.isclose(nodes[:, 0], 0),
                "mirror_y": np.isclose(nodes[:, 1], 0),
            }
            write_unshared(
                DATA / f"{name}_{number}.vtu",
                1.0,
                np.column_stack([nodes, flat]),
                elements,
                {"displacement": np.column_stack([moved, flat]), "reaction": np.column_stack([reaction, flat]),
                 **{n: of.astype(np.uint8) for n, of in sets.items()}},
                {"stress": stress},
                {"thickness": np.full(len(elements), THICKNESS)},
                moment="LoadFactor",
            )  # fmt: skip
            xx, yy, xy = stress[..., 0], stress[..., 1], stress[..., 3]
            print(f"{name}, {len(elements)} elements: {np.sqrt(xx**2 - xx * yy + yy**2 + 3 * xy**2).max():.2f} MPa")


if __name__ == "__main__":
    main()
