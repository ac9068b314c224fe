"""Runs on a Dask scheduler: the same numbers to the last digit, a worker that is killed, files that are sent, strangers refused."""

from __future__ import annotations

import json
import os
import shutil
import signal
import subprocess
import threading
from pathlib import Path

import pytest
from distributed import LocalCluster, Security
from typer.testing import CliRunner

from ironstone.cli.every import app
from ironstone.core.errors import IronstoneError
from ironstone.engine.recipes.cluster import Cluster, done_apart, on_cluster
from ironstone.engine.recipes.many import orders, run_all
from ironstone.engine.recipes.recipe import recipe_in
from tests.engine.test_recipes import RECIPE, bar


@pytest.fixture(scope="module")
def cluster():
    """A scheduler with two workers, as it stands on other machines: the runs reach it by its address alone."""
    with LocalCluster(
        n_workers=2, threads_per_worker=1, host="127.0.0.1", dashboard_address="127.0.0.1:0", silence_logs=50
    ) as found:
        yield found


@pytest.fixture
def files(tmp_path: Path) -> list[Path]:
    good = [bar(tmp_path / f"bar_{k}.vtu", 1.0 + k / 7) for k in range(5)]
    broken = tmp_path / "broken.vtu"
    broken.write_bytes(good[0].read_bytes()[:300])
    return [*good, broken]


def numbers(runs: list[dict]) -> dict[str, tuple]:
    return {r["run"]: (r["status"], {n: (v["value"], v["kept"]) for n, v in r["values"].items()}) for r in runs}


@pytest.mark.parametrize("sent", [False, True], ids=["shared folder", "files sent"])
def test_on_a_cluster_the_numbers_are_the_same_to_the_last_digit(cluster, files: list[Path], tmp_path: Path, sent: bool) -> None:
    recipe = recipe_in(json.dumps(RECIPE))
    here = run_all(orders(recipe, [str(f) for f in files], tmp_path / "here"))
    heard: list[str] = []
    there = run_all(
        orders(recipe, [str(f) for f in files], tmp_path / "there"),
        told=lambda run, before: heard.append(run["run"]),
        cluster=Cluster(cluster.scheduler_address, sent=sent),
    )
    assert numbers(here) == numbers(there)
    assert sorted(heard) == sorted(r["run"] for r in there), "each is told as it ends"
    assert [r["status"] for r in there][-1] == 2 and "broken" in there[-1]["run"], "one broken file stops nothing"
    one, other = (json.loads((tmp_path / f / "bar_1/values.json").read_text())["values"] for f in ("here", "there"))
    assert one == other and (tmp_path / "there/bar_1/tables/tip over steps.csv").exists()


def test_a_worker_that_is_killed_costs_nothing(cluster, files: list[Path], tmp_path: Path) -> None:
    recipe = recipe_in(json.dumps(RECIPE))
    pids = [w.pid for w in cluster.workers.values()]
    killed = threading.Event()

    def told(run: dict, before: bool) -> None:
        if not killed.is_set():
            killed.set()
            os.kill(pids[0], signal.SIGKILL)

    done = run_all(
        orders(recipe, [str(f) for f in files], tmp_path / "runs"), told=told, cluster=Cluster(cluster.scheduler_address)
    )
    assert killed.is_set() and [r["status"] for r in done][:-1] == [1] * 5 and len(done) == 6
    assert pids[0] not in [w.pid for w in cluster.workers.values()], "it was another process that went on"


def test_the_command_runs_on_a_local_cluster_and_goes_on_where_it_stopped(files: list[Path], tmp_path: Path) -> None:
    (tmp_path / "r.json").write_text(json.dumps(RECIPE))
    words = ["run", str(tmp_path / "r.json"), *(str(f) for f in files[:3]), "-o", str(tmp_path / "runs"), "--scheduler", "local"]
    first = CliRunner().invoke(app, [*words, "--jobs", "2"])
    assert first.exit_code == 1 and "3 runs: limit broken" in first.stdout, first.stdout + first.stderr
    again = CliRunner().invoke(app, words)
    assert again.exit_code == 1 and again.stdout.count("done before") == 3


