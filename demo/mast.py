"""The ropeway's weather mast: a tube wound of glass fibre, clamped at its foot, under wind and ice that hangs on one side.

A curved shell with shear (Reissner and Mindlin) of 9-node quadrilaterals: movements and turns are vectors in space, interpolated as
the shape itself is, so that the mast can move as a whole without strain, which its long sway asks for. Shear between normal and
wall is integrated with 2 x 2 points, the rest with 3 x 3; turning about the normal is tied to that of the wall. Units: mm, N, s,
MPa. Mast, material, coupons and tests are invented. Run ``python -m demo.mast`` to solve it again and to write the result files,
the laminates, the coupons and the tests.
"""

from __future__ import annotations

import csv
import json
from pathlib import Path

import numpy as np
import skfem
from scipy.sparse import coo_matrix, csr_matrix
from scipy.sparse.linalg import splu

from demo.vtu import write_unshared

DATA = Path(__file__).parent / "data" / "mast"
RADIUS, HEIGHT = 60.0, 2400.0
AROUND = 32
FACTORS = np.arange(0.25, 2.01, 0.25)
# Wind on the whole mast (N/mm of height) towards +x; on the ice its force at an arm, and the weight of the ice.
WIND, ICE_WIND, ICE_ARM, ICE_WEIGHT, ICE_FROM = 0.33, 200.0, 1000.0, 250.0, 2100.0
OPENING = ((650.0, 800.0), (157.0, 203.0))

GLASS = {
    "E1": 40_500.0, "E2": 10_200.0, "G12": 4_100.0, "G13": 4_100.0, "G23": 3_500.0, "nu12": 0.27,
    "Xt": 1_020.0, "Xc": 640.0, "Yt": 41.0, "Yc": 138.0, "S12": 66.0, "S13": 58.0, "S23": 42.0,
    "source": "made up for the demo", "basis": "first estimate, before the coupons",
}  # fmt: skip
# Sheets from the inside to the outside: name, angle from the mast's axis, thickness.
SHEETS = {
    "H1": (88.0, 0.25),
    "A1": (0.0, 0.40),
    "P1": (45.0, 0.25),
    "M1": (-45.0, 0.25),
    "D1": (0.0, 0.40),
    "D2": (45.0, 0.25),
    "D3": (-45.0, 0.25),
    "R1": (90.0, 0.40),
    "R2": (0.0, 0.40),
    "M2": (-45.0, 0.25),
    "P2": (45.0, 0.25),
    "A2": (0.0, 0.40),
    "H2": (88.0, 0.25),
}
ZONES = {
    "foot": ("H1", "A1", "P1", "M1", "D1", "D2", "D3", "M2", "P2", "A2", "H2"),
    "middle": ("H1", "A1", "P1", "M1", "M2", "P2", "A2", "H2"),
    "opening": ("H1", "A1", "P1", "M1", "R1", "R2", "M2", "P2", "A2", "H2"),
    "tip": ("H1", "A1", "P1", "M1", "H2"),
}


def stiffness(zone: str) -> tuple[np.ndarray, np.ndarray]:
    """A, B, D of a zone as (6, 6), and its shear stiffness (2, 2); by themselves, not with the product's."""
    plies = [SHEETS[s] for s in ZONES[zone]]
    total = sum(t for _, t in plies)
    g = GLASS
    below = 1 - g["nu12"] ** 2 * g["E2"] / g["E1"]
    q = np.array([[g["E1"], g["nu12"] * g["E2"], 0], [g["nu12"] * g["E2"], g["E2"], 0], [0, 0, g["G12"] * below]]) / below
    abd, shear, z = np.zeros((6, 6)), np.zeros((2, 2)), -total / 2
    for angle, thickness in plies:
        c, s = np.cos(np.radians(angle)), np.sin(np.radians(angle))
        turn = np.array([[c * c, s * s, c * s], [s * s, c * c, -c * s], [-2 * c * s, 2 * c * s, c * c - s * s]])
        bar, top = turn.T @ q @ turn, z + thickness
        abd += np.block(
            [
                [bar * (top - z), bar * (top**2 - z**2) / 2],
                [bar * (top**2 - z**2) / 2, bar * (top**3 - z**3) / 3],
            ]
        )
        turned = np.array([[c, -s], [s, c]])
        shear += 5 / 6 * thickness * turned @ np.diag([g["G13"], g["G23"]]) @ turned.T
        z = top
    return abd, shear


