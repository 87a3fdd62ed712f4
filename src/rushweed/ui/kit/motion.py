"""What moves by itself, and whether it may."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication

FLASH_MS = 1000  # of a caret that blinks
EFFECTS = (
    Qt.UIEffect.UI_AnimateMenu, Qt.UIEffect.UI_FadeMenu, Qt.UIEffect.UI_AnimateCombo,
    Qt.UIEffect.UI_AnimateTooltip, Qt.UIEffect.UI_FadeTooltip,
)  # fmt: skip


def keep_still(still: bool) -> None:
    """Neither carets that blink nor menus and tips that slide or fade."""
    QApplication.setCursorFlashTime(0 if still else FLASH_MS)
    if still:
        for effect in EFFECTS:
            QApplication.setEffectEnabled(effect, False)
