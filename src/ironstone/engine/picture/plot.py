"""A plot of an answer's table as vector graphics, by the package matplotlib: its first column across, the others upwards."""

from __future__ import annotations

import io
import re
from textwrap import wrap
from typing import Any

import numpy as np

from ironstone.engine.carrier import Answer, Column
from ironstone.engine.picture.letters import FONTS

COLOURS = ("#23282D", "#2F7486", "#9E3B23", "#B9791F", "#4F7343")
DASHES = ("-", "--", ":", "-.", (0, (5, 1)))
# The same each time, its words as text and never as formulas.
STYLE: Any = {
    "svg.hashsalt": "ironstone", "svg.fonttype": "none", "text.parse_math": False,
    "font.family": ["Instrument Sans", "DejaVu Sans"], "font.size": 9,
}  # fmt: skip
# More points than this are thinned: no print shows them.
MOST = 4000


def plot_of(answer: Answer) -> str:
    """An answer's curve as SVG; '' where its table is no curve: its first column is to be a quantity that does not fall, over three
    rows at least. Upwards stand the columns in the answer's unit, or in that of the next column of numbers."""
    numbers = [c for c in answer.columns if c.values and not any(isinstance(v, str) for v in c.values)]
    if len(numbers) < 2 or numbers[0] is not answer.columns[0] or not numbers[0].unit or len(numbers[0].values) < 3:
        return ""
    # The step stands first in the table of a pairing; what is paired are the two behind it.
    paired = answer.kind == "curve" and len(numbers) == 3
    across = numbers[1] if paired else numbers[0]
    x = _values(across)
    first = numbers[2] if paired else next((c for c in numbers[1:] if c.unit == answer.unit), numbers[1])
    upwards = [first] if paired else [c for c in numbers[1:] if c.unit == first.unit][: len(COLOURS)]
    if not paired and (np.isnan(x).any() or (np.diff(x) < 0.0).any()):
        return ""
    figure, axes = figure_of(6.6, 3.0)
    stride = max(len(x) // MOST, 1)
    for k, column in enumerate(upwards):
        axes.plot(x[::stride], _values(column)[::stride], color=COLOURS[k], linestyle=DASHES[k], linewidth=1.2, label=column.name)
    axes.set_xlabel(_label(across))
    axes.set_ylabel(_label(first) if len(upwards) == 1 else (first.unit or ""))
    if len(upwards) > 1:
        axes.legend(frameon=False)
    axes.grid(color="#E3DCCD", linewidth=0.6)
    return svg_of(figure)


def figure_of(width: float, height: float) -> tuple[Any, Any]:
    """An empty figure, in inches, and its axes, in the report's fonts."""
    import matplotlib
    from matplotlib.font_manager import fontManager

    if "Instrument Sans" not in fontManager.get_font_names():
        for name in ("Regular", "SemiBold"):
            fontManager.addfont(FONTS / f"InstrumentSans-{name}.ttf")
    with matplotlib.rc_context(STYLE):
        from matplotlib.backends.backend_svg import FigureCanvasSVG
        from matplotlib.figure import Figure

        figure = Figure(figsize=(width, height), layout="constrained")
        FigureCanvasSVG(figure)
        return figure, figure.subplots()


def svg_of(figure: Any) -> str:
    """A figure as SVG: an element to be put into a page."""
    import matplotlib

    with matplotlib.rc_context(STYLE):
        stream = io.StringIO()
        figure.savefig(stream, format="svg", metadata={"Date": None, "Creator": None}, transparent=True)
    return re.sub(r"^.*?(?=<svg)", "", stream.getvalue(), count=1, flags=re.DOTALL)


def _values(column: Column) -> Any:
    return np.array([np.nan if v is None else float(v) for v in column.values])


def _label(column: Column) -> str:
    # A long name goes on below: the axis is shorter than it.
    return "\n".join(wrap(f"{column.name}, {column.unit}" if column.unit else column.name, 44))
