"""An open project as the window holds it: its history, selection, files and work beside the window."""

from rushweed.ui.session.later import later
from rushweed.ui.session.session import STAGES, TITLES, Notice, Question, Session, open_session

__all__ = ["STAGES", "TITLES", "Notice", "Question", "Session", "later", "open_session"]
