"""The runs of a recipe on a Dask scheduler: the same work for each, on other machines or on this one.

What travels is text and bytes: orders and answers are JSON, files sent along are their bytes. An answer is never unpickled here.
Workers do unpickle what a scheduler sends them: whoever may speak to it may run programs on them (see the guide, TLS).
"""

from __future__ import annotations

import io
import json
import shutil
import zipfile
from collections.abc import Iterator, Sequence
from contextlib import ExitStack
from dataclasses import asdict, dataclass, replace
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

from ironstone.core.errors import IronstoneError
from ironstone.engine.base import engine
from ironstone.engine.recipes.many import SURROUNDINGS
from ironstone.engine.recipes.run import Order, carried_out, not_done
from ironstone.formats import keep_readers

# A run is tried again so often where its worker is lost; and the longest a scheduler is waited for, in seconds.
AGAIN, PATIENCE = 3, 20
# So many runs a worker are under way at a time: one that works, and one that waits for it.
AHEAD = 2
LOST = "Its worker was lost {} times: the files ask for more memory than there is, or somebody ended it."


@dataclass(frozen=True)
class Cluster:
    """Where runs are done. address: 'local', or that of a scheduler. workers: of a local one. sent: whether files and answers
    travel, where no folder is shared. tls: a folder of ca.pem, cert.pem, key.pem, None for none."""

    address: str = "local"
    workers: int = 1
    sent: bool = False
    tls: Path | None = None


def done_there(order: str) -> str:
    """Do a run in folders that are shared; orders and answers as JSON."""
    keep_readers()
    return json.dumps(carried_out(Order(**json.loads(order))))


def done_apart(order: str, files: list[bytes]) -> tuple[str, bytes]:
    """Do a run of files that were sent along; its folder comes back as a ZIP."""
    keep_readers()
    with TemporaryDirectory(prefix="ironstone-worker-") as scratch:
        stated = Order(**json.loads(order))
        there = []
        for i, (name, data) in enumerate(zip(stated.files, files, strict=True)):
            # Names may be the same in different folders.
            path = Path(scratch) / str(i) / Path(name).name
            path.parent.mkdir()
            path.write_bytes(data)
            there.append(str(path))
        out = Path(scratch) / "out"
        answer = carried_out(replace(stated, files=tuple(there), folder=str(out)))
        stream = io.BytesIO()
        with zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED) as packed:
            for path in sorted(p for p in out.rglob("*") if p.is_file()):
                packed.write(path, path.relative_to(out))
        return json.dumps(answer), stream.getvalue()


def on_cluster(left: Sequence[Order], cluster: Cluster) -> Iterator[dict[str, Any]]:
    """Do runs on a scheduler; what each came to, as they end. Raises IronstoneError where there is none, or its workers have
    another version of the program than this."""
    try:
        import distributed
    except ImportError as error:
        raise IronstoneError(
            "The package distributed is not installed: runs can be done on this machine only.",
            "Install it: pip install 'ironstone[cluster]'; or leave --scheduler out.",
        ) from error
    with ExitStack() as closed:
        client = closed.enter_context(_client(distributed, cluster, closed))
        _same_version(client)
        waiting = list(left)
        room = max(AHEAD * len(client.scheduler_info(n_workers=-1)["workers"]), 1)
        under_way: dict[Any, Order] = {}
        ended: Any = distributed.as_completed()
        while waiting or under_way:
            while waiting and len(under_way) < room:
                order = waiting.pop(0)
                future = _submitted(client, order, cluster.sent)
                if future is None:
                    yield not_done(order, "One of its files could not be read.")
                    continue
                under_way[future] = order
                ended.add(future)
            if under_way:
                future = next(ended)
                yield _came_to(future, under_way.pop(future), cluster.sent)


