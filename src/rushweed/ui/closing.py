"""What is asked before a window with unsaved edits closes."""

from __future__ import annotations

from PyQt6.QtWidgets import QApplication, QMessageBox

from rushweed.core.document.errors import RushweedError
from rushweed.ui.window_frame import WindowFrame


def may_close(window: WindowFrame) -> bool:
    """Save, leave the edits or stay; returns whether the window may close."""
    session = window.session
    if not session.saver.unsaved or session.document.read_only:
        return True
    box = QMessageBox(window)
    box.setStyleSheet(window.look.rules())
    box.setWindowTitle("Rushweed")
    box.setText(f"{session.project.name} has edits that are not saved.")
    save = box.addButton("Save and close", QMessageBox.ButtonRole.AcceptRole)
    leave = box.addButton("Close without saving", QMessageBox.ButtonRole.DestructiveRole)
    box.addButton("Stay", QMessageBox.ButtonRole.RejectRole)
    box.exec()
    if box.clickedButton() is save:
        session.saver.save()
        session.jobs.finish()
        QApplication.processEvents()  # what the save tells may still be under way
        return not session.saver.unsaved
    if box.clickedButton() is leave:
        session.jobs.finish()
        try:
            session.saver.leave_unsaved()
        except RushweedError as error:
            session.tell("fault", error.problem, error.cure)
            return False
        return True
    return False
