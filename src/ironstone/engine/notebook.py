"""What a notebook shows of an answer and of a view, and an answer as a DataFrame."""

from __future__ import annotations

import base64
from dataclasses import dataclass
from html import escape
from os import PathLike
from pathlib import Path
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from ironstone.engine.carrier import Answer

# A table longer than this is shown by its ends.
MOST_ROWS = 10


def frame_of(answer: Answer) -> Any:
    """The table of an answer as a pandas DataFrame; ``attrs`` hold units by column, sentence, verdict and caveats.

    Raises IronstoneError where pandas is not installed.
    """
    from ironstone.core.errors import IronstoneError

    try:
        import pandas
    except ImportError as error:
        raise IronstoneError("The package pandas is not installed.", "Install it: pip install pandas.") from error
    frame = pandas.DataFrame({column.name: column.values for column in answer.columns})
    frame.attrs = {
        "units": {column.name: column.unit or "" for column in answer.columns},
        "sentence": answer.sentence,
        "verdict": answer.verdict,
        "caveats": list(answer.caveats),
    }
    return frame


def html_of(answer: Answer) -> str:
    """An answer as a notebook shows it: its sentence, its figures, the ends of its table, its caveats. Words are escaped."""
    from ironstone.engine.picture.letters import figure

    def cell(value: Any) -> str:
        return escape(figure(value) if isinstance(value, float) or value is None else str(value))

    lines = [f"<b>{escape(answer.sentence)}</b>"]
    if answer.verdict:
        lines.append(f"<p>{escape(answer.verdict)}</p>")
    if answer.figures:
        rows = (
            f"<tr><td>{escape(f.label)}</td><td>{cell(f.value)} {escape(f.unit)}</td><td>{escape(f.how)}</td></tr>"
            for f in answer.figures
        )
        lines.append(f"<table>{''.join(rows)}</table>")
    if answer.columns:
        heads = "".join(f"<th>{escape(c.name)}{f' [{escape(c.unit)}]' if c.unit else ''}</th>" for c in answer.columns)
        rows_of = list(zip(*(c.values for c in answer.columns), strict=True))
        half = MOST_ROWS // 2
        shown = rows_of if len(rows_of) <= MOST_ROWS else [*rows_of[:half], ["…"] * len(answer.columns), *rows_of[-half:]]
        body = "".join(f"<tr>{''.join(f'<td>{cell(v)}</td>' for v in row)}</tr>" for row in shown)
        lines.append(f"<table><thead><tr>{heads}</tr></thead><tbody>{body}</tbody></table>")
    return "".join([*lines, *(f"<p><i>{escape(c)}</i></p>" for c in answer.caveats)])


@dataclass(frozen=True)
class Look:
    """A view of a result: its picture as PNG with key and caption, and the highest and lowest of what it shows as an answer."""

    png: bytes
    answer: Answer

    def save(self, path: str | PathLike[str]) -> None:
        """Write the picture to a file."""
        Path(path).write_bytes(self.png)

    def _repr_html_(self) -> str:
        picture = base64.b64encode(self.png).decode()
        words = escape(self.answer.sentence)
        return f"{html_of(self.answer)}<img alt='{words}' src='data:image/png;base64,{picture}'>"

    def _repr_png_(self) -> bytes:
        return self.png
