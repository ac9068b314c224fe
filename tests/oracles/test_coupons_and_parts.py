"""Coupons, envelopes, tested parts and metals against published factors, definitions and hand calculations."""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from scipy import integrate, stats
from typer.testing import CliRunner

from ironstone.cli.every import app
from ironstone.core.errors import Impossible, IronstoneError
from ironstone.core.field.plies import ply_state, zones_with_elements
from ironstone.core.reading.failing import basis_places
from ironstone.core.strength.coupons import sample_of, tolerance_factor
from ironstone.core.strength.criteria import CRITERIA, criterion_of
from ironstone.core.strength.envelope import PLANES, envelope
from ironstone.engine.base import ask, keep
from ironstone.engine.strength.coupons import CouponBasis, Envelope, coupons_of, with_basis
from ironstone.engine.strength.failure import strength_answer
from ironstone.engine.strength.metals import Utilisation, Yielded
from ironstone.engine.strength.part_tests import Tested, part_tests_of
from ironstone.engine.strength.stacks import bring_laminates
from ironstone.formats.allowables import parse_allowables
from ironstone.store import Review, intake
from tests.oracles.test_plies import CELLS, GLUED, POINTS, SHEAR, STRAIN, stated
from tests.oracles.test_strength import CARBON
from tests.writing import write_vtu

# One-sided factors of a normal population at 95 % confidence, sample sizes 5, 10, 20, 30 (Natrella 1963, table A-7; from memory).
PUBLISHED = {0.90: (3.407, 2.355, 1.926, 1.777), 0.99: (5.741, 3.981, 3.295, 3.064)}


@pytest.mark.parametrize("share", PUBLISHED)
def test_tolerance_factors_are_those_of_the_published_table(share: float) -> None:
    found = [tolerance_factor(n, share, 0.95) for n in (5, 10, 20, 30)]
    assert found == pytest.approx(PUBLISHED[share], abs=0.0025)


@pytest.mark.parametrize(("count", "share"), [(3, 0.9), (8, 0.9), (8, 0.99)])
def test_a_tolerance_factor_holds_by_its_definition(count: int, share: float) -> None:
    """mean - k s lies below the share's quantile with the stated confidence: integrated over what s can be, without the t."""
    k, quantile = tolerance_factor(count, share, 0.95), stats.norm.ppf(share)

    def below(ratio: float) -> float:
        # P(mean - k s < -quantile) at a standard deviation of the sample of this ratio to the true one.
        return float(stats.norm.cdf((k * ratio - quantile) * np.sqrt(count)) * stats.chi.pdf(ratio * np.sqrt(count - 1), count - 1))

    answer, _ = integrate.quad(lambda r: below(r) * np.sqrt(count - 1), 0, 8, limit=200)
    assert answer == pytest.approx(0.95, abs=1e-4)


def test_a_sample_says_what_it_knows_and_what_it_does_not() -> None:
    values = np.array([39.1, 41.4, 42.7, 40.2, 43.9, 38.8, 41.0, 42.1])
    found = sample_of(values)
    assert found.mean == pytest.approx(values.mean()) and found.deviation == pytest.approx(np.std(values, ddof=1))
    assert found.b is not None and found.a is not None and found.a < found.b < values.min()
    assert found.normal is not None and found.normal > 0.05 and not found.notes
    assert sample_of(np.array([5.0])).b is None and "One value" in sample_of(np.array([5.0])).notes[0]
    odd = sample_of(np.array([1.0, 1.01, 1.02, 0.99, 1.0, 1.01, 9.0, 1.0]))
    assert any("do not look normal" in n for n in odd.notes) and odd.a is None and any("below zero" in n for n in odd.notes)


@pytest.mark.parametrize("name", sorted(CRITERIA))
@pytest.mark.parametrize("plane", sorted(PLANES))
def test_every_point_of_an_envelope_meets_its_criterion_and_it_passes_through_the_strengths(name: str, plane: str) -> None:
    first, second = PLANES[plane]
    for third in (0.0, 12.0):
        line = envelope(criterion_of(name), CARBON, plane, third)
        there = np.isfinite(line).all(1)
        stress = np.zeros((int(there.sum()), 3))
        stress[:, [first, second]], stress[:, 3 - first - second] = line[there], third
        assert criterion_of(name).check(CARBON, stress).index == pytest.approx(1.0, rel=1e-6)
    line = envelope(criterion_of(name), CARBON, plane)
    ends = {0: ("Xt", "Xc"), 1: ("Yt", "Yc"), 2: ("S12", "S12")}
    for axis, column in ((first, 0), (second, 1)):
        at = line[[0, 180]] if column == 0 else line[[90, 270]]
        assert at[:, column] == pytest.approx([CARBON[ends[axis][0]], -CARBON[ends[axis][1]]], rel=1e-6)


