"""Universal files (UFF): text in numbered datasets between lines of -1. Nodes and elements, nodal and elemental results, groups.

Read: 15 and 2411 nodes, 2412 elements, 82 lines between measured points, 2414 and 55 results, real or complex, 2467 (2477, 2452)
groups, 164 units (told, not converted). Layouts after the published descriptions of the datasets, from memory; parabolic elements
list their nodes around, corner and middle in turn. Curves (58) are read as tables, see ``tables``; writing is in ``universal_out``.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ironstone.core.errors import IronstoneError
from ironstone.core.mesh.cells import CELLS
from ironstone.formats.registry import EXPORT_AGAIN, RawArray, RawStep

_SHAPES = {
    11: 3, 21: 3, 22: 3, 24: 21, 41: 5, 42: 22, 44: 9, 45: 23, 51: 5, 52: 22, 54: 9, 55: 23, 61: 5, 62: 22, 64: 9, 65: 23,
    71: 5, 72: 22, 74: 9, 75: 23, 81: 5, 82: 22, 84: 9, 85: 23, 91: 5, 92: 22, 94: 9, 95: 23, 111: 10, 112: 13, 113: 26, 115: 12,
    116: 25, 118: 24, 161: 1,
}  # fmt: skip
BEAMS = (11, 21, 22, 23, 24)
# Where our nodes lie in the file's order.
ORDER = {
    21: [0, 2, 1],
    22: [0, 2, 4, 1, 3, 5],
    23: [0, 2, 4, 6, 1, 3, 5, 7],
    24: [0, 2, 4, 9, 1, 3, 5, 6, 7, 8],
    26: [0, 2, 4, 9, 11, 13, 1, 3, 5, 10, 12, 14, 6, 7, 8],
    25: [0, 2, 4, 6, 12, 14, 16, 18, 1, 3, 5, 7, 13, 15, 17, 19, 8, 9, 10, 11],
}
RESULTS = {2: "stress", 3: "strain", 5: "temperature", 8: "displacement", 9: "reaction", 11: "velocity", 12: "acceleration"}
_COMPONENTS = {
    2: ("x", "y", "z"),
    4: ("xx", "xy", "yy", "xz", "yz", "zz"),
}
_KINDS = {2: "mode", 3: "mode", 4: "time", 5: "frequency", 7: "mode"}
COMPLEX = (5, 6)
# Modes by complex eigenvalues, whose imaginary part is the circular frequency.
EIGENVALUES = (3, 7)


@dataclass
class _Result:
    """One dataset of results: where its values live, and its rows by node or element label."""

    name: str
    where: str
    components: tuple[str, ...]
    kind: str
    value: float | None
    loading: str
    rows: dict[int, Any] = field(default_factory=dict)
    harmonic: bool = False
    # Of a mode: modes of one frequency, such as those of a free body, are told apart by it.
    number: int = 0

    @property
    def moment(self) -> tuple[str, str, float | None, int]:
        """What the results of one step have in common."""
        return self.loading, self.kind, self.value, self.number


@dataclass
class _Model:
    nodes: dict[int, tuple[float, float, float]] = field(default_factory=dict)
    elements: dict[int, tuple[int, list[int], int, int]] = field(default_factory=dict)
    groups: list[tuple[str, list[int], list[int]]] = field(default_factory=list)
    results: list[_Result] = field(default_factory=list)
    notes: list[str] = field(default_factory=list)
    traced: list[tuple[int, int]] = field(default_factory=list)


def read(path: Path) -> Iterator[RawStep]:
    """Read a universal file with a mesh; results are gathered into steps by loading and value."""
    model = _Model()
    for number, lines, at in datasets(path):
        try:
            _take(model, number, lines)
        except (ValueError, IndexError, StopIteration) as error:
            raise IronstoneError(f"{path.name}: dataset {number} (from line {at}) is damaged: {error}.", EXPORT_AGAIN) from error
    if not model.nodes or not (model.elements or model.results):
        raise IronstoneError(
            f"{path.name} holds {'no nodes' if not model.nodes else 'no elements'}.",
            "Export mesh and results into one universal file. Curves (dataset 58) are brought in as test records.",
        )
    if not model.elements:
        _measured(model)
    yield from _steps(model, path)


def datasets(path: Path) -> Iterator[tuple[int, list[str], int]]:
    """The datasets of a file: number, lines, and the line they begin at. Raises for a dataset that does not end."""
    inside: list[str] | None = None
    number, begun = 0, 0
    with path.open(encoding="latin-1") as stream:
        for at, line in enumerate(stream, start=1):
            if line.strip() == "-1" and len(line.rstrip()) <= 8:
                if inside is None:
                    inside, number, begun = [], 0, at
                    continue
                if number:
                    yield number, inside, begun
                inside = None
            elif inside is not None and not number:
                digits = line[:6].strip()
                if not digits.isdigit():
                    raise IronstoneError(f"{path.name}: line {at} should hold the number of a dataset.", EXPORT_AGAIN)
                number = int(digits)
            elif inside is not None:
                inside.append(line.rstrip("\n"))
            elif line.strip() and not begun:
                raise IronstoneError(
                    f"{path.name} is no universal file: line {at} is not -1.", "Check that the right file was chosen."
                )
    if inside is not None:
        raise IronstoneError(f"{path.name} ends inside the dataset that begins at line {begun}.", EXPORT_AGAIN)


def _take(model: _Model, number: int, lines: list[str]) -> None:
    if number == 15:
        for line in lines:
            model.nodes[int(line[:10])] = _three(_reals(line[40:], 13))
    elif number in (2411, 781):
        for head, coordinates in zip(lines[::2], lines[1::2], strict=True):
            model.nodes[int(head[:10])] = _three(_reals(coordinates, 25))
    elif number == 2412:
        _elements(model, lines)
    elif number == 2414:
        _results_2414(model, lines)
    elif number == 55:
        _results_55(model, lines)
    elif number in (2467, 2477, 2452):
        _groups(model, lines)
    elif number == 82:
        _trace_lines(model, lines)
    elif number == 164 and lines:
        model.notes.append(f"The file states its units as '{lines[0][10:30].strip()}': choose the unit system that fits.")


def _three(numbers: list[float]) -> tuple[float, float, float]:
    x, y, z = numbers[:3]
    return x, y, z


def _reals(line: str, width: int) -> list[float]:
    """Numbers of a fixed width; a D in place of the E of the exponent is a double's."""
    text = line.rstrip().replace("D", "E").replace("d", "e")
    return [float(text[i : i + width]) for i in range(0, len(text), width) if text[i : i + width].strip()]


