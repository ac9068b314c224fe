"""What goes over the wire packed is the same as what goes as it is, and only who takes it packed gets it so."""

from __future__ import annotations

import gzip
from collections.abc import Iterator
from pathlib import Path

import httpx
import pytest
from fastapi import FastAPI, Response
from fastapi.testclient import TestClient

from ironstone.service.packing import LARGEST_ARRAYS, PackedAnswers
from tests.bench.conftest import bench_on


@pytest.fixture(scope="module")
def address(demo_file: Path) -> Iterator[str]:
    with bench_on(demo_file) as found:
        yield found


def raw(address: str, takes: str) -> tuple[httpx.Headers, bytes]:
    with httpx.stream("GET", address, headers={"Accept-Encoding": takes}) as answer:
        return answer.headers, b"".join(answer.iter_raw())


def test_an_answer_is_the_same_packed(address: str) -> None:
    headers, plain = raw(f"{address}/api/results/1", "identity")
    assert "content-encoding" not in headers and headers["content-length"] == str(len(plain))
    headers, packed = raw(f"{address}/api/results/1", "gzip")
    assert headers["content-encoding"] == "gzip" and headers["content-length"] == str(len(packed))
    assert gzip.decompress(packed) == plain and len(packed) < len(plain) / 4
    _, plain = raw(f"{address}/api/results/1/surface", "identity")
    headers, packed = raw(f"{address}/api/results/1/surface", "gzip")
    assert headers["content-type"] == "application/octet-stream" and headers["content-length"] == str(len(packed))
    assert gzip.decompress(packed) == plain and len(packed) < len(plain) / 2
    headers, small = raw(f"{address}/api/removed", "gzip")
    assert "content-encoding" not in headers and small == b"[]"


def test_the_pages_own_files_stay_for_good_and_come_packed_to_who_takes_them(address: str) -> None:
    page = httpx.get(address)
    assert page.headers["cache-control"] == "no-cache"
    script = page.text.split('src="')[1].split('"')[0]
    sizes = {}
    for takes in ("identity", "gzip", "gzip, br"):
        headers, content = raw(f"{address}{script}", takes)
        assert "immutable" in headers["cache-control"] and "javascript" in headers["content-type"]
        assert headers.get("content-encoding", "identity") == takes.split(", ")[-1]
        sizes[takes] = len(content)
    assert sizes["gzip, br"] < sizes["gzip"] < sizes["identity"] / 2
    assert raw(f"{address}/assets/none.js", "br")[1] and httpx.get(f"{address}/assets/none.js").status_code == 404


@pytest.mark.parametrize(
    ("kind", "size", "packed"),
    [
        ("application/octet-stream", LARGEST_ARRAYS, True),
        ("application/octet-stream", LARGEST_ARRAYS + 1, False),
        ("application/octet-stream", 1000, False),
        ("application/json", LARGEST_ARRAYS + 1, True),
        ("text/event-stream", 5000, False),
        ("image/png", 5000, False),
    ],
)
def test_only_what_is_soon_packed_is(kind: str, size: int, packed: bool) -> None:
    def answer() -> Response:
        return Response(bytes(size), media_type=kind)

    app = FastAPI()
    app.get("/")(answer)
    app.add_middleware(PackedAnswers)
    with TestClient(app) as client:
        found = client.get("/", headers={"Accept-Encoding": "gzip"})
    assert ("content-encoding" in found.headers) == packed and len(found.content) == size
