"""Colours, type and style sheet for both themes. Contrast of every text pair is AA or better (WCAG 2.2)."""

from __future__ import annotations

from enum import StrEnum
from functools import cache, lru_cache

from PySide6.QtCore import QMargins, QRect, QRectF, QSize
from PySide6.QtGui import QColor, QFont, QFontDatabase, QPainter, QPalette
from PySide6.QtWidgets import QApplication, QWidget

from equilix.data import DATA


class Theme(StrEnum):
    LIGHT = "light"
    DARK = "dark"


_TOKENS = {
    "paper": ("#F6F4EE", "#15191B"),
    "panel": ("#FCFBF8", "#1A1F22"),
    "rail": ("#EFECE3", "#111416"),
    "ink": ("#1C2329", "#E6DFD2"),
    "ink2": ("#465159", "#BDB8AE"),
    "ink3": ("#59636A", "#9A9A94"),
    "accent": ("#0B616C", "#62B7BE"),
    "onaccent": ("#FFFFFF", "#0E1517"),
    "tint": ("#DDEAE8", "#17343A"),
    "fwdT": ("#9A4708", "#EB9A52"),
    "backT": ("#3A4A96", "#A3AFF2"),
    "fwd": ("#BD560F", "#E08A3E"),
    "back": ("#4456A8", "#8C9BEA"),
    "ghostL": ("#867E6C", "#747D82"),
    "p1": ("#E9E4D8", "#2A3034"),
    "p2": ("#DCD6C8", "#343B40"),
    "p3": ("#CBC4B4", "#434B51"),
    "line": ("#2A333A", "#B9B4A8"),
    "rule": ("#D9D4C8", "#2C3337"),
    "rule2": ("#BDB7A9", "#4A5358"),
}
FAMILY = "Barlow"


class Colors:
    """The palette in force: token name to QColor."""

    def __init__(self, theme: Theme) -> None:
        self.theme = theme
        column = 0 if theme is Theme.LIGHT else 1
        self._hex = {name: values[column] for name, values in _TOKENS.items()}
        self._colors = {name: QColor(code) for name, code in self._hex.items()}

    def __getitem__(self, token: str) -> QColor:
        return self._colors[token]

    def hex(self, token: str) -> str:
        """Return a token as #RRGGBB."""
        return self._hex[token]


_current = Colors(Theme.LIGHT)


def colors() -> Colors:
    """Return the palette in force."""
    return _current


def fill(painter: QPainter, area: QRect | QRectF, token: str) -> None:
    """Fill `area` with a colour of the palette in force."""
    # Not by the painter's own filling: to tell a colour from the name of a gradient, the binding makes the names of all
    # gradients there are, half a hundredth of a start.
    painter.setBackground(_current[token])
    painter.eraseRect(area)


def tint(widget: QWidget, token: str, role: QPalette.ColorRole = QPalette.ColorRole.WindowText) -> None:
    """Give a widget's words, or another role, a colour of the palette in force; a style sheet of its own costs more."""
    palette = QPalette()
    palette.setColor(role, _current[token])
    widget.setPalette(palette)


@cache
def load_fonts() -> None:
    """Make the shipped type face known to Qt."""
    folder = DATA / "fonts"
    for weight in ("Regular", "Medium", "SemiBold", "Bold"):
        QFontDatabase.addApplicationFontFromData((folder / f"Barlow-{weight}.ttf").read_bytes())


#: px of the smallest window, and by how much it grows for text half as large again.
_LEAST, _MORE = (980, 640), (300, 160)
#: px that a window manager adds above a window, common practice.
_TITLE_BAR = 40
#: Factor on every type size, from the desktop's text scale.
_scale = 1.0


def set_text_scale(scale: float, room: QSize | None = None) -> None:
    """Set the factor on all type sizes, 1 to 2; no larger than fits a window into `room` (px)."""
    global _scale
    if room is not None:
        spare = min((room.width() - _LEAST[0]) / _MORE[0], (room.height() - _LEAST[1]) / _MORE[1])
        scale = min(scale, 1.0 + spare / 2.0)
    _scale = min(max(scale, 1.0), 2.0)


