"""The roof truss of the valley station under growing snow, followed until it is a mechanism.

A plane frame of steel members with rigid joints, small displacements. Each member is cut into beam elements (Euler-Bernoulli,
linear along, cubic across) with two Gauss points along and twelve fibres over a rectangular section; the fibres are bilinear with
kinematic hardening of a thousandth of Young's modulus. Steps are controlled by the sinking of the ridge, so that the load may level
off. Units: mm, N, MPa; the load factor is the snow load in kN a square metre of plan. Truss, sections, steel and load are invented.
Run ``python -m demo.truss`` to solve it again.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from pathlib import Path

import numpy as np
from scipy.sparse import coo_matrix
from scipy.sparse.linalg import splu

from demo.vtu import write_unshared

DATA = Path(__file__).parent / "data" / "truss"
SPAN, EAVES, RIDGE, PANELS = 12_000.0, 600.0, 2_000.0, 6
BAY = 4_000.0
YOUNG, YIELD, HARDENING = 210_000.0, 235.0, 210.0
PIECES, FIBRES = 4, 12
SECTIONS = {"bottom chord": (32.0, 32.0), "top chord": (36.0, 42.0), "posts": (24.0, 24.0), "diagonals": (18.0, 18.0)}
SINKING = np.concatenate([np.linspace(0.0, 15.0, 6), np.linspace(16.0, 24.0, 9), np.linspace(28.0, 120.0, 24)])
GAUSS = np.array([-1.0, 1.0]) / np.sqrt(3.0)


@dataclass
class Frame:
    """nodes: (n, 2) x and z. elements: (e, 2). group: (e,) into SECTIONS; member: (e,); width, depth: (e,) of the section."""

    nodes: np.ndarray
    elements: np.ndarray
    group: np.ndarray
    member: np.ndarray
    joints: dict[str, int]
    width: np.ndarray = field(init=False)
    depth: np.ndarray = field(init=False)

    def __post_init__(self) -> None:
        sizes = np.array(list(SECTIONS.values()))[self.group]
        self.width, self.depth = sizes.T

    @property
    def area(self) -> np.ndarray:
        return self.width * self.depth


def truss() -> Frame:
    """Joints b0..b6 of the bottom chord, t0..t6 of the top chord; two diagonals cross in each panel."""
    places: dict[str, tuple[float, float]] = {}
    for i in range(PANELS + 1):
        x = SPAN * i / PANELS
        places[f"b{i}"] = (x, 0.0)
        places[f"t{i}"] = (x, EAVES + (RIDGE - EAVES) * (1 - abs(2 * i / PANELS - 1)))
    groups = list(SECTIONS)
    members = [(f"b{i}", f"b{i + 1}", groups.index("bottom chord")) for i in range(PANELS)]
    members += [(f"t{i}", f"t{i + 1}", groups.index("top chord")) for i in range(PANELS)]
    members += [(f"b{i}", f"t{i}", groups.index("posts")) for i in range(PANELS + 1)]
    half = PANELS // 2
    crossed = range(PANELS)
    members += [(f"t{i}", f"b{i + 1}", groups.index("diagonals")) for i in range(PANELS) if i < half or i in crossed]
    members += [(f"b{i}", f"t{i + 1}", groups.index("diagonals")) for i in range(PANELS) if i >= half or i in crossed]
    return frame(places, members)


def frame(places: dict[str, tuple[float, float]], members: list[tuple[str, str, int]], pieces: int = PIECES) -> Frame:
    """Members between named joints, each cut into ``pieces`` elements."""
    joints = {name: i for i, name in enumerate(places)}
    nodes = [np.array(p) for p in places.values()]
    elements, group, member = [], [], []
    for number, (a, b, kind) in enumerate(dict.fromkeys(members)):
        chain = [joints[a]]
        for k in range(1, pieces):
            nodes.append(np.array(places[a]) + (np.array(places[b]) - np.array(places[a])) * k / pieces)
            chain.append(len(nodes) - 1)
        chain.append(joints[b])
        elements += list(zip(chain[:-1], chain[1:], strict=True))
        group += [kind] * pieces
        member += [number] * pieces
    return Frame(np.array(nodes), np.array(elements), np.array(group), np.array(member), joints)


@dataclass
class Solver:
    """Displacement control of a frame; state of every fibre: plastic strain (e, 2, fibres)."""

    model: Frame
    held: list[int]
    load: np.ndarray
    control: int
    plastic: np.ndarray = field(init=False)
    moved: np.ndarray = field(init=False)
    factor: float = 0.0

    def __post_init__(self) -> None:
        m = self.model
        count = len(m.elements)
        self.moved = np.zeros(3 * len(m.nodes))
        self.plastic = np.zeros((count, 2, FIBRES))
        a, b = m.nodes[m.elements[:, 0]], m.nodes[m.elements[:, 1]]
        self.length = np.linalg.norm(b - a, axis=1)
        c, s = ((b - a) / self.length[:, None]).T
        turn = np.zeros((count, 6, 6))
        for k in (0, 3):
            turn[:, k, k], turn[:, k, k + 1], turn[:, k + 1, k], turn[:, k + 1, k + 1] = c, s, -s, c
            turn[:, k + 2, k + 2] = 1.0
        self.dofs = (3 * m.elements[:, :, None] + np.arange(3)).reshape(count, 6)
        length = self.length[:, None]
        xi = GAUSS[None, :]
        zero = np.zeros((count, 2))
        along = np.stack([-1 / length + zero, zero, zero, 1 / length + zero, zero, zero], 2)
        bend = np.stack([zero, 6 * xi / length**2, (3 * xi - 1) / length, zero, -6 * xi / length**2, (3 * xi + 1) / length], 2)
        heights = ((np.arange(FIBRES) + 0.5) / FIBRES - 0.5)[None, :] * m.depth[:, None]
        self.height = heights
        rows = along[:, :, None, :] - heights[:, None, :, None] * bend[:, :, None, :]
        self.rows = np.einsum("egfi,eij->egfj", rows, turn)
        self.weight = (m.area / FIBRES * self.length / 2)[:, None, None]
        self.free = np.setdiff1d(np.arange(3 * len(m.nodes)), self.held)

    def stress(self, moved: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """Stress, tangent and plastic strain of every fibre (bilinear, kinematic hardening)."""
        strain = np.einsum("egfj,ej->egf", self.rows, moved[self.dofs])
        back = HARDENING * self.plastic
        trial = YOUNG * (strain - self.plastic)
        over = np.abs(trial - back) - YIELD
        flows = over > 0
        step = np.where(flows, over / (YOUNG + HARDENING), 0.0) * np.sign(trial - back)
        tangent = np.where(flows, YOUNG * HARDENING / (YOUNG + HARDENING), YOUNG)
        return trial - YOUNG * step, tangent, self.plastic + step

    def force(self, stress: np.ndarray) -> np.ndarray:
        own = np.einsum("egf,egfj->ej", stress * self.weight, self.rows)
        total = np.zeros(3 * len(self.model.nodes))
        np.add.at(total, self.dofs, own)
        return total

    def to(self, target: float, halvings: int = 8) -> None:
        """Bring the control displacement to a value and find the load factor that goes with it, in halves where it must be."""
        if self._reaches(target):
            return
        if not halvings:
            raise RuntimeError(f"no equilibrium at a sinking of {target}")
        self.to((self.moved[self.control] + target) / 2, halvings - 1)
        self.to(target, halvings - 1)

    def _reaches(self, target: float) -> bool:
        moved, factor = self.moved.copy(), self.factor
        for turn in range(40):
            stress, tangent, plastic = self.stress(moved)
            left = factor * self.load - self.force(stress)
            off = target - moved[self.control]
            reach = max(np.abs(factor * self.load).max(), 1.0)
            if turn and np.abs(left[self.free]).max() < 1e-9 * reach and abs(off) < 1e-9:
                self.moved, self.factor, self.plastic = moved, factor, plastic
                return True
            own = np.einsum("egf,egfi,egfj->eij", tangent * self.weight, self.rows, self.rows)
            i, j = np.repeat(self.dofs, 6, axis=1), np.tile(self.dofs, (1, 6))
            whole = coo_matrix((own.ravel(), (i.ravel(), j.ravel())), shape=(len(moved),) * 2).tocsc()
            solve = splu(whole[self.free][:, self.free])
            by_load, by_rest = np.zeros_like(moved), np.zeros_like(moved)
            by_load[self.free], by_rest[self.free] = solve.solve(self.load[self.free]), solve.solve(left[self.free])
            more = (off - by_rest[self.control]) / by_load[self.control]
            factor += more
            moved = moved + by_rest + more * by_load
        return False


def snow(model: Frame) -> np.ndarray:
    """Nodal forces of 1 kN/m2 of plan on the joints of the top chord: half a panel on each side, one bay wide."""
    load = np.zeros(3 * len(model.nodes))
    panel = SPAN / PANELS
    for i in range(PANELS + 1):
        share = 0.5 if i in (0, PANELS) else 1.0
        load[3 * model.joints[f"t{i}"] + 1] = -1e-3 * panel * BAY * share
    return load


def solve() -> tuple[Frame, list[dict[str, np.ndarray]]]:
    """Every step of the growing snow load: what a result file holds of it."""
    model = truss()
    left, right = model.joints["b0"], model.joints[f"b{PANELS}"]
    ridge = model.joints[f"t{PANELS // 2}"]
    load = snow(model)
    solver = Solver(model, [3 * left, 3 * left + 1, 3 * right + 1], load, 3 * ridge + 1)
    steps = []
    work = factor = 0.0
    before = solver.moved.copy()
    for sunk in SINKING:
        if sunk:
            solver.to(-float(sunk))
        # Work of the snow on the joints it lies on, straight between steps.
        work += (factor + solver.factor) / 2 * float(load @ (solver.moved - before))
        factor, before = solver.factor, solver.moved.copy()
        steps.append({**state(solver), "work": np.array(work)})
    return model, steps


def state(solver: Solver) -> dict[str, np.ndarray]:
    model = solver.model
    stress, _, plastic = solver.stress(solver.moved)
    normal = (stress.mean(1) * (model.area / FIBRES)[:, None]).sum(1)
    # Fibre stress at the elements' ends, straight through the two Gauss points.
    ends = np.stack([(1 + np.sqrt(3)) / 2 * stress[:, 0] + (1 - np.sqrt(3)) / 2 * stress[:, 1],
                     (1 - np.sqrt(3)) / 2 * stress[:, 0] + (1 + np.sqrt(3)) / 2 * stress[:, 1]], 1)  # fmt: skip
    inner = solver.force(stress)
    moved = solver.moved.reshape(-1, 3)
    reaction = np.zeros((len(model.nodes), 3))
    held = np.array(solver.held)
    reaction[held // 3, np.where(held % 3 == 1, 2, 0)] = (inner - solver.factor * solver.load)[held]
    load = solver.factor * solver.load.reshape(-1, 3)
    return {
        "factor": np.array(solver.factor),
        "displacement": np.stack([moved[:, 0], 0 * moved[:, 0], moved[:, 1]], 1),
        "reaction": reaction,
        "snow_load": np.stack([load[:, 0], 0 * load[:, 0], load[:, 1]], 1),
        "axial_force": normal,
        "axial_stress": normal / model.area,
        "top_fibre_stress": ends[:, :, -1],
        "bottom_fibre_stress": ends[:, :, 0],
        "yielded_share": (np.abs(plastic) > 1e-9).mean((1, 2)),
    }


def main() -> None:
    """Solve and write one file a step."""
    DATA.mkdir(parents=True, exist_ok=True)
    model, steps = solve()
    nodes = np.stack([model.nodes[:, 0], 0 * model.nodes[:, 0], model.nodes[:, 1]], 1)
    support = np.zeros(len(nodes), dtype=np.uint8)
    support[[model.joints["b0"], model.joints[f"b{PANELS}"]]] = 1
    ridge = np.zeros(len(nodes), dtype=np.uint8)
    ridge[model.joints[f"t{PANELS // 2}"]] = 1
    snowed = np.zeros(len(nodes), dtype=np.uint8)
    snowed[[model.joints[f"t{i}"] for i in range(PANELS + 1)]] = 1
    for number, s in enumerate(steps):
        write_unshared(
            DATA / f"truss_{number:02d}.vtu",
            float(s["factor"]),
            nodes,
            model.elements,
            {"displacement": s["displacement"], "reaction": s["reaction"], "snow_load": s["snow_load"],
             "supports": support, "ridge": ridge, "top_joints": snowed},
            {"top_fibre_stress": s["top_fibre_stress"], "bottom_fibre_stress": s["bottom_fibre_stress"]},
            {"axial_force": s["axial_force"], "axial_stress": s["axial_stress"], "section_area": model.area,
             "yielded_share": s["yielded_share"], "part": model.group.astype(np.int32) + 1,
             "member": model.member.astype(np.int32) + 1},
            moment="LoadFactor",
            totals={"external_work [N*mm]": float(s["work"])},
        )  # fmt: skip
    print(f"{len(steps)} steps, snow load up to {max(float(s['factor']) for s in steps):.3f} kN/m2")


if __name__ == "__main__":
    main()