def _client(distributed: Any, cluster: Cluster, closed: ExitStack) -> Any:
    import dask

    # A worker that is lost is tried anew elsewhere, but not for ever.
    ways: dict[str, Any] = {"distributed.scheduler.allowed-failures": AGAIN - 1}
    ways["distributed.nanny.pre-spawn-environ"] = dict(SURROUNDINGS)
    closed.enter_context(dask.config.set(ways))
    # What comes back is read as text and bytes, never as objects.
    safe = {"deserializers": ["msgpack", "error"]}
    if cluster.address == "local":
        here = distributed.LocalCluster(
            n_workers=cluster.workers, threads_per_worker=1, host="127.0.0.1", dashboard_address="127.0.0.1:0", silence_logs=50
        )
        closed.enter_context(here)
        return distributed.Client(here, **safe)
    security = None
    if cluster.tls is not None:
        names = ("ca.pem", "cert.pem", "key.pem")
        for name in names:
            if not (cluster.tls / name).is_file():
                raise IronstoneError(f"There is no {name} in {cluster.tls.name}.", f"TLS takes a folder of {', '.join(names)}.")
        ca, cert, key = (str(cluster.tls / name) for name in names)
        security = distributed.Security(tls_ca_file=ca, tls_client_cert=cert, tls_client_key=key, require_encryption=True)
    try:
        client = distributed.Client(cluster.address, timeout=PATIENCE, security=security, **safe)
    except Exception as error:  # whatever the package makes of an address or a certificate: there is no scheduler
        said = str(error).splitlines()[0][:200] if str(error) else type(error).__name__
        raise IronstoneError(
            f"There is no scheduler at {cluster.address}: {said}",
            "Start one: dask scheduler; then its workers: dask worker ADDRESS.",
        ) from error
    if not client.scheduler_info(n_workers=-1)["workers"]:
        client.close()
        raise IronstoneError(f"The scheduler at {cluster.address} has no workers.", "Start one: dask worker ADDRESS.")
    return client


def version_there() -> str:
    """The version of the program, where this is run."""
    return engine()


def _same_version(client: Any) -> None:
    """Raises IronstoneError where a worker has another version of the program, or none: its numbers could be others."""
    try:
        theirs = client.run(version_there)
    except Exception as error:  # a worker that lacks the package fails as it likes
        raise IronstoneError(
            f"A worker cannot run this program ({type(error).__name__}).", "Install the same version of ironstone there."
        ) from error
    other = {where: version for where, version in theirs.items() if version != engine()}
    if other:
        where, version = next(iter(other.items()))
        raise IronstoneError(
            f"The worker at {where} has version {version}, and here is {engine()}.", "Install the same version there."
        )


def _submitted(client: Any, order: Order, sent: bool) -> Any:
    """A run given to the scheduler; None where its files cannot be read here."""
    told = json.dumps({**asdict(order), "files": list(order.files)})
    if not sent:
        return client.submit(done_there, told, pure=False, retries=0)
    try:
        return client.submit(done_apart, told, [Path(f).read_bytes() for f in order.files], pure=False, retries=0)
    except OSError:
        return None


def _came_to(future: Any, order: Order, sent: bool) -> dict[str, Any]:
    from distributed import KilledWorker

    try:
        answer = future.result()
    except KilledWorker:
        return not_done(order, LOST.format(AGAIN))
    except Exception as error:  # a run says itself what went wrong; what is thrown is the cluster's
        return not_done(order, f"The cluster could not do it: {type(error).__name__}: {str(error)[:200]}")
    finally:
        future.release()
    text = answer[0] if sent else answer
    found: dict[str, Any] = json.loads(text)
    if sent:
        _unpacked(answer[1], order.out)
    return found


def _unpacked(data: bytes, folder: Path) -> None:
    """The files of a run, from a ZIP; a name that leads out of the folder is refused."""
    shutil.rmtree(folder, ignore_errors=True)
    folder.mkdir(parents=True)
    with zipfile.ZipFile(io.BytesIO(data)) as packed:
        for name in packed.namelist():
            if not (folder / name).resolve().is_relative_to(folder.resolve()):
                raise IronstoneError(f"A worker sent a file that leads out of its folder: {name}.", "Look at that worker.")
        packed.extractall(folder)