def _integers(line: str, width: int = 10) -> list[int]:
    text = line.rstrip()
    return [int(text[i : i + width]) for i in range(0, len(text), width) if text[i : i + width].strip()]


def _measured(model: _Model) -> None:
    """Points without elements, as measured motions come: lines between them where the file traces them, else the points alone."""
    pairs = [(a, b) for a, b in model.traced if a in model.nodes and b in model.nodes]
    met = {label for pair in pairs for label in pair}
    shapes = [(3, list(pair)) for pair in pairs] + [(1, [label]) for label in model.nodes if label not in met]
    model.elements = {i: (vtk, nodes, 1, 1) for i, (vtk, nodes) in enumerate(shapes, start=1)}
    model.notes.append("The file has points and no elements: they are shown as they are, with the lines it traces between them.")


def _trace_lines(model: _Model, lines: list[str]) -> None:
    """Dataset 82: labels in the order in which they are joined; 0 lifts the pen."""
    wanted = _integers(lines[0])[1]
    labels = [label for line in lines[2:] for label in _integers(line)][:wanted]
    model.traced += [(a, b) for a, b in zip(labels, labels[1:], strict=False) if a and b]


def _elements(model: _Model, lines: list[str]) -> None:
    rows = iter(lines)
    for head in rows:
        label, shape, physical, material, _, count = _integers(head)[:6]
        if shape in BEAMS:
            next(rows)
        nodes: list[int] = []
        while len(nodes) < count:
            nodes += _integers(next(rows))
        vtk = _SHAPES.get(shape)
        if vtk is None:
            raise ValueError(f"element {label} is of descriptor {shape}, which is not read")
        if CELLS[vtk].size != count:
            raise ValueError(f"element {label} is a {CELLS[vtk].name} with {count} nodes")
        ordered = [nodes[i] for i in ORDER[vtk]] if vtk in ORDER else nodes
        model.elements[label] = (vtk, ordered, physical, material)


