"""An untidy set of files to try intake with: the clevis lug's coarse solution cut into mixed cells and carelessly exported.

What is wrong on purpose: elements of six shapes, names that say little, double beside single precision, a patch without values,
engineering shear, no node numbers, a step left out of the numbering, and one file without a time. The displacements are those of
the solved lug; strain and stress are worked out from them on the new cells. ``python -m demo.untidy`` writes the files again.
"""

from __future__ import annotations

from pathlib import Path

import numpy as np

from demo.lug import COARSE, EYE, LENGTH, PULL, STEEL, SWING, Model
from ironstone.core.field.fields import Constants, Field, Memory, Setup
from ironstone.core.field.recover import SMALL, elastic_stress, strain
from ironstone.core.mesh.mesh import Mesh
from ironstone.core.mesh.places import AtCorners, AtElements
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import Reading
from ironstone.formats.out import write_vtu
from ironstone.formats.registry import RawArray, RawStep

DATA = Path(__file__).parent / "data" / "untidy"
TIMES = {1: 0.0, 2: 0.5, 4: None}
HEX_FACES = ((0, 3, 2, 1), (4, 5, 6, 7), (0, 1, 5, 4), (1, 2, 6, 5), (2, 3, 7, 6), (3, 0, 4, 7))


def cut(model: Model) -> tuple[np.ndarray, list[tuple[int, list[int]]], np.ndarray]:
    """Nodes, cells (VTK type, nodes) and, for each node, how it comes from the lug's own: rows of weights (nodes, lug nodes)."""
    used, local = np.unique(model.connectivity[:, :8], return_inverse=True)
    hexes = local.reshape(-1, 8)
    points = model.nodes[used]
    cells: list[tuple[int, list[int]]] = []
    centres = points[hexes].mean(1)
    extra = []
    for e, nodes in enumerate(hexes.tolist()):
        x = centres[e, 0]
        if x < -EYE:
            cells += [(13, [nodes[i] for i in (0, 1, 2, 4, 5, 6)]), (13, [nodes[i] for i in (0, 2, 3, 4, 6, 7)])]
        elif x > 0.6 * EYE and not model.bronze[e]:
            middle = len(points) + len(extra)
            extra.append(nodes)
            for face in HEX_FACES:
                corner = [nodes[i] for i in reversed(face)]
                outside = np.hypot(*points[corner][:, :2].T).min() > EYE - 1e-6
                if outside:
                    cells += [(10, [corner[0], corner[1], corner[2], middle]), (10, [corner[0], corner[2], corner[3], middle])]
                else:
                    cells.append((14, [*corner, middle]))
        else:
            cells.append((12, nodes))
    share = np.zeros((len(extra), len(used)))
    for row, nodes in enumerate(extra):
        share[row, nodes] = 1 / 8
    # A strip of shells on the shank's upper side, and bars along its edge.
    top = np.flatnonzero((np.abs(points[:, 2] - points[:, 2].max()) < 1e-6) & (points[:, 0] < -EYE + 1e-6))
    for e, nodes in enumerate(hexes.tolist()):
        if centres[e, 0] < -EYE and centres[e, 2] > 0 and abs(centres[e, 1]) < EYE / 2:
            cells.append((9, nodes[4:]))
    edge = top[np.abs(points[top, 1] - EYE) < 1e-6]
    edge = edge[np.argsort(points[edge, 0])]
    cells += [(3, [int(a), int(b)]) for a, b in zip(edge, edge[1:], strict=False)]
    return np.concatenate([points, share @ points]), cells, np.concatenate([np.eye(len(used)), share])


def write() -> None:
    """Write the set."""
    model = Model(COARSE)
    points, cells, weights = cut(model)
    used = np.unique(model.connectivity[:, :8])
    types = np.array([t for t, _ in cells], dtype=np.uint8)
    offsets = np.concatenate([[0], np.cumsum([len(n) for _, n in cells])]).astype(np.int64)
    connectivity = np.concatenate([n for _, n in cells]).astype(np.int64)
    count = len(cells)
    mesh = Mesh(points, types, offsets, connectivity, np.arange(len(points)), np.arange(count), np.zeros(count, np.int32), ("lug",))
    DATA.mkdir(parents=True, exist_ok=True)
    for old in DATA.glob("*.vtu"):
        old.unlink()
    for number, time in TIMES.items():
        moved = weights @ model.solve(SWING * np.sin(2 * np.pi * (number - 1) / 8))[0][used]
        field = Field("u", "displacement", "vector", "node", ("x", "y", "z"), "mm")
        source = Memory(mesh, [field], {"u": moved[None]}, setup=Setup(constants={"lug": Constants(*STEEL)}))
        strains = strain(SMALL, source, 0)
        steel = np.full(len(strains), STEEL[0]), np.full(len(strains), STEEL[1])
        both = Memory(
            mesh,
            [
                Field("e", "strain", "tensor", "corner", field.components * 2, ""),
                Field("s", "stress", "tensor", "corner", field.components * 2, "MPa"),
            ],
            {"e": strains[None], "s": elastic_stress(strains, *steel)[None]},
        )
        names = ("xx", "yy", "zz", "xy", "yz", "xz")
        means = np.stack([evaluate(Reading("e", n), both, AtElements(np.arange(count))).values for n in names], 1)
        means[:, 3:] *= 2.0
        smooth = np.full((len(points), 6), np.nan)
        for i, n in enumerate(names):
            answer = evaluate(Reading("s", n, "all"), both, AtCorners())
            smooth[answer.node, i] = answer.values
        patch = (np.abs(points[:, 0] + LENGTH / 2) < 12) & (points[:, 1] > 0)
        smooth[patch] = np.nan
        step = RawStep(
            points,
            types,
            offsets,
            connectivity,
            {"arr_3": RawArray(moved), "quantity 7": RawArray(smooth[:, [0, 1, 2, 3, 5, 4]].astype(np.float32))},
            {
                "eps_eng": RawArray(means),
                "ply number": RawArray(np.where(points[connectivity[offsets[:-1]], 2] < 0, 1.0, 2.0)[:, None]),
                "code": RawArray(types.astype(np.int32)[:, None]),
            },
            time,
        )
        write_vtu(DATA / f"export-{number}.vtu", iter([step]))
    print(f"untidy: {len(points)} nodes, {count} cells of types {sorted(set(types.tolist()))}, pull {PULL:g} N")


if __name__ == "__main__":
    write()
