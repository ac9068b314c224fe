"""The brake flexure: a U-shaped steel plate, one leg clamped, the end of the other driven to and fro along its axis.

Quadratic serendipity hexahedra with 2 x 2 x 2 Gauss points, full Newton. Units: mm, N, s, MPa. The plate, its steel and its
test are invented. Run ``python -m demo.flexure`` to solve it again and write the result files and the test record.
"""

from __future__ import annotations

import argparse
import json
import time
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import skfem
from scipy.sparse import coo_matrix
from scipy.sparse.linalg import splu

from demo.plasticity import State, Steel, return_map
from demo.vtu import write_unshared

DATA = Path(__file__).parent / "data" / "flexure"
THICKNESS, WIDTH, BEND_RADIUS, LEG = 8.0, 40.0, 30.0, 60.0
# The next revision of the plate: thicker, and solved for the first cycle.
STIFFER, FIRST_CYCLE = 9.0, 41
AMPLITUDES = (5.0, 5.0, 10.0, 10.0, 16.0, 16.0)
STEPS_PER_CYCLE = 40
CYCLE_TIME = 0.5
TOLERANCE = 1e-8
HEX20 = np.array(
    [[0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0], [0, 0, 1], [1, 0, 1], [1, 1, 1], [0, 1, 1]]
    + [[0.5, 0, 0], [1, 0.5, 0], [0.5, 1, 0], [0, 0.5, 0], [0.5, 0, 1], [1, 0.5, 1], [0.5, 1, 1], [0, 0.5, 1]]
    + [[0, 0, 0.5], [1, 0, 0.5], [1, 1, 0.5], [0, 1, 0.5]],
    dtype=float,
)


@dataclass(frozen=True)
class Division:
    """Number of elements along a leg, round the bend, across the width and through the thickness."""

    leg: int
    bend: int
    width: int
    thickness: int


COARSE = Division(leg=6, bend=12, width=4, thickness=2)
FINE = Division(leg=9, bend=18, width=4, thickness=4)


class Model:
    """Mesh, gradients and sparsity of the plate, ready for the load steps."""

    def __init__(self, division: Division, thickness: float = THICKNESS) -> None:
        along = np.concatenate(
            [
                np.linspace(-LEG, 0.0, division.leg + 1),
                np.linspace(0.0, np.pi * BEND_RADIUS, division.bend + 1)[1:],
                np.pi * BEND_RADIUS + np.linspace(0.0, LEG, division.leg + 1)[1:],
            ]
        )
        across = np.linspace(0.0, WIDTH, division.width + 1)
        through = np.linspace(-thickness / 2, thickness / 2, division.thickness + 1)
        flat = skfem.MeshHex2.from_mesh(skfem.MeshHex.init_tensor(along, across, through))
        mapped = _bend(flat.doflocs)
        straighten_inner_nodes(flat, mapped)
        mesh = skfem.MeshHex2(mapped, flat.t)
        self.basis = skfem.CellBasis(mesh, skfem.ElementHexS2(), intorder=3)
        order = [int(np.flatnonzero((np.abs(skfem.ElementHexS2().doflocs - xi) < 1e-9).all(1))[0]) for xi in HEX20]
        self.nodes = self.basis.doflocs.T.copy()
        self.connectivity = self.basis.element_dofs.T[:, order]
        gradient = np.stack([np.asarray(self.basis.basis[i][0].grad) for i in order])
        self.weights = np.asarray(self.basis.dx)
        self.strain_matrix = _strain_matrix(gradient)
        if np.linalg.det(self._jacobians()).min() <= 0.0:
            raise RuntimeError("inverted element in the flexure mesh")
        self.dofs = (3 * self.connectivity[:, :, None] + np.arange(3)).reshape(len(self.connectivity), 60)
        self.rows = np.repeat(self.dofs, 60, axis=1).ravel()
        self.cols = np.tile(self.dofs, (1, 60)).ravel()
        end = np.abs(self.nodes[:, 0] - LEG) < 1e-6
        self.held = end & (self.nodes[:, 2] < 0.0)
        self.driven = end & (self.nodes[:, 2] > 0.0)
        # Gauss points to nodes: the trilinear field through the eight points, read at the twenty nodes.
        gauss = self.basis.X.T
        monomials = lambda x: np.stack(  # noqa: E731
            [np.prod(x**power, axis=1) for power in np.ndindex(2, 2, 2)], axis=1
        )
        self.extrapolation = monomials(HEX20) @ np.linalg.inv(monomials(gauss))

    def _jacobians(self) -> np.ndarray:
        corners = self.nodes[self.connectivity[:, :8]]
        return np.stack([corners[:, 1] - corners[:, 0], corners[:, 3] - corners[:, 0], corners[:, 4] - corners[:, 0]], 1)


