"""What a newcomer is shown on the Desk: ways to begin, and the first steps."""

from __future__ import annotations

from rushweed.ui.panels.first_steps import FirstSteps
from rushweed.ui.panels.welcome import Welcome
from rushweed.ui.projects import Projects
from rushweed.ui.window_frame import WindowFrame


class FirstHour:
    """Shows them as long as they are needed."""

    def __init__(self, window: WindowFrame, projects: Projects) -> None:
        self._window, self._projects = window, projects
        self.welcome = Welcome(window.look, window.icons, window.desk)
        self.welcome.wants_pictures.connect(lambda: window.commands.run_id("gather.add"))
        self.welcome.wants_folder.connect(lambda: window.commands.run_id("gather.folder"))
        self.welcome.wants_demo.connect(projects.choose_demo)
        self.welcome.wants_project.connect(lambda path: window.wants_project.emit(("open", path)))
        self.steps = FirstSteps(window.look, window.icons, window.session, window.settings, window.desk)
        if window.settings.value("first_steps", "") == "open":
            self.steps.begin()
        self.show()

    def show(self) -> None:
        """Ways to begin, as long as there is nothing on the Shelf."""
        window = self._window
        project = window.session.project
        empty = not project.sheets and not project.levels and not window.session.document.read_only
        if empty and self.welcome.isHidden():
            now = window.session.folder.path.absolute()
            self.welcome.show_recent([path for path in self._projects.recent() if path != now])
            if window.settings.value("first_steps", "") == "":
                self.steps.begin()
        self.welcome.setVisible(empty)
        self.steps.avoid(self.welcome if empty else None)
        window.desk.tells_empty = not empty
