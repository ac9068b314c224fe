"""Files another library carries in its own test folder (meshio 5.3.5, MIT licence beside them): read, and as meshio reads them."""

from __future__ import annotations

from pathlib import Path

import meshio
import numpy as np
import pytest

from ironstone.core.mesh.cells import CELLS
from ironstone.formats.registry import steps_of
from ironstone.store import Review, intake
from ironstone.store.describe import contents

FILES = Path(__file__).parent / "files"
NAMES = {"tetra": 10, "triangle": 5, "hexahedron": 12, "quad": 9, "line": 3}


@pytest.mark.parametrize("path", sorted(FILES.glob("*.vt*")), ids=lambda p: p.name)
def test_a_file_of_another_library_is_read_as_it_reads_it(path: Path) -> None:
    (step,) = steps_of(path)
    peer = meshio.read(path)
    assert step.points == pytest.approx(peer.points)
    cells = [(NAMES[block.type], row.tolist()) for block in peer.cells for row in block.data]
    mine = [
        (int(t), step.connectivity[a:b].tolist()) for t, a, b in zip(step.types, step.offsets[:-1], step.offsets[1:], strict=True)
    ]
    assert sorted((t, sorted(n)) for t, n in mine) == sorted((t, sorted(n)) for t, n in cells)
    for name, values in peer.point_data.items():
        assert step.point_data[name].values == pytest.approx(np.asarray(values).reshape(len(step.points), -1))


@pytest.mark.parametrize("path", sorted(FILES.glob("*.vt*")), ids=lambda p: p.name)
def test_it_is_taken_in_with_elements_of_some_volume(path: Path, tmp_path: Path) -> None:
    with Review.create(tmp_path / "r.ironstone") as review:
        intake(review, [path])
        source = review.result()
        assert (source.mesh.volumes > 0).all()
        assert set(contents(source)["cells"]) <= {c.name for c in CELLS.values()}
