# SPDX-License-Identifier: GPL-3.0-or-later
"""The grid of switches to flight modes, and the modes in the order in which they go before each
other."""

from __future__ import annotations

from functools import partial

from PyQt6.QtCore import QPoint, QRectF, QSize, Qt
from PyQt6.QtGui import QDragEnterEvent, QDropEvent, QFontMetrics, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QGridLayout, QPushButton, QSizePolicy, QVBoxLayout, QWidget

from hypsos.core.base.figure_words import plain
from hypsos.core.base.lookup import GoneError, the_named
from hypsos.core.edits.flight_modes import (
    USUAL_MODES,
    at_place,
    proposed_mode,
    with_fade,
    with_mode,
)
from hypsos.core.edits.mode_grid import (
    Cell,
    all_places,
    cell,
    grid_axes,
    mode_switches,
    never_flown,
    with_cell,
)
from hypsos.core.wording.describe_condition import mode_label
from hypsos.desk.cards.mode_row import DRAGGED, ModeRow
from hypsos.desk.services.workbench import Workbench
from hypsos.desk.theme.look import look
from hypsos.desk.widgets.act_menu import Act, MenuButton
from hypsos.desk.widgets.fields import ChoiceBox
from hypsos.desk.widgets.flow_layout import flowing
from hypsos.desk.widgets.number_field import NumberField
from hypsos.desk.widgets.page_layout import card, clear, label, row, set_tip
from hypsos.desk.widgets.row_list import RowList
from hypsos.desk.widgets.scroll_page import page_of
from hypsos.desk.widgets.vanished_rows import while_there

SHORTEST = len("or Cl…")
"""Letters of another mode of a place that still say which one it is."""


