"""Other processes that code pictures: fresh Pythons that read calls from a pipe and write what came of them.

They import nothing of the program that began them, so that they can be begun from a window or any script.
"""

from __future__ import annotations

import os
import pickle
import queue
import struct
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path
from typing import IO, Any, TypeVar

Result = TypeVar("Result")
HEAD = struct.Struct("<Q")


class Workers:
    """So many processes; `call` may be used from any thread, and waits for a free one."""

    def __init__(self, count: int) -> None:
        home = str(Path(__file__).parents[3])
        paths = os.pathsep.join(p for p in (home, os.environ.get("PYTHONPATH", "")) if p)
        command = [sys.executable, "-c", "from rushweed.core.ship.workers import work; work()"]
        self._all = [
            subprocess.Popen(
                command,
                stdin=subprocess.PIPE,
                stdout=subprocess.PIPE,
                env={**os.environ, "PYTHONPATH": paths},
            )
            for _ in range(count)
        ]
        self._free: queue.SimpleQueue[subprocess.Popen[bytes]] = queue.SimpleQueue()
        for one in self._all:
            self._free.put(one)

    def call(self, function: Callable[..., Result], *arguments: Any) -> Result:
        """What the function gives, or the exception it raises. A worker that has died is done without."""
        worker = self._free.get()
        try:
            assert worker.stdin is not None and worker.stdout is not None
            _send(worker.stdin, (function, arguments))
            done, value = _receive(worker.stdout)
        except (OSError, EOFError):
            return function(*arguments)
        finally:
            self._free.put(worker)
        if not done:
            raise value
        made: Result = value
        return made

    def close(self) -> None:
        """End the processes."""
        for one in self._all:
            one.kill()
            one.wait()
            for pipe in (one.stdin, one.stdout):
                if pipe is not None:
                    try:
                        pipe.close()
                    except OSError:
                        continue


def _send(pipe: IO[bytes], value: Any) -> None:
    data = pickle.dumps(value, protocol=5)
    pipe.write(HEAD.pack(len(data)))
    pipe.write(data)
    pipe.flush()


def _receive(pipe: IO[bytes]) -> Any:
    head = pipe.read(HEAD.size)
    if len(head) < HEAD.size:
        raise EOFError
    data = pipe.read(HEAD.unpack(head)[0])
    return pickle.loads(data)


def work() -> None:
    """What a worker does until its pipe is closed."""
    calls, answers = sys.stdin.buffer, os.fdopen(os.dup(1), "wb")
    os.dup2(2, 1)  # what is printed goes elsewhere
    while True:
        try:
            function, arguments = _receive(calls)
        except EOFError:
            return
        try:
            answer = (True, function(*arguments))
        except Exception as error:
            answer = (False, error)
        _send(answers, answer)
