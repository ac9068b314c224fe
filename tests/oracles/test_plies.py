"""Readings with plies held against lamination theory written out by its definition, and against what a reader of them expects."""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ironstone.core.errors import Impossible, IronstoneError, NotFound
from ironstone.core.mesh.places import AtElements, AtNodes
from ironstone.core.reading.evaluate import evaluate
from ironstone.core.reading.extremes import extremes
from ironstone.core.reading.reading import Reading
from ironstone.core.reading.trace import trace
from ironstone.core.strength.criteria import CRITERIA, criterion_of
from ironstone.core.strength.laminate import Laminate, Ply, PlyMaterial
from ironstone.engine.base import ask
from ironstone.engine.reading.line import reading_line
from ironstone.engine.strength.failure import Failed, Strength
from ironstone.engine.strength.stack import Stack
from ironstone.engine.strength.stacks import LaminatesOf, bring_laminates
from ironstone.formats.laminates import parse_laminates, write_laminates
from ironstone.store import Review, intake
from ironstone.store.source import ReviewSource
from tests.oracles.test_strength import CARBON
from tests.writing import write_vtu

GLUED = PlyMaterial("carbon", {**CARBON.constants, "G13": 7.17e3, "G23": 3.8e3, "S13": 60.0, "S23": 35.0})
angles = st.lists(st.sampled_from([0.0, 90.0, 45.0, -45.0, 30.0, -60.0]), min_size=1, max_size=7)
within = st.tuples(st.floats(-1400, 1400), st.floats(-240, 240), st.floats(-66, 66)).map(np.array)


@given(angles, st.lists(st.floats(0.1, 0.6), min_size=7, max_size=7), st.floats(-1.0, 1.0))
@settings(max_examples=60, deadline=None)
def test_shear_between_the_plies_adds_up_to_the_transverse_force_and_leaves_the_surfaces_free(
    stack: list[float], thick: list[float], offset: float
) -> None:
    """By its definition: the integral of the shear over the wall is the force, and nothing acts on bottom and top."""
    laminate = Laminate(tuple(Ply(GLUED, t, a) for a, t in zip(stack, thick, strict=False)), offset)
    total = np.zeros((2, 2))
    for k, ply in enumerate(laminate.plies):
        c, s = np.cos(np.radians(ply.angle)), np.sin(np.radians(ply.angle))
        back = np.array([[-s, c], [c, s]])  # its own inverse
        low, middle, high = (back @ laminate.interlaminar[k, p] for p in range(3))
        # In a ply the shear is a parabola: Simpson's rule is exact.
        total += ply.thickness * (low + 4 * middle + high) / 6
    assert np.diag(total) == pytest.approx(1.0, rel=1e-9)
    assert laminate.interlaminar[0, 0] == pytest.approx(np.zeros((2, 2)), abs=1e-9)
    assert np.abs(laminate.interlaminar[-1, 2]).max() < 1e-9 * np.abs(laminate.interlaminar).max()


def test_shear_in_one_ply_is_the_parabola_of_a_beam() -> None:
    alone = Laminate((Ply(GLUED, 2.0, 0.0),))
    # 3/2 of the mean shear in the middle, for a force of 1 along x; 13 is the second row.
    assert alone.interlaminar[0, 1] == pytest.approx(np.array([[0.0, 0.75], [0.75, 0.0]]), abs=1e-12)


def test_shear_of_a_sandwich_is_even_in_its_core() -> None:
    """Faces carry the moment, the core the shear: Q over the distance of the faces' middles (textbook, from memory)."""
    soft = PlyMaterial("foam", {"E1": 1.0, "E2": 1.0, "G12": 0.4, "nu12": 0.25})
    made = Laminate((Ply(GLUED, 0.2, 0.0), Ply(soft, 10.0, 0.0), Ply(GLUED, 0.2, 0.0)))
    assert made.interlaminar[1, :, 1, 0] == pytest.approx(1 / 10.2, rel=1e-3)


@given(within, st.sampled_from(sorted(CRITERIA)))
@settings(max_examples=150, deadline=None)
def test_the_quick_exposure_is_one_over_the_reserve_of_the_long_way(stress: np.ndarray, name: str) -> None:
    """Where all scales exposures come by a shorter formula; with a fixed part of nothing the long one must say the same."""
    criterion = criterion_of(name)
    exposure, mode = criterion.exposures(CARBON, stress[None])
    long = criterion.check(CARBON, stress[None], np.zeros((1, 3)))
    expected = 1.0 / long.reserve[0]
    assert exposure[0] == pytest.approx(expected, rel=1e-9, abs=1e-9)
    modes = criterion.modes(CARBON)
    if expected > 1e-6:
        # At the way to failure that is named the criterion is met.
        at = stress[None] / exposure[0]
        assert modes[int(mode[0])].value(np.round(at, 9))[0] == pytest.approx(1.0, rel=1e-6)


