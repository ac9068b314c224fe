"""An XDMF series whose grids have meshes of their own: each step is read on its mesh, and one that comes again is stored once."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from sqlalchemy import func, select

from ironstone.core.mesh.mesh import Mesh
from ironstone.engine.base import ask, question_of
from ironstone.store import Review, intake
from ironstone.store.models import ResultRow
from tests.oracles.boxes import BY_NAME, box

MESHES = [box(BY_NAME["hex8"], counts=counts, size=(2.0, 1.0, 1.0)) for counts in ((2, 1, 1), (2, 1, 1), (3, 2, 1), (2, 1, 1))]


def item(values: np.ndarray, kind: str) -> str:
    shape, text = " ".join(map(str, values.shape)), " ".join(f"{v:.9g}" for v in values.ravel())
    return f'<DataItem Dimensions="{shape}" NumberType="{kind}" Precision="8" Format="XML">{text}</DataItem>'


def grid(mesh: Mesh, time: float) -> str:
    """A grid of bricks with a temperature of (1 + time) x at its nodes, after the published model of XDMF 3."""
    cells = mesh.connectivity.reshape(-1, 8)
    return (
        f'<Grid Name="at {time}" GridType="Uniform"><Time Value="{time}"/>'
        f'<Topology TopologyType="Hexahedron" NumberOfElements="{len(cells)}">{item(cells, "Int")}</Topology>'
        f'<Geometry GeometryType="XYZ">{item(mesh.points, "Float")}</Geometry>'
        f'<Attribute Name="temperature" AttributeType="Scalar" Center="Node">{item((1 + time) * mesh.points[:, 0], "Float")}'
        "</Attribute></Grid>"
    )


def test_each_step_of_a_series_in_time_is_read_on_its_own_mesh(tmp_path: Path) -> None:
    grids = "".join(grid(mesh, float(k)) for k, mesh in enumerate(MESHES))
    series = f'<Grid Name="series" GridType="Collection" CollectionType="Temporal">{grids}</Grid>'
    path = tmp_path / "series.xdmf"
    path.write_text(f'<?xml version="1.0"?><Xdmf Version="3.0"><Domain>{series}</Domain></Xdmf>')
    with Review.create(tmp_path / "r.ironstone") as review:
        source = review.result(intake(review, [path], "series", "mm-N-s-t-MPa"))
        assert [len(source.at(k).mesh.points) for k in range(4)] == [12, 12, 24, 12]
        assert [float(source.at(k).values("temperature", k).max()) for k in range(4)] == pytest.approx([2.0, 4.0, 6.0, 8.0])
        words = {"result": "series", "field": "temperature", "measure": "value", "at": "point:1.5,0.5,0.5"}
        assert ask(review, question_of("trace", words)).columns[1].values == pytest.approx([1.5, 3.0, 4.5, 6.0])
        with review.session() as session:
            assert session.scalar(select(func.count()).select_from(ResultRow)) == 2, "two meshes for four steps"
