"""Collections of VTK's: files that name others, by time (``.pvd``), by piece (``.pvtu``), by block (``.vtm``)."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from xml.etree import ElementTree

from ironstone.core.errors import IronstoneError
from ironstone.formats import vtu
from ironstone.formats.merged import merged
from ironstone.formats.registry import EXPORT_AGAIN, RawStep

READ = (".vtu", ".pvtu", ".vtm")
MOST_DEEP = 4


def read(path: Path) -> Iterator[RawStep]:
    """The steps a collection names. Its files must lie in its folder, or in one below it."""
    root = _root(path)
    if root.get("type") == "Collection":
        yield from _by_time(path, root)
    else:
        yield _one(path, root, 0)


def companions(path: Path) -> set[str]:
    """Names of the files a collection is made of, and of those they are made of. Empty for one that cannot be read."""
    found: set[str] = set()
    waiting = [path]
    while waiting:
        here = waiting.pop()
        try:
            root = _root(here)
        except (IronstoneError, OSError):
            continue
        for name in _names(root):
            if Path(name).name not in found:
                found.add(Path(name).name)
                below = here.parent / name
                if below.suffix.lower() in (".pvtu", ".vtm") and below.is_file():
                    waiting.append(below)
    return found - {path.name}


def _root(path: Path) -> ElementTree.Element:
    try:
        root = ElementTree.parse(path).getroot()
    except ElementTree.ParseError as error:
        raise IronstoneError(f"{path.name} is no XML that can be read: {error}.", EXPORT_AGAIN) from error
    if root.tag != "VTKFile":
        raise IronstoneError(f"{path.name} is no collection of VTK files.", "Check that the right file was chosen.")
    return root


def _names(root: ElementTree.Element) -> list[str]:
    return [n for item in root.iter() if (n := item.get("file") or (item.get("Source") if item.tag == "Piece" else None))]


def _by_time(path: Path, root: ElementTree.Element) -> Iterator[RawStep]:
    moments: dict[str, list[ElementTree.Element]] = {}
    for item in root.iter("DataSet"):
        moments.setdefault(item.get("timestep", "0"), []).append(item)
    if not moments:
        raise IronstoneError(f"{path.name} names no file.", EXPORT_AGAIN)
    for moment, items in moments.items():
        try:
            time = float(moment)
        except ValueError as error:
            raise IronstoneError(f"{path.name}: '{moment}' is no time.", EXPORT_AGAIN) from error
        pieces = [_file(path, item.get("file", ""), 0) for item in items]
        names = [item.get("name") or f"part {item.get('part', k)}" for k, item in enumerate(items)]
        step = merged(pieces, names if len(items) > 1 else ())
        step.time, step.kind = time, "time"
        yield step


def _one(path: Path, root: ElementTree.Element, deep: int) -> RawStep:
    kind = root.get("type", "")
    if deep > MOST_DEEP:
        raise IronstoneError(f"{path.name} is a collection of collections of collections: it may name itself.", EXPORT_AGAIN)
    if kind == "PUnstructuredGrid":
        sources = [p.get("Source", "") for p in root.iter("Piece")]
        if not sources:
            raise IronstoneError(f"{path.name} names no piece.", EXPORT_AGAIN)
        return merged([_file(path, name, deep) for name in sources])
    if kind == "vtkMultiBlockDataSet":
        blocks = _blocks(root[0] if len(root) else root, "")
        if not blocks:
            raise IronstoneError(f"{path.name} names no block.", EXPORT_AGAIN)
        return merged([_file(path, name, deep) for _, name in blocks], [called for called, _ in blocks])
    raise IronstoneError(f"{path.name} is a VTK file of type '{kind}', which is not read.", "Export an unstructured grid.")


def _blocks(parent: ElementTree.Element, above: str) -> list[tuple[str, str]]:
    """Name and file of each block, nested ones by the names above them."""
    found = []
    for k, item in enumerate(parent):
        called = item.get("name") or f"block {item.get('index', k)}"
        whole = f"{above}/{called}" if above else called
        if item.tag == "DataSet" and item.get("file"):
            # Pieces of one block have numbers and no names: they are that block.
            found.append((whole if item.get("name") or not above else above, item.get("file", "")))
        else:
            found += _blocks(item, whole)
    return found


def _file(path: Path, name: str, deep: int) -> RawStep:
    """One file that a collection names; where it does not lie there, the one of its name beside the collection."""
    inside = Path(name)
    if inside.is_absolute() or ".." in inside.parts or not name:
        inside = Path(inside.name)
    if inside.suffix.lower() not in READ:
        raise IronstoneError(
            f"{path.name} names {inside.name}, which is not read in a collection.", f"Read in one: {', '.join(READ)}."
        )
    found = next((f for f in (path.parent / inside, path.parent / inside.name) if f.is_file()), None)
    if found is None:
        raise IronstoneError(f"{path.name} needs {inside.name}, which is not beside it.", "Choose all its files together.")
    if found.suffix.lower() == ".vtu":
        (step,) = vtu.read(found)
        return step
    return _one(found, _root(found), deep + 1)
