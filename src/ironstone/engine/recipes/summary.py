"""What all runs of a recipe came to: a table, which comes nearest to its limits, and both as plots on one page."""

from __future__ import annotations

import json
import re
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

from ironstone.engine.recipes.recipe import Recipe
from ironstone.engine.recipes.run import kept_words
from ironstone.formats.tables import write_table, write_workbook

STATUS = {0: "limits kept", 1: "limit broken", 2: "not all could be read"}
# More values than this are not told apart side by side, nor more runs by their names.
MOST_AXES, MOST_NAMED = 16, 12
TEMPLATE = Path(__file__).with_name("summary.html.j2")
Run = Mapping[str, Any]


def status_of(runs: Sequence[Run]) -> int:
    """0 all limits of all runs kept, 1 one is broken, 2 something could not be read."""
    return max((int(r["status"]) for r in runs), default=0)


def worst_of_all(recipe: Recipe, runs: Sequence[Run]) -> dict[str, dict[str, Any]]:
    """Of each value with a limit the run that comes nearest to it, or breaks it by most: its value, and what is left."""
    found: dict[str, dict[str, Any]] = {}
    for name in (one.name for one in recipe.ask):
        for run in runs:
            value = run["values"].get(name)
            if value is None or value["value"] is None:
                continue
            left = [
                side * (value[end] - value["value"])
                for end, side in (("at_most", 1.0), ("at_least", -1.0))
                if value[end] is not None
            ]
            if left and (name not in found or min(left) < found[name]["left"]):
                found[name] = {"run": run["run"], "value": value["value"], "unit": value["unit"], "left": min(left)}
    return found


def summarised(recipe: Recipe, runs: Sequence[Run], folder: Path) -> dict[str, Any]:
    """Write the summary of all runs (CSV, XLSX, JSON, HTML with plots); that of the JSON is returned."""
    names = [one.name for one in recipe.ask]
    units = [next((r["values"][n]["unit"] for r in runs if n in r["values"]), "") for n in names]
    limited = [n for n in names if any(r["values"].get(n, {}).get("kept") is not None for r in runs)]

    def cell(run: Run, name: str) -> Any:
        value = run["values"].get(name, {}).get("value")
        return "" if value is None else float(value)

    heads = ["run", "came to", *names, *(f"{n}, limits" for n in limited), "errors", "seconds"]
    columns: list[list[Any]] = [
        [r["run"] for r in runs],
        [STATUS[int(r["status"])] for r in runs],
        *([cell(r, n) for r in runs] for n in names),
        *([kept_words(r["values"][n]) if n in r["values"] else "" for r in runs] for n in limited),
        ["; ".join(r["errors"]) for r in runs],
        ["" if r["seconds"] is None else float(r["seconds"]) for r in runs],
    ]
    in_units = ["", "", *units, *("" for _ in limited), "", "s"]
    folder.mkdir(parents=True, exist_ok=True)
    (folder / "summary.csv").write_text(write_table(heads, in_units, columns))
    (folder / "summary.xlsx").write_bytes(write_workbook(heads, in_units, columns, recipe.title))
    said = {
        "title": recipe.title,
        "status": status_of(runs),
        "runs": [{k: r[k] for k in ("run", "files", "status", "errors", "seconds", "memory_mb")} for r in runs],
        "worst": worst_of_all(recipe, runs),
    }
    (folder / "summary.json").write_text(json.dumps(said, indent=1, ensure_ascii=False))
    (folder / "summary.html").write_text(_page(said, heads, in_units, columns, runs, names), encoding="utf-8")
    return said


def _page(
    said: dict[str, Any], heads: list[str], units: list[str], columns: list[list[Any]], runs: Sequence[Run], names: list[str]
) -> str:
    from jinja2 import Environment, StrictUndefined

    worst = [
        f"{name}: {w['run']}, {w['value']:.6g} {w['unit']}, "
        f"{'beyond its limit by' if w['left'] < 0 else 'left to its limit'} {abs(w['left']):.4g} {w['unit']}".rstrip()
        for name, w in said["worst"].items()
    ]
    page = Environment(autoescape=True, undefined=StrictUndefined).from_string(TEMPLATE.read_text(encoding="utf-8"))
    return page.render(
        title=said["title"] or "Runs of a recipe",
        runs=len(runs),
        status=STATUS[int(said["status"])],
        heads=[f"{h} [{u}]" if u else h for h, u in zip(heads, units, strict=True)],
        rows=[[f"{c:.6g}" if isinstance(c, float) else c for c in row] for row in zip(*columns, strict=True)],
        worst=worst,
        plots=_plots(runs, names),
    )