def _results_2414(model: _Model, lines: list[str]) -> None:
    name, location = lines[1].strip(), int(lines[2][:10])
    _, analysis, character, result, data_type, width = _integers(lines[8])[:6]
    times = 2 if data_type in COMPLEX else 1
    counts = _integers(lines[9])
    reals = _reals(lines[11], 13)
    mode = counts[5] if len(counts) > 5 else 0
    value = {2: reals[1], 5: reals[1]}.get(analysis, reals[0])
    if analysis in EIGENVALUES:
        value = reals[1] or abs(_reals(lines[12], 13)[1]) / TURN
    where = {1: "node", 2: "element", 3: "corner"}.get(location)
    if where is None:
        model.notes.append(f"'{name}' lives where it is not read (location {location}).")
        return
    found = _Result(
        RESULTS.get(result, name) or name,
        where,
        _components(character, width),
        _KINDS.get(analysis, "time"),
        value,
        _loading(lines[3]),
        harmonic=times == 2,
        number=mode if _KINDS.get(analysis) == "mode" else 0,
    )
    rows = iter(lines[13:])
    for head in rows:
        if where == "corner":
            label, expansion, nodes, values = _integers(head)[:4]
            wanted = values * (nodes if expansion == 1 else 1)
            numbers = _gather(rows, wanted * times)
            each = np.array([_parted(row, times) for row in np.array(numbers).reshape(-1, values * times).tolist()])
            found.rows[label] = each.repeat(1 if expansion == 1 else nodes, axis=0)
        elif where == "element":
            label, values = _integers(head)[:2]
            found.rows[label] = _parted(_gather(rows, values * times)[: width * times], times)
        else:
            found.rows[int(head[:10])] = _parted(_gather(rows, width * times), times)
    model.results.append(found)


TURN = 2 * np.pi


def _parted(numbers: list[float], times: int) -> list[float]:
    """Of complex numbers, written as pairs, the real parts and then the imaginary ones."""
    return numbers if times == 1 else [*numbers[0::2], *numbers[1::2]]


def _gather(rows: Iterator[str], count: int) -> list[float]:
    numbers: list[float] = []
    while len(numbers) < count:
        numbers += _reals(next(rows), 13)
    return numbers


def _results_55(model: _Model, lines: list[str]) -> None:
    _, analysis, character, result, data_type, width = _integers(lines[5])[:6]
    name = RESULTS.get(result, lines[0].strip())
    times = 2 if data_type in COMPLEX else 1
    counts = _integers(lines[6])
    rows = iter(lines[7:])
    reals = _gather(rows, counts[1])
    value = reals[0] if reals else 0.0
    if analysis in EIGENVALUES and len(reals) > 1:
        value = abs(reals[1]) / TURN
    found = _Result(name, "node", _components(character, width), _KINDS.get(analysis, "time"), value, _loading(lines[1]))
    found.harmonic = times == 2
    if _KINDS.get(analysis) == "mode" and counts[0] >= 2 and len(counts) > 3:
        found.number = counts[3]
    for head in rows:
        found.rows[int(head[:10])] = _parted(_gather(rows, width * times), times)
    model.results.append(found)


def _components(character: int, width: int) -> tuple[str, ...]:
    names = _COMPONENTS.get(character, ())
    return names if len(names) == width else ()


def _loading(line: str) -> str:
    text = line.strip()
    return "" if text.upper() == "NONE" else text


def _groups(model: _Model, lines: list[str]) -> None:
    rows = iter(lines)
    for head in rows:
        count = _integers(head)[7]
        name = next(rows).strip()
        nodes: list[int] = []
        elements: list[int] = []
        seen = 0
        while seen < count:
            numbers = _integers(next(rows))
            for kind, tag in zip(numbers[::4], numbers[1::4], strict=True):
                {7: nodes, 8: elements}.get(kind, []).append(tag)
                seen += 1
        model.groups.append((name, nodes, elements))