# Four squares in two zones: three plies, and two of them; strain and curvature that differ from square to square.
POINTS = np.array([[x, y, 0.0] for y in (0, 1) for x in range(5)])
CELLS = [(9, [i, i + 1, i + 6, i + 5]) for i in range(4)]
STRAIN = np.array([[1e-3, -2e-4, 4e-4], [2e-3, 1e-4, -3e-4], [-1e-3, 5e-4, 0.0], [5e-4, 3e-3, 1e-3]])
BENT = np.array([[1e-4, 0.0, 2e-4], [0.0, 3e-4, 0.0], [-2e-4, 1e-4, 1e-4], [1e-4, 1e-4, 0.0]])
SHEAR = np.array([[3.0, 1.0], [0.0, 2.0], [-4.0, 0.5], [1.0, 1.0]])
THREE = [("A", 0.0, 0.3), ("B", 45.0, 0.2), ("C", 90.0, 0.3)]
TWO = [("C", 90.0, 0.4), ("A", -30.0, 0.2)]


def stated(**more: object) -> bytes:
    def plies(rows: list[tuple[str, float, float]]) -> list[dict[str, object]]:
        return [{"sheet": n, "material": "carbon", "thickness": t, "angle": a} for n, a, t in rows]

    zones = [
        {"name": "thick", "where": "part:part 1", "plies": plies(THREE)},
        {"name": "thin", "where": "part:part 2", "offset": 0.1, "plies": plies(TWO)},
    ]
    made = {"version": 1, "units": "mm-N-s-t-MPa", "materials": {"carbon": GLUED.constants}, "zones": zones}
    return json.dumps({**made, **more}).encode()


@pytest.fixture
def review(tmp_path: Path) -> Iterator[Review]:
    files = []
    for step, factor in enumerate((1.0, 3.0)):
        data = {
            "midplane_strain": factor * STRAIN,
            "curvature": factor * BENT,
            "transverse_force": factor * SHEAR,
            "part": np.array([1, 1, 2, 2], dtype=np.int32),
        }
        files.append(write_vtu(tmp_path / f"s_{step}.vtu", POINTS, CELLS, {}, data, load_factor=factor))
    with Review.create(tmp_path / "sheet.ironstone") as made:
        bring_laminates(made, intake(made, files, "sheet", "mm-N-s-t-MPa"), stated(), "sheet.json")
        yield made


def by_hand(element: int, ply: int, place: int) -> np.ndarray:
    """Stress 11, 22, 12 in a ply from strain and curvature, tensors turned one by one."""
    rows, offset = (THREE, 0.0) if element < 2 else (TWO, 0.1)
    edges = np.concatenate([[0.0], np.cumsum([t for *_, t in rows])]) - sum(t for *_, t in rows) / 2 - offset
    z = (edges[ply], (edges[ply] + edges[ply + 1]) / 2, edges[ply + 1])[place]
    xx, yy, gamma = STRAIN[element] + z * BENT[element]
    tensor = np.array([[xx, gamma / 2], [gamma / 2, yy]])
    c, s = np.cos(np.radians(rows[ply][1])), np.sin(np.radians(rows[ply][1]))
    own = np.array([[c, s], [-s, c]]) @ tensor @ np.array([[c, s], [-s, c]]).T
    e1, e2, g, nu = (GLUED[n] for n in ("E1", "E2", "G12", "nu12"))
    below = 1 - nu**2 * e2 / e1
    return np.array(
        [(e1 * own[0, 0] + nu * e2 * own[1, 1]) / below, (e2 * own[1, 1] + nu * e2 * own[0, 0]) / below, 2 * g * own[0, 1]]
    )


def read(source: ReviewSource, measure: str, layer: str, step: int = 0, criterion: str = "") -> np.ndarray:
    reading = Reading("stress in plies", measure, layer=layer, step=step, criterion=criterion)
    return evaluate(reading, source, AtElements(np.arange(4))).values


