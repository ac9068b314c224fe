"""The demo's carrier and its buffer: what is shipped is what the solver gives, and what it gives is what mechanics says."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from demo import carrier as model
from ironstone.engine.base import ask, question_of
from ironstone.formats.registry import steps_of
from ironstone.store import Review

DATA = Path(model.__file__).parent / "data" / "carrier"
# Mass of the carrier in t, stiffness of the buffer in N/mm if its sides were free.
MASS, STIFF = 200.0 * 120.0 * 120.0 * model.STEEL[2], model.RUBBER[0] * 80.0 * 80.0 / 100.0


def test_the_carrier_comes_back_as_one_mass_does_on_a_spring_and_damper(motion_file: Path) -> None:
    """Restitution and duration of such a contact (Schwager and Poeschel 2007, from memory); the buffer has mass of its own and its
    held back does not widen: near, not equal."""
    own = np.sqrt(STIFF / MASS)
    z = 0.5 * model.DAMPING * own
    turn = np.pi - np.arctan(2 * z * np.sqrt(1 - z**2) / (1 - 2 * z**2))
    with Review.open(motion_file) as review:
        words = {"result": "carrier against its buffer", "at": "set:carrier", "axis": "x", "pushed": "front", "part": "part 1"}
        found = ask(review, question_of("rebound", words))
    more = found.more
    assert more["restitution"] == pytest.approx(np.exp(-z / np.sqrt(1 - z**2) * turn), rel=0.06)
    assert more["ends"] - more["begins"] == pytest.approx(turn / (own * np.sqrt(1 - z**2)), rel=0.15)
    assert more["mass"] == pytest.approx(MASS, rel=1e-6)
    assert more["before"] == pytest.approx(-model.SPEED, rel=1e-6)
    assert found.state == "good" and more["impulse"] == pytest.approx(more["momentum"], rel=0.01)


def test_what_is_shipped_is_what_the_solver_gives(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(model, "STEPS", 200)
    body = model.Carrier()
    times, moved, fast, _ = model.run(body)
    steps = list(steps_of(DATA / "carrier.xdmf"))
    assert len(steps) == 151
    assert [s.time for s in steps[: len(times)]] == pytest.approx(times.tolist(), abs=1e-9)
    for name, solved in (("displacement", moved), ("velocity", fast)):
        shipped = steps[len(times) - 1].point_data[name].values
        assert shipped == pytest.approx(solved[-1], abs=1e-5 * np.abs(solved).max())
    assert all(f.stat().st_size < 4_000_000 for f in DATA.iterdir())
