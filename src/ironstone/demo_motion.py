"""The demo's third review: the drive house's sensor post in motion - modes, a test of them, a sweep of frequencies, a tap."""

from __future__ import annotations

from pathlib import Path

from ironstone.store import Review, intake

SYSTEM = "mm-N-s-t-MPa"
STEEL = {"young": 210_000.0, "poisson": 0.30, "density": 7.85e-9}


def make(review: Path, data: Path, fresh: bool = False) -> None:
    """Make the review from the result files unless it is there already, or none of its files are."""
    if fresh or not review.exists():
        for old in review.parent.glob(review.name + "*"):
            old.unlink()
    files = data / "post"
    if review.exists() or not files.is_dir():
        return
    with Review.create(review, "Sensor post in motion") as opened:
        intake(opened, [files / "tested.uff"], "post, tested modes", SYSTEM)
        for stem, name in (("tap", "post, tap on the head"), ("sweep", "post, sweep"), ("modes", "post, modes")):
            found = sorted(files.glob(f"{stem}*.vtu")) or [files / f"{stem}.xdmf"]
            post = intake(opened, found, name, SYSTEM)
            for part in opened.result(post).mesh.material_or_part_names:
                opened.set_constants(post, part, STEEL)
        opened.forget_changes()