COUPONS = """specimen,property,value,s11,s22,s12
,,MPa,MPa,MPa,MPa
Y1,Yt,39.1,,,
Y2,Yt,41.4,,,
Y3,Yt,42.7,,,
Y4,Yt,40.2,,,
T1,S12,66,,,
T2,S12,70,,,
B1,,,0,-40,75
"""


@pytest.fixture
def review(tmp_path: Path) -> Iterator[Review]:
    """Strain that grows with the load factor, so that plies fail between the second and the third step."""
    files = []
    for step, factor in enumerate((0.5, 1.0, 3.0)):
        data = {
            "midplane_strain": factor * STRAIN,
            "transverse_force": factor * SHEAR,
            "part": np.array([1, 1, 2, 2], dtype=np.int32),
        }
        files.append(write_vtu(tmp_path / f"s_{step}.vtu", POINTS, CELLS, {}, data, load_factor=factor))
    with Review.create(tmp_path / "sheet.ironstone") as made:
        bring_laminates(made, intake(made, files, "sheet", "mm-N-s-t-MPa"), stated(), "sheet.json")
        yield made


def test_coupons_become_the_basis_of_a_material_and_are_named_with_it(review: Review) -> None:
    item = keep(review, coupons_of(COUPONS.encode(), "glue.csv", "carbon"))
    answer = ask(review, CouponBasis(named=item.id))
    table = {c.name: c.values for c in answer.columns}
    assert table["property"] == ["Yt", "S12"] and table["tests"] == [4, 2]
    assert table["mean"] == pytest.approx([40.85, 68.0])
    mean = np.mean([39.1, 41.4, 42.7, 40.2])
    deviation = np.std([39.1, 41.4, 42.7, 40.2], ddof=1)
    assert table["90 % / 95 % bound"][0] == pytest.approx(mean - tolerance_factor(4, 0.9, 0.95) * deviation)
    result = review.result().id
    with_basis(review, result, item.id, "carbon", "mean")
    known = review.result().laminates
    assert known is not None and known.materials[0]["Yt"] == pytest.approx(40.85) and known.materials[0]["Xt"] == 1500.0
    assert known.materials[0].notes["basis"] == "mean of the coupons 'glue': Yt of 4, S12 of 2"
    with pytest.raises(Impossible, match="no 99 % / 95 % bound of S12"):
        with_basis(review, result, item.id, "carbon", "a")
    review.undo()
    assert review.result().laminates.materials[0]["Yt"] == 40.0  # type: ignore[union-attr]


def test_coupons_in_another_unit_are_the_same_strengths(review: Review) -> None:
    ksi = "specimen,property,value [ksi]\n" + "".join(f"Y{k},Yt,{v / 6.894757:.6f}\n" for k, v in enumerate((39.1, 41.4, 42.7)))
    item = keep(review, coupons_of(ksi.encode(), "ksi.csv", "carbon"))
    with_basis(review, review.result().id, item.id, "carbon", "mean")
    assert review.result().laminates.materials[0]["Yt"] == pytest.approx(41.0667, abs=1e-3)  # type: ignore[union-attr]


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("specimen,property,value\nA,Zx,3\n", "line 2: 'Zx' is no property"),
        ("specimen,property,value\nA,Yt,\n", "line 2: there is no value"),
        ("specimen,property,value\nA,Yt,forty\n", "line 2, column 'value'"),
        ("specimen,property,value\nA,,3\n", "neither a property nor stresses"),
        ("specimen,property,value [MPa],s22 [ksi]\nA,Yt,3,\n", "several units"),
        ("", "is empty"),
    ],
)
def test_a_bad_table_of_coupons_says_where(text: str, said: str) -> None:
    with pytest.raises(IronstoneError) as error:
        coupons_of(text.encode(), "c.csv")
    assert said in error.value.message and error.value.hint