class ModeGrid(QWidget):
    """A cell for every place of one or two switches, and a row for every mode."""

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self.workbench = workbench
        self._switches: tuple[str, ...] = ()
        self._built: object = None
        self.cells: dict[tuple[int, ...], CellButton] = {}
        self.rows: list[ModeRow] = []
        self.down, self.across = ChoiceBox(), ChoiceBox()
        for box, words in ((self.down, "Down the grid"), (self.across, "Across the grid")):
            box.setAccessibleName(words)
            box.setSizeAdjustPolicy(
                ChoiceBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon
            )
            box.setMinimumContentsLength(9)
            box.activated.connect(lambda _: self._choose())
        self._grid = QGridLayout()
        self._grid.setSpacing(5)
        self.empty = label(
            "A flight mode is a setting of the whole aeroplane, such as launch or landing, flown while its rule holds. "
            "The first one brings a default mode with it, flown where no rule holds."
        )
        self.new = QPushButton("Add a flight mode")
        self.new.setObjectName("lead")
        self.new.clicked.connect(self.add)
        self._rows = RowList(6)
        self.order = label(
            "The first whose rule holds is flown. Drag a row, or use Earlier and Later, to change which goes before.",
            "faint",
        )
        self._grid_card = card(flowing("Down", self.down, "across", self.across), self._grid)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        column.addWidget(self.empty)
        column.addWidget(self._grid_card)
        column.addWidget(self.order)
        column.addLayout(self._rows)
        self.fade = NumberField(
            "Transition time of all modes",
            self._fade,
            self._put_fade,
            unit="s",
            bounds=(0, 60),
            step=0.1,
            width=58,
        )
        self._fades = flowing("One transition time for all", self.fade)
        column.addWidget(self._fades)
        column.addLayout(row(self.new, None))
        self.setAcceptDrops(True)
        workbench.simulation.live_changed.connect(self._light)

    # -- showing ---------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show the model as it is now."""
        model = self.workbench.loaded
        modes = model.program.modes
        self.empty.setVisible(not modes)
        self._grid_card.setVisible(bool(modes))
        self.order.setVisible(len(modes) > 1)
        self._fades.setVisible(len(modes) > 1)
        if modes:
            self.fade.refresh()
        if modes:
            self._show_switches()
        shape = (
            self._switches,
            model.transmitter.controls,
            model.transmitter.first_end,
            bool(modes),
        )
        if shape != self._built:
            self._built = shape
            self._make()
        shown = self._rows.show_rows(
            [((m.name, m.when is None), partial(ModeRow, self.workbench, m.name)) for m in modes],
            [m.label for m in modes],
        )
        self.rows = [r for r in shown if isinstance(r, ModeRow)]
        for places, button in self.cells.items():
            self._show_cell(button, cell(model, dict(zip(self._switches, places, strict=True))))
        unreached = {m.name for m in never_flown(model)}
        for made in self.rows:
            made.refresh(made.name in unreached)
        self._light()

    def _fade(self) -> float:
        """The transition time that most modes have."""
        times = [m.fade_s for m in self.workbench.loaded.program.modes]
        return max(times, key=times.count, default=0.0)

    def _put_fade(self, seconds: float) -> None:
        bench = self.workbench
        words = f"all modes: transition time {plain(seconds)} s"
        bench.document.apply(with_fade(bench.loaded, seconds), words, merge="fade of all modes")

    def _show_switches(self) -> None:
        model = self.workbench.loaded
        used = mode_switches(model)
        known = [(c.name, c.label) for c in grid_axes(model)]
        names = [n for n in self._switches if any(n == k for k, _ in known)]
        if not names:
            names = [c.name for c in used[:2]] or [k for k, _ in known[:1]]
        self._switches = tuple(names)
        for box, data in ((self.down, [*known]), (self.across, [("", "nothing"), *known])):
            box.fill(data)
        self.down.setCurrentIndex(max(0, self.down.findData(names[0] if names else "")))
        self.across.setCurrentIndex(
            max(0, self.across.findData(names[1] if len(names) > 1 else ""))
        )

    def _choose(self) -> None:
        chosen = [self.down.currentData(), self.across.currentData()]
        self._switches = tuple(dict.fromkeys(n for n in chosen if n))
        self.refresh()

    def _make(self) -> None:
        clear(self._grid)
        self.cells.clear()
        model = self.workbench.loaded
        controls = [c for n in self._switches for c in grid_axes(model) if c.name == n]
        if controls and model.program.modes:
            first = controls[0]
            count = len(first.positions)
            for c, words in enumerate(controls[1].positions if len(controls) > 1 else ("",)):
                head = label(words, "faint", wrap=False)
                self._grid.addWidget(head, 0, c + 1)
            for i, words in enumerate(first.positions):  # as the switch is drawn
                at = 1 + model.transmitter.row_from_far(i, count)
                self._grid.addWidget(label(words, "faint", wrap=False), at, 0)
            for places in all_places(controls):
                key = tuple(places.values())
                button = CellButton()
                button.acts = partial(self._offer, key)
                self.cells[key] = button
                at = 1 + model.transmitter.row_from_far(key[0], count)
                self._grid.addWidget(button, at, key[1] + 1 if len(key) > 1 else 1)
            for c in range(1, self._grid.columnCount()):
                self._grid.setColumnStretch(c, 1)

    def _show_cell(self, button: CellButton, found: Cell) -> None:
        words = mode_label(self.workbench.loaded, found.mode)
        rule = "no rule: default mode" if found.fallen else found.rule
        button.say(words, rule, found.fallen, ", ".join(m for m, _ in found.before))
        before = "".join(f"\n{m} goes before it while {why}." for m, why in found.before)
        said = (
            f"{words}. "
            + (
                "No rule holds here, so the default mode is flown."
                if found.fallen
                else f"Its rule: {rule}."
            )
            + before
        )
        set_tip(button, said)
        places = next((p for p, b in self.cells.items() if b is button), ())
        where = self._where(places)
        button.setAccessibleName(f"{where}: {said}")

    def _where(self, places: tuple[int, ...]) -> str:
        said = []
        axes = {c.name: c for c in grid_axes(self.workbench.loaded)}
        for name, place in zip(self._switches, places, strict=True):
            joined = " at " if self.workbench.loaded.transmitter.control(name) is not None else " "
            said.append(f"{axes[name].label}{joined}{axes[name].positions[place]}")
        return ", ".join(said)

    def _light(self) -> None:
        """The place where the hands are is marked."""
        if not self.isVisible():
            return
        here = tuple(self._stands(n) for n in self._switches)
        for places, button in self.cells.items():
            button.mark(places == here)

    def _stands(self, name: str) -> int:
        """Where a switch stands now, or whether a condition holds."""
        live = self.workbench.state.live
        if name in live.controls:
            return int(live.controls[name])
        flags = live.result.logic.get(name) if live.result is not None else None
        return int(bool(flags[-1])) if flags is not None else 0

    # -- edits -----------------------------------------------------------------------------------

    def _offer(self, places: tuple[int, ...]) -> list[Act]:
        """The modes that may be flown at a place, and a new one."""
        modes = self.workbench.loaded.program.modes
        flown = self.cells[places].mode if places in self.cells else ""
        acts = [
            Act(m.label, partial(self.put, places, m.name), chosen=m.label == flown) for m in modes
        ]
        return [*acts, Act("A new mode here", partial(self.new_mode_at, places))]

    @while_there
    def new_mode_at(self, places: tuple[int, ...]) -> None:
        """A further mode, flown at a place of the grid."""
        bench, names = self.workbench, self._switches
        if places not in self.cells:
            raise GoneError
        called = self._name_of_place(places) or proposed_mode(bench.loaded)
        held = dict(zip(names, places, strict=True))
        words = f"mode {called} at {self._where(places)}"

        def make() -> None:
            before = {m.name for m in bench.loaded.program.modes}
            made = with_mode(bench.loaded, called)
            (name,) = {m.name for m in made.program.modes[:-1]} - before
            bench.document.apply(with_cell(made, names, held, name), words)

        if bench.notices.attempt(make):
            self.show_row(called)

    def _name_of_place(self, places: tuple[int, ...]) -> str:
        """What a new mode is called that is flown there: as a position that is called like a usual
        mode."""
        axes = {c.name: c for c in grid_axes(self.workbench.loaded)}
        taken = {m.label for m in self.workbench.loaded.program.modes}
        said = [axes[n].positions[p] for n, p in zip(self._switches, places, strict=True)]
        known = {name.casefold(): name for name in USUAL_MODES if name not in taken}
        found = [known[words.casefold()] for words in said if words.casefold() in known]
        return found[0] if found else ""

    @while_there
    def put(self, places: tuple[int, ...], mode: str) -> None:
        """Give a place of the grid another mode. A menu may outlive its place: then nothing is
        done."""
        bench, names = self.workbench, self._switches
        if places not in self.cells:
            raise GoneError
        the_named(bench.loaded.program.modes, mode)
        words = f"{mode_label(bench.loaded, mode)} at {self._where(places)}"
        held = dict(zip(names, places, strict=True))
        bench.notices.attempt(
            lambda: bench.document.apply(with_cell(bench.loaded, names, held, mode), words)
        )

    def add(self) -> None:
        """One more flight mode, before the default mode."""
        bench = self.workbench
        name = proposed_mode(bench.loaded)
        if bench.notices.attempt(
            lambda: bench.document.apply(with_mode(bench.loaded, name), f"add mode {name}")
        ):
            self.show_row(name)

    def show_row(self, words: str) -> None:
        """Bring the row of a mode into sight, its name ready to be typed."""
        made = next((r for r in self.rows if r.mode().label == words), None)
        page = page_of(self)
        if made is not None and page is not None:
            page.bring(made, made.title)
            made.title.selectAll()

    # -- dragging rows ---------------------------------------------------------------------------

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        data = event.mimeData() if event is not None else None
        if event is not None and data is not None and data.hasFormat(DRAGGED):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        data = event.mimeData() if event is not None else None
        if event is None or data is None:
            return
        name = bytes(data.data(DRAGGED).data()).decode()
        self.drop(name, event.position().toPoint())

    def drop(self, name: str, at: QPoint) -> None:
        """Put a mode before the row on which it was let go."""
        place = sum(r.geometry().center().y() < at.y() for r in self.rows if r.name != name)
        bench = self.workbench
        label_ = mode_label(bench.loaded, name)
        bench.notices.attempt(
            lambda: bench.document.apply(
                at_place(bench.loaded, name, place), f"{label_} as number {place + 1}"
            )
        )