def test_stress_in_a_ply_is_that_of_its_definition_by_stack_position_and_by_sheet(review: Review) -> None:
    source = review.result()
    for name, (place, at) in {f"{p}": (p, i) for i, p in enumerate(("bottom", "middle", "top"))}.items():
        for k, component in enumerate(("11", "22", "12")):
            expected = [by_hand(e, 1, at)[k] for e in range(4)]
            assert read(source, component, f"2:{name}") == pytest.approx(expected, rel=1e-9), place
    # Sheet C is on top of the one zone and below in the other; B is in one alone.
    assert read(source, "22", "sheet:C:top") == pytest.approx([by_hand(e, 2 if e < 2 else 0, 2)[1] for e in range(4)], rel=1e-9)
    only = read(source, "11", "sheet:B:middle")
    assert np.isnan(only).tolist() == [False, False, True, True], "a ply that does not lie there is blank, never zero"
    assert np.isnan(read(source, "11", "3:bottom")).tolist() == [False, False, True, True]


def test_the_worst_of_all_plies_is_the_largest_of_each_and_names_ply_and_mode(review: Review) -> None:
    source = review.result()
    for name in CRITERIA:
        each = []
        for e in range(4):
            rows = THREE if e < 2 else TWO
            every = {(k, p): criterion_of(name).check(GLUED, by_hand(e, k, p)[None]) for k in range(len(rows)) for p in range(3)}
            at = min(every, key=lambda kp: every[kp].reserve[0])
            each.append((1 / every[at].reserve[0], rows[at[0]][0], every[at].modes[int(every[at].mode[0])]))
        assert read(source, "exposure", "worst", criterion=name) == pytest.approx([x for x, *_ in each], rel=1e-9)
        assert read(source, "reserve", "worst", criterion=name) == pytest.approx([1 / x for x, *_ in each], rel=1e-9)
        for measure, place in (("first-ply", 1), ("mode", 2)):
            reading = Reading("stress in plies", measure, criterion=name)
            answer = evaluate(reading, source, AtElements(np.arange(4)))
            assert [answer.resolved.field.labels[int(v)] for v in answer.values] == [row[place] for row in each]
    # A reserve is smallest where an exposure is largest, and an exposure grows with the load.
    assert read(source, "exposure", "worst", 1, "puck") == pytest.approx(3 * read(source, "exposure", "worst", 0, "puck"))


def test_the_worst_of_a_stress_is_farthest_from_zero_with_its_sign(review: Review) -> None:
    found = read(review.result(), "22", "worst")
    every = [[by_hand(e, k, p)[1] for k in range(3 if e < 2 else 2) for p in range(3)] for e in range(4)]
    assert found == pytest.approx([max(row, key=abs) for row in every], rel=1e-9)
    largest = read(review.result(), "22", "largest")
    assert largest == pytest.approx([max(row) for row in every], rel=1e-9)


def test_the_bond_lines_fail_where_the_shear_between_plies_is_near_their_strength(review: Review) -> None:
    """Against the plies' shear by its own rule; with little in the plane the bond is the worse of the two."""
    source = review.result()
    plain, both = (read(source, "exposure", "worst", 0, n) for n in ("max-stress", "max-stress+bond"))
    laminates = source.laminates
    assert laminates is not None
    for e in range(4):
        laminate = laminates.zones[0 if e < 2 else 1].laminate
        shear = np.concatenate([laminate.interlaminar[k] @ SHEAR[e] for k in range(len(laminate.plies))])
        # Rows are the shear across the fibres (23), then along them (13), each over its own strength.
        bond = np.sqrt((shear[:, 0] / 35.0) ** 2 + (shear[:, 1] / 60.0) ** 2).max()
        assert both[e] == pytest.approx(max(plain[e], bond), rel=1e-9)
    strong = {**GLUED.constants, "S13": 0.5, "S23": 0.5}
    bring_laminates(review, source.id, stated(materials={"carbon": strong}), "weak.json")
    answer = evaluate(Reading("stress in plies", "mode", criterion="max-stress+bond"), review.result(), AtElements(np.arange(4)))
    assert {answer.resolved.field.labels[int(v)] for v in answer.values} == {"bond line"}


