"""Frames registered, as a printer registers plates: the choices on the option line, and the work."""

from __future__ import annotations

from rushweed.core.animate import register
from rushweed.core.animate.trim import trim_alike
from rushweed.core.document.model.sheet import Cell, Sheet
from rushweed.ui.desk.context import Context
from rushweed.ui.kit.choices import PickBox
from rushweed.ui.kit.controls import button
from rushweed.ui.kit.text import many
from rushweed.ui.session.jobs import Job
from rushweed.ui.stages.animate.words import AS_DRAWN, MOVES, MOVES_HELP, WAYS

MOST_UNTOLD = 40  # frames that are registered without progress being shown


class Registering:
    """By what frames are laid on one another, which way they may move, and a button that does it."""

    def __init__(self, context: Context) -> None:
        self._session, look = context.session, context.look
        self.how = PickBox(look, [*(words for _how, words, _tip in WAYS), AS_DRAWN])
        self.how.setAccessibleName("Register by")
        tips = [f"{words}: {tip}" for _how, words, tip in WAYS]
        self.how.setToolTip("\n".join([*tips, f"{AS_DRAWN}: every shift is taken away"]))
        self.how.setFixedWidth(98)
        self.moves = PickBox(look, list(MOVES))
        self.moves.setAccessibleName("Frames may move")
        self.moves.setToolTip(MOVES_HELP)
        self.moves.setFixedWidth(88)
        self.press = button("Register")
        self.press.setToolTip("Lay the selected frames, or all, on one another")
        self.press.clicked.connect(self.as_chosen)

    def cell_ids(self) -> list[str]:
        """The cells to register: of the selected frames, or of all if fewer than two are selected."""
        animation = self._session.selection.animation
        if animation is None:
            return []
        selected = self._session.selection.frames
        places = selected if len(selected) > 1 else range(len(animation.frames))
        return list(dict.fromkeys(animation.frames[n].cell for n in places))

    def measured(self, cell_ids: list[str]) -> list[tuple[Cell, register.Drift]]:
        """Where frames stand now."""
        cells = self._session.cells_by_id
        found = [cells[i] for i in cell_ids if i in cells]
        return [(cell, register.shown_drift(self._drawn(sheet, cell), cell)) for sheet, cell in found]

    def _drawn(self, sheet: Sheet, cell: Cell) -> register.Drift:
        """Where a frame stands as drawn, measured once."""
        stock = self._session.stock

        def measured() -> register.Drift:
            return register.drawn_drift(register.pixels_of_cell(stock.pixels_or_blank(sheet), cell))

        if stock.is_broken(sheet):
            return measured()  # of a blank, until its picture is back
        return stock.remembered(("drift", sheet.source.key, repr(cell.rect)), measured)

    def by(self, how: register.How) -> None:
        """Register the selected frames, or all, in the background."""
        cells, stock = self._session.cells_by_id, self._session.stock
        moves = MOVES[self.moves.currentText()]
        frames = [cells[i] for i in self.cell_ids() if i in cells]
        if len(frames) < 2:
            self._session.tell(
                "told", "Registering needs two frames or more.", "Add frames to the animation."
            )
            return

        def work(job: Job) -> dict[str, tuple[int, int]]:
            held = [(c, register.pixels_of_cell(stock.pixels_or_blank(s), c)) for s, c in frames]
            tell = lambda share: job.tell(share, f"Registering {len(frames)} frames")  # noqa: E731
            return register.shifts_for(held, how, moves, tell)

        words = next(w for k, w, _t in WAYS if k == how).lower()
        job = self._session.jobs.start(
            "Registering",
            work,
            lambda shifts: self._session.document.edit(
                f"Register {many(len(shifts), 'frame')} by {words}", lambda p: register.set_shifts(p, shifts)
            ),
        )
        if len(frames) > MOST_UNTOLD:
            self._session.working.emit(job)

    def as_chosen(self) -> None:
        """Register by the way chosen, or take every shift away."""
        chosen = self.how.currentText()
        if chosen == AS_DRAWN:
            self.as_drawn()
        else:
            self.by(next(how for how, words, _tip in WAYS if words == chosen))

    def as_drawn(self) -> None:
        """Take every shift away."""
        ids = self.cell_ids()
        if ids:
            self._session.document.edit(
                f"{many(len(ids), 'frame')} as drawn", lambda p: register.as_drawn(p, ids)
            )

    def trim(self) -> None:
        """The same trimming for the selected frames, or all."""
        ids = self.cell_ids()
        words = f"Trim {many(len(ids), 'frame')} alike"
        self._session.document.edit(words, lambda p: trim_alike(p, ids, self._session.stock))