def _plots(runs: Sequence[Run], names: list[str]) -> list[tuple[str, str]]:
    """A line a run across an axis a value, and each value over the runs in their order; what each shows, and its SVG."""
    told = [n for n in names if any(_number(r, n) is not None for r in runs)][:MOST_AXES]
    if not told or not runs:
        return []
    from ironstone.engine.picture.plot import COLOURS, DASHES, figure_of, svg_of

    found = []
    if len(told) > 1:
        figure, axes = figure_of(8.0, 3.4)
        spans = {n: _span(runs, n) for n in told}
        for k, run in enumerate(runs):
            heights = [_share(_number(run, n), spans[n]) for n in told]
            broken = int(run["status"]) == 1
            axes.plot(
                range(len(told)), heights, color="#9E3B23" if broken else COLOURS[k % len(COLOURS)], marker="x" if broken else "o",
                linestyle=DASHES[k % len(DASHES)], linewidth=1.2, markersize=4, label=run["run"],
            )  # fmt: skip
        for i, name in enumerate(told):
            low, high = spans[name]
            axes.text(i, 1.06, f"{high:.4g}", ha="center", va="bottom", fontsize=7)
            axes.text(i, -0.06, f"{low:.4g}", ha="center", va="top", fontsize=7)
            for end in ("at_least", "at_most"):
                limit = next((v for r in runs if (v := r["values"].get(name, {}).get(end)) is not None), None)
                if limit is not None and low <= limit <= high:
                    axes.plot([i - 0.12, i + 0.12], [_share(limit, spans[name])] * 2, color="#9E3B23", linewidth=2.2)
        axes.set_xticks(range(len(told)), [_short(n) for n in told], fontsize=8)
        axes.set_ylim(-0.2, 1.2)
        axes.set_yticks([])
        axes.grid(axis="x", color="#B4ADA0", linewidth=0.8)
        if len(runs) <= MOST_NAMED:
            axes.legend(frameon=False, fontsize=7, loc="center left", bbox_to_anchor=(1.0, 0.5))
        found.append(
            (
                "A line a run; each value on an axis of its own, from its lowest to its highest; short bars are limits.",
                svg_of(figure),
            )
        )
    if len(runs) > 2:
        figure, axes = figure_of(8.0, 3.0)
        for k, name in enumerate(told):
            values = [_number(r, name) for r in runs]
            first = next((v for v in values if v), None)
            if first is None:
                continue
            heights = [float("nan") if v is None else 100.0 * (v / first - 1.0) for v in values]
            axes.plot(range(len(runs)), heights, color=COLOURS[k % len(COLOURS)], linestyle=DASHES[k % len(DASHES)], marker="o",
                      markersize=3, linewidth=1.2, label=name)  # fmt: skip
        axes.set_xticks(
            range(len(runs)), [_short(str(r["run"])) for r in runs] if len(runs) <= MOST_NAMED else [""] * len(runs), fontsize=8
        )
        axes.set_ylabel("change from the first, %")
        axes.grid(color="#E3DCCD", linewidth=0.6)
        axes.legend(frameon=False, fontsize=7, loc="center left", bbox_to_anchor=(1.0, 0.5))
        found.append(("Each value over the runs, in their order, as a change from the first.", svg_of(figure)))
    return found


def _number(run: Run, name: str) -> float | None:
    value = run["values"].get(name, {}).get("value")
    return None if value is None else float(value)


def _span(runs: Sequence[Run], name: str) -> tuple[float, float]:
    """From the lowest to the highest of a value; a limit that is near enough to be told beside them stands in it too."""
    values = [v for r in runs if (v := _number(r, name)) is not None]
    low, high = min(values), max(values)
    room = max(high - low, 0.05 * max(abs(low), abs(high)), 1e-300)
    for end in ("at_least", "at_most"):
        limit = next((v for r in runs if (v := r["values"].get(name, {}).get(end)) is not None), None)
        if limit is not None and low - 3 * room <= limit <= high + 3 * room:
            low, high = min(low, limit), max(high, limit)
    return (low, high) if high > low else (low - room, high + room)


def _share(value: float | None, span: tuple[float, float]) -> float:
    return float("nan") if value is None else (value - span[0]) / (span[1] - span[0])


def _short(name: str) -> str:
    """A name in lines of a few words."""
    return "\n".join(re.findall(r".{1,16}(?:\s|$)|.{1,16}", name)[:3])