def _bend(flat: np.ndarray) -> np.ndarray:
    """The strip (along, across, through) folded into the U: the bend lies at x < 0, both legs point to +x."""
    along, across, through = flat
    angle = np.clip(along / BEND_RADIUS, 0.0, np.pi)
    beyond = np.where(along < 0.0, -along, np.where(along > np.pi * BEND_RADIUS, along - np.pi * BEND_RADIUS, 0.0))
    radius = BEND_RADIUS + through
    return np.stack([beyond - radius * np.sin(angle), WIDTH - across, -radius * np.cos(angle)])


def straighten_inner_nodes(mesh: skfem.MeshHex2, points: np.ndarray) -> None:
    """Put the face and volume nodes where the twenty-node map has them, so that files and solution share one geometry."""
    corner = np.asarray(mesh.dofs.element_dofs)
    local = skfem.ElementHex2().doflocs
    inner = (local == 0.5).sum(1)
    for target in np.flatnonzero(inner >= 2):
        fixed = local[target] != 0.5
        near = (local[:, fixed] == local[target, fixed]).all(1)
        edge_weight = 0.5 if inner[target] == 2 else 0.25
        points[:, corner[target]] = -0.25 * points[:, corner[near & (inner == 0)]].sum(1) + edge_weight * points[
            :, corner[near & (inner == 1)]
        ].sum(1)


def _strain_matrix(gradient: np.ndarray) -> np.ndarray:
    """B of shape (elements, Gauss points, 6, 60) from shape gradients (20, 3, elements, Gauss points)."""
    dx, dy, dz = (gradient[:, i].transpose(1, 2, 0) for i in range(3))
    matrix = np.zeros((*dx.shape[:2], 6, 20, 3))
    matrix[:, :, 0, :, 0], matrix[:, :, 1, :, 1], matrix[:, :, 2, :, 2] = dx, dy, dz
    matrix[:, :, 3, :, 0], matrix[:, :, 3, :, 1] = dy, dx
    matrix[:, :, 4, :, 1], matrix[:, :, 4, :, 2] = dz, dy
    matrix[:, :, 5, :, 0], matrix[:, :, 5, :, 2] = dz, dx
    return matrix.reshape(*dx.shape[:2], 6, 60)


def driver() -> tuple[np.ndarray, np.ndarray]:
    """Times in s and prescribed displacement in mm: straight ramps with a step exactly on every reversal."""
    corners = [0.0]
    for amplitude in AMPLITUDES:
        corners += [amplitude, 0.0, -amplitude, 0.0]
    count = len(AMPLITUDES) * STEPS_PER_CYCLE
    times = np.arange(count + 1) * CYCLE_TIME / STEPS_PER_CYCLE
    return times, np.interp(np.arange(count + 1), np.arange(len(corners)) * STEPS_PER_CYCLE / 4, corners)


