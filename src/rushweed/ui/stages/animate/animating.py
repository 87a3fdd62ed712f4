"""The animation that is shown, its frames, and what is done with it by a press or a key."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QRectF

from rushweed.core.animate import timeline
from rushweed.core.document.model.animation import Animation
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Cell, Sheet
from rushweed.ui.kit.text import many
from rushweed.ui.session import Session
from rushweed.ui.stages.animate.player import Player


class Animating:
    """What the card, the tools and the Desk share."""

    def __init__(self, session: Session, player: Player) -> None:
        self.session, self.player = session, player

    @property
    def animation(self) -> Animation | None:
        return self.session.selection.animation

    def cell_at(self, place: int) -> tuple[Sheet, Cell] | None:
        animation = self.animation
        if animation is None or not 0 <= place < len(animation.frames):
            return None
        return self.session.cells_by_id.get(animation.frames[place].cell)

    def room(self) -> QRectF:
        """The room that all frames fill, px from the pivot."""
        animation, box = self.animation, QRectF()
        cells = self.session.cells_by_id
        for frame in animation.frames if animation else ():
            if frame.cell in cells:
                cell = cells[frame.cell][1]
                box = box.united(QRectF(-cell.pivot[0], -cell.pivot[1], cell.rect[2], cell.rect[3]))
        if animation is not None and animation.path is not None:
            box = box.united(box.translated(*animation.path.offset))
        return box.adjusted(-4, -4, 4, 6) if not box.isEmpty() else QRectF(0, 0, 16, 16)

    def make(self, kind: str) -> None:
        """New animations of the selected cells, of the rows of the sheet, or of names that share a stem."""
        session, made = self.session, ""
        sheet = session.selection.sheet
        if sheet is None:
            return

        def change(project: Project) -> Project:
            nonlocal made
            if kind == "cells":
                project, made = timeline.animate(project, session.selection.cell_ids)
                return project
            several = timeline.animate_rows if kind == "rows" else timeline.animate_stems
            project, ids = several(project, sheet.id)
            made = ids[0]
            return project

        if session.document.edit("Make an animation" if kind == "cells" else f"Animate {sheet.name}", change):
            session.selection.choose_animation(made)
            session.go("animate")
            self.player.place = 0

    def remove_frames(self) -> None:
        animation, frames = self.animation, self.session.selection.frames
        if animation is not None and frames:
            words = f"Take {many(len(frames), 'frame')} out of {animation.name}"
            self.session.document.edit(words, lambda p: timeline.remove_frames(p, animation.id, frames))
            self.session.selection.choose_animation(animation.id, ())

    def change(self, words: str, edit: Callable[[Project, str], Project], merge: object = None) -> None:
        """Make an edit of the animation shown."""
        animation = self.animation
        if animation is not None:
            self.session.document.edit(f"{words} {animation.name}", lambda p: edit(p, animation.id), merge)

    def copy(self) -> None:
        animation, made = self.animation, ""
        if animation is None:
            return

        def change(project: Project) -> Project:
            nonlocal made
            project, made = timeline.copy_animation(project, animation.id)
            return project

        if self.session.document.edit(f"Copy {animation.name}", change):
            self.session.selection.choose_animation(made)
