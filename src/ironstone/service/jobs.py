"""Long work with progress, cancel and an error text."""

from __future__ import annotations

import threading
import uuid
from collections.abc import Callable
from dataclasses import dataclass, field

from ironstone.core.errors import IronstoneError
from ironstone.service.schemas import JobOut
from ironstone.store.intake import Cancelled

Work = Callable[[Callable[[float, str], None]], int]


@dataclass
class Job:
    """One piece of long work. ``out`` is what the bench is told of it."""

    out: JobOut
    stop: threading.Event = field(default_factory=threading.Event)
    thread: threading.Thread | None = None


class Jobs:
    """The jobs of this service; finished ones stay until the service ends."""

    def __init__(self) -> None:
        self._jobs: dict[str, Job] = {}

    def start(self, work: Work) -> JobOut:
        job = Job(JobOut(id=uuid.uuid4().hex, state="running", share=0.0, text="starting"))

        def tell(share: float, text: str) -> None:
            if job.stop.is_set():
                raise Cancelled("Stopped by you.", "Nothing was taken in.")
            job.out = job.out.model_copy(update={"share": share, "text": text})

        def run() -> None:
            try:
                result = work(tell)
                job.out = job.out.model_copy(update={"state": "done", "share": 1.0, "text": "done", "result": result})
            except Cancelled as error:
                job.out = job.out.model_copy(update={"state": "stopped", "error": error.message, "hint": error.hint})
            except IronstoneError as error:
                job.out = job.out.model_copy(update={"state": "failed", "error": error.message, "hint": error.hint})
            except Exception as error:  # a job must end with a word, whatever happened
                job.out = job.out.model_copy(
                    update={
                        "state": "failed",
                        "error": f"It failed in a way that was not foreseen ({type(error).__name__}).",
                        "hint": "The review is as it was.",
                    }
                )

        job.thread = threading.Thread(target=run, daemon=True)
        self._jobs[job.out.id] = job
        job.thread.start()
        return job.out

    def get(self, job_id: str) -> Job:
        if job_id not in self._jobs:
            raise IronstoneError("There is no such job.", "It may belong to an earlier start of the service.")
        return self._jobs[job_id]

    def cancel(self, job_id: str) -> JobOut:
        job = self.get(job_id)
        job.stop.set()
        return job.out