def solve(
    division: Division, steel: Steel, keep=None, log: bool = True, thickness: float = THICKNESS, steps: int | None = None
) -> dict[str, np.ndarray]:
    """Drive the plate through the history, or its first steps; ``keep(step, time, model, fields)`` is called with each converged
    step."""
    model = Model(division, thickness)
    times, driven = (v[:steps] for v in driver())
    count = 3 * len(model.nodes)
    fixed = np.zeros(count, dtype=bool)
    fixed.reshape(-1, 3)[model.held | model.driven] = True
    free = np.flatnonzero(~fixed)
    displacement = np.zeros(count)
    state = State.virgin(model.weights.shape)
    matrix = model.strain_matrix

    def assemble(vector: np.ndarray):
        strain = np.einsum("egij,ej->egi", matrix, vector[model.dofs], optimize=True)
        stress, tangent, new = return_map(steel, strain, state)
        force = np.zeros(count)
        np.add.at(force, model.dofs, np.einsum("egij,egi,eg->ej", matrix, stress, model.weights, optimize=True))
        weighted = np.einsum("egik,egkj->egij", tangent * model.weights[..., None, None], matrix, optimize=True)
        stiffness = np.einsum("egki,egkj->eij", matrix, weighted, optimize=True)
        whole = coo_matrix((stiffness.ravel(), (model.rows, model.cols)), shape=(count, count)).tocsc()
        return strain, stress, new, force, whole

    strain, stress, new, force, stiffness = assemble(displacement)
    forces, iterations = [0.0], [0]
    started = time.perf_counter()
    if keep:
        keep(0, times[0], model, displacement, force, fixed, strain, stress, state)
    for step in range(1, len(times)):
        increment = np.zeros(count)
        increment[3 * np.flatnonzero(model.driven)] = driven[step] - driven[step - 1]
        right = -(force + stiffness @ increment)[free]
        increment[free] = splu(stiffness[free][:, free]).solve(right)
        displacement = displacement + increment
        for iteration in range(1, 26):  # noqa: B007 (the count is kept)
            strain, stress, new, force, stiffness = assemble(displacement)
            residual = np.linalg.norm(force[free]) / max(np.linalg.norm(force[fixed]), 1e-9)
            if residual < TOLERANCE:
                break
            displacement[free] += splu(stiffness[free][:, free]).solve(-force[free])
        else:
            raise RuntimeError(f"step {step} did not converge: residual {residual:.2e}")
        state = new
        forces.append(float(force.reshape(-1, 3)[model.held, 0].sum()))
        iterations.append(iteration)
        if keep:
            keep(step, times[step], model, displacement, force, fixed, strain, stress, state)
        if log and step % STEPS_PER_CYCLE == 0:
            spent = time.perf_counter() - started
            print(f"step {step}: {iteration} iterations, force {forces[-1]:.1f} N, {spent:.0f} s", flush=True)
    return {
        "time": times,
        "displacement": driven,
        "reaction": np.array(forces),
        "iterations": np.array(iterations),
        "elements": np.array(len(model.connectivity)),
        "nodes": np.array(len(model.nodes)),
    }


def write_results(folder: Path, thickness: float = THICKNESS, steps: int | None = None) -> dict[str, np.ndarray]:
    """Solve the coarse mesh and write a numbered VTU series, one file a step."""
    folder.mkdir(parents=True, exist_ok=True)
    for old in folder.glob("flexure_*.vtu"):
        old.unlink()

    def keep(step, moment, model, displacement, force, fixed, strain, stress, state):
        at_corners = lambda values: np.einsum("ng,eg...->en...", model.extrapolation, values)  # noqa: E731
        tensor_strain = strain / np.array([1, 1, 1, 2, 2, 2])
        reaction = np.where(fixed, force, 0.0).reshape(-1, 3)
        middle = model.nodes[model.connectivity[:, :8]].mean(1)
        write_unshared(
            folder / f"flexure_{step:03d}.vtu",
            moment,
            model.nodes,
            model.connectivity,
            node_data={
                "displacement": displacement.reshape(-1, 3),
                "reaction": reaction,
                "held": model.held.astype(np.uint8),
                "driven": model.driven.astype(np.uint8),
            },
            corner_data={
                "stress": at_corners(stress),
                "strain": at_corners(tensor_strain),
                "equivalent_plastic_strain": at_corners(state.equivalent),
            },
            cell_data={
                "part": np.ones(len(model.connectivity), dtype=np.int32),
                "bend": (middle[:, 0] < 0.0).astype(np.uint8),
            },
        )

    return solve(COARSE, Steel(), keep, thickness=thickness, steps=steps)


