"""The parts of the window and where they stand: rail, Shelf, Desk, what lies below it, Proof, Card, findings,
between edges that can be dragged."""

from __future__ import annotations

from PyQt6.QtCore import QSettings, Qt
from PyQt6.QtWidgets import (
    QBoxLayout,
    QHBoxLayout,
    QSizePolicy,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from rushweed.ui.desk.desk import Desk
from rushweed.ui.desk.scene import Scene
from rushweed.ui.desk.stage import Stage
from rushweed.ui.desk.tools import ToolColumn
from rushweed.ui.desk.zoom_control import ZoomControl
from rushweed.ui.kit.controls import Splitter
from rushweed.ui.kit.icons import Icons
from rushweed.ui.kit.theme import Look
from rushweed.ui.panels.findings_bar import FindingsBar
from rushweed.ui.panels.notice import NoticeStrip
from rushweed.ui.panels.proof import Proof
from rushweed.ui.panels.rail import Rail
from rushweed.ui.panels.recovery import RecoveryStrip
from rushweed.ui.panels.shelf import Shelf
from rushweed.ui.panels.strip import Strip
from rushweed.ui.panels.timeline import Timeline
from rushweed.ui.panels.tray import Tray
from rushweed.ui.panels.walk_log import WalkLog
from rushweed.ui.session import TITLES, Session

TRAY_ASIDE = 300  # px of the Tray in a column of its own


class Layout(QWidget):
    """All parts of the window, made and laid out."""

    def __init__(self, session: Session, look: Look, icons: Icons, settings: QSettings) -> None:
        super().__init__()
        self.look, self.settings = look, settings
        self.desk = Desk(look, icons, session)
        images = self.desk.images
        self.rail = Rail(look, icons, list(TITLES.items()))
        self.notice = NoticeStrip(look, icons)
        self.recovery = RecoveryStrip(look, icons, session)
        self.shelf = Shelf(look, icons, session, images)
        self.strip = Strip(look, session, images)
        self.tray = Tray(look, icons, session, images)
        self.timeline = Timeline(look, session, images)
        self.walk_log = WalkLog(look, session)
        self.proof = Proof(look, icons, session)
        self.findings = FindingsBar(look, icons, session)
        self.tool_column = ToolColumn(look, icons)
        self.zoom = ZoomControl(look, icons, self.desk)
        self._options, self._proposals, self._cards = QStackedWidget(), QStackedWidget(), QStackedWidget()
        self._under = QStackedWidget()  # what stands below the Desk
        self._under.addWidget(self.strip)
        self._under.addWidget(self.tray)
        self._under.addWidget(self.timeline)
        self._under.addWidget(self.walk_log)
        self._lay_out()
        parts = (
            self.rail, self.recovery, self.notice, self.tool_column, self.zoom, self.shelf, self.strip,
            self.tray, self.timeline, self.walk_log, self.proof, self.findings,
        )  # fmt: skip
        for part in parts:
            look.dress(part)

    def _lay_out(self) -> None:
        options = QWidget()
        options.setFixedHeight(40)
        line = QHBoxLayout(options)
        _fill(line, (self._options, 1), (self.zoom, 0))
        line.setContentsMargins(8, 8, 8, 8)
        line.setSpacing(8)
        self._proposals.setFixedHeight(32)
        for lines in (self._options, self._proposals):
            lines.setMinimumWidth(1)
            lines.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        bench, top = QWidget(), QWidget()
        _fill(QHBoxLayout(bench), (self.tool_column, 0), (self.desk, 1))
        _fill(QVBoxLayout(top), (options, 0), (self._proposals, 0), (bench, 1))
        self.middle = self._splitter(Qt.Orientation.Vertical, top, self._under, sizes=(608, 120))
        self.right = self._splitter(Qt.Orientation.Vertical, self.proof, self._cards, sizes=(208, 520))
        self.across = self._splitter(
            Qt.Orientation.Horizontal, self.shelf, self.middle, self.right, sizes=(167, 840, 271)
        )
        self.across.setStretchFactor(1, 1)
        self.middle.setStretchFactor(0, 1)
        self.right.setStretchFactor(1, 1)
        above = ((part, 0) for part in (self.rail, self.recovery, self.notice))
        _fill(QVBoxLayout(self), *above, (self.across, 1), (self.findings, 0))

    def _splitter(self, way: Qt.Orientation, *parts: QWidget, sizes: tuple[int, ...]) -> QSplitter:
        made = Splitter(self.look, way)
        made.setHandleWidth(1)
        made.setChildrenCollapsible(False)
        for part in parts:
            made.addWidget(part)
        made.setSizes(list(sizes))
        return made

    # -- what a stage brings ------------------------------------------------------------------------------

    def add_pages(self, stage: Stage) -> None:
        """Take up the lines and the card of a stage that was just made."""
        pages = (stage.option_line, stage.card, stage.proposal_line)
        for stack, page in zip((self._options, self._cards, self._proposals), pages, strict=True):
            if page is not None:
                stack.addWidget(page)
                self.look.dress_later(page)
        self.tool_column.add_stage(stage)

    def show_stage(self, stage: Stage) -> None:
        """Show a stage's lines, its card, its tools and what it needs below the Desk."""
        for page in (stage.option_line, stage.card, stage.proposal_line):
            if page is not None:
                self.look.dress_now(page)
        self.rail.tabs.show_stage(stage.key)
        self._options.setCurrentWidget(stage.option_line)
        self._cards.setCurrentWidget(stage.card)
        if stage.proposal_line is not None:
            self._proposals.setCurrentWidget(stage.proposal_line)
        self._proposals.setVisible(stage.proposal_line is not None)
        self.show_under(stage)
        self.desk.show_scene(stage)
        self.tool_column.show_stage(stage)

    def show_under(self, scene: Scene) -> None:
        """Below the Desk stand the cells, the tiles, the frames, or what happened."""
        aside = self.tray_is_aside
        self.tray.setVisible(scene.strip == "tray")
        self._under.setVisible(not (aside and scene.strip == "tray"))
        shown = {"tray": self.tray, "timeline": self.timeline, "log": self.walk_log}.get(
            scene.strip, self.strip
        )
        if not (aside and shown is self.tray):
            self._under.setCurrentWidget(shown)

    @property
    def tray_is_aside(self) -> bool:
        """Whether the Tray stands in a column of its own."""
        return self.across.indexOf(self.tray) >= 0

    def move_tray(self) -> None:
        """The Tray to a column at the right of the Desk, or back below it."""
        aside = not self.tray_is_aside
        if aside:
            self._under.removeWidget(self.tray)
            self.across.insertWidget(2, self.tray)
            self.tray.setMinimumWidth(200)
            shelf, middle, *_rest, right = self.across.sizes()
            self.across.setSizes([shelf, max(middle - TRAY_ASIDE, 240), TRAY_ASIDE, right])
        else:
            self._under.insertWidget(1, self.tray)
        self.settings.setValue("tray_aside", aside)
        self.show_under(self.desk.scene)

    # -- from one window to the next ----------------------------------------------------------------------

    def restore(self) -> None:
        """Edges, folded heads and the Proof's choices as they were left."""
        for name, splitter in self._edges():
            state = self.settings.value(f"edges/{name}")
            if state is not None:
                splitter.restoreState(state)
        self.proof.controls.restore(self.settings)
        self.shelf.list.folded = set(self.settings.value("folded", [], list))
        self.shelf.list.relayout()
        self.shelf.list.folded_changed.connect(
            lambda: self.settings.setValue("folded", sorted(self.shelf.list.folded))
        )

    def remember(self) -> None:
        """Keep for the next window how the parts stand."""
        for name, splitter in self._edges():
            self.settings.setValue(f"edges/{name}", splitter.saveState())
        self.proof.controls.remember(self.settings)

    def _edges(self) -> tuple[tuple[str, QSplitter], ...]:
        return ("across", self.across), ("middle", self.middle), ("right", self.right)


def _fill(line: QBoxLayout, *parts: tuple[QWidget, int]) -> None:
    """Put parts beside each other without gaps, each with how much of the room that is left it gets."""
    line.setContentsMargins(0, 0, 0, 0)
    line.setSpacing(0)
    for part, stretch in parts:
        line.addWidget(part, stretch)