def test_heat_left_from_curing_does_not_scale_with_the_load(review: Review) -> None:
    """The reserve against brute force: the loads times it, and the residual stress once, meet the criterion."""
    source = review.result()
    bring_laminates(review, source.id, stated(temperature=-120.0), "cured.json")
    cured = review.result()
    reserve = read(cured, "reserve", "2:top", criterion="tsai-wu")
    laminates = cured.laminates
    assert laminates is not None
    for e in range(4):
        laminate = laminates.zones[0 if e < 2 else 1].laminate
        # What cooling leaves in the free laminate holds itself in balance: its forces add up to nothing, ply by ply turned back.
        held = laminate.in_plies(laminate.strain_of(np.zeros(6), -120.0), -120.0)[1]
        force = np.zeros(3)
        for k, ply in enumerate(laminate.plies):
            c, s = np.cos(np.radians(ply.angle)), np.sin(np.radians(ply.angle))
            back = np.array([[c * c, s * s, -2 * c * s], [s * s, c * c, 2 * c * s], [c * s, -c * s, c * c - s * s]])
            force += ply.thickness * back @ held[k, 1]
        assert force == pytest.approx(np.zeros(3), abs=1e-9) and np.abs(held).max() > 1.0
        whole = reserve[e] * by_hand(e, 1, 2) + held[1, 2]
        assert criterion_of("tsai-wu").check(GLUED, whole[None]).index[0] == pytest.approx(1.0, rel=1e-6)
    assert not np.allclose(reserve, read(source, "reserve", "2:top", criterion="tsai-wu"))


def test_a_laminate_in_other_units_says_the_same(review: Review) -> None:
    before = read(review.result(), "exposure", "worst", criterion="hashin")
    file = json.loads(stated())
    file["units"] = "m-N-s-kg-Pa"
    for name, value in file["materials"]["carbon"].items():
        if name[0] in "EGXYS":
            file["materials"]["carbon"][name] = value * 1e6
    for zone in file["zones"]:
        zone["offset"] = zone.get("offset", 0.0) / 1e3
        for ply in zone["plies"]:
            ply["thickness"] /= 1e3
    bring_laminates(review, review.result().id, json.dumps(file).encode(), "metres.json")
    assert read(review.result(), "exposure", "worst", criterion="hashin") == pytest.approx(before, rel=1e-9)


def test_two_readings_of_plies_never_share_a_sentence(review: Review) -> None:
    source = review.result()
    said: dict[str, np.ndarray] = {}
    for layer in ("", "worst", "worst:top", "largest", "2", "2:top", "2:worst", "sheet:A", "sheet:A:bottom"):
        for measure in ("exposure", "index", "reserve", "22"):
            for criterion in ("hashin", "puck") if measure != "22" else ("",):
                answer = evaluate(
                    Reading("stress in plies", measure, layer=layer, criterion=criterion), source, AtElements(np.arange(4))
                )
                sentence = answer.resolved.sentence()
                if sentence in said:
                    np.testing.assert_array_equal(said[sentence], answer.values)
                said[sentence] = answer.values
    assert "exposure of stress in plies, by Hashin (1980), worst of all plies, each element as computed" in next(iter(said))


def test_a_ply_is_read_at_a_node_through_the_steps_and_at_its_extreme(review: Review) -> None:
    source = review.result()
    reading = Reading("stress in plies", "exposure", criterion="puck")
    here = evaluate(reading, source, AtNodes(np.array([1])))
    assert here.values == pytest.approx(read(source, "exposure", "worst", criterion="puck")[:2])
    _, _, high = extremes(reading, source)
    assert high is not None and high.element == int(np.argmax(read(source, "exposure", "worst", criterion="puck")))
    curve = trace(reading, source, AtElements(np.array([2])))
    assert curve.values[1] == pytest.approx(3 * curve.values[0])


@pytest.mark.parametrize(
    ("words", "said"),
    [
        ({"layer": "9"}, "no ply '9'"),
        ({"layer": "sheet:Z"}, "no ply 'sheet:Z'"),
        ({"layer": "worst:largest"}, "two things at once"),
        ({"averaging": "part"}, "not averaged"),
        ({"criterion": "hashin+glue"}, "no criterion"),
        ({"criterion": "old"}, "no criterion"),
        ({"measure": "von-mises"}, "cannot be taken"),
    ],
)
def test_what_makes_no_sense_of_plies_is_said(review: Review, words: dict[str, str], said: str) -> None:
    asked = {"measure": "exposure", **words}
    with pytest.raises(IronstoneError) as error:
        evaluate(Reading("stress in plies", **asked), review.result(), AtElements(np.arange(4)))
    assert said in error.value.message and error.value.hint


