from __future__ import annotations

from ironstone.core.mesh.places import AtCorners
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.reading import Reading
from ironstone.store.source import ReviewSource


def test_a_plastic_strain_extrapolated_below_zero_is_shown_and_said(flexure: ReviewSource) -> None:
    found = evaluate(Reading("equivalent_plastic_strain", step=230), flexure, AtCorners())
    assert found.values.min() < 0.0, "shown as it came, not clipped"
    assert any("below zero is not real" in c for c in found.caveats)


def test_a_stated_unit_and_nothing_averaged_leave_nothing_to_be_warned_of(flexure: ReviewSource) -> None:
    assert flexure.fields["stress"].precision == "single", "told in the field dictionary, where it is looked up"
    assert evaluate(Reading("stress", "von-mises", step=230), flexure, AtCorners()).caveats == []
