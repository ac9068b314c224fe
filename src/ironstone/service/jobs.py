"""Long work with progress, cancel and an error text."""

from __future__ import annotations

import threading
import uuid
from collections.abc import Callable
from dataclasses import dataclass, field

from ironstone.core.errors import IronstoneError, disk_full
from ironstone.core.wanted import NotWanted, wanted_while
from ironstone.service.schemas import JobOut
from ironstone.service.turns import Turns
from ironstone.store.arrival import Cancelled

Work = Callable[["Progress"], int]
# How long work that shows something waits for somebody to have looked at it.
LONGEST_LOOK = 3.0


@dataclass(frozen=True)
class Made:
    """A file that a job has made: what it is called, its media type, its bytes."""

    name: str
    kind: str
    data: bytes


@dataclass
class Job:
    """One piece of long work. ``out`` is what the bench is told of it; made: the file it was to make, until it is fetched."""

    out: JobOut
    made: Made | None = None
    stop: threading.Event = field(default_factory=threading.Event)
    looked: threading.Event = field(default_factory=threading.Event)
    thread: threading.Thread | None = None


@dataclass
class Progress:
    """What work says of itself while it goes on. give_way: lets others come in between its pieces."""

    job: Job
    give_way: Callable[[], None] = lambda: None

    def __call__(self, share: float, text: str) -> None:
        """How far it has come. Raises Cancelled where the analyst has stopped it."""
        self.say(share, text)
        self.give_way()

    def say(self, share: float, text: str) -> None:
        if self.job.stop.is_set():
            raise Cancelled("Stopped by you.", "Nothing was taken in.")
        self.job.out = self.job.out.model_copy(update={"share": share or self.job.out.share, "text": text})

    def has_made(self, made: Made) -> int:
        """The file it was to make; it waits to be fetched."""
        self.job.made = made
        return 0

    def show(self, result: int) -> None:
        """A result can be looked at; waits a moment for its first picture, which would have to share the machine."""
        self.job.out = self.job.out.model_copy(update={"preview": result, "text": "showing it, then storing it"})
        self.job.looked.wait(LONGEST_LOOK)


class Jobs:
    """The jobs of this service; finished ones stay until the service ends."""

    def __init__(self, turns: Turns | None = None) -> None:
        self._jobs: dict[str, Job] = {}
        self._turns = turns or Turns()

    def start(self, work: Work, weight: int = 0) -> JobOut:
        """Start work; where it may take more than a little memory (``weight``, in bytes) it waits its turn first."""
        job = Job(JobOut(id=uuid.uuid4().hex, state="running", share=0.0, text="starting"))

        def run() -> None:
            try:
                progress = Progress(job)
                turn, wanted = self._turns.turn_of_work(weight, progress.say), wanted_while(lambda: not job.stop.is_set())
                with turn as progress.give_way, wanted:
                    result = work(progress)
                job.out = job.out.model_copy(update={"state": "done", "share": 1.0, "text": "done", "result": result})
            except (Cancelled, NotWanted) as error:
                job.out = job.out.model_copy(update={"state": "stopped", "error": error.message, "hint": error.hint})
            except IronstoneError as error:
                job.out = job.out.model_copy(update={"state": "failed", "error": error.message, "hint": error.hint})
            except OSError as error:
                said = disk_full(error) or IronstoneError(f"A file could not be read or written ({error.strerror}).", "Try again.")
                job.out = job.out.model_copy(update={"state": "failed", "error": said.message, "hint": said.hint})
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

    def looked_at(self, result: int) -> None:
        """A picture of a result was made: what waited for it goes on."""
        for job in self._jobs.values():
            if job.out.preview == result:
                job.looked.set()

    def running(self) -> bool:
        """Whether any work is still going on."""
        return any(job.out.state == "running" for job in self._jobs.values())

    def get(self, job_id: str) -> Job:
        if job_id not in self._jobs:
            raise IronstoneError("There is no such job.", "It may belong to an earlier start of the service.")
        return self._jobs[job_id]

    def fetch(self, job_id: str) -> Made:
        """The file a job has made; it is told once. Raises IronstoneError where there is none, or not yet."""
        job = self.get(job_id)
        made, job.made = job.made, None
        if made is None:
            raise IronstoneError("This job has made no file, or it was fetched already.", "Ask for it again.")
        return made

    def cancel(self, job_id: str) -> JobOut:
        job = self.get(job_id)
        job.stop.set()
        return job.out
