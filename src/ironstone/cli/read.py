"""Commands that read a result: values, traces, the balance."""

from __future__ import annotations

from typing import Annotated, Any

import typer

from ironstone.cli.base import AsJson, ResultName, ReviewFile, StepChoice, answered, app, guarded, show, value_text
from ironstone.cli.words import Words, with_words
from ironstone.core.reading.grammar import GRAMMAR
from ironstone.engine.said import SIDE


@app.command("read")
@with_words()
@guarded
def read_command(
    review: ReviewFile,
    words: Words,
    at: Annotated[str | None, typer.Option(help="node:ID, element:ID, gauss:ELEMENT[:POINT], point:X,Y,Z or set:NAME.")] = None,
    extremes: Annotated[bool, typer.Option("--extremes", help="Lowest and highest over the model.")] = False,
    step: StepChoice = "last",
    result: ResultName = None,
    as_json: AsJson = False,
) -> None:
    """Read a field at a place, or its extremes."""
    from ironstone.core.reading.resolved import region_words

    own = {"at": at, "extremes": extremes, "step": step, "result": result}
    answer, _ = answered(review, "read", {**words.named, **own})

    def text() -> str:
        lines = [answer["sentence"]]
        for v in answer["values"]:
            where = ", ".join(f"{k} {v[k]}" for k in ("node", "element") if v[k] is not None)
            where += f", {region_words('part:' + v['part'])}" if v["part"] else ""
            along = f", along {', '.join(f'{c:.3f}' for c in v['direction'])}" if "direction" in v else ""
            lines.append(f"  {value_text(v['value'], answer['unit'])}  ({where}{along})")
        if "error_total" in answer:
            lines.append(f"  in total {value_text(answer['error_total'])} of the energy norm")
        if "jump" in answer:
            lines.append(f"  jump {value_text(answer['jump'], answer['unit'])}")
        for end in ("min", "max"):
            if answer[end]:
                e = answer[end]
                lines.append(f"  {end} {value_text(e['value'], answer['unit'])} at node {e['node']}, element {e['element']}")
        return "\n".join(lines + [f"  ! {c}" for c in answer["caveats"]])

    show(answer, as_json, text)


@app.command("trace")
@with_words()
@guarded
def trace_command(
    review: ReviewFile,
    words: Words,
    at: Annotated[str, typer.Option(help="node:ID, element:ID, gauss:ELEMENT:POINT, point:X,Y,Z or set:NAME.")],
    reduce: Annotated[str | None, typer.Option(help="Of a set: sum, mean, max or min.")] = None,
    sign: Annotated[int, typer.Option(help="1, or -1 to reverse the sign.")] = 1,
    result: ResultName = None,
    as_json: AsJson = False,
) -> None:
    """Follow a reading through the steps."""
    from ironstone.formats.tables import write_table

    own = {"at": at, "reduce": reduce, "sign": sign, "result": result}
    said, answer = answered(review, "trace", {**words.named, **own})
    x, y = answer.columns

    def text() -> str:
        for line in [answer.sentence, *answer.caveats]:
            typer.echo(f"# {line}", err=True)
        rows = [["" if v is None else v for v in c.values] for c in (x, y)]
        return write_table((x.name, words.field), (x.unit, y.unit), rows).rstrip()

    axes = {"x_unit": x.unit, "x_kind": x.name, "x": x.values, "y": y.values}
    show({**said, "unit": y.unit, **axes}, as_json, text)