def room_on_screen() -> QSize | None:
    """Return what the screen leaves a window below its title bar (px), None without a screen."""
    screen = QApplication.primaryScreen()
    return screen.availableSize().shrunkBy(QMargins(0, _TITLE_BAR, 0, 0)) if screen is not None else None


def least_window() -> QSize:
    """Return the smallest window (px) in which nothing is cut off with type as large as it is."""
    grown = 2.0 * (_scale - 1.0)
    return QSize(*(round(least + grown * more) for least, more in zip(_LEAST, _MORE, strict=True)))


def text_scale() -> float:
    """Return the factor on all type sizes."""
    return _scale


def font(size: float, weight: int = 400, scale: float | None = None) -> QFont:
    """Return the type face at `size` px, times `scale` or the desktop's text scale, with tabular figures."""
    return _font(size, weight, _scale if scale is None else scale)


# Kept: making one costs more than painting with it.
@lru_cache(maxsize=256)
def _font(size: float, weight: int, scale: float) -> QFont:
    made = QFont(FAMILY)
    made.setPixelSize(max(1, round(size * scale)))
    made.setWeight(QFont.Weight(weight))
    made.setHintingPreference(QFont.HintingPreference.PreferNoHinting)
    made.setFeature(QFont.Tag("tnum"), 1)
    if size <= 13:
        made.setLetterSpacing(QFont.SpacingType.AbsoluteSpacing, 0.12)
    return made


def apply_theme(app: QApplication, theme: Theme) -> None:
    """Put `theme` in force for the whole application."""
    global _current
    _current = Colors(theme)
    c = _current
    palette = QPalette()
    for role, token in (
        (QPalette.ColorRole.Window, "paper"),
        (QPalette.ColorRole.WindowText, "ink"),
        (QPalette.ColorRole.Base, "panel"),
        (QPalette.ColorRole.AlternateBase, "paper"),
        (QPalette.ColorRole.Text, "ink"),
        (QPalette.ColorRole.Button, "panel"),
        (QPalette.ColorRole.ButtonText, "ink"),
        (QPalette.ColorRole.Highlight, "accent"),
        (QPalette.ColorRole.HighlightedText, "onaccent"),
        (QPalette.ColorRole.ToolTipBase, "panel"),
        (QPalette.ColorRole.ToolTipText, "ink"),
        (QPalette.ColorRole.PlaceholderText, "ink3"),
        (QPalette.ColorRole.Link, "accent"),
    ):
        palette.setColor(role, c[token])
    disabled = QPalette.ColorGroup.Disabled
    for role in (QPalette.ColorRole.Text, QPalette.ColorRole.WindowText, QPalette.ColorRole.ButtonText):
        palette.setColor(disabled, role, c["ink3"])
    app.setPalette(palette)
    app.setFont(font(14))
    app.setStyleSheet(_style_sheet(c))


