# SPDX-License-Identifier: GPL-3.0-or-later
"""Streams: every mix from the hands to the surfaces, drawn, found by name, added by drawing or by
two names, and edited."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QFrame, QListWidget, QListWidgetItem, QPushButton, QVBoxLayout, QWidget

from hypsos.core.base.errors import HypsosError
from hypsos.core.base.figure_words import number
from hypsos.core.edits.mix_words import mix_words
from hypsos.core.edits.plain_mixes import ends, sources, with_mix
from hypsos.core.explain.mix_streams import Key, Stream, carried, net, targets
from hypsos.core.parts.airframe import Motor
from hypsos.core.wording.words import side_percent
from hypsos.desk.cards.mix_editor import MixEditor
from hypsos.desk.services.workbench import Workbench
from hypsos.desk.widgets.fields import ChoiceBox, TextField
from hypsos.desk.widgets.flow_layout import flowing
from hypsos.desk.widgets.page_layout import card, clear, label, row, worded
from hypsos.desk.widgets.stream_canvas import StreamCanvas

KNOWN = Qt.ItemDataRole.UserRole + 1
"""What an entry of the list was made of."""


class StreamView(QWidget):
    """The picture, the list to find in, the stream at hand. Signals a path whose place is on
    another view."""

    path_wanted = pyqtSignal(str)

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self.workbench = workbench
        self._shown_for: object = None
        self.editor: MixEditor | None = None
        self.canvas = StreamCanvas()
        self.canvas.amount_words = self._amount_words
        self.canvas.picked.connect(self.pick)
        self.canvas.node_picked.connect(self.pick_node)
        self.canvas.drawn.connect(self.add)
        self.search = TextField("Find a stream by name", 60)
        self.search.setPlaceholderText("Find by name")
        self.search.textChanged.connect(self._found)
        self.list = QListWidget()
        self.list.setAccessibleName("All streams, in words")
        self.list.currentItemChanged.connect(self._listed)
        self.list.setMaximumHeight(150)
        self.list.setWordWrap(True)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.source, self.target = ChoiceBox(), ChoiceBox()
        self.source.setAccessibleName("New stream from")
        self.target.setAccessibleName("New stream to")
        for box in (self.source, self.target):
            box.setEditable(True)
            box.setInsertPolicy(ChoiceBox.InsertPolicy.NoInsert)
            box.setSizeAdjustPolicy(
                ChoiceBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon
            )
            box.setMinimumContentsLength(13)
        self.new = QPushButton("Add it")
        self.new.clicked.connect(self._add_named)
        self.complaint = label("", "complaint")
        self.complaint.hide()
        self.now = label("", "faint")
        self._place = QVBoxLayout()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(7)
        about = "As wide as what flows now: sea-green goes down or right, ochre up or left; a thread is asleep. Move a stick."
        column.addWidget(label(about, "faint"))
        column.addWidget(self.canvas)
        column.addWidget(self.now)
        column.addLayout(self._place)
        column.addWidget(
            card(
                row(label("A new stream", "section", wrap=False), None, self.new),
                flowing("from", self.source, "to", self.target),
                self.complaint,
            )
        )
        column.addWidget(
            card(row(label("In words", "section", wrap=False), None, self.search), self.list)
        )
        workbench.simulation.live_changed.connect(self._flow)

    # -- showing ---------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show the model as it is now."""
        model = self.workbench.loaded
        if self._shown_for is not model:
            self._shown_for = model
            self.canvas.show_net(net(model))
            self.source.fill(sources(model))
            self.target.fill(ends(model))
            self._fill_list()
            known = {s.key for s in self.canvas.net.streams}
            if self.canvas.chosen is not None and self.canvas.chosen not in known:
                self.pick(None)
        self.workbench.simulation.explain_all(targets(model) if self.isVisible() else ())
        if self.editor is not None:
            self.editor.refresh()
        self._flow()

    def showEvent(self, event: object) -> None:
        super().showEvent(event)  # type: ignore[arg-type]
        if self.workbench.model is not None:
            self.workbench.simulation.explain_all(targets(self.workbench.model))

    def hideEvent(self, event: object) -> None:
        super().hideEvent(event)  # type: ignore[arg-type]
        self.workbench.simulation.explain_all(())

    def _flow(self) -> None:
        """What flows now."""
        result, model = self.workbench.state.live.result, self.workbench.model
        if not self.isVisible() or result is None or model is None or self._shown_for is not model:
            return
        carries = carried(result)
        parts = {p.name: p for p in model.airframe.moved()}
        stands = {}
        for name, part in parts.items():
            if name in result.sums:
                value = float(result.sums[name].ravel()[-1])
                stands[name] = (
                    f"{number((value + 100) / 2)} % power"
                    if isinstance(part, Motor)
                    else side_percent(part, value)
                )
        self.canvas.show_now(carries, stands)
        chosen = self.canvas.chosen
        if chosen is not None:
            self.now.setText(f"It gives {self._amount_words(chosen)} now.")
        self.now.setVisible(chosen is not None)

    def _amount_words(self, key: Key) -> str:
        """What a stream gives its target now."""
        value = self.canvas.carries.get(key, 0.0)
        parts = {p.name: p for p in self.workbench.loaded.airframe.moved()}
        moved = parts.get(key[0])
        if moved is None or isinstance(moved, Motor):
            return f"{number(value, 1)} %"
        return side_percent(moved, value, 1)

    def _fill_list(self) -> None:
        model, chosen = self.workbench.loaded, self.canvas.chosen
        streams = self.canvas.net.streams
        self.list.blockSignals(True)
        while self.list.count() > len(streams):
            self.list.takeItem(self.list.count() - 1)
        for i, s in enumerate(streams):
            item = self.list.item(i)
            if item is None:
                item = QListWidgetItem()
                self.list.addItem(item)
            known = (s.key, tuple(p.line for p in s.lines))
            if item.data(KNOWN) != known:
                what, value = mix_words(model, s.lines[0].line, s.origin)
                item.setData(KNOWN, known)
                item.setData(Qt.ItemDataRole.UserRole, s.key)
                item.setText(f"{s.name}: {what}, {value}" if value else f"{s.name}: {what}")
            if s.key == chosen and self.list.currentRow() != i:
                self.list.setCurrentItem(item)
        self.list.blockSignals(False)
        self._found()

    def _found(self) -> None:
        """Only what has the words in it is listed, and lit in the picture."""
        words = self.search.text().strip().lower().split()
        keys = []
        for i in range(self.list.count()):
            item = self.list.item(i)
            if item is not None:
                fits = all(w in item.text().lower() for w in words)
                item.setHidden(not fits)
                if fits:
                    keys.append(item.data(Qt.ItemDataRole.UserRole))
        if words:
            self.canvas.lit, self.canvas._still = frozenset(keys), None
            self.canvas.update()

    def _listed(self, item: QListWidgetItem | None) -> None:
        if item is not None:
            self.pick(item.data(Qt.ItemDataRole.UserRole))

    # -- picking ---------------------------------------------------------------------------------

    def stream(self, key: Key | None) -> Stream | None:
        """A stream by its key."""
        return next((s for s in self.canvas.net.streams if s.key == key), None)

    def pick(self, key: Key | None) -> None:
        """Take a stream at hand."""
        found = self.stream(key)
        self.canvas.pick(found.key if found is not None else None)
        clear(self._place)
        self.editor = None
        if found is None:
            self.now.hide()
            return
        if found.mix >= 0:
            self.editor = MixEditor(self.workbench, found.mix, self)
            self._place.addWidget(self.editor)
        else:
            self._place.addWidget(self._of_behaviour(found))
        self._flow()

    def pick_node(self, name: str) -> None:
        """Light up all that reaches a surface, and all that comes from a hand."""
        clear(self._place)
        self.editor = None
        self.canvas.pick_node(name)
        self.now.hide()
        if any(p.name == name for p in self.workbench.loaded.airframe.moved()):
            self.workbench.simulation.choose(name)

    def _of_behaviour(self, found: Stream) -> QFrame:
        """A stream that a behaviour makes: what it is, and where it is set."""
        model = self.workbench.loaded
        said = [": ".join(x for x in mix_words(model, p.line) if x) for p in found.lines]
        button = QPushButton(worded(f"Set it in {found.origin}"))
        button.clicked.connect(lambda: self.path_wanted.emit(found.lines[0].path))
        return card(
            label(found.name, "section"),
            label("\n".join(dict.fromkeys(said)), "faint"),
            row(button, None),
        )

    def show_place(self, path: str) -> None:
        """Take the stream at hand whose number stands at a path."""
        found = next(
            (s for s in self.canvas.net.streams if path.startswith(s.key[1].rsplit(".", 1)[0])),
            None,
        )
        if found is not None:
            self.pick(found.key)

    # -- adding ----------------------------------------------------------------------------------

    def _add_named(self) -> None:
        ends_ = []
        for box in (self.source, self.target):
            text = box.currentText().strip().lower()
            at = next((i for i in range(box.count()) if box.itemText(i).lower() == text), -1)
            if at < 0:
                self._complain(
                    f"There is nothing called {box.currentText()}. Choose a name from the list."
                )
                return
            ends_.append(box.itemData(at))
        self.add(*ends_)

    def add(self, source: str, target: str) -> None:
        """A new stream between two places; it begins small, on a motor with nothing."""
        model = self.workbench.loaded
        if target not in dict(ends(model)):
            self._complain("A stream ends at a surface, a motor or a signal, not at a hand.")
            return
        words = (
            f"stream from {dict(sources(model)).get(source, source)} to {dict(ends(model))[target]}"
        )
        try:
            self.workbench.document.apply(with_mix(model, source, target), words)
        except HypsosError as error:
            self._complain(error.plain)
            return
        self._complain("")
        self.refresh()
        self.pick(self.canvas.net.streams[-1].key)

    def _complain(self, why: str) -> None:
        self.complaint.setText(why)
        self.complaint.setVisible(bool(why))
