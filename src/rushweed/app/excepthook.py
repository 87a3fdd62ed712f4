"""Keeps the program alive when something in it goes wrong: log it, keep the edits, tell, go on."""

from __future__ import annotations

import logging
import sys
import threading
import traceback
from collections.abc import Callable
from pathlib import Path
from types import TracebackType

log = logging.getLogger("rushweed")
LOGGED_EACH = 5  # times that the same fault is written out


class FaultKeeper:
    """What `sys.excepthook` calls. `tell` gets a sentence and its cure, once for each place that fails; it
    also puts the edits away."""

    def __init__(self, tell: Callable[[str, str], object], log_file: Path | None) -> None:
        self._tell, self._log_file = tell, log_file
        self._seen: dict[tuple[str, str, int], int] = {}
        self._telling = False

    def install(self) -> None:
        sys.excepthook = self.caught
        threading.excepthook = lambda args: (
            self.caught(args.exc_type, args.exc_value, args.exc_traceback)
            if args.exc_value is not None
            else None
        )

    def caught(self, kind: type[BaseException], fault: BaseException, trace: TracebackType | None) -> None:
        """An exception that nobody handled, as `sys.excepthook` gets it."""
        if issubclass(kind, KeyboardInterrupt):
            sys.__excepthook__(kind, fault, trace)
            raise SystemExit(130)
        last = traceback.extract_tb(trace)[-1:] if trace is not None else []
        place = (kind.__name__, last[0].filename, last[0].lineno or 0) if last else (kind.__name__, "", 0)
        times = self._seen[place] = self._seen.get(place, 0) + 1
        if times <= LOGGED_EACH:
            log.error("a fault of Rushweed", exc_info=(kind, fault, trace))
        if times > 1 or self._telling:
            return
        self._telling = True
        try:
            where = f"the log is {self._log_file}" if self._log_file else "no log could be written"
            self._tell(
                f"Something went wrong in Rushweed ({kind.__name__}: {str(fault)[:120]}).",
                f"Your edits are kept safe; {where}.",
            )
        except Exception:
            log.exception("telling of a fault failed")
        finally:
            self._telling = False