def test_a_criterion_whose_strengths_are_not_stated_is_not_offered(review: Review) -> None:
    lacking = {n: v for n, v in GLUED.constants.items() if n not in ("S12", "S23")}
    bring_laminates(review, review.result().id, stated(materials={"carbon": lacking}), "lacking.json")
    source = review.result()
    with pytest.raises(Impossible) as error:
        read(source, "exposure", "worst", criterion="puck")
    assert "S12 of carbon" in error.value.hint
    word = next(w for w in reading_line(source, Reading("stress in plies", "exposure")).words if w.name == "criterion")
    assert all("S12 of carbon" in c.impossible for c in word.choices)
    told = ask(review, LaminatesOf()).more["criteria"]
    assert told[0]["lacking"] == ["S12 of carbon"]


def test_ply_count_thickness_and_zone_are_fields(review: Review) -> None:
    source = review.result()
    assert source.values("ply count", 0)[:, 0].tolist() == [3, 3, 2, 2]
    assert source.values("laminate thickness", 0)[:, 0] == pytest.approx([0.8, 0.8, 0.6, 0.6])
    answer = evaluate(Reading("laminate zone"), source, AtElements(np.arange(4)))
    assert [answer.resolved.field.labels[int(v)] for v in answer.values] == ["thick", "thick", "thin", "thin"]


def test_what_is_stated_is_undone_and_an_old_answer_does_not_come_back(review: Review) -> None:
    first = read(review.result(), "exposure", "2:top", criterion="hashin")
    file = json.loads(stated())
    file["zones"][0]["plies"][1]["angle"] = 90.0
    bring_laminates(review, review.result().id, json.dumps(file).encode(), "changed.json")
    second = read(review.result(), "exposure", "2:top", criterion="hashin")
    assert not np.allclose(first, second)
    review.undo()
    assert read(review.result(), "exposure", "2:top", criterion="hashin") == pytest.approx(first)
    review.set_laminates(review.result().id, None, "")
    assert "stress in plies" not in review.result().fields


def test_a_file_that_does_not_fit_the_result_leaves_what_was_stated(review: Review) -> None:
    file = json.loads(stated())
    file["zones"][0]["where"] = "part:wing"
    with pytest.raises(NotFound, match="which is not in this result"):
        bring_laminates(review, review.result().id, json.dumps(file).encode(), "wing.json")
    assert len(review.result().laminates.zones) == 2  # type: ignore[union-attr]


def test_stacks_come_as_tables_materials_first_or_last(review: Review) -> None:
    result = review.result().id
    review.set_laminates(result, None, "")
    plies = "zone;where;sheet;material;thickness [mm];angle\n"
    plies += "".join(f"thick;part:part 1;{n};carbon;{str(t).replace('.', ',')};{a:g}\n" for n, a, t in THREE)
    plies += "".join(f"thin;part:part 2;{n};carbon;{str(t).replace('.', ',')};{a:g}\n" for n, a, t in TWO)
    with pytest.raises(Impossible, match="materials that are not known"):
        bring_laminates(review, result, plies.encode(), "plies.csv")
    names = [n for n in GLUED.constants if n[0] in "EGnXYS"]
    table = ",".join(["material", *names]) + "\n" + ",".join(["carbon", *(str(GLUED[n]) for n in names)]) + "\n"
    bring_laminates(review, result, table.encode(), "materials.csv")
    assert review.result().laminates is None, "kept until the stacks come"
    bring_laminates(review, result, plies.encode(), "plies.csv")
    assert read(review.result(), "11", "2:middle")[0] == pytest.approx(by_hand(0, 1, 1)[0], rel=1e-9)
    with pytest.raises(IronstoneError, match="line 2, column 'angle': 'up' is not a number"):
        bring_laminates(review, result, b"zone,material,thickness,angle\na,carbon,0.2,up\n", "bad.csv")


def test_what_is_written_of_laminates_is_what_is_read() -> None:
    known = parse_laminates(stated(temperature=-90.0), "a.json")
    again = parse_laminates(json.dumps(write_laminates(known)).encode(), "b.json")
    assert write_laminates(again) == write_laminates(known)
    assert again.change == -90.0 and again.zones[1].laminate.offset == 0.1