@app.command("profile")
@with_words()
@guarded
def profile_command(
    review: ReviewFile,
    words: Words,
    path: Annotated[str, typer.Option("--path", help=GRAMMAR)],
    side: Annotated[str, typer.Option("--side", help=SIDE)] = "",
    reverse: Annotated[bool, typer.Option("--reverse", help="From its end to its start.")] = False,
    before: Annotated[float, typer.Option(help="Length added before its start; negative: taken off.")] = 0.0,
    after: Annotated[float, typer.Option(help="Length added after its end; negative: taken off.")] = 0.0,
    samples: Annotated[int, typer.Option(help="Samples beside those at borders of elements.", min=2, max=20_000)] = 101,
    distance: Annotated[str, typer.Option(help="true, relative, or X,Y,Z: from the place of the line nearest to that.")] = "true",
    deformed: Annotated[bool, typer.Option("--deformed", help="Distance and places on the deformed shape.")] = False,
    linearised: Annotated[bool, typer.Option("--linearise", help="Membrane, bending and peak parts through a thickness.")] = False,
    step: StepChoice = "last",
    result: ResultName = None,
    as_json: AsJson = False,
) -> None:
    """Read a field along a line; at every border of an element there is a value from each side."""
    line = {"path": path, "side": side, "reverse": reverse, "before": before, "after": after, "samples": samples}
    shape = {"distance": distance, "shape": "deformed" if deformed else "undeformed", "linearise": linearised}
    said, found = answered(review, "profile", {**words.named, **line, **shape, "step": step, "result": result})
    x, y, part, element, *xyz = found.columns
    places = [list(place) for place in zip(*(c.values for c in xyz), strict=True)]
    table = {"x": x.values, "y": y.values, "xyz": places, "part": part.values, "element": element.values}
    answer = {**said, "x_unit": x.unit, **table}

    def text() -> str:
        lines = [answer["sentence"]]
        for x, y, part in zip(answer["x"], answer["y"], answer["part"], strict=True):
            lines.append(f"  {value_text(x, answer['x_unit'])}  {value_text(y, answer['unit'])}  {part or 'outside'}")
        for name in ("membrane", "bending"):
            if name in answer:
                value, mises = answer[name]["value"], answer[name]["von_mises"]
                lines.append(f"  {name}: {value_text(value, answer['unit'])}, von Mises {value_text(mises, answer['tensor_unit'])}")
        return "\n".join(lines + [f"  ! {c}" for c in answer["caveats"]])

    show(answer, as_json, text)


@app.command("cut")
@with_words("plane")
@guarded
def cut_command(
    review: ReviewFile,
    words: Words,
    through: Annotated[str, typer.Option("--plane", help="A section: a point of the plane and its normal, X,Y,Z:NX,NY,NZ.")] = "",
    iso: Annotated[float | None, typer.Option("--iso", help="The surface where the reading has this value.")] = None,
    between: Annotated[str, typer.Option("--band", help="The body where it lies between two values, LOW:HIGH.")] = "",
    step: StepChoice = "last",
    result: ResultName = None,
    as_json: AsJson = False,
) -> None:
    """Cut the model by a plane, at a value, or between two values of a reading: size, place, values, and the force of a section."""
    own = {"through": through, "iso": iso, "band": between, "step": step, "result": result}
    answer, found = answered(review, "cut", {**words.named, **own})

    def text() -> str:
        size = found.figures[0]
        lines = [answer["sentence"], f"  {size.label} {value_text(size.value, size.unit)}"]
        if answer["share"] is not None:
            lines.append(f"  {100 * answer['share']:.4g} % of the model")
        lines.append(f"  from {value_text(answer['min'], answer['unit'])} to {value_text(answer['max'], answer['unit'])}")
        lines.append("  about " + ", ".join(f"{v:.6g}" for v in answer["centroid"]) + f" {answer['length_unit']}")
        if "force" in answer:
            lines.append("  force " + ", ".join(f"{v:.6g}" for v in answer["force"]) + f" {answer['force_unit']}")
        return "\n".join(lines + [f"  ! {c}" for c in answer["caveats"]])

    show(answer, as_json, text)


@app.command("balance")
@guarded
def balance_command(
    review: ReviewFile,
    about: Annotated[str | None, typer.Option(help="Point the moments are about, X,Y,Z; the middle where not given.")] = None,
    deformed: Annotated[bool, typer.Option("--deformed", help="Moments on the deformed shape.")] = False,
    phase: Annotated[str, typer.Option("--phase", help="Of harmonics: degrees.")] = "",
    step: StepChoice = "last",
    result: ResultName = None,
    as_json: AsJson = False,
) -> None:
    """Applied force against reaction, over the model and set by set."""
    answer, _ = answered(review, "balance", {"about": about, "deformed": deformed, "phase": phase, "step": step, "result": result})

    def text() -> str:
        force, moment = answer["force_unit"], answer["moment_unit"]

        def row(name: str, r: dict[str, Any]) -> str:
            sides = (("force", force), ("moment", moment))
            shown = (" ".join("           -" if v is None else f"{v:12.5g}" for v in r[of]) + f" {unit}" for of, unit in sides)
            return f"  {name:<20s} " + "   ".join(shown)

        lines = [f"{answer['verdict']}: about ({', '.join(f'{v:g}' for v in answer['about'])})"]
        lines += [row(k, answer[k]) for k in ("applied", "reaction", "residual")]
        lines += [row(f"{s['name']}, {s['held']}", s["reaction"]) for s in answer["sets"]]
        for s in answer["sets"]:
            if s["held"] != "held":
                lines.append(f"  ! the set '{s['name']}' is {s['held']}: a reaction there is not that of a support")
        return "\n".join(lines + [f"  ! {n}" for n in answer["notes"]])

    show(answer, as_json, text)