def test_the_way_of_the_worst_place_ends_on_the_envelope(review: Review) -> None:
    keep(review, coupons_of(COUPONS.encode(), "glue.csv", "carbon"))
    seen: set[tuple[str, str]] = set()
    for name in ("max-stress", "hashin", "tsai-wu"):
        for plane in PLANES:
            answer = ask(review, Envelope(criterion=name, plane=plane))
            ends = answer.more["ends"]
            stress = np.zeros(3)
            first, second = PLANES[plane]
            stress[[first, second]], stress[3 - first - second] = (ends["x"], ends["y"]), answer.more["third"]["value"]
            assert criterion_of(name).check(GLUED, stress[None]).index[0] == pytest.approx(1.0, rel=1e-6)
            if any("fails by itself" in c for c in answer.caveats):
                stress[[first, second]] = 0.0
                assert criterion_of(name).check(GLUED, stress[None]).index[0] > 1.0 - 1e-6
                continue
            seen.add((name, plane))
            line = np.array([c.values for c in answer.columns], dtype=float).T
            near = np.min(np.linalg.norm((line - [ends["x"], ends["y"]]) / np.nanmax(np.abs(line), 0), axis=1))
            assert near < 0.02
    assert len(seen) >= 6
    points = ask(review, Envelope(criterion="hashin", plane="22-12")).more["coupons"]
    assert [(p["specimen"], p["x"], p["y"]) for p in points][-1] == ("B1", -40.0, 75.0)
    assert len(ask(review, Envelope(criterion="hashin", plane="11-12")).more["coupons"]) == 3, (
        "those across the fibres are square to it"
    )


def test_tested_parts_are_held_against_the_first_failure(review: Review) -> None:
    """Predicted over tested by hand, on the load factor between two steps; the verdict tells by how much and whether as seen."""
    source = review.result()
    first = strength_answer(source, None, "", "max-stress", 2)["first_failure"]
    each = [strength_answer(source, None, "", "max-stress", s)["worst"]["exposure"] for s in range(3)]
    assert each == pytest.approx([each[1] / 2, each[1], 3 * each[1]])
    factor = 1.0 / each[1]
    assert first["load_factor"] == pytest.approx(factor), "the load is proportional"
    loads = np.array([0.97, 1.02, 1.05]) * factor * 800
    zone, mode = first["zone"], first["mode"]
    text = "specimen,load [N],zone,mode\n" + "".join(f"P{k},{v:.6f},{zone},{mode}\n" for k, v in enumerate(loads))
    item = keep(review, part_tests_of(source, text.encode(), "parts.csv", 800.0))
    answer = ask(review, Tested(named=item.id, criterion="max-stress"))
    figures = {f.label: f.value for f in answer.figures}
    assert figures["predicted"] == pytest.approx(800 * factor)
    ratios = 800 * factor / loads
    assert figures["mean of predicted over tested"] == pytest.approx(ratios.mean())
    assert figures["knock-down to the lowest test"] == pytest.approx(0.97)
    bound = loads.mean() - tolerance_factor(3, 0.9, 0.95) * loads.std(ddof=1)
    assert figures["knock-down to the 90 % / 95 % bound"] == pytest.approx(bound / (800 * factor))
    assert answer.verdict == "Agrees: predicted 1.2 % below the mean of the tests, within 10 %; zone and mode as seen in 3 of 3."
    ranked = [c["off"] for c in answer.more["criteria"]]
    assert ranked == sorted(ranked) and len(ranked) == len(CRITERIA)
    low = text.replace(f"{loads[0]:.6f}", f"{loads[0] / 2:.6f}")
    far = keep(review, part_tests_of(source, low.encode(), "far.csv", 800.0))
    assert ask(review, Tested(named=far.id, criterion="max-stress")).verdict.startswith("Does not agree: predicted")
    other = keep(review, part_tests_of(source, text.replace(zone, "rim").encode(), "other.csv", 800.0))
    said = ask(review, Tested(named=other.id, criterion="max-stress"))
    assert said.verdict.startswith("Does not agree: the load does") and not said.more["agrees"]


@pytest.mark.parametrize(
    ("text", "said"), [("specimen,load\nA,-3\n", "not above zero"), ("specimen,zone\nA,b\n", "no column load")]
)
def test_a_bad_table_of_tested_parts_says_where(review: Review, text: str, said: str) -> None:
    with pytest.raises(IronstoneError, match=said):
        part_tests_of(review.result(), text.encode(), "p.csv")


