"""What an array of a file is taken for, and that every guess gives its reason."""

from __future__ import annotations

import numpy as np
import pytest

from ironstone.core.field.classify import classify, converted
from ironstone.core.kinds import guess_kind, kind_of
from ironstone.core.mesh.weld import CopyCheck, as_tensor, weld
from tests.writing import bar_of_hexahedra


@pytest.mark.parametrize(
    ("name", "columns", "kind"),
    [
        ("displacement", 3, "displacement"),
        ("Disp", 3, "displacement"),
        ("reaction force", 3, "reaction"),
        ("Cauchy-Stress", 6, "stress"),
        ("stress_at_corners", 6, "stress"),
        ("total strain", 6, "strain"),
        ("equivalent_plastic_strain", 1, "plastic strain"),
        ("temperature", 1, "temperature"),
        ("velocity", 3, "velocity"),
        ("contact_pressure", 1, "pressure"),
        ("stress", 3, ""),
        ("displacement", 1, ""),
        ("quality", 1, ""),
    ],
)
def test_a_kind_needs_a_name_and_the_right_number_of_columns(name: str, columns: int, kind: str) -> None:
    found, reason = guess_kind(name, columns)
    assert found == kind
    assert (name in reason) == bool(kind)


def test_whole_numbers_are_ids_partitions_sets_or_left_alone() -> None:
    whole = np.arange(200, dtype=np.int32)[:, None]
    assert classify("GlobalIds", whole, (), False).role == "ids"
    assert classify("part", whole % 3, (), True).role == "partition"
    assert classify("material", whole % 2, (), True).kind == "material"
    assert classify("held", whole % 2, (), False).role == "set"
    assert classify("colour", whole % 5, (), True).role == "partition"
    numbering = classify("numbering", whole, (), True)
    assert numbering.role == "ignored" and "bare numbers" in numbering.notes[0], "never coloured unasked"


def test_an_odd_number_of_columns_is_left_out_with_a_word() -> None:
    found = classify("spectrum", np.zeros((4, 7)), (), False)
    assert found.role == "ignored" and "7 columns" in found.notes[0]


def test_a_guess_says_that_it_is_one_and_why() -> None:
    found = classify("stress", np.zeros((4, 6)), (), False)
    assert found.guessed and found.rank == "tensor"
    assert any("named 'stress'" in n for n in found.notes)
    assert any("assumed" in n for n in found.notes), "the component order too"
    named = classify("stress", np.zeros((4, 6)), ("xx", "yy", "zz", "xy", "yz", "xz"), False)
    assert not any("assumed" in n for n in named.notes)


def test_nine_components_are_made_symmetric_and_four_are_planar() -> None:
    full = np.array([[1.0, 2, 3, 4, 5, 6, 7, 8, 9]])
    assert as_tensor(full, ())[0].tolist() == [[1, 5, 9, 3, 7, 5]]
    assert as_tensor(np.array([[1.0, 2, 3, 4]]), ())[0].tolist() == [[1, 2, 3, 4, 0, 0]]


def test_numbered_component_names_are_understood() -> None:
    values = np.array([[11.0, 22, 33, 23, 13, 12]])
    ordered, note = as_tensor(values, ("sigma_11", "sigma_22", "sigma_33", "sigma_23", "sigma_13", "sigma_12"))
    assert ordered.tolist() == [[11, 22, 33, 12, 23, 13]]
    assert "order" in note


def test_single_precision_stays_single_and_whole_numbers_become_double() -> None:
    assert converted(np.zeros((2, 3), np.float32), (), "vector").dtype == np.float32
    assert converted(np.zeros((2, 1), np.int64), (), "scalar").dtype == np.float64


def test_what_has_one_value_at_a_node_by_nature() -> None:
    assert kind_of("displacement").single_valued and kind_of("temperature").single_valued
    assert not kind_of("stress").single_valued and not kind_of("").single_valued


def joined(points: np.ndarray, part: np.ndarray, ids: np.ndarray | None = None) -> int:
    return weld(points, np.arange(len(points)), part, ids).count


def test_joining_by_place_bears_rounding_but_not_a_gap() -> None:
    points, _, _ = bar_of_hexahedra(2)
    part = np.zeros(16, dtype=int)
    assert joined(points, part) == 12
    rounded = points + np.random.default_rng(0).uniform(-4e-7, 4e-7, points.shape)
    assert joined(rounded, part) == 12
    apart = points.copy()
    apart[8:, 0] += 1e-3
    assert joined(apart, part) == 16


def test_joining_keeps_the_files_order_of_nodes() -> None:
    points, _, _ = bar_of_hexahedra(2)
    found = weld(points, np.arange(16), np.zeros(16, dtype=int), None)
    assert found.label[:8].tolist() == list(range(8))
    assert points[found.first][:8].tolist() == points[:8].tolist()


def test_copies_that_agree_in_single_precision_agree() -> None:
    points, _, _ = bar_of_hexahedra(2)
    found = weld(points, np.arange(16), np.zeros(16, dtype=int), None)
    moved = 100.0 + points.astype(np.float32)
    nudged = moved.copy()
    nudged[8:] += np.float32(2e-5)
    for precision, values, agree in (("single", moved, True), ("single", nudged, True), ("double", nudged + 1e-3, False)):
        check = CopyCheck(precision)
        values = values.copy()
        if not agree:
            values[8:] += 1e-2
        check.look(0, values, found)
        assert check.agree is agree


def test_copies_part_where_they_move_apart_and_only_there() -> None:
    points, _, _ = bar_of_hexahedra(2)
    found = weld(points, np.arange(16), np.zeros(16, dtype=int), None)
    moved = np.zeros((16, 3))
    moved[8, 1] = 0.5
    assert found.split(moved, 1e-6) == 1
    assert found.count == 13
