"""Motions of a body of 20-node bricks as one pair of files, XDMF and HDF5, the mesh once."""

from __future__ import annotations

from pathlib import Path
from typing import Protocol

import h5py
import numpy as np


class Body(Protocol):
    """Nodes (n, 3) and 20-node bricks (e, 20)."""

    nodes: np.ndarray
    connectivity: np.ndarray


def write_motion(
    stem: Path,
    body: Body,
    part: np.ndarray,
    times: np.ndarray,
    fields: dict[str, np.ndarray],
    sets: dict[str, np.ndarray] | None = None,
) -> None:
    """A motion over times, or frequencies (s,). part (e,); fields: vectors (s, n, 3) or numbers (s, n) at the nodes by name, NaN
    where there is none; sets: which nodes (n,), by name."""
    with h5py.File(stem.with_suffix(".h5"), "w") as file:

        def put(name: str, values: np.ndarray) -> None:
            file.create_dataset(name, data=values, compression="gzip", compression_opts=9, shuffle=True)

        put("points", body.nodes.astype(np.float32))
        # Quadratic bricks are told by their number in mixed topologies.
        put("cells", np.column_stack([np.full(len(body.connectivity), 48), body.connectivity]).astype(np.int32).ravel())
        put("part", (part + 1).astype(np.int32))
        for name, held in (sets or {}).items():
            put(name, held.astype(np.uint8))
        for name, values in fields.items():
            for i in range(len(times)):
                put(f"{name}/{i}", values[i].astype(np.float32))
    n, e, file_name = len(body.nodes), len(body.connectivity), stem.with_suffix(".h5").name

    def item(shape: str, kind: str, where: str) -> str:
        return f'<DataItem Dimensions="{shape}" Format="HDF" NumberType="{kind}">{file_name}:/{where}</DataItem>'

    def array(name: str, kind: str, centre: str, data: str) -> str:
        return f'<Attribute Name="{name}" AttributeType="{kind}" Center="{centre}">{data}</Attribute>'

    steps = []
    for i, t in enumerate(times):
        moving = "".join(
            array(name, "Vector", "Node", item(f"{n} 3", "Float", f"{name}/{i}"))
            if values.ndim == 3
            else array(name, "Scalar", "Node", item(str(n), "Float", f"{name}/{i}"))
            for name, values in fields.items()
        )
        marks = "".join(array(name, "Scalar", "Node", item(str(n), "UChar", name)) for name in (sets or {}))
        steps.append(
            f'<Grid Name="step {i}"><Time Value="{t:.7g}"/>'
            f'<Topology TopologyType="Mixed" NumberOfElements="{e}">{item(str(21 * e), "Int", "cells")}</Topology>'
            f'<Geometry GeometryType="XYZ">{item(f"{n} 3", "Float", "points")}</Geometry>'
            f"{array('part', 'Scalar', 'Cell', item(str(e), 'Int', 'part'))}{moving}{marks}</Grid>"
        )
    whole = "\n".join(steps)
    stem.with_suffix(".xdmf").write_text(
        f'<?xml version="1.0"?>\n<Xdmf Version="3.0"><Domain>\n'
        f'<Grid Name="{stem.name}" GridType="Collection" CollectionType="Temporal">\n{whole}\n</Grid></Domain></Xdmf>\n'
    )
