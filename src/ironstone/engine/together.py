"""Taking in what belongs together: a body, what adds to it, and what stands along with it in its picture."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from itertools import count
from pathlib import Path

from ironstone.core.errors import IronstoneError
from ironstone.engine.base import keep
from ironstone.engine.reading.alongside import AlongsideIn
from ironstone.store import Review
from ironstone.store.arrival import Shown, Tell, intake
from ironstone.store.together import in_roles


def take_in(
    review: Review,
    paths: Sequence[Path],
    name: str | None = None,
    system: str | None = None,
    tell: Tell | None = None,
    shown: Shown | None = None,
    named: Callable[[], None] | None = None,
    roles: Mapping[str, str] | None = None,
) -> list[int]:
    """Take files of one run in and return the ids of the results made of them, the body's first. roles: what groups of files are,
    by name, in place of what is found (``ironstone.store.together``). The rest as ``intake``; on any error nothing is left."""
    if not paths:
        raise IronstoneError("No file was given.", "Name one file, or a numbered series.")
    body, *others = in_roles(paths, review.path.parent, roles)
    with_it = [g for g in others if g.role in ("along", "own")]
    files = [*body.files, *(path for g in others if g.role in ("steps", "places") for path in g.files)]
    added = [g.files for g in others if g.role == "added"]
    left = count(1)

    def one_named() -> None:
        # Files must stay until those of every result are named.
        if named is not None and next(left) == 1 + len(with_it):
            named()

    ids: list[int] = []
    try:
        for group in with_it:
            ids.append(
                intake(review, group.files, group.name if name is None else f"{name}, {group.name}", system, tell, None, one_named)
            )
        ids.insert(0, intake(review, files, name or (body.name if others else None), system, tell, shown, one_named, added))
    except BaseException:
        for made in ids:
            review.remove_result(made)
        raise
    tones = count()
    kept = [
        keep(review, AlongsideIn(result=ids[0], other=made, tone=next(tones))).id
        for group, made in zip(with_it, ids[1:], strict=True)
        if group.role == "along"
    ]
    if with_it:
        own = [item.id for item in review.items("result") if item.payload["result"] in ids]
        review.join([*own, *kept], f"Result '{review.result(ids[0]).name}' taken in with what goes with it")
    return ids
