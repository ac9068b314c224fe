"""The drive house's sensor post in motion: its modes, how it answers the drive's unbalance, a tap on its head, and tests of it.

A square steel post on a foot plate that is held at its four corners, with a block for a head: 20-node bricks, linear. Modes by
Lanczos; a sweep of frequencies by direct solves with a loss factor; the tap by Newmark's rule (average acceleration) with damping
by mass and stiffness. The tested post has a softer foot and a heavier head than the model; its near-equal bending modes are turned
as a test finds them, and their numbers are not the model's. It was shaken with the force of the sweep, too. Units: mm, N, s, t,
MPa. Post, loads and tests are invented. Run ``python -m demo.post`` to solve it again.
"""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pyuff
import skfem
from scipy.sparse.linalg import eigsh, splu

from demo.bricks import Bricks
from demo.vtu import write_unshared
from demo.xdmf import write_motion

DATA = Path(__file__).parent / "data" / "post"
X = np.array([-100.0, -60.0, -25.0, 0.0, 25.0, 60.0, 100.0])
Y = np.array([-90.0, -60.0, -25.0, 0.0, 25.0, 60.0, 90.0])
Z = np.array([0.0, 16.0, 90.0, 190.0, 300.0, 410.0, 510.0, 600.0, 660.0])
YOUNG, POISSON, DENSITY = 210_000.0, 0.30, 7.85e-9
MODES = 10
# The sweep: a force on the head from the drive's unbalance, in N; loss factor of the whole.
FORCE, LOSS = np.array([100.0, 45.0, 0.0]), 0.02
# The tap: a half sine of so many N and seconds, beside the middle of the head; steps, and damping ratios at two frequencies.
TAP, LASTS, STEP, STEPS = 2_000.0, 2e-3, 4e-4, 400
DAMPED = ((40.0, 0.010), (400.0, 0.012))


class Post(Bricks):
    """The post. foot, head: factors on the stiffness of the foot and the mass of the head."""

    def __init__(self, foot: float = 1.0, head: float = 1.0) -> None:
        box = skfem.MeshHex.init_tensor(X, Y, Z)
        x, y, z = np.abs(box.p[:, box.t].mean(1))
        self.part = np.where(z < 16.0, 0, np.where(z > 600.0, 2, 1))
        kept = (self.part == 0) | (np.maximum(x, y) < np.where(self.part == 2, 60.0, 25.0))
        self.part = self.part[kept]
        mesh = box.restrict(np.flatnonzero(kept))
        young = np.where(self.part == 0, foot * YOUNG, YOUNG)
        density = np.where(self.part == 2, head * DENSITY, DENSITY)
        super().__init__(mesh, young, np.full(len(self.part), POISSON), density)
        low = self.nodes[:, 2] == 0.0
        self.held = low & (np.abs(self.nodes[:, 0]) >= 60.0) & (np.abs(self.nodes[:, 1]) >= 60.0)
        self.free = np.setdiff1d(np.arange(self.basis.N), self.dofs[self.held].ravel())

    def inside(self, matrix):
        """A matrix of the free degrees of freedom."""
        return matrix[self.free][:, self.free].tocsc()

    def modes(self, count: int) -> tuple[np.ndarray, np.ndarray]:
        """Frequencies (m,) in Hz and shapes (m, degrees of freedom) of unit modal mass, the largest component positive."""
        squared, vectors = eigsh(self.inside(self.stiffness), count, self.inside(self.mass), sigma=0.0, v0=np.ones(len(self.free)))
        shapes = np.zeros((count, self.basis.N))
        shapes[:, self.free] = vectors.T
        most = shapes[np.arange(count), np.abs(shapes).argmax(1)]
        return np.sqrt(squared) / (2 * np.pi), shapes * np.sign(most)[:, None]

    @property
    def top(self) -> np.ndarray:
        """Nodes of the upper face of the head."""
        return self.nodes[:, 2] == 660.0

    def load(self, force: np.ndarray, at: np.ndarray) -> np.ndarray:
        """A force (3,) spread evenly over some nodes."""
        found = np.zeros(self.basis.N)
        found[self.dofs[at]] = force / at.sum()
        return found


def sweep(post: Post, frequencies: np.ndarray) -> np.ndarray:
    """Complex displacements (f, degrees of freedom) under the force on the head: (K (1 + i loss) - w^2 M) u = f."""
    k, m, load = post.inside(post.stiffness), post.inside(post.mass), post.load(FORCE, post.top)[post.free]
    found = np.zeros((len(frequencies), post.basis.N), dtype=complex)
    for i, w in enumerate(2 * np.pi * frequencies):
        found[i, post.free] = splu((k * (1 + 1j * LOSS) - w * w * m).tocsc()).solve(load.astype(complex))
    return found