class Model:
    """The chart: (distance round, height), its elements without those of the opening, and the zone of each."""

    def __init__(self) -> None:
        round_ = np.linspace(0.0, 2 * np.pi * RADIUS, AROUND + 1)
        (low, high), (from_, to) = OPENING
        up = np.concatenate(
            [np.linspace(0, 60, 5), np.linspace(60, 400, 8)[1:], np.linspace(400, low, 6)[1:], np.linspace(low, high, 7)[1:],
             np.linspace(high, 1050, 6)[1:], np.linspace(1050, 1700, 9)[1:], np.linspace(1700, ICE_FROM, 6)[1:],
             np.linspace(ICE_FROM, HEIGHT, 5)[1:]]
        )  # fmt: skip
        mesh = skfem.MeshQuad.init_tensor(round_, up)
        middle = mesh.p[:, mesh.t].mean(1)
        angle = np.degrees(middle[0] / RADIUS)
        hole = (middle[1] > low) & (middle[1] < high) & (angle > from_) & (angle < to)
        mesh = mesh.remove_elements(np.flatnonzero(hole))
        self.mesh = mesh
        middle = mesh.p[:, mesh.t].mean(1)
        angle = np.degrees(middle[0] / RADIUS)
        round_it = (middle[1] > low - 100) & (middle[1] < high + 100) & (np.abs(angle - 180) < 57)
        self.zone = np.where(middle[1] < 400, 0, np.where(middle[1] > 1700, 3, np.where(round_it, 2, 1)))
        element = skfem.ElementQuad2()
        self.full = skfem.CellBasis(mesh, element, intorder=5)
        self.less = skfem.CellBasis(mesh, element, intorder=3)
        self.places = self.full.doflocs.T.copy()
        # The seam: what lies at the end of the way round is what lies at its beginning.
        seam = np.isclose(self.places[:, 0], 2 * np.pi * RADIUS)
        self.join = np.arange(len(self.places))
        begin = np.flatnonzero(np.isclose(self.places[:, 0], 0.0))
        order = {round(float(self.places[b, 1]), 6): b for b in begin}
        self.join[seam] = [order[round(float(h), 6)] for h in self.places[seam, 1]]


def _rows(model: Model, basis: skfem.CellBasis) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
    """Matrices at the integration points of six movements at each node (x, y, z and turns about them): membrane strain and
    curvature along and round the mast (e, q, 6, 54), shear of the normal (e, q, 2, 54), turning about the normal less that of the
    wall (e, q, 54); and the area at each point (e, q)."""
    shape = np.stack([np.broadcast_to(np.asarray(b[0]), basis.dx.shape) for b in basis.basis], -1)
    slope = np.stack([np.broadcast_to(np.asarray(b[0].grad), (2, *basis.dx.shape)) for b in basis.basis], -1)
    places = model.places[model.full.element_dofs.T]
    angle = places[:, :, 0] / RADIUS
    normals = np.stack([np.cos(angle), np.sin(angle), np.zeros_like(angle)], 2)
    normal = np.einsum("eqi,eix->eqx", shape, normals, optimize=True)
    # How the normal turns round the mast; along it it stays. The wall's tangent round it is the same, times the radius.
    bent = np.einsum("eqi,eix->eqx", slope[0], normals, optimize=True)
    length = np.linalg.norm(bent, axis=2, keepdims=True) * RADIUS
    bent = bent / length
    around = bent * RADIUS
    up = np.zeros_like(around)
    up[..., 2] = 1.0
    by_round, by_up = slope[0] / length, slope[1]
    count, points, size = shape.shape
    moved = np.zeros((count, points, 2, 3, size, 6))
    for x in range(3):
        moved[:, :, 0, x, :, x] = by_round
        moved[:, :, 1, x, :, x] = by_up
    # The normal moves by turn x normal.
    cross = np.zeros((count, points, 3, 3))
    cross_bent = np.zeros((count, points, 3, 3))
    for k, axis in enumerate(np.eye(3)):
        cross[..., k] = np.cross(axis, normal)
        cross_bent[..., k] = np.cross(axis, bent)
    tilt = np.zeros((count, points, 3, size, 6))
    tilt[..., 3:] = np.einsum("eqi,eqxk->eqxik", shape, cross, optimize=True)
    tilted = np.zeros_like(moved)
    tilted[:, :, 0, :, :, 3:] = np.einsum("eqi,eqxk->eqxik", by_round, cross, optimize=True)
    tilted[:, :, 0, :, :, 3:] += np.einsum("eqi,eqxk->eqxik", shape, cross_bent, optimize=True)
    tilted[:, :, 1, :, :, 3:] = np.einsum("eqi,eqxk->eqxik", by_up, cross, optimize=True)

    def along(direction: np.ndarray, what: np.ndarray) -> np.ndarray:
        return np.einsum("eqx,eqxik->eqik", direction, what, optimize=True).reshape(count, points, -1)

    flat = np.stack(
        [
            along(up, moved[:, :, 1]),
            along(around, moved[:, :, 0]),
            along(up, moved[:, :, 0]) + along(around, moved[:, :, 1]),
            along(up, tilted[:, :, 1]),
            along(around, tilted[:, :, 0]),
            along(up, tilted[:, :, 0]) + along(around, tilted[:, :, 1]) + along(bent, moved[:, :, 1]),
        ],
        2,
    )
    shear = np.stack([along(up, tilt) + along(normal, moved[:, :, 1]), along(around, tilt) + along(normal, moved[:, :, 0])], 2)
    drill = np.zeros((count, points, size, 6))
    drill[..., 3:] = np.einsum("eqi,eqk->eqik", shape, normal, optimize=True)
    spin = drill.reshape(count, points, -1) - (along(up, moved[:, :, 0]) - along(around, moved[:, :, 1])) / 2
    return flat, shear, spin, basis.dx * length[..., 0]


