"""What opens over the window when it is asked for: the guide, settings, the edits, the page of findings."""

from __future__ import annotations

from typing import TYPE_CHECKING

from rushweed.ui.panels.edits_list import EditsList
from rushweed.ui.panels.first_steps import FirstSteps
from rushweed.ui.session.autosave import Autosave
from rushweed.ui.window_frame import WindowFrame

if TYPE_CHECKING:
    from rushweed.ui.panels.findings_page import FindingsPage
    from rushweed.ui.panels.guide import GuideWindow
    from rushweed.ui.panels.settings_board import SettingsBoard


class Opened:
    """Each is made when it is first opened, and kept."""

    def __init__(self, window: WindowFrame, autosave: Autosave, steps: FirstSteps) -> None:
        self.window, self.autosave, self.steps = window, autosave, steps
        self.edits = EditsList(window.look, window.session, window)
        self.guide: GuideWindow | None = None
        self.settings: SettingsBoard | None = None
        self.findings: FindingsPage | None = None

    def open_guide(self) -> None:
        """The guide, at the stage one is in."""
        from rushweed.ui.panels.guide import GuideWindow

        if self.guide is None:
            self.guide = GuideWindow(self.window.look, self.window)
        self.guide.open(self.window.session.stage)

    def open_settings(self) -> None:
        """What holds for all projects."""
        from rushweed.ui.panels.settings_board import SettingsBoard

        window, board = self.window, self.settings
        if board is None:
            board = SettingsBoard(window.look, window.icons, window.settings, window)
            self.settings = board
            board.theme_chosen.connect(window.use_theme)
            board.saves_pressed.connect(self.autosave.toggle)
            board.tray_pressed.connect(window.parts.move_tray)
            board.anew_pressed.connect(
                lambda: window.wants_project.emit(("anew", window.session.folder.path))
            )
            board.still_pressed.connect(window.keep_still)
            board.steps_pressed.connect(self.steps.show_or_close)
        board.show_values(self.autosave.on, window.parts.tray_is_aside, self.steps.open)
        board.open(window.rail.plate)

    def open_edits(self) -> None:
        """Every edit, to go back and forth."""
        self.edits.open(self.window.rail.redo)

    def open_findings(self) -> None:
        """All findings, on a page of their own."""
        from rushweed.ui.panels.findings_page import FindingsPage

        window = self.window
        if self.findings is None:
            self.findings = FindingsPage(window.look, window.icons, window.session, window)
        self.findings.open()
