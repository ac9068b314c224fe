"""The drive house's machine hood over its closed air space, shaken at its feet: modes of the hood, and sound in the air within.

A box of steel plates, open below, stands with four feet on a floor that shakes upright; the air in it is closed off by the floor.
Plates and air are 20-node bricks, linear, with matching faces; plates push the air as the air pushes the plates (displacement and
pressure; after A. Craggs 1971, from memory). The sweep is made of modes of both, with loss factors. The measured hood is softer
than the model and damps more, with the noise of a test. Units: mm, N, s, t, MPa. All of it is invented. Run ``python -m
demo.hood`` to solve it again.
"""

from __future__ import annotations

from functools import cached_property
from pathlib import Path

import numpy as np
import pyuff
import skfem
from scipy.sparse import csr_matrix
from scipy.sparse.linalg import eigsh
from skfem.helpers import dot, grad

from demo.bricks import Bricks
from demo.xdmf import write_motion

DATA = Path(__file__).parent / "data" / "hood"
LONG, WIDE, HIGH, THICK = 1000.0, 800.0, 600.0, 4.0
YOUNG, POISSON, STEEL, LOSS = 210_000.0, 0.30, 7.85e-9, 0.05
# Air: density in t/mm³, speed of sound in mm/s, loss factor.
AIR, SOUND, AIR_LOSS = 1.2e-12, 343_000.0, 0.01
# The floor under the feet, in mm; frequencies of the sweep in Hz; modes that are written, and modes the sweep is made of.
SHAKES, SWEPT, MODES = 0.01, np.round(np.geomspace(20.0, 200.0, 70), 2), 12
PLATES, SOUNDS = 60, 120