def solve() -> tuple[Model, dict[str, np.ndarray]]:
    """The answer at a load factor of 1: movements, forces and reactions at the nodes, strains and shear forces of the elements."""
    model = Model()
    names = list(ZONES)
    abd, shear = (np.stack(m)[model.zone] for m in zip(*(stiffness(z) for z in names), strict=True))
    flat, _, spin, area = _rows(model, model.full)
    _, slip, _, less = _rows(model, model.less)
    local = np.einsum("eqia,eij,eqjb,eq->eab", flat, abd, flat, area, optimize=True)
    local += np.einsum("eqia,eij,eqjb,eq->eab", slip, shear, slip, less, optimize=True)
    local += np.einsum("eqa,e,eqb,eq->eab", spin, 1e-3 * abd[:, 2, 2], spin, area, optimize=True)
    dofs = (6 * model.join[model.full.element_dofs.T][:, :, None] + np.arange(6)).reshape(len(local), -1)
    size = 6 * len(model.places)
    rows, columns = np.repeat(dofs, dofs.shape[1], 1).ravel(), np.tile(dofs, (1, dofs.shape[1])).ravel()
    whole = csr_matrix(coo_matrix((local.ravel(), (rows, columns)), shape=(size, size)))
    load = _load(model, area).ravel()
    used = np.unique(dofs)
    foot = np.flatnonzero(np.isclose(model.places[:, 1], 0.0))
    held = np.unique(6 * model.join[foot][:, None] + np.arange(6))
    free = np.setdiff1d(used, held)
    moved = np.zeros(size)
    moved[free] = splu(whole[free][:, free].tocsc()).solve(load[free])
    back = np.zeros(size)
    back[held] = (whole @ moved - load)[held]
    # The mean of each element; the shear where it is integrated.
    of_element = moved[dofs]
    strain = np.einsum("eqia,ea,eq->ei", flat, of_element, area, optimize=True) / area.sum(1)[:, None]
    turned = np.einsum("eqia,ea,eq->ei", slip, of_element, less, optimize=True) / less.sum(1)[:, None]
    return model, {
        "moved": moved.reshape(-1, 6)[model.join],
        "load": load.reshape(-1, 6),
        "reaction": back.reshape(-1, 6),
        "strain": strain,
        "shear": np.einsum("eij,ej->ei", shear, turned),
    }


def _load(model: Model, area: np.ndarray) -> np.ndarray:
    """Nodal loads (n, 6) of wind and ice."""
    basis = model.full
    x = np.asarray(basis.global_coordinates())
    angle, height = x[0] / RADIUS, x[1]
    around = 2 * np.pi * RADIUS
    band = around * (HEIGHT - ICE_FROM)
    on_ice = height > ICE_FROM
    # Wind along +x; the arm of the wind on the ice turns the tube about its axis.
    wind = WIND / around + np.where(on_ice, ICE_WIND / band, 0.0)
    twist = np.where(on_ice, ICE_WIND * ICE_ARM / (RADIUS * band), 0.0)
    # The ice hangs on the side of +y: its weight goes with 1 + sin.
    down = np.where(on_ice, -ICE_WEIGHT / band * (1 + np.sin(angle)), 0.0)
    found = np.zeros((len(model.places), 6))
    for i in range(basis.Nbfun):
        shape = np.asarray(basis.basis[i][0]) * area
        nodes = model.join[basis.element_dofs[i]]
        for k, part in enumerate((wind - twist * np.sin(angle), twist * np.cos(angle), down)):
            np.add.at(found[:, k], nodes, (shape * part).sum(1))
    return found


# The order of a biquadratic quadrilateral of VTK, by natural coordinates.
QUAD9 = ((0, 0), (1, 0), (1, 1), (0, 1), (0.5, 0), (1, 0.5), (0.5, 1), (0, 0.5), (0.5, 0.5))


