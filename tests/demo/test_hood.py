"""The demo's hood over its air: what is shipped is what the solver gives, and what it gives is what mechanics says."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from scipy.sparse.linalg import eigsh

from demo import hood as model
from ironstone.engine.base import ask, question_of
from ironstone.formats.registry import steps_of
from ironstone.store import Review

DATA = Path(model.__file__).parent / "data" / "hood"
SWEEP = "hood with its air, sweep"


@pytest.fixture(scope="module")
def hood() -> model.Hood:
    return model.Hood()


def test_air_between_walls_that_stand_still_has_the_modes_of_a_box(hood: model.Hood) -> None:
    """f = c/2 sqrt((l/Lx)^2 + (m/Ly)^2 + (n/Lz)^2), the first of them nothing at all."""
    stiff = model._spread.assemble(hood.basis) / model.AIR
    heavy = model._held.assemble(hood.basis) / (model.AIR * model.SOUND**2)
    squared = eigsh(stiff.tocsc(), 6, heavy.tocsc(), sigma=-1e4, return_eigenvectors=False)
    found = np.sort(np.sqrt(np.clip(squared, 0, None)) / (2 * np.pi))
    sizes = np.array([model.LONG, model.WIDE, model.HIGH])
    counts = np.array([(a, b, c) for a in range(4) for b in range(4) for c in range(4)])
    box = np.sort(model.SOUND / 2 * np.sqrt(((counts / sizes) ** 2).sum(1)))
    assert found == pytest.approx(box[:6], rel=2e-3, abs=0.5)


def test_air_in_a_stiff_hood_is_pressed_by_its_own_inertia(monkeypatch: pytest.MonkeyPatch) -> None:
    """Where all goes up and down as one, p = rho w^2 u (z - H/2), far below the first mode."""
    monkeypatch.setattr(model, "AIR_LOSS", 0.0)
    hood = model.Hood(young=1e9 * model.YOUNG, loss=0.0)
    _, pressure = hood.shaken(np.array([20.0]))
    z = hood.basis.doflocs[2]
    expected = model.AIR * (2 * np.pi * 20.0) ** 2 * model.SHAKES * (z - model.HIGH / 2)
    assert pressure[0].real == pytest.approx(expected, abs=0.12 * np.abs(expected).max()), "its cosines fall off slowly"


def test_what_is_shipped_is_what_the_solver_gives(hood: model.Hood) -> None:
    frequencies, shapes = hood.modes(model.MODES)
    modes = list(steps_of(DATA / "modes.xdmf"))
    assert [s.time for s in modes] == pytest.approx(frequencies.tolist(), rel=1e-5)
    assert modes[3].point_data["displacement"].values == pytest.approx(
        shapes[3][hood.plates.dofs], abs=1e-5 * np.abs(shapes[3]).max()
    )
    assert all(f.stat().st_size < 4_000_000 for f in DATA.iterdir())


def test_the_sound_within_peaks_where_the_roof_pumps_and_is_held_against_the_test(motion_file: Path) -> None:
    with Review.open(motion_file) as review:
        words = {"result": SWEEP, "field": "pressure", "measure": "value", "at": "point:125,400,480", "db": True}
        sound = ask(review, question_of("response", words))
        assert "re 2e-11 MPa of the root mean square" in sound.sentence
        highest = max(sound.more["peaks"], key=lambda p: p["amplitude"])
        modes = [s.value for s in review.result("hood, modes").steps]
        assert highest["frequency"] == pytest.approx(modes[2], rel=0.05), "the roof pumps, stiffened a little by the air"
        air = model.SOUND / 2 / model.LONG
        assert all(abs(p["frequency"] - air) > 0.04 * air for p in sound.more["peaks"]), "feet that shake alike push it not"
        held = ask(review, question_of("responses", {**words, "beside": ["test:hood test, sound at 125, 400, 480"]}))
        (curve,) = held.more["curves"]
        assert curve["error"] == "" and curve["with_phase"] and 0.0 < curve["frac"] < 1.0 and len(curve["pairs"]) > 2
        plate = ask(review, question_of("response", {"result": SWEEP, "field": "displacement", "measure": "z", "at": "set:feet"}))
        assert plate.more["amplitude"] == pytest.approx([model.SHAKES] * len(model.SWEPT), rel=1e-4), (
            "the floor shakes as it is told"
        )
        inside = ask(review, question_of("read", {"result": SWEEP, "field": "pressure", "measure": "value", "at": "set:feet"}))
        assert all(row["value"] is None for row in inside.more["values"]), "a plate has no sound pressure, and not zero"