def _steps(model: _Model, path: Path) -> Iterator[RawStep]:
    node_ids = np.array(sorted(model.nodes), dtype=np.int64)
    element_ids = np.array(list(model.elements), dtype=np.int64)
    points = np.array([model.nodes[i] for i in node_ids.tolist()])
    rows = list(model.elements.values())
    sizes = [len(r[1]) for r in rows]
    offsets = np.concatenate([[0], np.cumsum(sizes)]).astype(np.int64)
    named = np.concatenate([r[1] for r in rows]).astype(np.int64)
    connectivity = _positions(node_ids, named, path, "node")
    physical, part = np.unique([r[2] for r in rows], return_inverse=True)
    materials, material = np.unique([r[3] for r in rows], return_inverse=True)
    mesh: dict[str, Any] = {
        "part": part.astype(np.int32),
        "part_names": tuple(f"property {p}" for p in physical.tolist()),
        "material": material.astype(np.int32),
        "material_names": tuple(f"material {m}" for m in materials.tolist()),
        "node_ids": node_ids,
        "element_ids": element_ids,
        "node_sets": {n: _positions(node_ids, np.array(k, dtype=np.int64), path, "node") for n, k, _ in model.groups if k},
        "element_sets": {n: _element_positions(element_ids, e) for n, _, e in model.groups if e},
    }
    types = np.array([r[0] for r in rows], dtype=np.uint8)
    _without_names(model.results)
    moments: dict[tuple[str, str, float | None, int], list[_Result]] = {}
    for result in model.results:
        moments.setdefault(result.moment, []).append(result)
    for moment in list(moments) or [("", "time", None, 0)]:
        loading, kind, value, _ = moment
        step = RawStep(points, types, offsets, connectivity, time=value, kind=kind, loading=loading, notes=model.notes, **mesh)
        for result in moments.get(moment, []):
            target, values = _values(result, node_ids, element_ids, offsets, types)
            into: dict[str, RawArray] = getattr(step, target)
            into[result.name if result.name not in into else f"{result.name} {len(into)}"] = RawArray(
                values, result.components, harmonic=result.harmonic
            )
        yield step


def _without_names(results: list[_Result]) -> None:
    """Where every mode, or every frequency, has a text of its own, the text is the name of one and not that of a set of them."""
    for kind in ("mode", "frequency"):
        own = [r for r in results if r.kind == kind]
        moments = {r.moment for r in own}
        if len(moments) > 1 and len({m[0] for m in moments}) == len(moments):
            for result in own:
                result.loading = ""


def _element_positions(ids: NDArray[np.int64], wanted: list[int]) -> NDArray[np.int64]:
    where = {label: i for i, label in enumerate(ids.tolist())}
    return np.array(sorted(where[w] for w in wanted if w in where), dtype=np.int64)


def _positions(ids: NDArray[np.int64], wanted: NDArray[np.int64], path: Path, what: str) -> NDArray[np.int64]:
    at = np.clip(np.searchsorted(ids, wanted), 0, len(ids) - 1)
    lost = wanted[ids[at] != wanted]
    if len(lost):
        raise IronstoneError(f"{path.name} names {what} {int(lost[0])}, which it does not hold.", EXPORT_AGAIN)
    return at


def _values(
    result: _Result,
    node_ids: NDArray[np.int64],
    element_ids: NDArray[np.int64],
    offsets: NDArray[np.int64],
    types: NDArray[np.uint8],
) -> tuple[str, NDArray[np.float64]]:
    """Rows of a dataset laid out over the mesh; what the dataset leaves out has no value."""
    width = len(next(iter(result.rows.values()))[0]) if result.where == "corner" else len(next(iter(result.rows.values())))
    ids = node_ids if result.where == "node" else element_ids
    where = {label: i for i, label in enumerate(ids.tolist())}
    if result.where != "corner":
        values = np.full((len(ids), width), np.nan)
        for label, row in result.rows.items():
            if label in where:
                values[where[label]] = row
        return ("point_data" if result.where == "node" else "cell_data"), values
    values = np.full((int(offsets[-1]), width), np.nan)
    for label, table in result.rows.items():
        if label not in where:
            continue
        e = where[label]
        vtk = int(types[e])
        values[offsets[e] : offsets[e + 1]] = table[ORDER[vtk]] if vtk in ORDER else table
    return "corner_data", values