def files(model: Model, answer: dict[str, np.ndarray]) -> None:
    """One file a load factor: everything is linear in it."""
    angle, height = model.places[:, 0] / RADIUS, model.places[:, 1]
    nodes = np.stack([RADIUS * np.cos(angle), RADIUS * np.sin(angle), height], 1)
    corners = np.asarray(skfem.ElementQuad2().doflocs)
    order = [int(np.flatnonzero((np.abs(corners - xi) < 1e-9).all(1))[0]) for xi in QUAD9]
    connectivity = model.join[model.full.element_dofs.T[:, order]]
    kept, connectivity = np.unique(connectivity, return_inverse=True)
    connectivity = connectivity.reshape(-1, 9)
    flat = {n: answer[n][kept, :3] for n in ("moved", "load", "reaction")}
    foot = np.isclose(height[kept], 0.0).astype(np.uint8)
    top = np.isclose(height[kept], HEIGHT).astype(np.uint8)
    for number, factor in enumerate(FACTORS):
        write_unshared(
            DATA / f"mast_{number}.vtu",
            float(factor),
            nodes[kept],
            connectivity,
            {"displacement": factor * flat["moved"], "force": factor * flat["load"], "reaction": factor * flat["reaction"],
             "foot": foot, "top": top},
            {},
            {"midplane_strain": factor * answer["strain"][:, :3], "curvature": factor * answer["strain"][:, 3:],
             "transverse_force": factor * answer["shear"], "part": model.zone.astype(np.int32) + 1},
            moment="LoadFactor",
        )  # fmt: skip


def laminates() -> dict[str, object]:
    """The laminate file: zones by part, sheets from the inside."""
    return {
        "version": 1,
        "units": "mm-N-s-t-MPa",
        "materials": {"glass": GLASS},
        "zones": [
            {
                "name": zone,
                "where": f"part:part {k + 1}",
                "offset": 0.0,
                "axis": [0, 0, 1],
                "plies": [{"sheet": s, "material": "glass", "thickness": SHEETS[s][1], "angle": SHEETS[s][0]} for s in sheets],
            }
            for k, (zone, sheets) in enumerate(ZONES.items())
        ],
    }


def coupons() -> None:
    """Made-up coupon tests: eight of each strength across the fibres and in shear, five along them, four of both at once."""
    chance = np.random.default_rng(11)
    rows: list[tuple[object, ...]] = []
    for which, mean, variation, count in (
        ("Xt", 1035, 0.05, 5), ("Xc", 650, 0.06, 5), ("Yt", 41.5, 0.07, 8), ("Yc", 139, 0.05, 8), ("S12", 66.5, 0.04, 8)
    ):  # fmt: skip
        for k, value in enumerate(chance.normal(mean, variation * mean, count), start=1):
            rows.append((f"{which}-{k}", which, f"{value:.3g}", "", "", ""))
    for k, (across, shear) in enumerate(((25.0, 50.0), (33.0, 36.0), (-40.0, 74.0), (-80.0, 72.0)), start=1):
        push = 1 + chance.normal(0, 0.04)
        rows.append((f"B-{k}", "", "", 0, f"{across * push:.3g}", f"{shear * push:.3g}"))
    with (DATA / "glass_coupons.csv").open("w", newline="") as out:
        table = csv.writer(out)
        table.writerow(("specimen", "property", "value", "s11", "s22", "s12"))
        table.writerow(("", "", "MPa", "MPa", "MPa", "MPa"))
        table.writerows(rows)


# Four masts that were tested, all made up: wind on the mast (N) at which the first crack was heard.
TESTS = (
    ("M1", 864, "opening", "matrix cracks", "at the upper corner of the opening"),
    ("M2", 801, "opening", "matrix cracks", "at the lower corner, heard first"),
    ("M3", 893, "opening", "matrix cracks", ""),
    ("M4", 939, "foot", "matrix cracks", "round the clamp; wound a day later than the others"),
)


def part_tests() -> None:
    """The tests of four masts."""
    with (DATA / "mast_tests.csv").open("w", newline="") as out:
        table = csv.writer(out)
        table.writerow(("specimen", "load", "zone", "mode", "note"))
        table.writerow(("", "N", "", "", ""))
        table.writerows(TESTS)


def main() -> None:
    """Solve, and write results, laminates, coupons and tests."""
    DATA.mkdir(parents=True, exist_ok=True)
    model, answer = solve()
    files(model, answer)
    (DATA / "mast_laminates.json").write_text(json.dumps(laminates(), indent=1) + "\n")
    coupons()
    part_tests()
    print(f"{len(model.zone)} elements, top moves {np.abs(answer['moved'][:, :3]).max():.1f} mm at a load factor of 1")


if __name__ == "__main__":
    main()
