"""Arrays of a file that are one field together: the two parts of a harmonic, the plies of a stack."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ironstone.core.field.classify import Guess, classify
from ironstone.core.field.sliced import WAYS
from ironstone.core.field.stacked import Stack, stacks_in
from ironstone.core.kinds import guess_kind
from ironstone.formats.registry import Plies, RawArray, RawStep

# How names say that an array is the real or the imaginary part of another: what stands before and behind the name.
_PARTS = (
    (("", " (real)"), ("", " (imaginary)")),
    (("", "_real"), ("", "_imag")),
    (("", "_re"), ("", "_im")),
    (("", " real"), ("", " imaginary")),
    (("", "_real"), ("", "_imaginary")),
    (("", ".real"), ("", ".imag")),
    (("real_", ""), ("imag_", "")),
    (("re_", ""), ("im_", "")),
    (("re(", ")"), ("im(", ")")),
    (("real(", ")"), ("imag(", ")")),
)


def joined(raw: RawStep, stacks: dict[str, Stack]) -> RawStep:
    """A step in which arrays that are one field together are one array.

    stacks: the fields of plies met in the steps before, by name; those met here for the first time are added. What a step lacks of
    a stack has no value there.
    """
    for data in (raw.point_data, raw.cell_data, raw.corner_data):
        _join_harmonics(data)
        _split(data)
    met = {s.field.lower() for s in stacks.values()}
    for stack in stacks_in(raw.cell_data):
        if stack.field.lower() not in met and _alike([raw.cell_data[n] for n in stack.arrays.values()]):
            free = stack.field if stack.field not in raw.cell_data else f"{stack.field} (plies)"
            stacks[free] = stack
    for name, stack in stacks.items():
        _join_plies(raw.cell_data, name, stack)
    return raw


def _join_harmonics(data: dict[str, RawArray]) -> None:
    for (before, behind), (other_before, other_behind) in _PARTS:
        for name in [n for n in data if n.lower().startswith(before) and n.lower().endswith(behind)]:
            stem = name[len(before) : len(name) - len(behind)]
            wanted = f"{other_before}{stem}{other_behind}".lower()
            other = next((n for n in data if n.lower() == wanted), None)
            if other is None or stem in data or data[name].values.shape != data[other].values.shape:
                continue
            real, imaginary = data.pop(name), data.pop(other)
            data[stem] = RawArray(np.hstack([real.values, imaginary.values]), real.components, harmonic=True)


_MOTIONS = ("displacement", "velocity", "acceleration")


def _split(data: dict[str, RawArray]) -> None:
    """Arrays of several fields taken apart: a motion of six values is three of translation and three of rotation, a force of six
    three and a moment; three principal values are three numbers and no tensor."""
    for name, array in list(data.items()):
        width = array.values.shape[1]
        if array.harmonic or array.plies:
            continue
        kind = guess_kind(name, 3)[0]
        if width == 6 and not guess_kind(name, 6)[0] and (kind in _MOTIONS or kind in ("reaction", "force", "internal force")):
            second = "rotation" if kind in _MOTIONS else "moment"
            data[name] = RawArray(array.values[:, :3])
            data.setdefault(f"{name} ({second})", RawArray(array.values[:, 3:]))
        elif width == 3 and "princip" in name.lower() and guess_kind(name, 6)[0]:
            del data[name]
            for k in range(3):
                data[f"{name} {k + 1}"] = RawArray(array.values[:, k : k + 1])


def no_symmetric_tensor(name: str, array: RawArray, guess: Guess) -> str:
    """What to say of nine columns taken for a tensor whose halves differ; '' where it is one."""
    if guess.points or guess.layers or array.harmonic or array.values.shape[1] != 9 or array.values.dtype.kind != "f":
        return ""
    full = np.nan_to_num(array.values.astype(np.float64)).reshape(-1, 3, 3)
    off, size = float(np.abs(full - full.transpose(0, 2, 1)).max(initial=0.0)), float(np.abs(full).max(initial=0.0))
    if off <= 1e-4 * size:
        return ""
    return f"'{name}' is no symmetric tensor: its halves differ by up to {off:.3g} of {size:.3g}. It is left out."


def _alike(found: list[RawArray]) -> bool:
    first = found[0]
    return all(
        a.values.shape == first.values.shape and a.components == first.components and a.harmonic == first.harmonic for a in found
    )


def _join_plies(data: dict[str, RawArray], name: str, stack: Stack) -> None:
    here = {at: data.pop(array) for at, array in stack.arrays.items() if array in data}
    if not here:
        return
    some = next(iter(here.values()))
    parts = 2 if some.harmonic else 1
    rows, width = some.values.shape
    whole = all(a.values.dtype.kind in "iub" for a in here.values())
    single = all(a.values.dtype == np.float32 for a in here.values())
    table = np.full((rows, parts, stack.layers, len(stack.places), width // parts), np.nan, np.float32 if single else np.float64)
    for (layer, place), array in here.items():
        table[:, :, layer, place] = array.values.reshape(rows, parts, -1)
    way = next(w for w, places in WAYS.items() if w != "Gauss points" and places == stack.places)
    data[name] = RawArray(
        table.reshape(rows, -1), some.components, some.harmonic, Plies(stack.layers * len(stack.places), way, stack.note, whole)
    )


def taken_for(name: str, array: RawArray, on_elements: bool, gauss: frozenset[int] = frozenset()) -> Guess:
    """What an array that may be of several in the file is taken for."""
    values: NDArray[np.generic] = np.hsplit(array.values, 2)[0] if array.harmonic else array.values
    if array.plies is None:
        found = classify(name, values, array.components, on_elements, gauss)
    else:
        found = _guess_plies(name, values, array.components, array.plies)
    if array.harmonic:
        found = replace(found, harmonic=True, notes=(*found.notes, "real and imaginary part, two arrays in the file"))
    return found


def _guess_plies(name: str, values: NDArray[np.generic], components: tuple[str, ...], plies: Plies) -> Guess:
    """As one ply alone would be taken, in layers."""
    each = values.reshape(len(values) * plies.count, -1)
    there = each[~np.isnan(each.astype(np.float64)).all(axis=1)]
    if plies.whole:
        there = there.astype(np.int64)
    found = classify(name, there, components, on_elements=True)
    if found.role in ("partition", "set") or (found.role == "ignored" and plies.whole):
        found = Guess("field", found.kind, "scalar", ("value",), names=True, notes=("whole numbers that name something",))
    if found.role != "field":
        return found
    return replace(found, guessed=True, notes=(*found.notes, plies.note), points=0, layers=plies.count, way=plies.way)