def test_what_is_no_scheduler_is_told(files: list[Path], tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("ironstone.engine.recipes.cluster.PATIENCE", 1)
    found = orders(recipe_in(json.dumps(RECIPE)), [str(files[0])], tmp_path / "runs")
    with pytest.raises(IronstoneError, match=r"no scheduler at tcp://127\.0\.0\.1:9"):
        list(on_cluster(found, Cluster("tcp://127.0.0.1:9")))
    with pytest.raises(IronstoneError, match=r"no ca\.pem"):
        list(on_cluster(found, Cluster("tls://127.0.0.1:9", tls=tmp_path)))
    (tmp_path / "r.json").write_text(json.dumps(RECIPE))
    alone = CliRunner().invoke(app, ["run", str(tmp_path / "r.json"), str(files[0]), "-o", str(tmp_path / "o"), "--send-files"])
    assert alone.exit_code == 2 and "no scheduler" in alone.stderr


def test_a_worker_of_another_version_is_refused(
    cluster, files: list[Path], tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("ironstone.engine.recipes.cluster.engine", lambda: "9.9.9 of elsewhere")
    found = orders(recipe_in(json.dumps(RECIPE)), [str(files[0])], tmp_path / "runs")
    with pytest.raises(IronstoneError, match=r"has version .*, and here is|cannot run this program"):
        list(on_cluster(found, Cluster(cluster.scheduler_address)))


def test_files_of_one_name_in_two_folders_do_not_meet_on_a_worker(tmp_path: Path) -> None:
    (tmp_path / "a").mkdir()
    (tmp_path / "b").mkdir()
    one, other = bar(tmp_path / "a/bar.vtu", 1.0), bar(tmp_path / "b/bar.vtu", 2.0)
    recipe = recipe_in(json.dumps(RECIPE))
    for file, factor in ((one, 1.0), (other, 2.0)):
        (order,) = orders(recipe, [str(file)], tmp_path / "runs")
        told = json.dumps({**order.__dict__, "files": list(order.files)})
        answer = json.loads(done_apart(told, [file.read_bytes()])[0])
        assert answer["values"]["peak"]["value"] == pytest.approx(30e3 * factor)


@pytest.mark.skipif(shutil.which("openssl") is None, reason="certificates are made by openssl")
def test_over_tls_a_scheduler_speaks_to_those_it_knows(files: list[Path], tmp_path: Path) -> None:
    keys = tmp_path / "keys"
    keys.mkdir()
    words = ["openssl", "req", "-x509", "-newkey", "rsa:2048", "-nodes", "-days", "2", "-subj", "/CN=ropeway"]
    subprocess.run([*words, "-keyout", keys / "key.pem", "-out", keys / "cert.pem"], check=True, capture_output=True)
    shutil.copy(keys / "cert.pem", keys / "ca.pem")
    ca, cert, key = (str(keys / f"{n}.pem") for n in ("ca", "cert", "key"))
    security = Security(
        tls_ca_file=ca, tls_scheduler_cert=cert, tls_scheduler_key=key, tls_worker_cert=cert, tls_worker_key=key,
        tls_client_cert=cert, tls_client_key=key, require_encryption=True,
    )  # fmt: skip
    found = orders(recipe_in(json.dumps(RECIPE)), [str(files[0])], tmp_path / "runs")
    with LocalCluster(
        n_workers=1,
        threads_per_worker=1,
        host="tls://127.0.0.1",
        dashboard_address="127.0.0.1:0",
        silence_logs=50,
        security=security,
    ) as secure:
        (run,) = on_cluster(found, Cluster(secure.scheduler_address, tls=keys))
        assert run["status"] == 1
        with pytest.raises(IronstoneError, match="no scheduler"):
            list(on_cluster(found, Cluster(secure.scheduler_address)))