def test_the_commands_keep_and_tell_and_exit_as_the_verdict_says(review: Review, tmp_path: Path) -> None:
    path = review.path
    (tmp_path / "c.csv").write_text(COUPONS)
    factor = strength_answer(review.result(), None, "", "hashin", 2)["first_failure"]["load_factor"]
    (tmp_path / "good.csv").write_text(f"specimen,load\nA,{factor}\nB,{1.02 * factor}\n")
    (tmp_path / "bad.csv").write_text(f"specimen,load\nA,{2 * factor}\nB,{2.1 * factor}\n")
    review.close()
    run = CliRunner().invoke
    told = run(app, ["coupons", str(path), str(tmp_path / "c.csv"), "--material", "carbon", "--json"])
    assert told.exit_code == 0 and json.loads(told.output)["rows"][0]["property"] == "Yt"
    good = run(app, ["part-tests", str(path), str(tmp_path / "good.csv"), "--criterion", "hashin"])
    assert good.exit_code == 0 and "Agrees" in good.output
    bad = run(app, ["part-tests", str(path), str(tmp_path / "bad.csv"), "--criterion", "hashin"])
    assert bad.exit_code == 1 and "Does not agree" in bad.output
    plain = run(app, ["strength", str(path), "--criterion", "hashin+bond", "--json"])
    assert plain.exit_code == 0 and json.loads(plain.output)["first_failure"]["fails"]
    words = [
        "--field",
        "stress in plies",
        "--measure",
        "reserve",
        "--criterion",
        "puck",
        "--layer",
        "sheet:B",
        "--extremes",
        "--json",
    ]
    read = run(app, ["read", str(path), *words])
    assert read.exit_code == 0 and "by Puck, worst in sheet B" in json.loads(read.output)["sentence"]


# A cantilever's bending stress in a row of bricks: the yielded share of its depth is known.
def beam(folder: Path, top: float, temperature: bool = False) -> Review:
    """Bricks on end, 2 wide; stress xx is linear over the height from -top to top."""
    layers = 20
    points = np.array([[x, y, z] for z in np.linspace(-1, 1, layers + 1) for y in (0, 1) for x in (0, 1)])
    cells = [(12, [4 * k, 4 * k + 1, 4 * k + 3, 4 * k + 2, 4 * k + 4, 4 * k + 5, 4 * k + 7, 4 * k + 6]) for k in range(layers)]
    stress = np.zeros((len(points), 6))
    stress[:, 0] = top * points[:, 2]
    data = {"stress": stress}
    if temperature:
        data["temperature"] = 300.0 + 100.0 * (points[:, 2] > 0)
    names = {"stress": ("XX", "YY", "ZZ", "XY", "YZ", "XZ")}
    file = write_vtu(folder / "beam.vtu", points, cells, data, {}, components=names)
    review = Review.create(folder / "beam.ironstone")
    intake(review, [file], "beam", "mm-N-s-t-MPa")
    return review


def limits(**of: object) -> bytes:
    return json.dumps({"version": 1, "units": "mm-N-s-t-MPa", "parts": {"all": of}}).encode()


def test_the_yielded_share_of_a_bent_beam_is_that_of_its_stress(tmp_path: Path) -> None:
    """Stress 400 at the outside, yield 300: a quarter of the depth has yielded, half of it above and half below."""
    with beam(tmp_path, 400.0) as review:
        answer = ask(review, Utilisation(allowables=limits(**{"yield": 300.0, "ultimate": 500.0}).decode()))
        rows = {r["against"]: r for r in answer.more["rows"]}
        assert rows["yield"]["utilisation"] == pytest.approx(4 / 3) and rows["ultimate"]["utilisation"] == pytest.approx(0.8)
        assert rows["yield"]["over_share"] == pytest.approx(0.25, abs=0.03), "to an integration point"
        assert answer.more["yielded"] == [pytest.approx(rows["yield"]["over_share"])]


def test_when_a_limit_is_first_met_and_what_has_yielded_through_the_steps(tmp_path: Path) -> None:
    """A square pulled by 100 and 400: yield at 250 is met half way between the two; all of it has yielded then, nothing before."""
    points, cells = np.array([[0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0]], dtype=float), [(9, [0, 1, 2, 3])]
    files = []
    for step, pull in enumerate((100.0, 400.0)):
        stress = np.zeros((1, 6))
        stress[:, 0] = pull
        files.append(write_vtu(tmp_path / f"s_{step}.vtu", points, cells, {}, {"stress": stress}, load_factor=1.0 + step))
    with Review.create(tmp_path / "pull.ironstone") as review:
        intake(review, files, "pull", "mm-N-s-t-MPa")
        steel = limits(**{"yield": 250.0}).decode()
        more = ask(review, Utilisation(allowables=steel)).more
        assert more["first_failure"]["load_factor"] == pytest.approx(1.5) and more["first_failure"]["mode"] == "yield"
        assert more["worst"]["index"] == pytest.approx(1.6) and more["worst"]["reserve"] == pytest.approx(0.625)
        assert more["failed_elements"] == [0] or more["failed_elements"] == [1]
        table = ask(review, Yielded(allowables=steel)).columns
        assert table[1].values == pytest.approx([0.4, 1.6]) and table[2].values == [0.0, 1.0]