class CellButton(MenuButton):
    """A place of the grid: the mode, and below it the rule that gives it."""

    def __init__(self) -> None:
        super().__init__()
        self.mode, self.rule, self.fallen, self.here, self.other = "", "", False, False, ""
        self.setObjectName("cell")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def say(self, mode: str, rule: str, fallen: bool, other: str = "") -> None:
        """What it gives, and why; ``other`` are modes that something else may put before it."""
        if (mode, rule, fallen, other) != (self.mode, self.rule, self.fallen, self.other):
            self.mode, self.rule, self.fallen, self.other = mode, rule, fallen, other
            self.update()

    def mark(self, here: bool) -> None:
        """Whether the hands are here."""
        if here != self.here:
            self.here = here
            self.update()

    def sizeHint(self) -> QSize:
        return QSize(look.px(84), look.px(58))

    def minimumSizeHint(self) -> QSize:
        return QSize(look.px(60), look.px(58))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        lit = self.hasFocus() or self.underMouse()
        marked = lit or self.here
        edge = "sea" if marked else "line"
        painter.setPen(QPen(look.colour("ink" if self.hasFocus() else edge), 2 if marked else 1))
        painter.setBrush(look.colour("sea_soft" if self.here else "field"))
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 5, 5)
        box = QRectF(self.rect()).adjusted(7, 4, -7, -4)
        for text, size, role, at in (
            (self.mode, 0.92, "ink", Qt.AlignmentFlag.AlignTop), (self.rule, 0.74, "faint", Qt.AlignmentFlag.AlignBottom),
        ):  # fmt: skip
            font = look.font(size, bold=size > 0.9)
            font.setItalic(self.fallen and size < 0.9)
            painter.setFont(font)
            painter.setPen(look.colour(role))
            wide = painter.fontMetrics().horizontalAdvance(text) if size > 0.9 else 0
            if self.other and size > 0.9:
                painter.setFont(look.font(0.7))
                painter.setPen(look.colour("faint"))
                rest = int(box.width()) - wide - 6
                also = painter.fontMetrics().elidedText(
                    f"or {self.other}", Qt.TextElideMode.ElideRight, max(0, rest)
                )
                if len(also) >= SHORTEST:  # shorter it says nothing; the tip has the whole
                    painter.drawText(box, Qt.AlignmentFlag.AlignRight | at, also)
                painter.setFont(font)
                painter.setPen(look.colour(role))
            if size > 0.9:
                said = painter.fontMetrics().elidedText(
                    text, Qt.TextElideMode.ElideRight, int(box.width())
                )
                painter.drawText(box, Qt.AlignmentFlag.AlignLeft | at, said)
            else:  # the rule has two lines: what is longer ends in the tip
                lines = _two_lines(painter.fontMetrics(), text, int(box.width()))
                painter.drawText(box, Qt.AlignmentFlag.AlignLeft | at, lines)


def _two_lines(metrics: QFontMetrics, text: str, wide: int) -> str:
    """A text in two lines at the most, the second ending in an ellipsis where it is longer."""
    words = text.split()
    first = ""
    while words and metrics.horizontalAdvance(f"{first} {words[0]}".strip()) <= wide:
        first = f"{first} {words.pop(0)}".strip()
    rest = metrics.elidedText(" ".join(words), Qt.TextElideMode.ElideRight, wide)
    return "\n".join(line for line in (first, rest) if line)