def _style_sheet(c: Colors) -> str:
    s = _scale
    icons = DATA / "icons"
    tick, chevron = ((icons / f"{name}-{c.theme}.svg").as_posix() for name in ("tick", "chevron"))
    return f"""
    QMainWindow, QDialog {{ background: {c.hex("paper")}; }}
    QProgressBar {{ background: {c.hex("panel")}; border: 1px solid {c.hex("ghostL")}; border-radius: 4px;
        min-height: 14px; max-height: 14px; }}
    QProgressBar::chunk {{ background: {c.hex("accent")}; border-radius: 3px; }}
    QToolTip {{ background: {c.hex("panel")}; color: {c.hex("ink")}; border: 1px solid {c.hex("rule2")};
        padding: 4px; }}
    QPushButton {{ background: {c.hex("panel")}; color: {c.hex("ink")}; border: 1px solid {c.hex("ghostL")};
        border-radius: 4px; padding: 4px 12px; min-height: {round(20 * s)}px; }}
    QPushButton:hover {{ background: {c.hex("tint")}; }}
    QPushButton:focus {{ border: 2px solid {c.hex("accent")}; padding: 3px 11px; }}
    QPushButton:disabled {{ color: {c.hex("ink3")}; border-color: {c.hex("rule2")}; }}
    QPushButton[role="apply"] {{ background: {c.hex("accent")}; color: {c.hex("onaccent")};
        border-color: {c.hex("accent")}; font-weight: 600; }}
    QPushButton[role="link"] {{ background: transparent; border: none; color: {c.hex("accent")};
        text-decoration: underline; padding: 0 2px; font-weight: 600; text-align: left; }}
    QPushButton[role="link"]:focus {{ border: 2px solid {c.hex("accent")}; }}
    QPushButton[role="word"] {{ background: transparent; border: none; border-radius: 0; text-align: left;
        padding: 0 4px; color: {c.hex("ink2")}; }}
    QPushButton[role="word"]:hover {{ background: {c.hex("tint")}; }}
    QPushButton[role="word"]:focus {{ border: 2px solid {c.hex("accent")}; }}
    QPushButton[role="word"]:checked {{ color: {c.hex("accent")}; border-bottom: 2px solid {c.hex("accent")}; }}
    QLineEdit:disabled {{ color: {c.hex("ink3")}; border-color: {c.hex("rule")}; background: transparent; }}
    QComboBox:disabled {{ border-color: {c.hex("rule")}; background: transparent; }}
    QLineEdit, QPlainTextEdit, QComboBox {{ background: {c.hex("panel")}; border: 1px solid {c.hex("ghostL")};
        border-radius: 4px; padding: 2px 6px; min-height: {round(20 * s)}px;
        selection-background-color: {c.hex("accent")}; selection-color: {c.hex("onaccent")}; }}
    QLineEdit:focus, QPlainTextEdit:focus, QComboBox:focus {{ border: 2px solid {c.hex("accent")}; padding: 1px 5px; }}
    QComboBox {{ padding-right: 0; }}
    QComboBox::drop-down {{ border: none; width: {round(20 * s)}px; }}
    QComboBox::down-arrow {{ image: url({chevron}); width: {round(11 * s)}px; height: {round(11 * s)}px; }}
    QComboBox QAbstractItemView {{ background: {c.hex("panel")}; border: 1px solid {c.hex("rule2")};
        selection-background-color: {c.hex("tint")}; selection-color: {c.hex("ink")}; }}
    QMenu {{ background: {c.hex("panel")}; border: 1px solid {c.hex("rule2")}; padding: 4px 0; }}
    QMenu::item {{ padding: 5px 28px 5px 20px; }}
    QMenu::item:selected {{ background: {c.hex("tint")}; }}
    QMenu::item:disabled {{ color: {c.hex("ink3")}; }}
    QMenu::separator {{ height: 1px; background: {c.hex("rule")}; margin: 4px 0; }}
    QTableView::indicator, QTreeView::indicator, QCheckBox::indicator {{
        width: {round(13 * s)}px; height: {round(13 * s)}px;
        border: 1px solid {c.hex("ghostL")}; border-radius: 3px; background: {c.hex("panel")}; }}
    QTableView::indicator:checked, QTreeView::indicator:checked, QCheckBox::indicator:checked {{
        background: {c.hex("accent")};
        border-color: {c.hex("accent")}; image: url({tick}); }}
    QTreeView {{ background: {c.hex("panel")}; border: 1px solid {c.hex("rule2")}; }}
    QTableView {{ background: transparent; border: none; gridline-color: transparent; outline: none;
        selection-background-color: {c.hex("tint")}; selection-color: {c.hex("ink")}; }}
    QHeaderView {{ background: transparent; border: none; }}
    QHeaderView::section {{ background: transparent; border: none; color: {c.hex("ink2")}; padding: 0 3px; }}
    QScrollArea {{ border: none; background: transparent; }}
    SidePanel {{ background: {c.hex("panel")}; border-left: 1px solid {c.hex("rule2")}; }}
    QScrollBar:vertical {{ background: transparent; width: 10px; margin: 0; }}
    QScrollBar::handle:vertical {{ background: {c.hex("ghostL")}; border-radius: 4px; min-height: 28px; margin: 1px; }}
    QScrollBar:horizontal {{ background: transparent; height: 10px; margin: 0; }}
    QScrollBar::handle:horizontal {{ background: {c.hex("ghostL")}; border-radius: 4px; min-width: 28px; margin: 1px; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
    QScrollBar::add-page, QScrollBar::sub-page {{ background: transparent; }}
    """
