# SPDX-License-Identifier: GPL-3.0-or-later
"""Fly and log: a flight with date, place, wind, battery, minutes, trims in clicks, a remark."""

from __future__ import annotations

import datetime
import json
from contextlib import suppress
from typing import Any

from PyQt6.QtCore import QDate, QTimer
from PyQt6.QtWidgets import QGridLayout, QLayout, QPushButton, QVBoxLayout, QWidget

from hypsos.core.base.errors import HypsosError
from hypsos.core.document.document import checked
from hypsos.core.document.logbook import Flight, trim_words
from hypsos.core.edits.trim_clicks import with_trims_at
from hypsos.desk.cards.preflight_card import BeforeCard
from hypsos.desk.pages.step_page import StepPage
from hypsos.desk.theme.look import look
from hypsos.desk.widgets.fields import DateField, NoteField, TextField
from hypsos.desk.widgets.flow_layout import flowing
from hypsos.desk.widgets.number_field import NumberField
from hypsos.desk.widgets.page_layout import card, caution, clear, label, row

DRAFT_PAUSE_MS = 400
"""After so long without a letter what is typed is kept."""
TEXTS = (("place", "Place"), ("wind", "Wind"), ("battery", "Battery"))


class LogPage(StepPage):
    """A form for the next flight, and the flights so far."""

    key = "log"

    def build(self) -> None:
        self.column.addWidget(
            caution(
                "Local and club rules come first. What you see here is computed from what was entered, not measured on the "
                "aeroplane."
            )
        )
        self.date = DateField(QDate.currentDate())
        self.date.setDateRange(QDate(1950, 1, 1), QDate.currentDate().addDays(1))
        self.date.setDisplayFormat("yyyy-MM-dd")
        self.date.setAccessibleName("Date")
        self._minutes = 0.0
        self._trims: dict[str, int] = {}
        self.minutes = NumberField(
            "Minutes", lambda: self._minutes, self._set_minutes, "min", (0, 1440)
        )
        self.texts = {key: TextField() for key, _ in TEXTS}
        grid = QGridLayout()
        grid.setVerticalSpacing(6)
        grid.setColumnStretch(2, 1)
        grid.addWidget(label("Date", wrap=False), 0, 0)
        grid.addWidget(self.date, 0, 1)
        grid.addWidget(label("Minutes", wrap=False), 1, 0)
        grid.addWidget(self.minutes, 1, 1)
        for i, (key, words) in enumerate(TEXTS):
            self.texts[key].setAccessibleName(words)
            self.texts[key].setMaxLength(80)
            grid.addWidget(label(words, wrap=False), i + 2, 0)
            grid.addWidget(self.texts[key], i + 2, 1, 1, 2)
        self.remark = NoteField("Remark")
        self.remark.setPlaceholderText("What it did, what you would change.")
        look.hold(self.remark, height=56)
        self.trims: dict[str, NumberField] = {}
        line = QGridLayout()
        for axis, senses in (
            ("roll", ("left", "right")),
            ("pitch", ("down", "up")),
            ("yaw", ("left", "right")),
        ):
            field = NumberField(
                f"{axis} trim in clicks",
                lambda axis=axis: self._trims.get(axis, 0),
                lambda value, axis=axis: self._set_trim(axis, value),
                unit="",
                bounds=(-500, 500),
                digits=0,
                width=62,
                words=senses,
            )
            self.trims[axis] = field
            line.addWidget(label(axis, "faint", wrap=False), 0, len(self.trims))
            line.addWidget(field, 1, len(self.trims))
        line.setColumnStretch(len(self.trims) + 1, 1)
        write = QPushButton("Write the flight down")
        write.setObjectName("lead")
        write.clicked.connect(self.write)
        take = QPushButton("Take from the bench")
        take.setObjectName("plain")
        take.clicked.connect(self._take_trims)
        heading = row(take, None)
        self.column.addWidget(
            card(
                grid,
                label("Trims after landing, in clicks"),
                line,
                heading,
                self.remark,
                row(write, None),
            )
        )
        self.before = BeforeCard()
        self.column.addWidget(self.before)
        self._list = QVBoxLayout()
        self._list.setSpacing(8)
        self.column.addLayout(self._list)
        self.workbench.document.log_changed.connect(self._show)
        self.workbench.document.leaving.connect(self._put_away)
        self._of = 0
        """The row of the model whose flight is in the form."""
        self._kept, self._flown = "", False
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(DRAFT_PAUSE_MS)
        self._rest.timeout.connect(self._put_away)
        for typed in self.texts.values():
            typed.textEdited.connect(self._rest.start)
        self.remark.textChanged.connect(self._rest.start)
        self.date.dateChanged.connect(self._rest.start)

    def in_hand(self) -> bool:
        typed = any(field.text() for field in self.texts.values()) or bool(
            self.remark.toPlainText()
        )
        return typed or bool(self._minutes)

    def _set_minutes(self, value: float) -> None:
        self._minutes = value
        self._rest.start()

    def _set_trim(self, axis: str, value: float) -> None:
        self._trims[axis] = round(value)
        self._rest.start()

    def _take_trims(self) -> None:
        model = self.workbench.model
        for a in model.program.axes if model else ():
            if a.trim is not None:
                self._trims[a.command] = self.workbench.state.trim_clicks(a.command)
        for field in self.trims.values():
            field.refresh()

    def refresh(self) -> None:
        model = self.workbench.model
        if model is not None and self.workbench.document.held.id != self._of:
            self._of = self.workbench.document.held.id
            self._trims = {}
            self._take_trims()
            self._bring_out()
            self.before.clear_ticks()
            self._show()
        elif model is not None:
            self.before.show_model(self.workbench.loaded, self._flown)

    def _put_away(self) -> None:
        """What is typed and not yet written down is kept in the hangar, with its model: nothing
        that ends the program loses it."""
        self._rest.stop()
        texts = {key: field.text() for key, field in self.texts.items()}
        typed = {"remark": self.remark.toPlainText(), "minutes": self._minutes, **texts}
        day = self.date.date().toString("yyyy-MM-dd")
        text = (
            json.dumps({**typed, "date": day, "trims": self._trims}) if any(typed.values()) else ""
        )
        if self._of and text != self._kept:
            with suppress(HypsosError):  # where nothing can be written, it stays in the form
                self.workbench.document.hangar.keep_draft(self._of, text)
                self._kept = text

    def _bring_out(self) -> None:
        try:
            self._kept = self.workbench.document.hangar.draft(self._of)
            draft = json.loads(self._kept or "{}")
        except (HypsosError, ValueError):
            draft = {}
        for key, field in self.texts.items():
            field.setText(str(draft.get(key, "")))
        self.remark.setPlainText(str(draft.get("remark", "")))
        minutes, trims = draft.get("minutes", 0.0), draft.get("trims", {})
        self._minutes = float(minutes) if isinstance(minutes, int | float) else 0.0
        if isinstance(trims, dict):
            self._trims |= {
                k: v for k, v in trims.items() if k in self.trims and isinstance(v, int)
            }
        day = QDate.fromString(str(draft.get("date", "")), "yyyy-MM-dd")
        self.date.setDate(day if day.isValid() else QDate.currentDate())
        for shown in (self.minutes, *self.trims.values()):
            shown.refresh()
        self._rest.stop()

    def _show(self) -> None:
        model = self.workbench.model
        if model is None:
            return
        clear(self._list)
        try:
            flights = self.workbench.document.hangar.flights(self.workbench.document.held)
            broken = self.workbench.document.hangar.unreadable_flights(self.workbench.document.held)
        except HypsosError as error:
            self.workbench.notices.noticed.emit(error.plain)
            return
        self._flown = bool(flights)
        self.before.show_model(self.workbench.loaded, self._flown)
        for number in broken:
            self._list.addWidget(
                label(
                    f"Flight {number} of the log cannot be read; the others are not touched.",
                    "complaint",
                )
            )
        if not flights:
            self._list.addWidget(
                label("No flights yet. Write the first one down after you have landed.", "faint")
            )
        for stored in flights:
            f = stored.flight
            strike = QPushButton("Strike out")
            strike.setObjectName("plain")
            strike.setAccessibleName(f"Strike out the flight of {f.date}")
            strike.clicked.connect(
                lambda _=False, s=stored: self.workbench.notices.attempt(
                    lambda: self.workbench.document.strike(s.id, s.flight)
                )
            )
            head = " · ".join(
                x
                for x in (f.date.isoformat(), f.place, f"{f.minutes:g} min" if f.minutes else "")
                if x
            )
            facts = " · ".join(
                x
                for x in (
                    f.wind,
                    f.battery,
                    ", ".join(trim_words(k, v) for k, v in f.trims.items() if v),
                )
                if x
            )
            top = row(label(head, "section"), strike)
            top.setStretch(0, 1)
            body: list[QWidget | QLayout] = [top]
            body += [label(facts, "faint")] if facts else []
            body += [self._trims_of(f)] if any(f.trims.values()) else []
            body += [label(f.remark)] if f.remark else []
            self._list.addWidget(card(*body, margin=9))

    def _trims_of(self, flight: Flight) -> QWidget:
        """What can be done with the trims of a flight."""
        bench = QPushButton("Put these trims on the bench")
        centres = QPushButton("Put them into the centres")
        for button in (bench, centres):
            button.setObjectName("plain")
            button.setAccessibleDescription(f"The flight of {flight.date}")
        bench.clicked.connect(lambda: self._trims_on_bench(flight))
        centres.clicked.connect(lambda: self._trims_into_centres(flight))
        return flowing(bench, centres, gap=0)

    def _trims_on_bench(self, flight: Flight) -> None:
        document, loaded = self.workbench.document, self.workbench.loaded
        self.workbench.notices.attempt(
            lambda: document.apply(
                with_trims_at(loaded, flight.trims), f"trims of {flight.date:%d %B}"
            )
        )

    def _trims_into_centres(self, flight: Flight) -> None:
        """The centres take over what the trims were after a flight, and the trims go back to their
        middle."""
        from hypsos.core.fitting.trims_to_centres import carried_over

        document, loaded = self.workbench.document, self.workbench.loaded
        left: list[str] = []

        def carry() -> None:
            found = carried_over(with_trims_at(loaded, flight.trims))
            document.apply(found.model, f"trims of {flight.date:%d %B} carried over into centres")
            left.extend(f"the trim of {command} stays, for {why}" for command, why in found.left)

        if self.workbench.notices.attempt(carry):
            rest = f" {'; '.join(left).capitalize()}." if left else ""
            self.workbench.notices.noticed.emit(
                f"The centres have taken over the trims. Set the trims of your transmitter back to their middle.{rest}"
            )

    def write(self) -> None:
        """Write the form's flight into the log."""
        d = self.date.date()
        fields: dict[str, Any] = {key: field.text().strip() for key, field in self.texts.items()}
        fields |= {
            "date": datetime.date(d.year(), d.month(), d.day()),
            "minutes": self._minutes,
            "trims": dict(self._trims),
        }
        fields["remark"] = self.remark.toPlainText().strip()[:4000]
        if self.workbench.notices.attempt(
            lambda: self.workbench.document.log(checked(lambda: Flight(**fields)))
        ):
            self.remark.clear()
            self._minutes = 0.0
            self.minutes.refresh()
            self.before.clear_ticks()
            self._put_away()
