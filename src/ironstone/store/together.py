"""Files of one run that are chosen together and are not one series: which is the body, and what the others are to it."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Literal, get_args

import numpy as np

from ironstone.core.errors import IronstoneError
from ironstone.core.mesh.cells import CELLS
from ironstone.formats import dump, load, numbered_order, read_series
from ironstone.formats.registry import RawArray, RawStep, apart
from ironstone.store.companions import places_alone
from ironstone.store.lease import ARRIVING, leased
from ironstone.store.plan import differs, one_series, series_name

Role = Literal["body", "added", "steps", "places", "along", "own"]
WORDS: dict[Role, str] = {
    "body": "the body",
    "added": "more arrays of the body, on its mesh",
    "steps": "further steps of the body",
    "places": "places on the body, a set",
    "along": "goes with the body, in one picture",
    "own": "a result of its own",
}
# What is larger than this share of the body is no piece of it.
SMALLER = 0.9
_KINDS = ("points", "lines", "a surface", "a solid")


@dataclass(frozen=True)
class Group:
    """Files that are one series, or one file: what they are to the body, why, and what else they could be."""

    name: str
    files: tuple[Path, ...]
    role: Role
    why: str
    choices: tuple[Role, ...]


def in_roles(paths: Sequence[Path], folder: Path, stated: Mapping[str, str] | None = None) -> list[Group]:
    """What files are to each other, the body first; one group where they are one series.

    The first step of each group is read, in ``folder``. stated: the roles of groups by name, in place of those found. Raises
    IronstoneError for a role or a group there is not.
    """
    stated = stated or {}
    ordered, beside = apart(numbered_order(paths))
    known = _grouped(ordered)
    for name, role in stated.items():
        if name not in known or role not in get_args(Role):
            raise IronstoneError(
                f"'{name}={role}' states no role of these files.",
                f"Files: {', '.join(known)}. Roles: {', '.join(get_args(Role))}.",
            )
    stated_bodies = [name for name, role in stated.items() if role == "body"]
    if len(stated_bodies) > 1:
        raise IronstoneError(f"{' and '.join(stated_bodies)} cannot both be the body.", "Say what the other one is to it.")
    order = {name: k for k, name in enumerate(known)}
    if len(known) < 2 or one_series(ordered):
        return [Group(series_name(ordered) if ordered else "", tuple(paths), "body", "", ("body",))]
    with leased(folder, ARRIVING) as scratch:
        firsts = {name: _first(files[0], _folder(scratch, name)) for name, files in known.items()}
        bodies = [name for name in known if not places_alone(firsts[name])]
        main = next(iter(stated_bodies), None) or max(
            bodies or known, key=lambda n: (*_weight(firsts[n], len(known[n])), -order[n])
        )
        found = [_found(name, tuple(known[name]), main, firsts) for name in known]
    found = [replace(g, role=stated[g.name], why="stated") if g.name in stated else g for g in found]  # type: ignore[arg-type]
    # What a file needs beside it goes with it.
    found = [replace(g, files=(*g.files, *apart([*g.files, *(b for b in beside if _needs(g.files, b))])[1])) for g in found]
    return sorted(found, key=lambda g: g.role != "body")


def _needs(files: Sequence[Path], other: Path) -> bool:
    return other in apart([*files, other])[1]


def _grouped(ordered: Sequence[Path]) -> dict[str, list[Path]]:
    """Files whose names are alike but for their last number, under what they share."""
    alike: dict[str, list[Path]] = {}
    for path in ordered:
        alike.setdefault(re.sub(r"\d+(?=\D*$)", "", path.stem), []).append(path)
    return {series_name(files): files for files in alike.values()}


def _folder(within: Path, name: str) -> Path:
    """A folder of its own for what a reader leaves: it names steps by their number alone."""
    found = within / f"of {name}"
    found.mkdir()
    return found


def _first(path: Path, folder: Path) -> RawStep:
    for _, stored in read_series([path], folder):
        return load(stored)
    raise IronstoneError(f"{path.name} holds no step.", "Leave it out.")


def dimension(step: RawStep) -> int:
    """The largest dimension of its elements."""
    return max((CELLS[t].dimension for t in np.flatnonzero(np.bincount(step.types, minlength=256)).tolist()), default=0)


def _arrays(step: RawStep) -> set[str]:
    return {*step.point_data, *step.cell_data, *step.corner_data}


def _weight(step: RawStep, files: int) -> tuple[int, int, int]:
    """The body is what is most solid, has most steps and says most."""
    return dimension(step), files, len(_arrays(step))


def _found(name: str, files: tuple[Path, ...], main: str, firsts: Mapping[str, RawStep]) -> Group:
    step, body = firsts[name], firsts[main]
    if name == main:
        return Group(name, files, "body", f"{_KINDS[dimension(step)]} with {_counted(len(_arrays(step)), 'array')}", ("body",))
    if places_alone(step):
        return Group(name, files, "places", "it holds points alone", ("places", "along", "own"))
    unlike = differs(body, step)
    if not unlike:
        both = sorted(_arrays(step) & _arrays(body))
        choices: tuple[Role, ...] = ("added", "steps", "own")
        if both:
            return Group(name, files, "steps", f"on the same mesh, and '{both[0]}' is in both", choices)
        return Group(name, files, "added", "on the same mesh, with other arrays", choices)
    if dimension(step) < dimension(body):
        return Group(name, files, "along", f"{_KINDS[dimension(step)]} beside {_KINDS[dimension(body)]}", ("along", "own"))
    if _within(step, body):
        return Group(name, files, "along", "it lies within the body and is smaller", ("along", "own"))
    return Group(name, files, "own", f"another body: {unlike}", ("own", "along"))


def _within(step: RawStep, body: RawStep) -> bool:
    """Whether it lies within the box of the body, and is clearly smaller: a body on another mesh is as large."""
    (low, high), (lowest, highest) = ((s.points.min(0), s.points.max(0)) for s in (step, body))
    size, whole = float(np.linalg.norm(high - low)), float(np.linalg.norm(highest - lowest))
    slack = 1e-3 * whole
    return bool((low >= lowest - slack).all() and (high <= highest + slack).all()) and size < SMALLER * whole


def _counted(number: int, word: str) -> str:
    return f"{number} {word}{'' if number == 1 else 's'}"


@dataclass
class Added:
    """Steps of files that add arrays to a body's, each as it was read."""

    name: str
    steps: list[RawStep]

    def said(self) -> str:
        """What is to be known of the result."""
        what = sorted({*_arrays(self.steps[0]), *self.steps[0].node_sets, *self.steps[0].element_sets})
        when = "the same at every step" if len(self.steps) == 1 else "step by step"
        return f"From {self.name}, on the same mesh, {when}: {', '.join(what) or 'nothing'}."

    def at(self, index: int) -> RawStep:
        """The step that goes with one of the body's: the only one, or that of the same number."""
        if len(self.steps) == 1:
            return self.steps[0]
        if index >= len(self.steps):
            raise self.unequal()
        return self.steps[index]

    def unequal(self) -> IronstoneError:
        return IronstoneError(
            f"{self.name} has {len(self.steps)} steps, which is neither one for all steps of the body nor one for each.",
            "Take it in as a result of its own.",
        )


