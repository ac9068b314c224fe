"""The demo's second review: contact settings, meshes and corners held against each other, and a strap that peels off."""

from __future__ import annotations

from pathlib import Path

from ironstone.engine.base import keep, thing_of
from ironstone.store import Review, intake

SYSTEM = "mm-N-s-t-MPa"
CONSTANTS = {"young": 210_000.0, "poisson": 0.30}
GRIPS = [
    (f"{mesh}_{way.replace('-', '_')}", f"grip, {mesh} jaw, {way}")
    for mesh in ("coarse", "fine")
    for way in ("one-sided", "two-sided")
]
ALONG_THE_PEEL = [("front", "end of the bond"), ("bare", "mast, bare face")]
WINDOWS = [(f"{corner}_{k}", f"window, {corner}, mesh {k}") for corner in ("rounded", "sharp") for k in range(1, 5)]


def make(review: Path, data: Path, fresh: bool = False) -> None:
    """Make the review from the result files unless it is there already, or none of its files are."""
    if fresh or not review.exists():
        for old in review.parent.glob(review.name + "*"):
            old.unlink()
    if review.exists() or not (data / "window").is_dir():
        return
    with Review.create(review, "Ropeway, models compared") as opened:
        for stem, name in WINDOWS:
            window = intake(opened, [data / "window" / f"{stem}.vtu"], name, SYSTEM)
            opened.set_model(window, "plane stress")
            opened.set_constants(window, "part 1", CONSTANTS)
        grips = []
        for stem, name in GRIPS:
            grip = intake(opened, sorted((data / "grip").glob(f"{stem}_*.vtu")), name, SYSTEM)
            opened.set_model(grip, "plane strain")
            for part in opened.result(grip).mesh.material_or_part_names:
                opened.set_constants(grip, part, CONSTANTS)
            grips.append(grip)
        peel = intake(opened, sorted((data / "peel").glob("peel_*.vtu")), "strap peeling off", SYSTEM)
        opened.set_model(peel, "plane stress")
        for tone, (stem, name) in enumerate(ALONG_THE_PEEL):
            files = sorted((data / "peel").glob(f"{stem}_*.vtu"))
            other = intake(opened, files, name, SYSTEM)
            keep(opened, thing_of("alongside", {"result": peel, "other": other, "tone": tone, "edges": stem == "bare"}))
        keep(opened, thing_of("table", {"name": "Contact settings", "results": grips, "lines": LINES}))
        opened.forget_changes()


LINES = [
    {"name": "deepest penetration", "kind": "penetration", "words": {}, "take": "figure:deepest"},
    {
        "name": "highest contact pressure",
        "kind": "read",
        "words": {"field": "contact_pressure", "extremes": True},
        "take": "highest",
    },
    {
        "name": "highest von Mises",
        "kind": "read",
        "words": {"field": "stress", "measure": "von-mises", "extremes": True},
        "take": "highest",
    },
    {
        "name": "force on the jaw",
        "kind": "trace",
        "words": {"field": "reaction", "measure": "y", "at": "set:pushed", "reduce": "sum", "unit": "kN"},
        "take": "last",
    },
]