def test_a_limit_follows_the_temperature_and_is_none_beyond_its_table(tmp_path: Path) -> None:
    with beam(tmp_path, 100.0, temperature=True) as review:
        steel = limits(**{"yield": [[300.0, 200.0], [400.0, 100.0]]}).decode()
        rows = ask(review, Utilisation(allowables=steel)).more["rows"]
        # The hot half has half the strength: 100 of 100 at the top, 100 of 200 below.
        assert rows[0]["utilisation"] == pytest.approx(1.0) and rows[0]["limit"] == pytest.approx(100.0)
        cold = limits(**{"yield": [[0.0, 250.0], [350.0, 200.0]]}).decode()
        rows = ask(review, Utilisation(allowables=cold)).more["rows"]
        assert rows[0]["utilisation"] == pytest.approx(100.0 / np.interp(300.0, [0, 350], [250, 200])), "what is hotter is left out"


def test_limits_stated_of_a_material_are_read_as_a_field(tmp_path: Path) -> None:
    with beam(tmp_path, 400.0) as review:
        source = review.result()
        review.set_constants(source.id, source.mesh.part_names[0], {"yield": 320.0})
        values = review.result().read("stress", "yield-utilisation", at="nodes").values
        assert values.max() == pytest.approx(1.25) and values.min() == pytest.approx(0.0, abs=1e-12)
        assert ask(review, Utilisation()).more["rows"][0]["utilisation"] == pytest.approx(1.25)


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (b"{", "no JSON"),
        (b'{"version": 1, "parts": {"all": {"yield": 3}}}', "states no units"),
        (b'{"version": 2}', "no allowables of version 1"),
        (limits(yields=3), "has no limit"),
        (limits(**{"yield": -3}), "no limit above zero"),
        (limits(**{"yield": [[20, 200], [10, 100]]}), "do not rise"),
        (limits(**{"yield": "strong"}), "no number"),
    ],
)
def test_bad_allowables_say_what_is_wrong(data: bytes, said: str) -> None:
    with pytest.raises(IronstoneError) as error:
        parse_allowables(data, "a.json", "mm-N-s-t-MPa")
    assert said in error.value.message and error.value.hint


def test_where_a_bond_line_fails_first_the_way_ends_inside_the_envelope_of_the_ply_and_it_is_said(tmp_path: Path) -> None:
    """Much shear across and little strain: the bond fails at its quadratic criterion, while the ply is far from its own."""
    files = [
        write_vtu(
            tmp_path / f"b_{step}.vtu",
            POINTS,
            CELLS,
            {},
            {
                "midplane_strain": 0.02 * factor * STRAIN,
                "transverse_force": 20 * factor * SHEAR,
                "part": np.array([1, 1, 2, 2], dtype=np.int32),
            },
            load_factor=factor,
        )
        for step, factor in enumerate((0.1, 1.0, 30.0))
    ]
    with Review.create(tmp_path / "bond.ironstone") as made:
        bring_laminates(made, intake(made, files, "sheet", "mm-N-s-t-MPa"), stated(), "sheet.json")
        answer = ask(made, Envelope(criterion="hashin+bond"))
        alone = ask(made, Envelope(criterion="hashin", material=answer.more["material"], held=False))
        place = answer.more["place"]
        assert place["mode"] == "bond line"
        assert "The bond line fails first" in " ".join(answer.caveats)
        assert "bond" not in " ".join(alone.caveats)
        material = next(m for m in made.result().laminates.materials if m.name == place["material"])  # type: ignore[union-attr]
        state = ply_state(
            made.result(),
            next(z for z, e in zones_with_elements(made.result()) if made.result().mesh.element_position(place["element"]) in e),
            place["step"],
            np.array([made.result().mesh.element_position(place["element"])]),
        )
        at = basis_places(made.result()).index(place["place"])
        shear = state.stress(place["position"] - 1, at)[0, 3:] / (0.1, 1.0, 30.0)[place["step"]]
        factor = 1 / np.hypot(shear[0] / material["S23"], shear[1] / material["S13"])
        assert place["load_factor"] == pytest.approx(factor)
        ply = criterion_of("hashin").check(material, np.array([place["at_failure"]]))
        assert float(ply.index[0]) < 0.5, "the end of the way lies inside"
