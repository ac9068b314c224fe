"""The roof truss of the valley station under single loads: its own weight, snow on both sides, snow on one, wind.

The truss, its sections and its steel are those of ``demo.truss``, here elastic, each load by itself, to be combined by factors. The
loads are invented. Run ``python -m demo.cases`` to solve it again.
"""

from __future__ import annotations

from pathlib import Path

import numpy as np
from scipy.sparse import coo_matrix
from scipy.sparse.linalg import splu

from demo.truss import BAY, PANELS, SPAN, YOUNG, Frame, Solver, snow, state, truss
from demo.vtu import write_unshared

DATA = Path(__file__).parent / "data" / "cases"
# Roofing and purlins in N/mm2 of plan, the steel's weight in N/mm3, wind pressure in N/mm2 of roof (away from it: below zero).
ROOFING, STEEL = 0.45e-3, 78.5e-6
WIND = {"windward": -0.9e-3, "lee": -0.5e-3}


def loads(model: Frame) -> dict[str, np.ndarray]:
    """Nodal loads of each case, (3 x nodes,): along x, z, and a moment."""
    even = snow(model)
    joints = [model.joints[f"t{i}"] for i in range(PANELS + 1)]
    half = np.zeros_like(even)
    for i, joint in enumerate(joints):
        half[3 * joint + 1] = even[3 * joint + 1] * (1.0 if i < PANELS // 2 else 0.5 if i == PANELS // 2 else 0.0)
    return {"dead load": dead(model), "snow": 0.9 * even, "snow on the left": 0.9 * half, "wind from the left": wind(model, joints)}


def dead(model: Frame) -> np.ndarray:
    """The roofing on the joints of the top chord, and each element's own weight at its ends."""
    load = ROOFING / 1e-3 * snow(model)
    ends = model.nodes[model.elements]
    own = STEEL * model.area * np.linalg.norm(ends[:, 1] - ends[:, 0], axis=1) / 2
    for k in (0, 1):
        np.add.at(load, 3 * model.elements[:, k] + 1, -own)
    return load


def wind(model: Frame, joints: list[int]) -> np.ndarray:
    """Pressure normal to the roof, half of each panel's on the joints at its ends."""
    load = np.zeros(3 * len(model.nodes))
    for i, (a, b) in enumerate(zip(joints[:-1], joints[1:], strict=True)):
        x, z = model.nodes[b] - model.nodes[a]
        inward = np.array([z, -x])
        pressure = WIND["windward"] if i < PANELS // 2 else WIND["lee"]
        for joint in (a, b):
            load[3 * joint : 3 * joint + 2] += pressure * BAY * inward / 2
    return load


def solve() -> tuple[Frame, dict[str, dict[str, np.ndarray]]]:
    """Each case by itself: what a result file holds of it."""
    model = truss()
    left, right = model.joints["b0"], model.joints[f"b{PANELS}"]
    found = {}
    for name, load in loads(model).items():
        solver = Solver(model, [3 * left, 3 * left + 1, 3 * right + 1], load, 3 * model.joints[f"t{PANELS // 2}"] + 1, factor=1.0)
        own = np.einsum("egf,egfi,egfj->eij", YOUNG * solver.weight + 0 * solver.height[:, None], solver.rows, solver.rows)
        i, j = np.repeat(solver.dofs, 6, axis=1), np.tile(solver.dofs, (1, 6))
        whole = coo_matrix((own.ravel(), (i.ravel(), j.ravel())), shape=(len(load),) * 2).tocsc()
        solver.moved[solver.free] = splu(whole[solver.free][:, solver.free]).solve(load[solver.free])
        found[name] = state(solver)
        if (found[name]["yielded_share"] > 0).any():
            raise RuntimeError(f"{name} is past yield: it is no case to be combined")
    return model, found


def main() -> None:
    """Solve and write one file a case."""
    DATA.mkdir(parents=True, exist_ok=True)
    model, cases = solve()
    nodes = np.stack([model.nodes[:, 0], 0 * model.nodes[:, 0], model.nodes[:, 1]], 1)
    marks = {
        "supports": [model.joints["b0"], model.joints[f"b{PANELS}"]],
        "ridge": [model.joints[f"t{PANELS // 2}"]],
        "top_joints": [model.joints[f"t{i}"] for i in range(PANELS + 1)],
    }
    sets = {name: np.isin(np.arange(len(nodes)), of).astype(np.uint8) for name, of in marks.items()}
    for number, (name, s) in enumerate(cases.items()):
        write_unshared(
            DATA / f"case_{number}.vtu",
            None,
            nodes,
            model.elements,
            {"displacement": s["displacement"], "reaction": s["reaction"], "load": s["snow_load"], **sets},
            {"top_fibre_stress": s["top_fibre_stress"], "bottom_fibre_stress": s["bottom_fibre_stress"]},
            {"axial_force": s["axial_force"], "axial_stress": s["axial_stress"], "section_area": model.area,
             "part": model.group.astype(np.int32) + 1, "member": model.member.astype(np.int32) + 1},
            loading=name,
        )  # fmt: skip
        print(f"{name}: largest axial force {np.abs(s['axial_force']).max() / 1e3:.1f} kN, span {SPAN / 1e3:g} m")


if __name__ == "__main__":
    main()