SPECIMENS = {
    "F1": (Steel(yield_stress=281.0, voce_saturation=31.0, voce_rate=25.0, kinematic_modulus=2_250.0), 0.21, 20_261_123),
    "F2": (Steel(yield_stress=264.0, voce_saturation=37.0, voce_rate=24.0, kinematic_modulus=2_350.0), -0.15, 20_261_124),
    "F3": (Steel(yield_stress=272.0, voce_saturation=34.0, voce_rate=25.0, kinematic_modulus=2_300.0), 0.34, 20_261_125),
}


def write_test_record(path: Path, specimen: Steel, offset: float, seed: int) -> None:
    """A made-up specimen: other hardening, noise, a zero offset, a load cell that reads push as negative, kN and mm."""
    run = solve(COARSE, specimen, log=False)
    rng = np.random.default_rng(seed)
    fine = np.linspace(0, len(run["time"]) - 1, 4 * (len(run["time"]) - 1) + 1)
    at = np.arange(len(run["time"]))
    moment, stroke, load = (np.interp(fine, at, run[name]) for name in ("time", "displacement", "reaction"))
    stroke = stroke + rng.normal(0.0, 0.008, stroke.shape)
    cell = load / 1000.0 + offset + rng.normal(0.0, 0.012, load.shape)
    lines = ["Time,Stroke,Load cell", "s,mm,kN"]
    lines += [f"{t:.5f},{d:.4f},{f:.4f}" for t, d, f in zip(moment, stroke, cell, strict=True)]
    path.write_text("\n".join(lines) + "\n")


def write_history(path: Path) -> None:
    """The history of the test's plan: where the stroke has to be at every turn."""
    times, stroke = driver()
    bent = np.abs(np.diff(stroke, 2)) > 1e-9
    turns = np.flatnonzero(np.concatenate([[True], bent, [True]]))
    lines = ["Time;Stroke", "s;mm", *(f"{times[i]:.3f};{stroke[i]:.2f}".replace(".", ",") for i in turns)]
    path.write_text("\n".join(lines) + "\n")


def write_material(path: Path, steel: Steel) -> None:
    """The input curve of the plate's steel: true stress against equivalent plastic strain, pulled one way."""
    strain = np.concatenate([np.linspace(0.0, 0.004, 9), np.linspace(0.005, 0.05, 10)])
    stress = steel.flow_stress(strain) + steel.kinematic_modulus * strain
    lines = ["Plastic strain,True stress", "1,MPa", *(f"{p:.5f},{s:.3f}" for p, s in zip(strain, stress, strict=True))]
    path.write_text("\n".join(lines) + "\n")


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--mesh-check", action="store_true", help="also solve the finer mesh and write mesh_check.json")
    parser.add_argument("--stiffer", action="store_true", help="solve the next revision alone: thicker, its first cycle")
    parser.add_argument("--to", type=Path, default=DATA)
    options = parser.parse_args()
    if options.stiffer:
        write_results(DATA.with_name("flexure_stiffer") if options.to == DATA else options.to, STIFFER, FIRST_CYCLE)
        return
    write_history(options.to / "prescribed_history.csv")
    write_material(options.to / "material_input.csv", Steel())
    coarse = write_results(options.to)
    for name, specimen in SPECIMENS.items():
        write_test_record(options.to / f"specimen_{name}.csv", *specimen)
    if options.mesh_check:
        runs = {"coarse": coarse, "fine": solve(FINE, Steel())}
        report = {
            name: {
                "elements": int(run["elements"]),
                "nodes": int(run["nodes"]),
                "largest iterations in a step": int(run["iterations"].max()),
                "peak force N": float(np.abs(run["reaction"]).max()),
                "energy of all steps N mm": float(np.trapezoid(-run["reaction"], run["displacement"])),
            }
            for name, run in runs.items()
        }
        (options.to / "mesh_check.json").write_text(json.dumps(report, indent=1) + "\n")
        print(json.dumps(report, indent=1))


if __name__ == "__main__":
    main()