def tap(post: Post) -> tuple[np.ndarray, np.ndarray]:
    """Times (s,) and displacement (s, degrees of freedom) after a tap along y beside the middle of the head."""
    k, m = post.inside(post.stiffness), post.inside(post.mass)
    (f1, z1), (f2, z2) = DAMPED
    w = 2 * np.pi * np.array([f1, f2])
    alpha, beta = np.linalg.solve(np.stack([0.5 / w, 0.5 * w], 1), [z1, z2])
    c = alpha * m + beta * k
    at = post.top & (post.nodes[:, 0] >= 25.0)
    load = post.load(np.array([0.0, TAP, 0.0]), at)[post.free]
    h = STEP
    solver = splu((m + 0.5 * h * c + 0.25 * h * h * k).tocsc())
    u, v, a = (np.zeros(len(post.free)) for _ in range(3))
    moved = np.zeros((STEPS, post.basis.N))
    for i in range(1, STEPS):
        t = i * h
        force = load * np.sin(np.pi * t / LASTS) if t < LASTS else 0 * load
        ahead, fast = u + h * v + 0.25 * h * h * a, v + 0.5 * h * a
        a = solver.solve(force - c @ fast - k @ ahead)
        u, v = ahead + 0.25 * h * h * a, fast + 0.5 * h * a
        moved[i, post.free] = u
    return np.arange(STEPS) * h, moved


# Where the test had its accelerometers: up two edges of the post, and about the head.
PLACES = [(s * 25.0, s * 25.0, z) for z in (90.0, 190.0, 300.0, 410.0, 510.0) for s in (-1.0, 1.0)]
PLACES += [(x, y, 660.0) for x in (-60.0, 60.0) for y in (-60.0, 60.0)]


def tested() -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Of the tested post: places (p, 3), frequencies (m,) and shapes there (m, p, 3), with the noise of a test."""
    post = Post(foot=0.80, head=1.06)
    frequencies, shapes = post.modes(8)
    at = [int(np.argmin(np.linalg.norm(post.nodes - place, axis=1))) for place in PLACES]
    seen = shapes[:, post.dofs[at]]
    turn = np.radians(35.0)
    first, second = seen[0].copy(), seen[1].copy()
    seen[0], seen[1] = np.cos(turn) * first + np.sin(turn) * second, -np.sin(turn) * first + np.cos(turn) * second
    chance = np.random.default_rng(11)
    seen /= np.abs(seen).max((1, 2), keepdims=True)
    seen = seen * np.array([1, -1, 1, 1, -1, 1, 1, -1])[:, None, None] + 0.02 * chance.normal(size=seen.shape)
    # The accelerometers feel what is across the post alone, and of its stretching nothing was found.
    seen[:, :, 2] = 0.0
    # The twisting mode took another exciter: it stands last.
    order = [0, 1, 3, 4, 6, 7, 2]
    return np.array(PLACES), (frequencies * (1 + 0.004 * chance.normal(size=len(frequencies))))[order], seen[order]


# Where the shaker's answer was read, which way, and the frequencies, in Hz. The tested post's loss factor is not the model's.
SHAKEN = [((25.0, 25.0, 190.0), 1), ((25.0, 25.0, 410.0), 1), ((60.0, 60.0, 660.0), 1), ((60.0, 60.0, 660.0), 0),
          ((-60.0, 60.0, 660.0), 1), ((-60.0, -60.0, 660.0), 2)]  # fmt: skip
LINES, TESTED_LOSS, RUBS = np.arange(20.0, 600.5, 0.5), 0.024, 0.004


def shaken() -> np.ndarray:
    """Accelerations (places, frequencies) in m/s² of the tested post under the force of the sweep: its first modes, with noise."""
    post = Post(foot=0.80, head=1.06)
    frequencies, shapes = post.modes(16)
    own, w = 2 * np.pi * frequencies, 2 * np.pi * LINES
    pushed = shapes @ post.load(FORCE, post.top)
    q = pushed[:, None] / (own[:, None] ** 2 * (1 + 1j * TESTED_LOSS) - w**2)
    at = [int(np.argmin(np.linalg.norm(post.nodes - place, axis=1))) for place, _ in SHAKEN]
    moved = np.stack([shapes[:, post.dofs[node, axis]] @ q for node, (_, axis) in zip(at, SHAKEN, strict=True)])
    fast = -(w**2) * moved / 1000.0
    chance = np.random.default_rng(23)
    noise = chance.normal(size=(2, *fast.shape))
    return fast * (1 + RUBS * noise[0]) + RUBS * np.abs(fast).mean(1, keepdims=True) * (noise[0] + 1j * noise[1])


def write_shaken(path: Path) -> None:
    """The shaker's answer at six places as functions of a universal file (dataset 58), by pyuff."""
    sets = [
        pyuff.prepare_58(
            binary=0, id1=f"{'xyz'[axis]} at {place[0]:g}, {place[1]:g}, {place[2]:g}", id2="sensor post, shaken", rsp_node=k,
            rsp_dir=axis + 1, ref_node=1, ref_dir=2, x=LINES, data=one, ord_data_type=5, func_type=4, load_case_id=1,
            abscissa_min=float(LINES[0]), abscissa_inc=float(LINES[1] - LINES[0]), abscissa_spacing=1, z_axis_value=0.0,
            abscissa_spec_data_type=18, abscissa_axis_units_lab="Hz", ordinate_spec_data_type=12, ordinate_axis_units_lab="m/s**2",
            orddenom_spec_data_type=0,
        )
        for k, ((place, axis), one) in enumerate(zip(SHAKEN, shaken(), strict=True), start=1)
    ]  # fmt: skip
    path.unlink(missing_ok=True)
    pyuff.UFF(str(path)).write_sets(sets, mode="overwrite")


