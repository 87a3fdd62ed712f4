"""The log: a file in the user's state folder, which never grows large."""

from __future__ import annotations

import logging
import logging.handlers
import os
from pathlib import Path

MOST_BYTES = 1 << 20


def log_path() -> Path:
    """Where the log is written; RUSHWEED_LOG names another file, for tests."""
    named = os.environ.get("RUSHWEED_LOG")
    if named:
        return Path(named)
    import platformdirs

    return Path(platformdirs.user_state_dir("rushweed")) / "rushweed.log"


def start_log(trace: bool = False) -> Path | None:
    """Send what `logging.getLogger("rushweed")` says to the log, with `trace` also every edit and job; None
    where it cannot be written."""
    path = log_path()
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        handler = logging.handlers.RotatingFileHandler(path, maxBytes=MOST_BYTES, backupCount=2, delay=True)
    except OSError:
        return None
    handler.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(threadName)s: %(message)s"))
    logger = logging.getLogger("rushweed")
    for old in [h for h in logger.handlers if isinstance(h, logging.handlers.RotatingFileHandler)]:
        logger.removeHandler(old)
        old.close()
    logger.addHandler(handler)
    logger.setLevel(logging.DEBUG if trace else logging.INFO)
    return path
