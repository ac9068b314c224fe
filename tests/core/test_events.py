from __future__ import annotations

import numpy as np

from ironstone.core.curves.events import driver_history, marks
from tests.core.test_curves import ramps


def histories() -> dict[str, np.ndarray]:
    drive = ramps(0, 4, -4, 4, 0, pieces=10)
    still = np.zeros((len(drive), 3))
    driven, free = still.copy(), still.copy()
    driven[:, 2], free[:, 2] = drive, 3 * drive
    return {"clamp": still, "head": driven, "tip": free}


def test_the_driver_is_the_held_set_that_moves_furthest_along_its_own_axis() -> None:
    found = driver_history(histories(), held={"clamp", "head"}, moving={"head", "tip"})
    assert found is not None
    name, axis, history = found
    assert (name, axis) == ("head", 2), "the tip moves further but nobody holds it"
    assert history.max() == 4.0


def test_where_nothing_is_both_held_and_moved_there_is_no_driver() -> None:
    assert driver_history(histories(), held={"clamp"}, moving={"tip"}) is None
    assert driver_history({"clamp": np.zeros((3, 3))}, held={"clamp"}, moving={"clamp"}) is None


def test_events_stand_in_step_order() -> None:
    drive = ramps(0, 4, -4, 4, 0, pieces=10)
    support = np.zeros((len(drive), 3))
    support[:, 2] = -2.0 * drive
    support[17, 2] = 11.0
    found = marks(drive, support, first_yield=3)
    assert [(m.step, m.kind) for m in found] == [(3, "yield"), (10, "reversal"), (17, "peak"), (20, "reversal"), (30, "reversal")]


def test_without_supports_or_yield_nothing_is_made_up() -> None:
    assert marks(None, None, None) == []
    assert marks(None, np.zeros((5, 3)), None) == [], "no reaction, no peak"