def test_the_questions_answer_as_the_readings_do(review: Review) -> None:
    worst = read(review.result(), "exposure", "worst", 1, "hashin")
    reply = ask(review, Strength(criterion="hashin")).more
    assert reply["worst"]["exposure"] == pytest.approx(worst.max()) and reply["worst"]["element"] == int(np.argmax(worst))
    assert reply["failed_count"] == int((worst >= 1).sum())
    failed = ask(review, Failed(criterion="hashin"))
    assert failed.columns[0].values == [int(e) for e in np.argsort(-worst) if worst[e] >= 1]
    stack = ask(review, Stack(element=3, criterion="hashin", step=0))
    rows = stack.more["plies"]
    assert len(rows) == 6 and rows[4]["stress"][:3] == pytest.approx(by_hand(3, 1, 1), rel=1e-9)
    assert max(r["exposure"] for r in rows) == pytest.approx(read(review.result(), "exposure", "worst", 0, "hashin")[3])
    with pytest.raises(NotFound):
        ask(review, Stack(element=99, criterion="hashin"))


def test_laminates_come_from_the_arrays_of_a_result(tmp_path: Path) -> None:
    """Angles and thicknesses as columns: squares alike are one zone, a ply without thickness is none."""
    angle = np.array([[a for _, a, _ in THREE]] * 2 + [[a for _, a, _ in TWO] + [0.0]] * 2)
    thick = np.array([[t for *_, t in THREE]] * 2 + [[t for *_, t in TWO] + [0.0]] * 2)
    data = {"midplane_strain": STRAIN, "ply_angle": angle, "ply_thickness": thick}
    file = write_vtu(tmp_path / "a.vtu", POINTS, CELLS, {}, data)
    stated_materials = {"version": 1, "units": "mm-N-s-t-MPa", "materials": {"carbon": GLUED.constants}, "zones": "from arrays"}
    with Review.create(tmp_path / "a.ironstone") as made:
        result = intake(made, [file], "sheet", "mm-N-s-t-MPa")
        bring_laminates(made, result, json.dumps(stated_materials).encode(), "arrays.json")
        source = made.result()
        assert source.laminates is not None and [len(z.laminate.plies) for z in source.laminates.zones] in ([2, 3], [3, 2])
        assert source.values("ply count", 0)[:, 0].tolist() == [3, 3, 2, 2]
        flat = STRAIN[0] @ np.eye(3)
        c, s = np.cos(np.radians(45.0)), np.sin(np.radians(45.0))
        along = c * c * flat[0] + s * s * flat[1] + c * s * flat[2]
        found = evaluate(Reading("strain in plies", "11", layer="2:middle"), source, AtElements(np.array([0]))).values
        assert found == pytest.approx([along], rel=1e-9)
        two = {**stated_materials, "materials": {"carbon": GLUED.constants, "other": GLUED.constants}}
        with pytest.raises(Impossible, match="There are 2 materials"):
            bring_laminates(made, result, json.dumps(two).encode(), "two.json")


def test_what_cooling_leaves_is_in_the_stress_of_a_ply_with_its_sign(review: Review) -> None:
    source = review.result()
    plain = read(source, "22", "2:top")
    bring_laminates(review, source.id, stated(temperature=-120.0), "cured.json")
    cured = review.result()
    assert cured.laminates is not None
    left = []
    for zone in cured.laminates.zones:
        held = zone.laminate.in_plies(zone.laminate.strain_of(np.zeros(6), -120.0), -120.0)[1]
        left += 2 * [held[1, 2, 1]]
    assert min(abs(v) for v in left) > 1.0
    assert read(cured, "22", "2:top") == pytest.approx(plain + left, rel=1e-9)


def test_stress_by_layers_is_read_as_the_file_has_it_shear_too(tmp_path: Path) -> None:
    layered = np.arange(4 * 12, dtype=float).reshape(4, 12)
    file = write_vtu(tmp_path / "l.vtu", POINTS, CELLS, {}, {"stress": layered, "part": np.array([1, 1, 2, 2], dtype=np.int32)})
    plies = [{"sheet": "", "material": "carbon", "thickness": 0.2, "angle": a} for a in (0.0, 30.0)]
    zones = [{"name": "all", "where": "all", "plies": plies}]
    with Review.create(tmp_path / "l.ironstone") as made:
        bring_laminates(made, intake(made, [file], "layers", "mm-N-s-t-MPa"), stated(zones=zones), "l.json")
        source = made.result()
        # Six components a layer: xx, yy, zz, xy, yz, xz; of a ply 11, 22, 12, 23, 13.
        for component, column in (("11", 0), ("22", 1), ("12", 3), ("23", 4), ("13", 5)):
            assert read(source, component, "2") == pytest.approx(layered[:, 6 + column])
