"""Commands of motion: modes, shapes held against each other, frequency responses."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from ironstone.cli.base import AsJson, ResultName, ReviewFile, answered, app, guarded, open_review, show, told, value_text
from ironstone.cli.words import Words, with_words
from ironstone.engine.said import PLACE, SWEEP

if TYPE_CHECKING:
    from ironstone.engine.carrier import Answer


@app.command("modes")
@guarded
def modes_command(
    review: ReviewFile,
    loading: Annotated[str, typer.Option(help="One set of modes, by the name of its loading.")] = "",
    total: Annotated[float | None, typer.Option(help="Mass of the whole model, where no densities are stated.")] = None,
    result: ResultName = None,
    as_json: AsJson = False,
) -> None:
    """List the modes: frequency, participation and effective mass along x, y, z, rigid and near-equal ones."""
    said, answer = answered(review, "modes", {"loading": loading, "total": total, "result": result})

    def text() -> str:
        lines = []
        for mode, remark in zip(said["modes"], answer.columns[2].values, strict=True):
            mass = "  ".join(
                f"{axis} {value_text(v, said['mass_unit'])}" for axis, v in zip("xyz", mode["effective_mass"], strict=True)
            )
            told_mass = f"  effective mass {mass}" if said["total_mass"] is not None else ""
            lines.append(
                f"  {mode['number']}: {value_text(mode['frequency'], 'Hz')}{told_mass}" + (f"  ({remark})" if remark else "")
            )
        lines += [f"  {f.label} {value_text(f.value, f.unit)}" + (f"  ({f.how})" if f.how else "") for f in answer.figures]
        return told(answer, lines)

    show(said, as_json, text)


@app.command("mac")
@guarded
def mac_command(
    review: ReviewFile,
    of: Annotated[str, typer.Option("--of", help="The result whose modes are judged.")],
    other: Annotated[str, typer.Option("--with", help="The result, or the file, whose modes they are held against.")],
    as_json: AsJson = False,
) -> None:
    """Hold modes against those of another result or of a file by shape (MAC): matrix, pairs, deviations of frequency."""
    with open_review(review) as opened:
        is_file = all(other not in (r.name, str(r.id)) for r in opened.results()) and Path(other).is_file()
    if not is_file:
        said, answer = answered(review, "mac", {"result": of, "other": other})
    else:
        from ironstone.engine.motion.shapes import Mac

        with open_review(review) as opened:
            answer = Mac.stated({"result": of, "other": other}).against_file(opened, Path(other))
        said = {
            "sentence": answer.sentence,
            "verdict": answer.verdict,
            "state": answer.state,
            **answer.more,
            "caveats": answer.caveats,
        }

    def text() -> str:
        lines = []
        for pair, remark in zip(said["pairs"], answer.columns[6].values, strict=True):
            off = "" if pair["deviation"] is None else f", frequency {100 * pair['deviation']:+.2f} %"
            lines.append(
                f"  {pair['of']} with {pair['with']}: MAC {pair['mac']:.3f}{off}, {pair['verdict']}"
                + (f"  ({remark})" if remark else "")
            )
        return told(answer, lines)

    show(said, as_json, text)


@app.command("response")
@with_words("phase", "over", "span", "when", "against")
@guarded
def response_command(
    review: ReviewFile,
    words: Words,
    at: Annotated[str, typer.Option(help=PLACE)],
    db: Annotated[bool, typer.Option("--db", help="The amplitude as a level in decibels.")] = False,
    reference: Annotated[float | None, typer.Option(help="What 0 dB is, in the unit of the reading.")] = None,
    weighting: Annotated[str, typer.Option(help="A: as the ear hears (IEC 61672).")] = "",
    unwrapped: Annotated[bool, typer.Option("--unwrapped", help="Phase without jumps of a full turn.")] = False,
    loading: Annotated[str, typer.Option(help=SWEEP)] = "",
    test: Annotated[str | None, typer.Option(help="A test record, or a file of one, it is held against.")] = None,
    output: Annotated[Path | None, typer.Option("-o", "--output", help="Write it as a universal file (dataset 58).")] = None,
    result: ResultName = None,
    as_json: AsJson = False,
) -> None:
    """Read a frequency response at a place: amplitude, phase, peaks with damping by half power."""
    own = {
        "at": at,
        "db": db,
        "reference": reference,
        "weighting": weighting,
        "unwrapped": unwrapped,
        "loading": loading,
        "result": result,
    }
    said, answer = answered(review, "response", {**words.named, **own})
    if output is not None:
        _write(output, answer)
    held = None if test is None else _held_against(review, {**words.named, **own}, test)
    if held is not None:
        said = {**said, "agreement": {**held.more["curves"][0], "verdict": held.verdict, "state": held.state}}

    def text() -> str:
        lines = []
        for f, a, p in zip(said["frequency"], said["amplitude"], said["phase"], strict=True):
            lines.append(f"  {value_text(f, 'Hz')}  {value_text(a, answer.unit)}  {value_text(p, 'deg')}")
        for peak in said["peaks"]:
            damped = (
                "no damping told" if peak["damping"] is None else f"damping {peak['damping']:.4g}, quality {peak['quality']:.4g}"
            )
            lines.append(f"  peak at {value_text(peak['frequency'], 'Hz')}: {value_text(peak['amplitude'], answer.unit)}, {damped}")
        if held is not None:
            lines += [f"  {c}" for c in held.caveats if c not in answer.caveats]
            lines.append(f"  against {test}: {held.verdict}")
        return told(answer, lines)

    show(said, as_json, text)


def _held_against(review: Path, words: dict[str, Any], test: str) -> Any:
    """The answer in which a response is held against a test record of the review, or against a file, which is not kept."""
    from ironstone.core.errors import IronstoneError
    from ironstone.engine.base import readable
    from ironstone.engine.curves.records import Record
    from ironstone.engine.curves.response_records import responses_in
    from ironstone.engine.motion.responses import Responses
    from ironstone.formats.tables import read_table

    with open_review(review) as opened:
        kept = any(test in (str(item.id), record.name) for item, record in readable(opened, Record))
        files = {} if kept else {test: responses_in(read_table(Path(test)), Path(test).name)}
        answer = Responses.stated({**words, "beside": [f"test:{test}"]}).answered_with(opened, files)
    if error := answer.more["curves"][0]["error"]:
        raise IronstoneError(f"{test} cannot be held against the response: {error}")
    return answer


def _write(output: Path, answer: Answer) -> None:
    """A response as a universal file. Raises IronstoneError where it is none, or cannot be written."""
    from ironstone.core.errors import IronstoneError
    from ironstone.engine.motion.response import universal_of

    data = universal_of(answer)
    try:
        output.write_bytes(data)
    except OSError as error:
        raise IronstoneError(f"{output.name} could not be written.", "Choose a folder that can be written to.") from error
