"""Colours, sizes and fonts by role, in Day, Dusk and Stark; no widget has any of its own."""

from __future__ import annotations

import time
from dataclasses import dataclass, fields
from weakref import ref

from PyQt6 import sip
from PyQt6.QtCore import QObject, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QColor, QFont, QPalette
from PyQt6.QtWidgets import QApplication, QDialog, QWidget


@dataclass(frozen=True)
class Colours:
    """One theme. The roles are those of the window; `on_art_*` are drawn over pictures and never change."""

    paper: str
    raised: str
    ink: str
    quiet: str
    rule: str
    rule_deep: str
    reed: str
    rust: str
    straw: str
    straw_deep: str
    straw_wash: str
    rust_wash: str
    fault: str
    desk: str
    mark: str
    checker_a: str = "#C8C4B8"
    checker_b: str = "#BEBAAE"
    art_paper: str = "#FBF8F0"
    art_ink: str = "#26302A"
    art_rust: str = "#B4512B"
    art_straw: str = "#E3B94F"
    art_fault: str = "#9E2B2B"
    art_reed: str = "#3C6E53"
    art_solid: str = "#FBF8F0"
    art_oneway: str = "#F4D27E"
    art_sensor: str = "#B5DCC4"
    art_casing: str = "#1E1E22"


DAY = Colours(
    paper="#F3EEE2", raised="#FBF8F0", ink="#26302A", quiet="#565D54", rule="#D8CFBC", rule_deep="#CBC1AB",
    reed="#34644A", rust="#9C4421", straw="#E3B94F", straw_deep="#7A5B0C", straw_wash="#F6E9C4",
    rust_wash="#F0D9C8", fault="#9E2B2B", desk="#8F8D86", mark="#26302A",
)  # fmt: skip
DUSK = Colours(
    paper="#24211C", raised="#2E2A24", ink="#EDE6D6", quiet="#B4AD9C", rule="#433D33", rule_deep="#554D40",
    reed="#7FB08F", rust="#E08A5B", straw="#E3B94F", straw_deep="#E3B94F", straw_wash="#3D3420",
    rust_wash="#422D23", fault="#EB8A80", desk="#4A4844", mark="#DDD4C0",
    checker_a="#69665F", checker_b="#625F58",
)  # fmt: skip

STARK = Colours(
    paper="#FFFFFF", raised="#FFFFFF", ink="#000000", quiet="#383838", rule="#767676", rule_deep="#4A4A4A",
    reed="#00512C", rust="#8A2500", straw="#F2C200", straw_deep="#5E4400", straw_wash="#FFF3BF",
    rust_wash="#FFE3D6", fault="#8C0000", desk="#7C7C7C", mark="#000000",
)  # fmt: skip
THEMES = {"day": DAY, "dusk": DUSK, "stark": STARK}

SANS = ["Noto Sans", "Open Sans", "Cantarell", "DejaVu Sans"]
MONO = ["DejaVu Sans Mono", "Noto Sans Mono", "Liberation Mono"]
FIRST_MS, DRESS_MS = 60, 4  # before parts get another theme's rules, and between: hands and drawing go first
LATER_MS = 250  # before parts get rules that are not shown yet
TURN_S = 0.004  # for which parts get them in one turn
MOST_IN_PART = 40  # widgets that get them in one go


def pieces(part: QWidget) -> list[QWidget]:
    """A part of the window, or what it is made of where it only holds many others: none takes long to get
    rules, which what only holds others can do without. What had them whole, or in pieces, gets them so again,
    however many it holds by now."""
    inner = part.findChildren(QWidget, options=Qt.FindChildOption.FindDirectChildrenOnly)
    has_look = isinstance(part, QDialog) or part.objectName() == "board"
    if has_look or part.styleSheet() or not inner:
        return [part]
    within = part.findChildren(QWidget)
    if len(within) <= MOST_IN_PART and not any(one.styleSheet() for one in within):
        return [part]
    return [piece for one in inner for piece in pieces(one)]