def read_added(groups: Sequence[Sequence[Path]], folder: Path) -> list[Added]:
    """All steps of files that add to a body; what is read stays in ``folder``."""
    found = []
    for files in groups:
        steps: list[RawStep] = []
        for _, stored in read_series(files, _folder(folder, series_name(files))):
            raw = load(stored)
            if raw.same_mesh:
                last = steps[-1]
                raw = replace(
                    raw, points=last.points, connectivity=last.connectivity, types=last.types, offsets=last.offsets, same_mesh=False
                )
            steps.append(raw)
        found.append(Added(series_name(files), steps))
    return found


def with_added(steps: Iterator[tuple[Path, Path]], added: Sequence[Added]) -> Iterator[tuple[Path, Path]]:
    """The stored steps of a body, each with what is added to it. Raises IronstoneError where a mesh is not the body's."""
    before: RawStep | None = None
    count = 0
    for index, (path, stored) in enumerate(steps):
        raw = load(stored)
        mesh = before if raw.same_mesh and before is not None else raw
        for one in added:
            more = one.at(index)
            if unlike := differs(mesh, more):
                raise IronstoneError(
                    f"{one.name} is on another mesh than step {index + 1} of the body: {unlike}.",
                    "Take it in as a result of its own.",
                )
            raw = _joined(raw, more, one.name)
        target = stored.with_name(f"{stored.name} with more")
        dump(raw, target)
        stored.unlink()
        yield path, target
        before, count = mesh, index + 1
    for one in added:
        if len(one.steps) not in (1, count):
            raise one.unequal()


def _joined(raw: RawStep, more: RawStep, name: str) -> RawStep:
    """A step with the arrays, sets and parts of another on its mesh; an array both have stays under both names."""

    def both(own: dict[str, RawArray], other: dict[str, RawArray]) -> dict[str, RawArray]:
        return {**own, **{(n if n not in own else f"{n} of {name}"): a for n, a in other.items()}}

    return replace(
        raw,
        point_data=both(raw.point_data, more.point_data),
        cell_data=both(raw.cell_data, more.cell_data),
        corner_data=both(raw.corner_data, more.corner_data),
        node_sets={**more.node_sets, **raw.node_sets},
        element_sets={**more.element_sets, **raw.element_sets},
        part=raw.part if raw.part is not None else more.part,
        part_names=raw.part_names if raw.part is not None else more.part_names,
        material=raw.material if raw.material is not None else more.material,
        material_names=raw.material_names if raw.material is not None else more.material_names,
        notes=list(dict.fromkeys([*raw.notes, *more.notes])),
        totals={**more.totals, **raw.totals},
    )
