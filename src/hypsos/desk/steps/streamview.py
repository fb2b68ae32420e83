"""Streams: every mix from the hands to the surfaces, drawn, found by name, added by drawing or by two names, and edited."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QCheckBox, QFrame, QListWidget, QListWidgetItem, QPushButton, QVBoxLayout, QWidget

from hypsos.core.flight.streams import Key, Stream, carried, net, targets
from hypsos.core.ground.errors import HypsosError
from hypsos.core.model.choosing import Place
from hypsos.core.model.mix_words import mix_words
from hypsos.core.model.mixes import ends, moved, order_matters, other_side, sources, with_mix, without_mix
from hypsos.core.model.words import number, plain, side_percent
from hypsos.core.parts.airframe import Motor
from hypsos.core.parts.shapes import MixLine, Response
from hypsos.desk.widgets.fields import Choice, TextField
from hypsos.desk.widgets.flow import flowing
from hypsos.desk.widgets.layout import card, clear, label, row, worded
from hypsos.desk.widgets.number import NumberField
from hypsos.desk.widgets.responseedit import ResponseEdit
from hypsos.desk.widgets.streamcanvas import StreamCanvas
from hypsos.desk.widgets.whenline import WhenLine
from hypsos.desk.workbench import Workbench

KNOWN = Qt.ItemDataRole.UserRole + 1
"""What an entry of the list was made of."""
COMBINED = (("add", "is added"), ("replace", "replaces what comes before it"), ("scale", "scales what comes before it"))


class StreamView(QWidget):
    """The picture, the list to find in, the stream at hand. Signals a path whose place is on another view."""

    path_wanted = pyqtSignal(str)

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self.workbench = workbench
        self._shown_for: object = None
        self.editor: MixEditor | None = None
        self.canvas = StreamCanvas()
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
        self.source, self.target = Choice(), Choice()
        self.source.setAccessibleName("New stream from")
        self.target.setAccessibleName("New stream to")
        for box in (self.source, self.target):
            box.setEditable(True)
            box.setInsertPolicy(Choice.InsertPolicy.NoInsert)
            box.setSizeAdjustPolicy(Choice.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
            box.setMinimumContentsLength(8)
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
        column.addWidget(card(row(label("In words", "section", wrap=False), None, self.search), self.list))
        workbench.live_changed.connect(self._flow)

    # -- showing ----------------------------------------------------------------------------------------------------

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
        self.workbench.explain_all(targets(model) if self.isVisible() else ())
        if self.editor is not None:
            self.editor.refresh()
        self._flow()

    def showEvent(self, event: object) -> None:
        super().showEvent(event)  # type: ignore[arg-type]
        if self.workbench.model is not None:
            self.workbench.explain_all(targets(self.workbench.model))

    def hideEvent(self, event: object) -> None:
        super().hideEvent(event)  # type: ignore[arg-type]
        self.workbench.explain_all(())

    def _flow(self) -> None:
        """What flows now."""
        result, model = self.workbench.live.result, self.workbench.model
        if not self.isVisible() or result is None or model is None or self._shown_for is not model:
            return
        carries = carried(result)
        parts = {p.name: p for p in model.airframe.moved()}
        stands = {}
        for name, part in parts.items():
            if name in result.sums:
                value = float(result.sums[name].ravel()[-1])
                stands[name] = (
                    f"{number((value + 100) / 2)} % power" if isinstance(part, Motor) else side_percent(part, value)
                )
        self.canvas.show_now(carries, stands)
        chosen = self.canvas.chosen
        if chosen is not None:
            moved = parts.get(chosen[0])
            value = carries.get(chosen, 0.0)
            said = f"{number(value, 1)} %"
            if moved is not None and not isinstance(moved, Motor):
                said = side_percent(moved, value, 1)
            self.now.setText(f"It gives {said} now.")
        self.now.setVisible(chosen is not None)

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

    # -- picking ----------------------------------------------------------------------------------------------------

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
            self.workbench.choose(name)

    def _of_behaviour(self, found: Stream) -> QFrame:
        """A stream that a behaviour makes: what it is, and where it is set."""
        model = self.workbench.loaded
        said = [": ".join(x for x in mix_words(model, p.line) if x) for p in found.lines]
        button = QPushButton(worded(f"Set it in {found.origin}"))
        button.clicked.connect(lambda: self.path_wanted.emit(found.lines[0].path))
        return card(label(found.name, "section"), label("\n".join(dict.fromkeys(said)), "faint"), row(button, None))

    def show_place(self, path: str) -> None:
        """Take the stream at hand whose number stands at a path."""
        found = next((s for s in self.canvas.net.streams if path.startswith(s.key[1].rsplit(".", 1)[0])), None)
        if found is not None:
            self.pick(found.key)

    # -- adding -----------------------------------------------------------------------------------------------------

    def _add_named(self) -> None:
        ends_ = []
        for box in (self.source, self.target):
            text = box.currentText().strip().lower()
            at = next((i for i in range(box.count()) if box.itemText(i).lower() == text), -1)
            if at < 0:
                self._complain(f"There is nothing called {box.currentText()}. Choose a name from the list.")
                return
            ends_.append(box.itemData(at))
        self.add(*ends_)

    def add(self, source: str, target: str) -> None:
        """A new stream between two places; it begins small, on a motor with nothing."""
        model = self.workbench.loaded
        if target not in dict(ends(model)):
            self._complain("A stream ends at a surface, a motor or a signal, not at a hand.")
            return
        words = f"stream from {dict(sources(model)).get(source, source)} to {dict(ends(model))[target]}"
        try:
            self.workbench.apply(with_mix(model, source, target), words)
        except HypsosError as error:
            self._complain(error.plain)
            return
        self._complain("")
        self.refresh()
        self.pick(self.canvas.net.streams[-1].key)

    def _complain(self, why: str) -> None:
        self.complaint.setText(why)
        self.complaint.setVisible(bool(why))


class MixEditor(QFrame):
    """All of one plain mix."""

    def __init__(self, workbench: Workbench, index: int, view: StreamView) -> None:
        super().__init__()
        self.workbench, self.index, self.view = workbench, index, view
        self.setObjectName("card")
        mix = self.mix()
        self.name = TextField("Name of the stream", 60)
        self.name.editingFinished.connect(self._rename)
        self.source, self.target, self.combine, self.shared = Choice(), Choice(), Choice(), Choice()
        for box, words, field in (
            (self.source, "From", "source"), (self.target, "To", "target"), (self.combine, "How it joins", "combine"),
            (self.shared, "Times the shared value", "gain_from"),
        ):  # fmt: skip
            box.setAccessibleName(f"{mix.name}: {words.lower()}")
            box.setSizeAdjustPolicy(Choice.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
            box.setMinimumContentsLength(11)
            box.activated.connect(
                lambda k, b=box, f=field, w=words: self._put(f, b.itemData(k), f"{w.lower()} {b.itemText(k)}")
            )
        self.gain = self._number("gain", "gain", (-500, 500))
        self.differential = self._number("differential", "differential", (-100, 100))
        self.in_s = self._number("in_s", "comes in over", (0, 60), "s")
        self.out_s = self._number("out_s", "goes out over", (0, 60), "s")
        self.trim = QCheckBox("Trims move it too")
        self.trim.clicked.connect(lambda on: self._put("with_trim", on, "with trim" if on else "without trim"))
        self.when = WhenLine(workbench, Place(self._path("when"), always=True), lambda: self.mix().name)
        self.response = ResponseEdit(
            workbench, mix.name, lambda: self.mix().response, self._put_response, self._present
        )
        self.over = QPushButton("The same on the other side")
        self.over.clicked.connect(self._over)
        self.remove = QPushButton("Remove")
        self.remove.clicked.connect(self._remove)
        self.order = label("", "faint")
        self.before, self.behind = QPushButton("Earlier"), QPushButton("Later")
        self.before.clicked.connect(lambda: self._move(-1))
        self.behind.clicked.connect(lambda: self._move(1))
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 9, 12, 10)
        column.setSpacing(6)
        for part in (
            row("Called", self.name), flowing("From", self.source, "to", self.target),
            flowing("Gain", self.gain, "times", self.shared), self.when, self.response,
            row("Less on one side", self.differential, None),
            flowing("Comes in over", self.in_s, "goes out over", self.out_s), row(self.trim, None), row("It", self.combine, None),
            label("A servo that runs the wrong way is reversed at its output; a minus here turns the mix itself.", "faint"),
            self.order, row(self.before, self.behind, None), flowing(self.over, self.remove),
        ):  # fmt: skip
            column.addWidget(part) if isinstance(part, QWidget) else column.addLayout(part)
        self.refresh()

    def mix(self) -> MixLine:
        """The mix as it is now."""
        return self.workbench.loaded.program.mixes[self.index]

    def _path(self, field: str) -> str:
        return f"program.mixes[{self.index}].{field}"

    def _number(self, field: str, words: str, bounds: tuple[float, float], unit: str = "%") -> NumberField:
        def put(value: float) -> None:
            path = self._path(field)
            self.workbench.edit(path, value, f"{self.mix().name}: {words} {plain(value)} {unit}", merge=path)

        step = 0.1 if unit == "s" else 1.0
        return NumberField(
            f"{self.mix().name}: {words}", lambda: getattr(self.mix(), field), put, unit=unit, bounds=bounds, step=step
        )

    def _present(self) -> float | None:
        """What it reads now, in percent."""
        result, source = self.workbench.live.result, self.mix().source
        if result is None:
            return None
        for table in (result.commands, result.sums):
            if source in table:
                return float(table[source].ravel()[-1])
        control = self.workbench.loaded.transmitter.control(source)
        if control is not None and control.is_switch:
            return None
        return self.workbench.live.controls.get(source)

    def refresh(self) -> None:
        """Show it as it is now."""
        if self.index >= len(self.workbench.loaded.program.mixes):
            return
        mix, model = self.mix(), self.workbench.loaded
        if not self.name.isModified():
            self.name.setText(mix.name)
        for box, known, value in (
            (self.source, sources(model), mix.source), (self.target, ends(model), mix.target),
            (self.combine, list(COMBINED), mix.combine),
            (self.shared, [(None, "nothing else"), *((x.name, x.label) for x in model.program.tunables)], mix.gain_from),
        ):  # fmt: skip
            box.fill(known)
            box.choose(value)
        for field in (self.gain, self.differential, self.in_s, self.out_s):
            field.refresh()
        self.trim.setChecked(mix.with_trim)
        self.trim.setVisible(any(a.command == mix.source and a.trim is not None for a in model.program.axes))
        self.when.refresh()
        self.response.refresh()
        matters = order_matters(model, mix.target)
        self.order.setText("Its place among the streams of this part matters, for one of them replaces or scales.")
        for widget in (self.order, self.before, self.behind):
            widget.setVisible(matters)
        self.over.setVisible(model.airframe.other_side(mix.target) is not None)

    # -- edits ------------------------------------------------------------------------------------------------------

    def _put(self, field: str, value: object, words: str) -> None:
        name = self.mix().name
        done = self.workbench.attempt(lambda: self.workbench.edit(self._path(field), value, f"{name}: {words}"))
        if done and field == "target":
            self.view.refresh()
            found = next((s for s in self.view.canvas.net.streams if s.mix == self.index), None)
            self.view.pick(found.key if found is not None else None)
        elif not done:
            self.refresh()

    def _put_response(self, response: Response | None, words: str, merge: str) -> None:
        self.workbench.edit(self._path("response"), response, words, merge=merge)

    def _rename(self) -> None:
        text = self.name.text().strip()
        if not self.name.isModified() or text == self.mix().name:
            return
        if not self.workbench.attempt(lambda: self.workbench.edit(self._path("name"), text, f"called {text}")):
            self.name.setText(self.mix().name)
            return
        self.view.refresh()
        found = next((s for s in self.view.canvas.net.streams if s.mix == self.index), None)
        self.view.pick(found.key if found is not None else None)

    def _over(self) -> None:
        bench, words = self.workbench, f"{self.mix().name} on the other side"
        bench.attempt(lambda: bench.apply(other_side(bench.loaded, self.index), words))

    def _move(self, by: int) -> None:
        bench, words = self.workbench, f"{self.mix().name} {'earlier' if by < 0 else 'later'}"
        bench.attempt(lambda: bench.apply(moved(bench.loaded, self.index, by), words))

    def _remove(self) -> None:
        bench, words = self.workbench, f"without {self.mix().name}"
        if bench.attempt(lambda: bench.apply(without_mix(bench.loaded, self.index), words)):
            self.view.pick(None)
            self.view.refresh()
