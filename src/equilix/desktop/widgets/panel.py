"""The right panel: shows a model of one plain sentence, the figures behind it, and what can be done."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QPoint, Qt, QTimer, Signal
from PySide6.QtGui import QAccessible, QAccessibleAnnouncementEvent, QPalette
from PySide6.QtWidgets import (
    QApplication,
    QCheckBox,
    QComboBox,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from equilix.desktop.looks.theme import colors, tint
from equilix.desktop.widgets.advice_card import AdviceCard
from equilix.desktop.widgets.figure_grid import FigureGrids, Rule
from equilix.desktop.widgets.labels import LinkLabel, PlainLabel, label, unbroken
from equilix.desktop.widgets.plain import as_item, set_tip
from equilix.desktop.widgets.verdict import DoingCard, Headline, StripRow
from equilix.desktop.widgets.way_card import CgBeam, ShareBeam, WayCard, sign
from equilix.present.panel import (
    ADVICE,
    APPLY,
    SHOW,
    STOP,
    WAY,
    Act,
    Advised,
    Block,
    Buttons,
    Choice,
    Doing,
    Entry,
    Figures,
    Heading,
    Key,
    Link,
    PanelModel,
    Pictures,
    Search,
    Strip,
    Tick,
    Ways,
    Words,
)
from equilix.present.supports.text import FigureRow, Verdict

#: px that a row of the panel leaves free: its margins and a scroll bar.
_SIDES = 58


def _tone(verdict: Verdict) -> str:
    return {"forward": "fwdT", "back": "backT"}.get(verdict.leans, "accent" if verdict.known else "ink")


def clear_layout(layout: QVBoxLayout | QHBoxLayout | QGridLayout) -> None:
    """Take everything out of a layout."""
    while (item := layout.takeAt(0)) is not None:
        widget = item.widget()
        inner = item.layout()
        if widget is not None:
            widget.hide()
            widget.setParent(None)
            widget.deleteLater()
        elif isinstance(inner, QVBoxLayout | QHBoxLayout | QGridLayout):
            clear_layout(inner)


class SidePanel(QScrollArea):
    """The panel at the right; a room gives it a model, and what is done in it comes back by the keys of that."""

    WIDTH, LARGE = 336, 400
    #: The keyboard was in the panel, and what had it is gone.
    focus_lost = Signal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self._inner = QWidget()
        self.rows = QVBoxLayout(self._inner)
        self.rows.setContentsMargins(0, 10, 0, 12)
        self.rows.setSpacing(0)
        self.setWidget(self._inner)
        self._figures = FigureGrids(self.rows)
        self._act: Callable[[Key], object] = lambda _key: None
        self._shown: tuple[PanelModel, object] | None = None  # the model and the theme it was drawn in
        #: What can be done, by its key: buttons, links, fields and lists; and the cards, in their order.
        self.doers: dict[Key, QWidget] = {}
        self.cards: list[WayCard] = []
        self.advised: list[AdviceCard] = []
        self._words: list[tuple[int, QLabel]] = []  # paragraphs by the place of their block
        self._beside: dict[str, QLabel] = {}
        self._headings: dict[str, QLabel] = {}
        self._search: tuple[QLabel, QPushButton] | None = None
        #: What is to be done, at a glance.
        self.doing: DoingCard | None = None
        self._announced = ""
        self._chosen: int | None = None  # the way that was scrolled to last

    @property
    def has_figures(self) -> bool:
        """Whether figures stand in the panel that `refresh` can renew."""
        return bool(self._figures.cells)

    def show_model(self, model: PanelModel, act: Callable[[Key], object]) -> None:
        """Show `model`; `act` is told by its key what is done, once the click that did it is over.

        Nothing is made anew where only words of paragraphs differ from what is shown.
        """
        self._act = act
        theme = colors().theme
        if self._shown is not None and self._shown[1] is theme and self._say_other_words(self._shown[0], model):
            self._shown = (model, theme)
            return
        kept = self._begin()
        self._add_verdict(model.verdict)
        for place, block in enumerate(model.blocks):
            self._add(block, place)
        self.rows.addStretch(1)
        self._shown = (model, theme)
        self._announce(model)
        if kept is not None:
            self._give_back(kept)
        chosen = next((block.chosen for block in model.blocks if isinstance(block, Ways)), None)
        if chosen is not None and chosen != self._chosen:
            # Once it is laid out.
            QTimer.singleShot(0, self, self._reveal_chosen)
        self._chosen = chosen

    def _reveal_chosen(self) -> None:
        """Scroll to the way that is chosen: it stands at the top at a glance, else on its card."""
        if self.doing is not None:
            self.verticalScrollBar().setValue(0)
        elif self._chosen is not None and self._chosen < len(self.cards):
            self._inner.adjustSize()
            self.ensureWidgetVisible(self.cards[self._chosen], 0, 12)

    def reveal(self, heading: str) -> None:
        """Scroll to a heading."""
        if heading in self._headings:
            bar, top = self.verticalScrollBar(), self._headings[heading].mapTo(self._inner, QPoint(0, 0)).y()
            bar.setValue(top - 12)

    def _say_other_words(self, old: PanelModel, new: PanelModel) -> bool:
        """Put other words into paragraphs; return whether that is all that the two models differ in."""
        if old.verdict != new.verdict or len(old.blocks) != len(new.blocks):
            return False
        other = {}
        for place, (before, now) in enumerate(zip(old.blocks, new.blocks, strict=True)):
            if before is now or before == now:
                continue
            if not isinstance(before, Words) or not isinstance(now, Words) or before.color != now.color:
                return False
            other[place] = now.words
        for place, made in self._words:
            if place in other:
                made.setText(unbroken(other[place]))
                made.setVisible(bool(other[place]))
        return True

    def refresh(self, verdict: Verdict, rows: tuple[FigureRow, ...]) -> None:
        """Put new figures in the places of the old ones, without making anything: for dragging."""
        self._shown = None
        self.head.set_color(_tone(verdict))
        self.head.setText(verdict.head)
        self.sentence.setText(verdict.body)
        if self.doing is not None:
            # It was worked out for the rig as it was.
            self.doing.setEnabled(False)
        if self.note.text() != verdict.note:
            self.note.setText(verdict.note)
            self.note.setVisible(bool(verdict.note))
        self._figures.refresh(rows)

    def say_beside(self, heading: str, words: str, ended: str) -> None:
        """Say `words` beside a heading that stands there, or `ended` in place of a search that has: for dragging."""
        if self._search is not None:
            said, button = self._search
            said.setText(ended)
            button.hide()
        elif heading in self._beside:
            self._beside[heading].setText(words)

    # Filling

    def _begin(self) -> tuple[str, str] | None:
        """Empty the panel; return by what is known again what had the keyboard, if something here had it."""
        focused = QApplication.focusWidget() if self.has_keyboard() else None
        kept = sign(focused) if focused is not None else None
        clear_layout(self.rows)
        self._figures.forget()
        self._words, self._beside, self._headings, self._search = [], {}, {}, None
        self.doers, self.cards, self.advised = {}, [], []
        self._shown = self.doing = None
        tint(self._inner, "panel", QPalette.ColorRole.Window)
        return kept

    def _announce(self, model: PanelModel) -> None:
        """Tell a screen reader of another verdict, once."""
        said = (
            f"{model.verdict.matter if model.verdict.leads else ''} {model.verdict.head} {model.verdict.body}".strip()
        )
        if said != self._announced and QAccessible.isActive():
            QAccessible.updateAccessibility(QAccessibleAnnouncementEvent(self.head, said))
        self._announced = said

    def has_keyboard(self) -> bool:
        """Whether the keyboard is in the panel."""
        focused = QApplication.focusWidget()
        return focused is not None and self._inner.isAncestorOf(focused)

    def _give_back(self, wanted: tuple[str, str]) -> None:
        """Give the keyboard to what is `wanted`, else away: at once, for the next key is perhaps on its way."""
        for widget in self._inner.findChildren(QWidget):
            if widget.focusPolicy() != Qt.FocusPolicy.NoFocus and widget.isEnabled() and sign(widget) == wanted:
                shown: QWidget | None = widget
                while shown is not None and shown is not self._inner:
                    shown.show()  # a layout shows what is put into it only later, and what is not seen gets no key
                    shown = shown.parentWidget()
                widget.setFocus(Qt.FocusReason.OtherFocusReason)
                return
        self.focus_lost.emit()

    def _do(self, *key: str) -> None:
        """Tell the room what is done: with the panel that it fills anew goes what is still handling its click."""
        QTimer.singleShot(0, self, lambda: self._act(key))

    def _row(self, top: int = 4, bottom: int = 4, spacing: int = 8) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setContentsMargins(24, top, 24, bottom)
        row.setSpacing(spacing)
        self.rows.addLayout(row)
        return row

    def _column(self, top: int, bottom: int, spacing: int = 0) -> QVBoxLayout:
        column = QVBoxLayout()
        column.setContentsMargins(24, top, 24, bottom)
        column.setSpacing(spacing)
        self.rows.addLayout(column)
        return column

    def _add_verdict(self, verdict: Verdict) -> None:
        if verdict.matter and verdict.leads:
            self._add_strip(Strip(verdict.matter))
        box = self._column(0, 6)
        self.head = Headline(verdict.head, _tone(verdict))
        self.sentence = Headline(verdict.body, "ink")
        box.addWidget(self.head)
        box.addWidget(self.sentence)
        self.note = PlainLabel(verdict.note, 13, 400, "ink2", wraps=True)
        self.note.setContentsMargins(0, 6, 0, 0)
        if not verdict.note:
            self.note.hide()
        box.addWidget(self.note)

    def _add_strip(self, strip: Strip) -> None:
        row = StripRow(strip)
        row.wanted.connect(lambda: self._do(SHOW))
        self.doers[SHOW,] = row
        self.rows.addWidget(row)

    def _add_doing(self, block: Doing) -> None:
        self.doing = DoingCard(block)
        self.doing.apply_wanted.connect(lambda: self._do(APPLY))
        self.doers[APPLY,] = self.doing.button
        self.rows.addWidget(self.doing)

    def _add(self, block: Block, place: int) -> None:
        match block:
            case Doing():
                self._add_doing(block)
            case Strip():
                self._add_strip(block)
            case Words():
                made = label(block.words, block.size, 400, block.color, wrap=True)
                made.setContentsMargins(24, 3, 24, 4)
                if not block.words:
                    made.hide()
                self.rows.addWidget(made)
                self._words.append((place, made))
            case Heading():
                row = self._row(10, 6)
                heading = label(block.words, 16, 600)
                self._headings[block.words] = heading
                row.addWidget(heading)
                beside = label(block.beside, 13, 400, "ink3", wrap=True)
                beside.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
                row.addWidget(beside, 1)
                if block.beside:
                    self._beside[block.words] = beside
            case Figures():
                self._figures.add(block.rows)
            case Buttons():
                self._add_buttons(block)
            case Pictures():
                self._add_pictures(block)
            case Tick():
                self._add_tick(block)
            case Link():
                self._add_link(block)
            case Search():
                self._add_search(block.words)
            case Entry():
                self._add_entry(block)
            case Choice():
                self._add_choice(block)
            case Ways():
                self._add_ways(block)
            case Advised():
                for number, row_ in enumerate(block.rows, 1):
                    card = AdviceCard(number, row_, block.tip)
                    card.chosen.connect(lambda at: self._do(ADVICE, str(at)))
                    self.advised.append(card)
                    self.rows.addWidget(card)
                    self._add_rule()

    def _button(self, act: Act) -> QPushButton:
        button = QPushButton(as_item(act.words))
        if act.tip:
            set_tip(button, act.tip)
        button.clicked.connect(lambda: self._do(*act.key))
        self.doers[act.key] = button
        return button

    def _add_buttons(self, block: Buttons) -> None:
        if block.stacked:
            for act in block.acts:
                column = self._column(4, 6, 3)
                column.addWidget(self._button(act))
                if act.note:
                    column.addWidget(label(act.note, 13, 400, "ink2", wrap=True))
            return
        buttons = [self._button(act) for act in block.acts]
        if block.before:
            row = self._row(spacing=10)
            row.addWidget(label(block.before, 13, 400, "ink2", wrap=True), 1)
            for button in buttons:
                row.addWidget(button)
            return
        for button in buttons:
            button.ensurePolished()
        while buttons:
            row = self._row(spacing=8)
            room = self.width() - _SIDES
            while buttons and (row.count() == 0 or room >= buttons[0].sizeHint().width()):
                room -= buttons[0].sizeHint().width() + 8
                row.addWidget(buttons.pop(0))
            row.addStretch(1)

    def _add_pictures(self, block: Pictures) -> None:
        from equilix.desktop.widgets.picture_button import PictureButton

        grid = QGridLayout()
        grid.setContentsMargins(24, 4, 24, 6)
        grid.setSpacing(8)
        for number, (act, scene) in enumerate(block.answers):
            button = PictureButton(scene, act.words, number == 0)
            if act.tip:
                set_tip(button, act.tip)
            button.clicked.connect(lambda _checked=False, key=act.key: self._do(*key))
            self.doers[act.key] = button
            grid.addWidget(button, number // 2, number % 2)
        grid.setColumnStretch(2, 1)
        self.rows.addLayout(grid)

    def _add_tick(self, block: Tick) -> None:
        row = self._row(1, 1)
        box = QCheckBox()
        box.setChecked(block.ticked)
        box.setAccessibleName(block.act.words)
        if block.act.tip:
            set_tip(box, block.act.tip)
        box.clicked.connect(lambda: self._do(*block.act.key))
        self.doers[block.act.key] = box
        row.addWidget(box, 0, Qt.AlignmentFlag.AlignTop)
        row.addWidget(label(block.act.words, 13, 400, "ink" if block.ticked else "ink3", wrap=True), 1)

    def _add_link(self, block: Link) -> None:
        act = block.act
        link = LinkLabel(act.words)
        link.setAccessibleName(act.words)
        link.part_id = block.drags
        if act.tip:
            set_tip(link, act.tip)
        link.clicked.connect(lambda: self._do(*act.key))
        self.doers[act.key] = link
        column = self._column(5 if block.ruled else 3, 4)
        column.addWidget(link)
        note = label(act.note, 13, 400, "ink2", wrap=True)
        if block.ruled:
            note.setContentsMargins(0, 0, 0, 2)
        column.addWidget(note)
        if block.ruled:
            self._add_rule()

    def _add_search(self, words: str) -> None:
        row = self._row(0)
        said = label(words, 13, 400, "ink2", wrap=True)
        row.addWidget(said, 1)
        button = QPushButton("Stop")
        set_tip(button, "Stop (Esc)")
        button.setAccessibleName("Stop the search")
        button.clicked.connect(lambda: self._do(STOP))
        self.doers[STOP,] = button
        row.addWidget(button)
        self._search = said, button

    def _add_entry(self, block: Entry) -> None:
        row = self._row(0)
        before = label(block.before, 13, 400, "ink2")
        row.addWidget(before)
        field = QLineEdit(block.value)
        before.setBuddy(field)
        field.setAccessibleName(block.name)
        set_tip(field, block.tip)
        field.setFixedWidth(100)
        field.editingFinished.connect(lambda: self._act((*block.key, field.text())))
        self.doers[block.key] = field
        row.addWidget(field)
        row.addStretch(1)

    def _add_choice(self, block: Choice) -> None:
        row = self._row(0, 6)
        before = label(block.before, 13, 400, "ink2")
        row.addWidget(before)
        box = QComboBox()
        before.setBuddy(box)
        box.setAccessibleName(block.name)
        box.addItems(list(block.options))
        box.setCurrentIndex(block.now)
        box.activated.connect(lambda index: self._do(*block.key, str(index)))
        self.doers[block.key] = box
        row.addWidget(box, 1)

    def _add_ways(self, block: Ways) -> None:
        for place, way in enumerate(block.cards):
            card = WayCard(place + 1, way, place == block.chosen, ShareBeam if block.shares else CgBeam, block.shown)
            card.chosen.connect(lambda at: self._do(WAY, str(at)))
            card.apply_wanted.connect(lambda: self._do(APPLY))
            self.cards.append(card)
            self.rows.addWidget(card)
            self._add_rule()

    def _add_rule(self) -> None:
        self._row(0, 0).addWidget(Rule())