def write_test(path: Path) -> None:
    """The tested modes as a universal file (datasets 15, 82 and 55), by pyuff."""
    places, frequencies, shapes = tested()
    numbers, ones = np.arange(1, len(places) + 1), np.ones(len(places), dtype=int)
    sets = [
        pyuff.prepare_15(node_nums=numbers, def_cs=ones, disp_cs=ones, color=ones, x=places[:, 0], y=places[:, 1], z=places[:, 2])
    ]
    traced = np.array([1, 3, 5, 7, 9, 0, 2, 4, 6, 8, 10, 0, 11, 12, 14, 13, 11])
    sets.append(pyuff.prepare_82(trace_num=1, n_nodes=len(traced), color=1, id="post", nodes=traced))
    for k, (f, shape) in enumerate(zip(frequencies, shapes, strict=True), start=1):
        sets.append(
            pyuff.prepare_55(
                id1="sensor post, tested", id2=f"mode {k}", id3="NONE", id4="NONE", id5="NONE", model_type=1, analysis_type=2,
                data_ch=2, spec_data_type=8, data_type=2, n_data_per_node=3, r1=shape[:, 0], r2=shape[:, 1], r3=shape[:, 2],
                node_nums=numbers, load_case=1, mode_n=k, freq=f, modal_m=0.0, modal_damp_vis=0.01, modal_damp_his=0.0,
            )
        )  # fmt: skip
    path.unlink(missing_ok=True)
    pyuff.UFF(str(path)).write_sets(sets, mode="overwrite")


def swept(frequencies: np.ndarray) -> np.ndarray:
    """Frequencies of the sweep: even between, denser about each mode's own."""
    near = np.concatenate([f * (1 + 0.01 * np.array([-2, -1, -0.5, 0, 0.5, 1, 2])) for f in frequencies[frequencies < 600]])
    return np.unique(np.round(np.concatenate([np.linspace(20.0, 600.0, 24), near]), 2))


def main() -> None:
    """Solve and write modes, sweep, tap and test."""
    DATA.mkdir(parents=True, exist_ok=True)
    post = Post()
    frequencies, shapes = post.modes(MODES)
    cells = {"part": post.part.astype(np.int32) + 1}
    marks = {"held": post.held.astype(np.uint8), "top": post.top.astype(np.uint8)}
    for k, (f, shape) in enumerate(zip(frequencies, shapes, strict=True)):
        write_unshared(
            DATA / f"modes_{k:02d}.vtu", f, post.nodes, post.connectivity, {"displacement": shape[post.dofs], **marks},
            {"stress": post.stress(shape)}, cells, moment="Frequency", totals={"Mode": k + 1.0},
        )  # fmt: skip
    at = swept(frequencies)
    for k, (f, u) in enumerate(zip(at, sweep(post, at), strict=True)):
        parts = {"real": u.real, "imag": u.imag}
        write_unshared(
            DATA / f"sweep_{k:02d}.vtu", f, post.nodes, post.connectivity,
            {**{f"displacement_{name}": part[post.dofs] for name, part in parts.items()}, **marks},
            {f"stress_{name}": post.stress(part) for name, part in parts.items()}, cells, moment="Frequency",
        )  # fmt: skip
    times, moved = tap(post)
    write_motion(DATA / "tap", post, post.part, times, {"displacement": moved[:, post.dofs]})
    write_test(DATA / "tested.uff")
    write_shaken(DATA / "shaken.uff")
    print("modes at", np.round(frequencies, 2), "Hz; tested", np.round(tested()[1], 2), f"; {len(at)} frequencies swept")


if __name__ == "__main__":
    main()
