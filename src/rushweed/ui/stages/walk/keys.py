"""Which keys move the walker; a person's own are remembered for all projects."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QRectF, QSettings, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QKeySequence, QPainter, QPaintEvent

from rushweed.ui.kit.controls import HIGH, Pressable
from rushweed.ui.kit.theme import Look

Key = Qt.Key
ACTIONS = ("left", "right", "up", "down", "jump", "back")
USUAL: dict[str, tuple[Key, ...]] = {
    "left": (Key.Key_Left, Key.Key_A), "right": (Key.Key_Right, Key.Key_D), "up": (Key.Key_Up, Key.Key_W),
    "down": (Key.Key_Down, Key.Key_S), "jump": (Key.Key_Space,), "back": (Key.Key_Backspace,),
}  # fmt: skip
WORDS = {
    "left": "Left", "right": "Right", "up": "Up", "down": "Down", "jump": "Jump", "back": "Back in time"
}  # fmt: skip
MOST = 2  # keys of one action


def name_of(key: int) -> str:
    return QKeySequence(key).toString() or "?"


class WalkKeys:
    """Keys by what they do."""

    def __init__(self, settings: QSettings) -> None:
        self._settings = settings
        self.keys = dict(USUAL)
        for action in ACTIONS:
            kept = settings.value(f"walk_keys/{action}", "", str)
            names = tuple(Key(int(n)) for n in str(kept).split() if n.isdigit())
            if names:
                self.keys[action] = names

    def action(self, key: int) -> str:
        """What a key does, or nothing."""
        return next((a for a, keys in self.keys.items() if key in keys), "")

    def set_key(self, action: str, key: int) -> None:
        """Give an action another key, before those it has; who had it keeps another, or swaps."""
        for other, keys in self.keys.items():
            if other != action and key in keys and len(keys) > 1:
                self.keys[other] = tuple(k for k in keys if k != key)
            elif other != action and key in keys:
                self.keys[other] = self.keys[action][:1]
        mine = tuple(k for k in self.keys[action] if k != key)
        self.keys[action] = (Key(key), *mine)[:MOST]
        self._write()

    def reset(self) -> None:
        self.keys = dict(USUAL)
        self._write()

    def _write(self) -> None:
        for action, keys in self.keys.items():
            self._settings.setValue(f"walk_keys/{action}", " ".join(str(int(k)) for k in keys))


class KeyField(Pressable):
    """Shows the keys of an action; press it, then the key it should have."""

    edited = pyqtSignal(int)

    def __init__(self, look: Look, words: str) -> None:
        super().__init__()
        self.look, self.words = look, words
        self.setAccessibleName(f"Key for {words}")
        self._keys: tuple[int, ...] = ()
        self._listens = False
        self.setFixedHeight(HIGH)
        self.setMinimumWidth(60)
        self.setToolTip(f"{words}: press here, then the key")
        self.pressed.connect(self._listen)

    def show_value(self, keys: tuple[int, ...]) -> None:
        self._keys = keys
        self.update()

    def _listen(self) -> None:
        self._listens = True
        self.setFocus()
        self.update()

    def event(self, event: QEvent | None) -> bool:
        assert event is not None
        if self._listens and event.type() == QEvent.Type.ShortcutOverride:
            event.accept()
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if not self._listens:
            super().keyPressEvent(event)
            return
        self._listens = False
        if event.key() != Qt.Key.Key_Escape:
            self.edited.emit(event.key())
        self.update()

    def focusOutEvent(self, event: object) -> None:
        self._listens = False
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter, look = QPainter(self), self.look
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(look.colour("rust" if self._listens else "reed" if self.hasFocus() else "rule_deep"))
        painter.setBrush(look.colour("raised"))
        painter.drawRoundedRect(QRectF(0.5, 0.5, self.width() - 1, self.height() - 1), 3, 3)
        painter.setFont(look.mono(11))
        painter.setPen(look.colour("quiet" if self._listens else "ink"))
        text = "press a key" if self._listens else "  ".join(name_of(k) for k in self._keys)
        painter.drawText(QRectF(7, 0, self.width() - 10, HIGH), Qt.AlignmentFlag.AlignVCenter, text)