class Look(QObject):
    """The theme in force; `changed` is emitted when a person picks another."""

    changed = pyqtSignal()

    def __init__(self, theme: str = "day") -> None:
        super().__init__()
        self.theme = theme if theme in THEMES else "day"
        self._colours: dict[str, QColor] = {}
        self._parts: list[ref[QWidget]] = []  # Qt may take them apart at any time
        self._stale: list[QWidget] = []
        self._turn = QTimer(self)
        self._turn.setSingleShot(True)
        self._turn.timeout.connect(self._dress_next)
        self._read()

    def _read(self) -> None:
        self.names = THEMES[self.theme]
        self._shades: dict[tuple[str, float], QColor] = {}
        self._colours = {f.name: QColor(getattr(self.names, f.name)) for f in fields(Colours)}

    def colour(self, role: str, opacity: float = 1.0) -> QColor:
        """The colour of a role; shared, never to be changed."""
        made = self._shades.get((role, opacity))
        if made is None:
            made = QColor(self._colours[role])
            made.setAlphaF(opacity)
            self._shades[role, opacity] = made
        return made

    def set_theme(self, theme: str) -> None:
        if theme != self.theme:
            self.theme = theme
            self._read()
            self.apply()
            self.changed.emit()

    def font(self, px: int = 13, bold: bool = False) -> QFont:
        font = QFont(SANS)
        font.setPixelSize(px)
        if bold:
            font.setWeight(QFont.Weight.DemiBold)
        return font

    def mono(self, px: int = 12, bold: bool = False) -> QFont:
        font = QFont(MONO)
        font.setPixelSize(px)
        if bold:
            font.setWeight(QFont.Weight.Bold)
        return font

    def dress(self, part: QWidget) -> None:
        """Give a part of a window the rules for standard widgets, now and whenever the theme changes."""
        self._parts = [*map(ref, self._living()), ref(part)]
        for piece in pieces(part):
            piece.setStyleSheet(self.rules())

    def dress_later(self, part: QWidget) -> None:
        """The same for one that is not shown yet, little by little; `dress_now` before it is."""
        self._parts = [*map(ref, self._living()), ref(part)]
        self._stale.insert(0, part)
        if not self._turn.isActive():
            self._turn.start(LATER_MS)

    def dress_now(self, part: QWidget) -> None:
        """Give a part the rules that it waits for, but for what is hidden in it."""
        waiting = [one for one in self._stale if not sip.isdeleted(one)]
        self._stale = [one for one in waiting if one is not part and not part.isAncestorOf(one)]
        for one in waiting:
            if one not in self._stale:
                for piece in pieces(one):
                    if piece is part or piece.isVisibleTo(part):
                        piece.setStyleSheet(self.rules())
                    else:
                        self._stale.insert(0, piece)

    def _living(self) -> list[QWidget]:
        """The parts that are still there."""
        parts = (known() for known in self._parts)
        return [part for part in parts if part is not None and not sip.isdeleted(part)]

    @property
    def dressing(self) -> bool:
        """Whether some parts wait for their rules."""
        return bool(self._stale)

    def _dress_next(self) -> None:
        """A few parts a turn of the event loop: all at once would take half a second."""
        end = time.perf_counter() + TURN_S
        while self._stale and time.perf_counter() < end:
            part = self._stale.pop()
            if sip.isdeleted(part):
                continue
            made_of = pieces(part)
            if made_of == [part]:
                part.setStyleSheet(self.rules())
            else:
                self._stale += made_of
        if self._stale:
            self._turn.start(DRESS_MS)

    def apply(self) -> None:
        """Give the application its palette and font, and each part the rules, those that are seen first."""
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        palette = QPalette()
        for role, name in (
            (QPalette.ColorRole.Window, "paper"), (QPalette.ColorRole.WindowText, "ink"),
            (QPalette.ColorRole.Base, "raised"), (QPalette.ColorRole.AlternateBase, "paper"),
            (QPalette.ColorRole.Text, "ink"), (QPalette.ColorRole.Button, "raised"),
            (QPalette.ColorRole.ButtonText, "ink"), (QPalette.ColorRole.Highlight, "rust_wash"),
            (QPalette.ColorRole.HighlightedText, "ink"), (QPalette.ColorRole.PlaceholderText, "quiet"),
            (QPalette.ColorRole.ToolTipBase, "raised"), (QPalette.ColorRole.ToolTipText, "ink"),
        ):  # fmt: skip
            palette.setColor(role, self.colour(name))
        app.setPalette(palette)
        app.setFont(self.font())
        self._stale = sorted(self._living(), key=lambda part: part.isVisible())
        self._turn.start(FIRST_MS)

    def rules(self) -> str:
        """The style sheet for standard widgets."""
        c = self.names
        mono = ", ".join(f'"{name}"' for name in MONO)
        return f"""
        QWidget {{ color: {c.ink}; }}
        QDialog {{ background: {c.paper}; }}
        QToolTip {{ background: {c.raised}; color: {c.ink}; border: 1px solid {c.rule}; padding: 3px 6px; }}
        QLineEdit {{ background: {c.raised}; border: 1px solid {c.rule}; border-radius: 3px;
            padding: 0 6px; selection-background-color: {c.rust_wash}; selection-color: {c.ink}; }}
        QLineEdit:focus {{ border-color: {c.reed}; }}
        QLineEdit:disabled, QLineEdit[readOnly="true"] {{ background: {c.paper}; color: {c.quiet}; }}
        QLineEdit[mono="true"] {{ font-family: {mono}; font-size: 12px; }}
        QLineEdit[wrong="true"] {{ border-color: {c.fault}; }}
        QPushButton {{ background: {c.raised}; border: 1px solid {c.rule}; border-radius: 3px;
            padding: 0 8px; min-height: 22px; font-size: 12px; }}
        QPushButton:hover {{ border-color: {c.straw_deep}; }}
        QPushButton:pressed {{ background: {c.straw_wash}; }}
        QPushButton:focus {{ border-color: {c.reed}; }}
        QPushButton:disabled {{ color: {c.quiet}; background: {c.paper}; }}
        QPushButton[fix="true"] {{ border-color: {c.reed}; color: {c.reed}; }}
        QPushButton[fix="true"]:hover {{ background: {c.straw_wash}; }}
        QComboBox {{ background: {c.raised}; border: 1px solid {c.rule}; border-radius: 3px; padding: 0 7px;
            min-height: 22px; font-size: 12px; }}
        QComboBox:focus {{ border-color: {c.reed}; }}
        QComboBox::drop-down {{ border: none; width: 18px; }}
        QFrame#board {{ background: {c.raised}; border: 1px solid {c.rule_deep}; }}
        QComboBox QAbstractItemView, QMenu {{ background: {c.raised}; border: 1px solid {c.rule};
            selection-background-color: {c.straw_wash}; selection-color: {c.ink}; outline: 0; }}
        QMenu::item {{ padding: 4px 20px 4px 12px; }}
        QMenu::item:selected {{ background: {c.straw_wash}; color: {c.ink}; }}
        QMenu::item:disabled {{ color: {c.quiet}; }}
        QMenu::separator {{ height: 1px; background: {c.rule}; margin: 4px 0; }}
        QScrollBar:vertical {{ background: transparent; width: 8px; margin: 0; }}
        QScrollBar::handle:vertical {{ background: {c.rule_deep}; border-radius: 2px; min-height: 24px;
            margin: 0 2px; }}
        QScrollBar:horizontal {{ background: transparent; height: 8px; margin: 0; }}
        QScrollBar::handle:horizontal {{ background: {c.rule_deep}; border-radius: 2px; min-width: 24px;
            margin: 2px 0; }}
        QScrollBar::add-line, QScrollBar::sub-line, QScrollBar::add-page, QScrollBar::sub-page {{
            background: none; border: none; width: 0; height: 0; }}
        QScrollArea, QScrollArea > QWidget > QWidget {{ background: transparent; border: none; }}
        QListView {{ background: {c.raised}; border: none; outline: 0; }}
        QLabel[role="quiet"] {{ color: {c.quiet}; font-size: 12px; }}
        QLabel[role="caption"] {{ color: {c.quiet}; font-size: 11px; }}
        QLabel[role="head"] {{ font-size: 12px; font-weight: 600; }}
        QLabel[role="text"] {{ font-size: 12px; }}
        QLabel[role="mono"] {{ font-family: {mono}; font-size: 11px; color: {c.quiet}; }}
        QLabel[role="value"] {{ font-family: {mono}; font-size: 12px; }}
        QLabel[role="reed"] {{ color: {c.reed}; font-size: 12px; font-weight: 600; }}
        QLabel[role="fault"] {{ color: {c.fault}; font-size: 12px; font-weight: 600; }}
        """