class Hood:
    """Plates and air. young: modulus of the plates; loss: their loss factor."""

    def __init__(self, young: float = YOUNG, loss: float = LOSS) -> None:
        x, y, z = (np.linspace(0.0, size, count + 1) for size, count in ((LONG, 8), (WIDE, 6), (HIGH, 5)))
        lines = (np.r_[-THICK, x, LONG + THICK], np.r_[-THICK, y, WIDE + THICK], np.r_[z, HIGH + THICK])
        box = skfem.MeshHex.init_tensor(*lines)
        middle = box.p[:, box.t].mean(1)
        inside = (middle > 0).all(0) & (middle < np.array([[LONG], [WIDE], [HIGH]])).all(0)
        plates, self.air = box.restrict(np.flatnonzero(~inside)), box.restrict(np.flatnonzero(inside))
        ones = np.ones(plates.nelements)
        self.plates, self.loss = Bricks(plates, young * ones, POISSON * ones, STEEL * ones), loss
        self.basis = skfem.CellBasis(self.air, skfem.ElementHexS2(), intorder=5)
        x, y, z = self.plates.nodes.T
        corner = np.minimum(np.abs(x), np.abs(x - LONG)) + np.minimum(np.abs(y), np.abs(y - WIDE)) < 140.0
        self.feet = (z == 0.0) & corner
        self.held = self.plates.dofs[self.feet].ravel()
        self.free = np.setdiff1d(np.arange(self.plates.basis.N), self.held)

    @cached_property
    def coupling(self) -> csr_matrix:
        """What pressures push of the plates, (degrees of freedom, air nodes): integral of p n.v over the faces they share."""
        at = {tuple(np.round(p, 4)): i for i, p in enumerate(self.plates.nodes)}
        wall = self.air.facets_satisfying(lambda q: q[2] > 1e-6, boundaries_only=True)
        face = skfem.FacetBasis(self.air, skfem.ElementHexS2(), facets=wall, intorder=5)
        plate_of = np.array([at.get(tuple(np.round(p, 4)), -1) for p in self.basis.doflocs.T])
        whole = csr_matrix((self.plates.basis.N, self.basis.N))
        for axis in range(3):
            pushed = _pushed(axis).assemble(face).tocoo()
            # Nodes of an element that are not on its wall have nothing but rounding.
            real = np.abs(pushed.data) > 1e-9 * np.abs(pushed.data).max()
            row, column, data = pushed.row[real], pushed.col[real], pushed.data[real]
            assert (plate_of[row] >= 0).all()
            whole = whole + csr_matrix((data, (self.plates.dofs[plate_of[row], axis], column)), shape=whole.shape)
        return whole

    def shaken(self, frequencies: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """Complex displacement of the plates (f, degrees of freedom) and pressure of the air (f, air nodes).

        By the first modes of the plates and of the air each for itself, which the walls couple; the plates' motion is told from
        that of the floor, with which everything goes up and down.
        """
        own, shapes = self.modes(PLATES)
        stiff, heavy = (a.tocsc() for a in (_spread.assemble(self.basis) / AIR, _held.assemble(self.basis) / (AIR * SOUND**2)))
        squared, sounds = eigsh(stiff, SOUNDS, heavy, sigma=-1e4, v0=np.ones(self.basis.N))
        up = np.zeros(self.plates.basis.N)
        up[self.plates.dofs[:, 2]] = SHAKES
        coupled = shapes @ (self.coupling @ sounds)
        inert = shapes @ (self.plates.mass @ up)
        # The floor under the air goes up with all the rest.
        lifted = SHAKES * (sounds.T @ _lifted.assemble(skfem.FacetBasis(self.air, skfem.ElementHexS2(), intorder=5)))
        moved = np.zeros((len(frequencies), self.plates.basis.N), dtype=complex)
        pressure = np.zeros((len(frequencies), self.basis.N), dtype=complex)
        for i, w in enumerate(2 * np.pi * frequencies):
            plates = np.diag((2 * np.pi * own) ** 2 * (1 + 1j * self.loss) - w * w)
            air = np.diag(np.clip(squared, 0.0, None) * (1 + 1j * AIR_LOSS) - w * w)
            found = np.linalg.solve(
                np.block([[plates, -coupled], [-w * w * coupled.T, air]]), w * w * np.concatenate([inert, lifted]).astype(complex)
            )
            moved[i], pressure[i] = up + found[:PLATES] @ shapes, sounds @ found[PLATES:]
        return moved, pressure

    def modes(self, count: int) -> tuple[np.ndarray, np.ndarray]:
        """Frequencies (m,) in Hz and shapes (m, degrees of freedom) of the plates alone, of unit modal mass."""
        k, m = (a[self.free][:, self.free].tocsc() for a in (self.plates.stiffness, self.plates.mass))
        squared, vectors = eigsh(k, count, m, sigma=0.0, v0=np.ones(len(self.free)))
        shapes = np.zeros((count, self.plates.basis.N))
        shapes[:, self.free] = vectors.T
        most = shapes[np.arange(count), np.abs(shapes).argmax(1)]
        return np.sqrt(squared) / (2 * np.pi), shapes * np.sign(most)[:, None]


@skfem.BilinearForm
def _spread(p, q, _):
    return dot(grad(p), grad(q))


@skfem.BilinearForm
def _held(p, q, _):
    return p * q


@skfem.LinearForm
def _lifted(q, w):
    return w.n[2] * q


def _pushed(axis: int) -> skfem.BilinearForm:
    return skfem.BilinearForm(lambda p, q, w: w.n[axis] * p * q)


class Both:
    """Plates and air as one mesh of two parts, each with nodes of its own."""

    def __init__(self, hood: Hood) -> None:
        local = [int(np.flatnonzero((np.abs(skfem.ElementHexS2().doflocs - xi) < 1e-9).all(1))[0]) for xi in hood.plates.corners]
        air = hood.basis.element_dofs.T[:, local]
        count = len(hood.plates.nodes)
        self.nodes = np.vstack([hood.plates.nodes, hood.basis.doflocs.T])
        self.connectivity = np.vstack([hood.plates.connectivity, count + air])
        self.part = np.r_[np.zeros(len(hood.plates.connectivity), dtype=int), np.ones(len(air), dtype=int)]
        self.count = count


# Where it was measured: a point on the hood and which way, or a microphone in the air.
PLACES: list[tuple[tuple[float, float, float], str]] = [
    ((500.0, 400.0, 604.0), "z"), ((250.0, 400.0, 604.0), "z"), ((1004.0, 400.0, 360.0), "x"),
    ((500.0, 400.0, 120.0), "p"), ((125.0, 400.0, 480.0), "p"), ((875.0, 133.333, 240.0), "p"),
]  # fmt: skip
LINES = np.arange(20.0, 200.5, 1.0)


def measured() -> list[tuple[str, np.ndarray, str]]:
    """Of the tested hood: what each is called, its response over LINES, and its unit."""
    hood = Hood(young=0.93 * YOUNG, loss=0.06)
    moved, pressure = hood.shaken(LINES)
    chance = np.random.default_rng(31)
    found = []
    for place, way in PLACES:
        if way == "p":
            near = int(np.argmin(np.linalg.norm(hood.basis.doflocs.T - place, axis=1)))
            one, unit = pressure[:, near] * 1e6, "Pa"
        else:
            near = int(np.argmin(np.linalg.norm(hood.plates.nodes - place, axis=1)))
            one, unit = -((2 * np.pi * LINES) ** 2) * moved[:, hood.plates.dofs[near, "xyz".index(way)]] / 1000.0, "m/s**2"
        noise = chance.normal(size=(2, len(LINES)))
        one = one * (1 + 0.01 * noise[0]) + 0.004 * np.abs(one).mean() * (noise[0] + 1j * noise[1])
        at = ", ".join(f"{v:g}" for v in place)
        found.append((f"{'sound' if way == 'p' else way} at {at}", one, unit))
    return found


def write_measured(path: Path) -> None:
    """The measured responses as functions of a universal file (dataset 58), by pyuff."""
    sets = [
        pyuff.prepare_58(
            binary=0, id1=name, id2="machine hood, shaken", rsp_node=k, rsp_dir=0, ref_node=1, ref_dir=3, x=LINES, data=one,
            ord_data_type=5, func_type=4, load_case_id=1, abscissa_min=float(LINES[0]), abscissa_inc=float(LINES[1] - LINES[0]),
            abscissa_spacing=1, z_axis_value=0.0, abscissa_spec_data_type=18, abscissa_axis_units_lab="Hz",
            ordinate_spec_data_type=0, ordinate_axis_units_lab=unit, orddenom_spec_data_type=0,
        )
        for k, (name, one, unit) in enumerate(measured(), start=1)
    ]  # fmt: skip
    path.unlink(missing_ok=True)
    pyuff.UFF(str(path)).write_sets(sets, mode="overwrite")


def main() -> None:
    """Solve and write modes, sweep and measured responses."""
    DATA.mkdir(parents=True, exist_ok=True)
    hood = Hood()
    frequencies, shapes = hood.modes(MODES)
    plates = hood.plates
    one = np.zeros(len(plates.connectivity), dtype=int)
    write_motion(DATA / "modes", plates, one, frequencies, {"displacement": shapes[:, plates.dofs]}, {"feet": hood.feet})
    both = Both(hood)
    moved, pressure = hood.shaken(SWEPT)
    fields = {}
    for name, part in (("real", np.real), ("imag", np.imag)):
        whole = np.full((len(SWEPT), len(both.nodes), 3), np.nan)
        whole[:, : both.count] = part(moved[:, plates.dofs])
        sound = np.full((len(SWEPT), len(both.nodes)), np.nan)
        sound[:, both.count :] = part(pressure)
        fields |= {f"displacement_{name}": whole, f"pressure_{name}": sound}
    sets = {"feet": np.r_[hood.feet, np.zeros(len(both.nodes) - both.count, dtype=bool)]}
    write_motion(DATA / "sweep", both, both.part, SWEPT, fields, sets)
    write_measured(DATA / "measured.uff")
    loudest = 20 * np.log10(np.abs(pressure).max(1) * 1e6 / np.sqrt(2) / 20e-6)
    print("modes at", np.round(frequencies, 1), "Hz; loudest", f"{loudest.max():.0f} dB at {SWEPT[loudest.argmax()]:.0f} Hz")


if __name__ == "__main__":
    main()
