"""Checksums of what a review stores, so that a byte that changed on the disk is told and never read as a result.

A block has a 64-bit XXH3 as a whole, and one of each run of ``RUN`` bytes: a few rows are checked without reading all of it.
The mark of the array the block belongs to (which result, field and step, type and shape) goes in with it, so that a number of
its description cannot change unseen either.
"""

from __future__ import annotations

import json
from collections.abc import Sequence
from typing import Any, Protocol

import xxhash

RUN = 32 * 1024
SUM_BYTES = 8


class Described(Protocol):
    """What the mark of an array is made of: a row of the table ``array``."""

    @property
    def result_id(self) -> Any: ...
    @property
    def role(self) -> Any: ...
    @property
    def field_id(self) -> Any: ...
    @property
    def step(self) -> Any: ...
    @property
    def dtype(self) -> Any: ...
    @property
    def rows(self) -> Any: ...
    @property
    def columns(self) -> Any: ...
    @property
    def rows_per_block(self) -> Any: ...


def mark(array: Described) -> int:
    """A number for an array's description, the seed of its blocks' checksums."""
    described = (
        array.result_id, array.role, array.field_id, array.step, array.dtype, array.rows, array.columns, array.rows_per_block,
    )  # fmt: skip
    return xxhash.xxh3_64_intdigest(repr(described).encode())


def sums(data: bytes | memoryview, mark: int, position: int) -> bytes:
    """Checksums of a block: of the whole, then of each run of its bytes. position: of the block in its array."""
    block = memoryview(data).cast("B")
    runs = [_sum(block[at : at + RUN], mark, position, 1 + at // RUN) for at in range(0, len(block), RUN)]
    return b"".join([_sum(block, mark, position, 0), *runs])


def whole(data: bytes, mark: int, position: int, sums: bytes | None) -> bool:
    """Whether a block is as it was when these checksums were taken of it."""
    return isinstance(sums, bytes) and _sum(data, mark, position, 0) == sums[:SUM_BYTES]


def run_is_whole(run: bytes, index: int, mark: int, position: int, sums: bytes) -> bool:
    """Whether the run ``index`` of a block (from 0) is as it was when these checksums were taken of the block."""
    return (
        isinstance(sums, bytes) and _sum(run, mark, position, 1 + index) == sums[(1 + index) * SUM_BYTES : (2 + index) * SUM_BYTES]
    )


def _sum(data: bytes | memoryview, mark: int, position: int, index: int) -> bytes:
    return xxhash.xxh3_64_digest(data, seed=(mark + (position << 20) + index) & 0xFFFFFFFFFFFFFFFF)


def of_steps(steps: Sequence[int]) -> str:
    """Steps as runs, '0-4,7': which of them a field has an array at."""
    runs: list[list[int]] = []
    for step in sorted(steps):
        if runs and step == runs[-1][1] + 1:
            runs[-1][1] = step
        else:
            runs.append([step, step])
    return ",".join(f"{a}-{b}" if b > a else str(a) for a, b in runs)


def steps_of(text: str) -> list[int]:
    """The same read back."""
    found: list[int] = []
    for run in text.split(",") if text else []:
        first, _, last = run.partition("-")
        found += range(int(first), int(last or first) + 1)
    return found


def of_description(content: object) -> str:
    """Checksum of rows that describe a result, such as its steps and fields."""
    return xxhash.xxh3_64_hexdigest(json.dumps(content, sort_keys=True, default=str).encode())
