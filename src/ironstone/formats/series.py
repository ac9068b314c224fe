"""Reads a set of files as one series, in a child process: a parser that crashes or hangs is an error, not the end."""

from __future__ import annotations

import json
import pickle
import re
import selectors
import subprocess
import sys
from collections.abc import Iterator, Sequence
from pathlib import Path

from ironstone.core.errors import IronstoneError
from ironstone.formats.registry import RawStep, reader_for

SECONDS_PER_FILE = 300.0


def numbered_order(paths: Sequence[Path]) -> list[Path]:
    """Files in the order of the numbers in their names: step_2 before step_10."""

    def key(path: Path) -> tuple[list[tuple[int, int, str]], str]:
        pieces = re.split(r"(\d+)", path.stem)
        return [(1, int(p), "") if p.isdigit() else (0, 0, p) for p in pieces], path.name

    return sorted(paths, key=key)


def read_series(paths: Sequence[Path], folder: Path) -> Iterator[tuple[Path, Path]]:
    """Read files one after the other in a child process; yields each with the pickle in ``folder`` that holds its RawStep.

    The pickles are the caller's to ``load`` and remove. The child is stopped when the caller stops.
    """
    for path in paths:
        reader_for(path)
    child = subprocess.Popen(
        [sys.executable, "-m", "ironstone.formats.series", str(folder)],
        stdin=subprocess.PIPE,
        stdout=subprocess.PIPE,
        stderr=subprocess.DEVNULL,
        text=True,
    )
    try:
        for path in paths:
            answer = _ask(child, path)
            if "error" in answer:
                raise IronstoneError(answer["error"], answer.get("hint", ""))
            yield path, Path(answer["file"])
    finally:
        child.kill()
        child.wait()
        for stream in (child.stdin, child.stdout):
            if stream:
                stream.close()


def load(pickled: Path) -> RawStep:
    """The step a child process has read."""
    with pickled.open("rb") as stream:
        step: RawStep = pickle.load(stream)
    return step


def _ask(child: subprocess.Popen[str], path: Path) -> dict[str, str]:
    assert child.stdin and child.stdout
    stopped = IronstoneError(
        f"The reader stopped while it read {path.name}.", "The file is probably damaged: leave it out or export it again."
    )
    try:
        child.stdin.write(json.dumps(str(path)) + "\n")
        child.stdin.flush()
    except BrokenPipeError as error:
        raise stopped from error
    with selectors.DefaultSelector() as selector:
        selector.register(child.stdout, selectors.EVENT_READ)
        if not selector.select(SECONDS_PER_FILE):
            raise IronstoneError(f"{path.name} was not read within {SECONDS_PER_FILE:.0f} s.", "Leave it out.")
    line = child.stdout.readline()
    if not line:
        raise stopped
    answer: dict[str, str] = json.loads(line)
    return answer


def _serve(folder: Path) -> None:
    """The child: reads file names from standard input, answers with a pickle's name or an error."""
    for index, line in enumerate(sys.stdin):
        path = Path(json.loads(line))
        try:
            step = reader_for(path)(path)
            target = folder / f"{index}.pickle"
            with target.open("wb") as stream:
                pickle.dump(step, stream, protocol=pickle.HIGHEST_PROTOCOL)
            answer = {"file": str(target)}
        except IronstoneError as error:
            answer = {"error": error.message, "hint": error.hint}
        except FileNotFoundError:
            answer = {"error": f"There is no file {path.name}.", "hint": "Check the name and the folder."}
        except Exception as error:  # whatever a parser throws is the file's fault, and told as such
            answer = {"error": f"{path.name} could not be read: {error}", "hint": "Export it again, or leave it out."}
        print(json.dumps(answer), flush=True)


if __name__ == "__main__":
    _serve(Path(sys.argv[1]))
