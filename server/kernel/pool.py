"""Kernel processes with limits. A crash or a hang costs one piece of work; the process is replaced."""

import logging
import multiprocessing as mp
import os
import threading
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from django.conf import settings

from . import child

log = logging.getLogger("sulvak.kernel")
IDLE = 0.05  # share of the time under which a process counts as doing nothing
STOPPING = 3.0  # seconds: what is nearly done is rather finished than stopped, since that costs the process
MOST_WAITED = 20  # times the processor time that is allowed: so long it may take on a busy machine
# forked from a process that has loaded the kernel already, so that one that is replaced is there at once
context = mp.get_context("forkserver")
context.set_forkserver_preload(["kernel.preloaded"])
CORE = str(Path(__file__).resolve().parent.parent.parent / "core")


class KernelFailure(Exception):
    """Kernel work that came to nothing; the sentence is for the person."""

    def __init__(self, sentence: str) -> None:
        super().__init__(sentence)
        self.sentence = sentence


class Abandoned(Exception):
    """Nobody waits for this piece of work any more."""


class _Died(Exception):
    """A process was gone; ``begun``: in the middle of its work, not before it took up a request."""

    def __init__(self, begun: bool) -> None:
        super().__init__(begun)
        self.begun = begun


class KernelProcess:
    """One child process. Not for use by two threads at once."""

    def __init__(self, memory: int) -> None:
        self.memory = memory
        self.process: Any = None
        self.pipe: Any = None
        self.last_part = ""

    def start(self) -> None:
        self.pipe, theirs = context.Pipe()
        process = context.Process(target=child.main, args=(theirs, CORE, self.memory), daemon=True)
        process.start()
        self.process = process  # one that did not start is none
        theirs.close()

    def _used(self) -> float:
        """Seconds of processor time the process has used."""
        try:
            stat = Path(f"/proc/{self.process.pid}/stat").read_text().rpartition(")")[2].split()
        except OSError:
            return 0.0
        return (int(stat[11]) + int(stat[12])) / os.sysconf("SC_CLK_TCK")

    def stop(self) -> None:
        if self.process is not None:
            self.process.kill()
            self.process.join(5)
            self.pipe.close()
        self.process = None

    def run(
        self,
        request: dict[str, Any],
        seconds: float,
        get: Callable[[str], bytes | None],
        put: Callable[[str, bytes], None],
        progress: Callable[[int, int], None] | None = None,
        soon: Callable[[Any], None] | None = None,
        stopped: Callable[[], bool] = lambda: False,
    ) -> Any:
        """Send a request and serve the child until it answers. Raises KernelFailure; Abandoned once it is ``stopped``.

        A process that ends is not taken for the work's fault the first time: it may have been killed. The work goes to
        a fresh one, which goes on from what was kept. ``seconds`` of processor time without a step forward, or as long
        without doing anything, are the most.
        """
        for last in (False, True):
            try:
                return self._run(request, seconds, get, put, progress, soon, stopped)
            except _Died as death:
                if not last:
                    log.warning("a kernel process was gone (%s); another takes the work", death)
                elif death.begun:
                    raise KernelFailure(
                        "The geometry kernel broke down on this; nothing is lost. "
                        "Change the step a little and try again."
                    ) from None
        raise KernelFailure("The geometry kernel does not start; try again in a moment.")

    def _run(
        self,
        request: dict[str, Any],
        seconds: float,
        get: Callable[[str], bytes | None],
        put: Callable[[str, bytes], None],
        progress: Callable[[int, int], None] | None,
        soon: Callable[[Any], None] | None,
        stopped: Callable[[], bool],
    ) -> Any:
        if self.process is None or not self.process.is_alive():
            self.stop()
            try:
                self.start()
            except (OSError, EOFError):
                raise _Died(False) from None  # the process it is forked from ended just then
        begun = False
        try:
            self.pipe.send(request)
            since, used = time.monotonic(), self._used()
            started = since
            while True:
                if time.monotonic() - started > STOPPING and stopped():
                    self.stop()
                    raise Abandoned
                if not self.pipe.poll(min(1.0, seconds / 4)):
                    waited, worked = time.monotonic() - since, self._used() - used
                    idle = waited > seconds and worked < IDLE * waited
                    if worked > seconds or idle or waited > MOST_WAITED * seconds:
                        log.warning(
                            "kernel work took %.0f s (%.0f s of processor time) and was stopped", waited, worked
                        )
                        self.stop()
                        raise KernelFailure(
                            f"This took longer than {seconds:.0f} s and was stopped; make the step simpler."
                        )
                    continue
                message = self.pipe.recv()
                since, used = time.monotonic(), self._used()  # a step forward
                if message[0] == "begun":
                    begun = True
                elif message[0] == "get":
                    self.pipe.send(get(message[1]))
                elif message[0] == "put":
                    put(message[1], message[2])
                elif message[0] == "progress" and progress:
                    progress(message[1], message[2])
                elif message[0] == "soon" and soon:
                    soon(message[1])
                elif message[0] == "done":
                    return message[1]
                elif message[0] == "failed":
                    raise KernelFailure(message[1])
        except (EOFError, BrokenPipeError, ConnectionResetError):
            code = self.process.exitcode if self.process else None
            log.warning("a kernel process ended in the middle of its work (exit %s)", code)
            self.stop()
            raise _Died(begun) from None
        except (KernelFailure, Abandoned):
            raise
        except Exception:
            self.stop()  # something it asked for could not be given: what it says next would answer another request
            raise


class Pool:
    """As many kernel processes as cores. A part goes back to the process that knows it, if that is free."""

    def __init__(self, count: int | None = None, memory: int | None = None) -> None:
        n = count or settings.KERNEL_PROCESSES
        self.idle = [KernelProcess(memory or settings.KERNEL_MEMORY) for _ in range(n)]
        self.free = threading.Condition()

    def call(self, part: str, request: dict[str, Any], seconds: float | None = None, **serve: Any) -> Any:
        with self.free:
            while not self.idle:
                self.free.wait()
            known = [p for p in self.idle if p.last_part == part]
            fresh = [p for p in self.idle if not p.last_part]
            process = (known or fresh or self.idle)[0]
            self.idle.remove(process)
        try:
            process.last_part = part
            return process.run(request, seconds or settings.KERNEL_SECONDS, **serve)
        finally:
            with self.free:
                self.idle.append(process)
                self.free.notify()

    def warm(self) -> None:
        for process in self.idle:
            if process.process is None:
                process.start()

    def close(self) -> None:
        for process in self.idle:
            process.stop()
