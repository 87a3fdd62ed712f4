"""What is kept of a person's own choices, as far as it is needed before there is a window."""

from __future__ import annotations

import os

from PyQt6.QtCore import QSettings

OWN_SIZE = "RUSHWEED_SIZE"  # in the environment: the scale is what the settings say


def settings() -> QSettings:
    """Panel sizes and the theme; RUSHWEED_SETTINGS names another file, for tests and pictures."""
    path = os.environ.get("RUSHWEED_SETTINGS")
    if path:
        return QSettings(path, QSettings.Format.IniFormat)
    return QSettings("rushweed", "rushweed")


def theme_of(saved: QSettings) -> str:
    """The theme that was chosen last."""
    before = "dusk" if saved.value("dusk", False, type=bool) else "day"  # as it was kept once
    return str(saved.value("theme", before))


def use_size(saved: QSettings) -> None:
    """Draw text and controls so many per cent as large as usual; before there is an application. What the
    environment says goes first, unless it was said here."""
    if os.environ.get("QT_SCALE_FACTOR") and not os.environ.get(OWN_SIZE):
        saved.setValue("size_now", saved.value("size", 100))  # not ours to change
        return
    try:
        size = min(max(int(saved.value("size", 100)), 50), 300)
    except (TypeError, ValueError):
        size = 100  # somebody wrote something else there
    os.environ["QT_SCALE_FACTOR"], os.environ[OWN_SIZE] = f"{size / 100:g}", "1"
    saved.setValue("size_now", size)
