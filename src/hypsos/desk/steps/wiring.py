"""Plug in the leads: which lead in which port, and what its output does on the way."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QCheckBox, QComboBox, QGridLayout, QLabel, QPushButton, QWidget

from hypsos.core.document import Model
from hypsos.core.errors import HypsosError
from hypsos.core.wiring import Lead
from hypsos.desk.steps.base import StepPage
from hypsos.desk.theme.look import look
from hypsos.desk.widgets.layout import card, caution, clear, label, row
from hypsos.desk.widgets.number import NumberField
from hypsos.desk.workbench import Workbench

OUTPUT_ROWS: tuple[tuple[str, str, tuple[tuple[str, tuple[float, float]], ...]], ...] = (
    ("Centre", "%", (("centre", (-50.0, 50.0)),)),
    ("Travel", "%", (("travel_neg", (0.0, 150.0)), ("travel_pos", (0.0, 150.0)))),
    ("End stop", "%", (("stop_neg", (-150.0, 0.0)), ("stop_pos", (0.0, 150.0)))),
    ("Slow", "s", (("slow_down_s", (0.0, 60.0)), ("slow_up_s", (0.0, 60.0)))),
)
SIDES = ("short side", "long side")


class ReceiverPicture(QWidget):
    """The receiver from above: its ports with what is plugged in."""

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self.workbench = workbench
        workbench.model_changed.connect(self.update)
        look.follow(self, self.updateGeometry)
        self.setAccessibleName("Receiver")

    def sizeHint(self) -> QSize:
        return QSize(look.px(400), look.px(108))

    def minimumSizeHint(self) -> QSize:
        return QSize(look.px(240), look.px(108))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        model = self.workbench.model
        if model is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        case = QRectF(1, 1, self.width() - 2, self.height() - 2)
        painter.setPen(QPen(look.colour("edge"), 1.2))
        painter.setBrush(look.colour("field"))
        painter.drawRoundedRect(case, 8, 8)
        ports = model.receiver.ports
        wide = (self.width() - look.px(16)) / ports
        holds = {x.port: x for x in model.leads if x.port is not None}
        for port in range(1, ports + 1):
            box = QRectF(look.px(8) + (port - 1) * wide + 2, look.px(24), wide - 4, look.px(76))
            lead = holds.get(port)
            painter.setPen(QPen(look.colour("edge"), 1))
            painter.setBrush(look.colour("sea_soft" if lead else "paper"))
            painter.drawRoundedRect(box, 4, 4)
            painter.setPen(look.colour("faint"))
            painter.setFont(look.font(0.8, bold=True))
            painter.drawText(
                QRectF(box.left(), look.px(5), box.width(), look.px(17)), Qt.AlignmentFlag.AlignCenter, str(port)
            )
            if lead is None:
                painter.drawText(box, Qt.AlignmentFlag.AlignCenter, "free" if wide > look.px(36) else "")
                continue
            painter.setPen(look.colour("ink"))
            painter.setFont(look.font(0.74))
            flags = int(Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap)
            painter.save()
            painter.translate(box.center())
            room = QRectF(-box.width() / 2, -box.height() / 2, box.width(), box.height())
            if box.width() < look.px(46):
                painter.rotate(-90)
                room = QRectF(-box.height() / 2, -box.width() / 2, box.height(), box.width())
            painter.drawText(room.adjusted(1, 1, -1, -1), flags, short_label(lead.label))
            painter.restore()


def short_label(text: str) -> str:
    """As people write it on a lead: L and R for left and right.

    >>> short_label("Left flaperon")
    'L flaperon'
    """
    return text.replace("Left ", "L ").replace("Right ", "R ")


class WiringPage(StepPage):
    """A row for each lead; the chosen one's output stage underneath."""

    key = "wiring"
    lead_in = "Which servo lead sits in which receiver port. Label both ends of each lead, left and right."

    def build(self) -> None:
        self.chosen: str | None = None
        self._rows: dict[str, QComboBox] = {}
        self._complaints: dict[str, QLabel] = {}
        self._built: object = None
        self.column.addWidget(
            caution("Propeller off before the flight battery goes on. Signal, plus, minus: check each plug.")
        )
        self.ports = NumberField(
            "Ports of the receiver", lambda: self._model().receiver.ports, self._set_ports, unit="", bounds=(1, 32), digits=0,
            width=48,
        )  # fmt: skip
        self.number = NumberField(
            "Receiver number", lambda: self._model().receiver.number, self._set_number, unit="", bounds=(0, 255), digits=0,
            width=56,
        )  # fmt: skip
        self.fill = QPushButton("Plug in the rest in order")
        self.fill.clicked.connect(self.plug_rest)
        self.picture = ReceiverPicture(self.workbench)
        head = row("Ports", self.ports, "Receiver number", self.number, None)
        self._grid_box = QWidget()
        self._grid = QGridLayout(self._grid_box)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setHorizontalSpacing(8)
        self._grid.setVerticalSpacing(5)
        self.column.addWidget(card(head, self.picture, self._grid_box, row(self.fill, None)))
        self._detail_box = QWidget()
        self._detail = QGridLayout(self._detail_box)
        self._detail.setContentsMargins(0, 0, 0, 0)
        self._detail_title = label("", "section")
        self._fields: list[NumberField] = []
        note = label("The short side is towards shorter pulses. Slow: seconds for 100 %, towards that side.", "faint")
        self.column.addWidget(card(self._detail_title, self._detail_box, note))

    def _model(self) -> Model:
        assert self.workbench.model is not None
        return self.workbench.model

    def _index(self, name: str) -> int:
        return [x.name for x in self._model().leads].index(name)

    def _lead(self, name: str) -> Lead:
        lead: Lead = self._model().leads[self._index(name)]
        return lead

    # -- rows -------------------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        model = self._model()
        shape = (tuple((x.name, x.label) for x in model.leads), model.receiver.ports)
        if shape != self._built:
            self._built = shape
            self._make_rows()
        for lead in model.leads:
            box = self._rows[lead.name]
            for port in range(1, model.receiver.ports + 1):
                holder = next((x.label for x in model.leads if x.port == port and x.name != lead.name), None)
                box.setItemText(port, f"{port}   {short_label(holder)}" if holder else f"{port}")
            box.setCurrentIndex(lead.port or 0)
        self.ports.refresh()
        self.number.refresh()
        self.fill.setEnabled(any(x.port is None for x in model.leads))
        if self.chosen not in [x.name for x in model.leads]:
            self.chosen = model.leads[0].name if model.leads else None
            self._make_detail()
        for field in self._fields:
            field.refresh()
        self._sync_reverse()

    def _make_rows(self) -> None:
        clear(self._grid)
        self._rows.clear()
        self._complaints.clear()
        for i, lead in enumerate(self._model().leads):
            box = QComboBox()
            box.setAccessibleName(f"Port of {lead.label}")
            box.addItems(["not plugged in", *(str(n) for n in range(1, self._model().receiver.ports + 1))])
            box.setMinimumWidth(look.px(150))
            box.activated.connect(lambda port, name=lead.name: self.plug(name, port or None))
            complaint = label("", "complaint")
            complaint.hide()
            more = QPushButton("Output…")
            more.setObjectName("plain")
            more.setAccessibleName(f"Output of {lead.label}")
            more.clicked.connect(lambda _=False, name=lead.name: self.choose(name))
            self._grid.addWidget(label(lead.label, wrap=False), 2 * i, 0)
            self._grid.addWidget(box, 2 * i, 1)
            self._grid.addWidget(more, 2 * i, 2)
            self._grid.addWidget(complaint, 2 * i + 1, 0, 1, 3)
            self._rows[lead.name] = box
            self._complaints[lead.name] = complaint
        self._grid.setColumnStretch(2, 1)

    def plug(self, name: str, port: int | None) -> None:
        """Plug a lead into a port, or unplug it; a taken port is refused where it stands."""
        lead = self._lead(name)
        complaint = self._complaints[name]
        words = f"{lead.label} in port {port}" if port else f"{lead.label} unplugged"
        try:
            self.workbench.edit(f"leads[{self._index(name)}].port", port, words)
            complaint.hide()
        except HypsosError as error:
            complaint.setText(f"{error.what[:1].upper()}{error.what[1:]}. {error.remedy}")
            complaint.show()
        self.refresh()

    def plug_rest(self) -> None:
        """Plug every lead that is still loose into the free ports, in order."""
        model = self._model()
        taken = {x.port for x in model.leads}
        free = [p for p in range(1, model.receiver.ports + 1) if p not in taken]
        leads = []
        for lead in model.leads:
            leads.append(lead if lead.port or not free else lead.model_copy(update={"port": free.pop(0)}))
        self.workbench.attempt(lambda: self.workbench.edit("leads", tuple(leads), "leads in order"))

    def _set_ports(self, value: float) -> None:
        self.workbench.edit("receiver.ports", int(value), f"receiver with {int(value)} ports")

    def _set_number(self, value: float) -> None:
        self.workbench.edit("receiver.number", int(value), f"receiver number {int(value)}", merge="receiver number")

    # -- the output stage -------------------------------------------------------------------------------------------

    def choose(self, name: str) -> None:
        """Show the output stage of a lead."""
        self.chosen = name
        self._make_detail()
        self.workbench.choose(self._lead(name).target)
        self.ensureWidgetVisible(self._detail_box)

    def show_place(self, path: str) -> None:
        for i, lead in enumerate(self._model().leads):
            if path.startswith(f"leads[{i}]"):
                self.choose(lead.name)

    def _make_detail(self) -> None:
        clear(self._detail)
        self._fields.clear()
        if self.chosen is None:
            return
        name = self.chosen
        self._detail_title.setText(f"Output of {self._lead(name).label}")
        self.reverse = QCheckBox("Reversed")
        self.reverse.setToolTip("Reversing belongs here: mixes, trims and failsafe stay independent of it.")
        self.reverse.clicked.connect(self._set_reverse)
        self._detail.addWidget(self.reverse, 0, 0, 1, 2)
        for c, words in enumerate(SIDES):
            self._detail.addWidget(label(words, "faint", wrap=False), 1, c + 1)
        for r, (words, unit, fields) in enumerate(OUTPUT_ROWS):
            self._detail.addWidget(label(words, wrap=False), r + 2, 0)
            for c, (field, bounds) in enumerate(fields):
                side = f", {SIDES[c]}" if len(fields) > 1 else ""
                number = NumberField(
                    f"{words}{side} of {self._lead(name).label}",
                    lambda field=field: getattr(self._lead(name), field),
                    lambda value, field=field, said=f"{words}{side}": self._put(field, said, value),
                    unit=unit,
                    bounds=bounds,
                    step=0.1 if unit == "s" else 1.0,
                )
                self._detail.addWidget(number, r + 2, c + 1)
                self._fields.append(number)
        self._detail.setColumnStretch(3, 1)
        self._sync_reverse()

    def _sync_reverse(self) -> None:
        if self.chosen is not None:
            self.reverse.setChecked(self._lead(self.chosen).direction < 0)

    def _put(self, field: str, words: str, value: float) -> None:
        assert self.chosen is not None
        lead = self._lead(self.chosen)
        said = f"{lead.label}: {words.lower()} {value:g}"
        self.workbench.edit(f"leads[{self._index(lead.name)}].{field}", value, said, merge=f"{lead.name} {field}")

    def _set_reverse(self, on: bool) -> None:
        assert self.chosen is not None
        lead = self._lead(self.chosen)
        said = f"{lead.label} {'reversed' if on else 'not reversed'}"
        path = f"leads[{self._index(lead.name)}].direction"
        self.workbench.attempt(lambda: self.workbench.edit(path, -1 if on else 1, said))
