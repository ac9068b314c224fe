"""The demo's third review: the drive house's sensor post in motion - modes, a test of them, a sweep of frequencies, a tap -, a
carrier that runs against its buffer, and a machine hood with the sound in it."""

from __future__ import annotations

from pathlib import Path

from ironstone.store import Review, intake

SYSTEM = "mm-N-s-t-MPa"
STEEL = {"young": 210_000.0, "poisson": 0.30, "density": 7.85e-9}
RUBBER = {"young": 40.0, "poisson": 0.40, "density": 1.2e-9}


def make(review: Path, data: Path, fresh: bool = False) -> None:
    """Make the review from the result files unless it is there already, or none of its files are."""
    if fresh or not review.exists():
        for old in review.parent.glob(review.name + "*"):
            old.unlink()
    files = data / "post"
    if review.exists() or not files.is_dir():
        return
    with Review.create(review, "Drive house in motion") as opened:
        _carrier(opened, data / "carrier" / "carrier.xdmf")
        _hood(opened, data / "hood")
        intake(opened, [files / "tested.uff"], "post, tested modes", SYSTEM)
        for stem, name in (("tap", "post, tap on the head"), ("sweep", "post, sweep"), ("modes", "post, modes")):
            found = sorted(files.glob(f"{stem}*.vtu")) or [files / f"{stem}.xdmf"]
            post = intake(opened, found, name, SYSTEM)
            for part in opened.result(post).mesh.material_or_part_names:
                opened.set_constants(post, part, STEEL)
        for file, name in ((files / "shaken.uff", "shaker"), (data / "hood" / "measured.uff", "hood test")):
            if file.exists():
                _measured(opened, file.read_bytes(), name)
        opened.forget_changes()


def _carrier(review: Review, file: Path) -> None:
    """The carrier that runs against its buffer."""
    if not file.exists():
        return
    result = intake(review, [file], "carrier against its buffer", SYSTEM)
    steel, rubber = review.result(result).mesh.material_or_part_names
    review.set_constants(result, steel, STEEL)
    review.set_constants(result, rubber, RUBBER)


def _hood(review: Review, files: Path) -> None:
    """The machine hood: its modes, and its sweep with the air in it. The files tell their steps as times."""
    for stem, name, kind in (("modes", "hood, modes", "mode"), ("sweep", "hood with its air, sweep", "frequency")):
        if not (files / f"{stem}.xdmf").exists():
            continue
        result = intake(review, [files / f"{stem}.xdmf"], name, SYSTEM)
        source = review.result(result)
        review.set_steps(result, kind, " ".join(f"{s.value:.7g}" for s in source.steps))
        review.set_constants(result, source.mesh.material_or_part_names[0], STEEL)


def _measured(review: Review, data: bytes, name: str) -> None:
    """The measured responses, each with the place its name says."""
    from ironstone.engine.curves.records import bring, records_of, use_record

    bring(review, data, name, None)
    for record in records_of(review):
        at = record.name.split(" at ")[1].replace(" ", "")
        if record.name.startswith(name):
            use_record(review, record.id, record.use.model_copy(update={"at": f"point:{at}"}))
