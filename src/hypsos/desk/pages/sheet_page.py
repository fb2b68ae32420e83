# SPDX-License-Identifier: GPL-3.0-or-later
"""Write the sheet: the numbered list to key in and to check off, shown, saved, printed."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtWidgets import QPushButton, QTextBrowser

from hypsos.core.sheet import FORMATS, SCHOOLS, Sheet, make_sheet, sheet_html
from hypsos.desk.pages.step_page import StepPage
from hypsos.desk.services.sheet_files import write_sheet
from hypsos.desk.theme.look import look
from hypsos.desk.widgets.fields import ChoiceBox
from hypsos.desk.widgets.file_choice import ask_where
from hypsos.desk.widgets.flow_layout import flowing
from hypsos.desk.widgets.page_layout import label, row

SOON_MS = 250


class SheetPage(StepPage):
    """The sheet as it would be printed now."""

    key = "sheet"
    lead_in = "Key it in from top to bottom and tick each line. Every figure comes from the same engine as the bench."

    def build(self) -> None:
        buttons = []
        for ending, format_ in FORMATS.items():
            button = QPushButton(format_.words)
            button.clicked.connect(lambda _=False, e=ending: self._choose(e))
            buttons.append(button)
        buttons[0].setObjectName("lead")
        self.said = label("", "faint")
        self.said.hide()
        self.view = QTextBrowser()
        self.view.setAccessibleName("Sheet")
        look.hold(self.view, least_height=520)
        # a bar that comes and goes has the text laid out twice more
        self.view.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOn)
        self.school = ChoiceBox()
        self.school.setAccessibleName("Where reversal is kept")
        for key, school in SCHOOLS.items():
            self.school.addItem(school.title, key)
        self.school.activated.connect(self._school_chosen)
        self.reason = label("", "faint")
        self.reason.hide()
        self.column.addWidget(flowing(*buttons))
        self.column.addLayout(row("With", self.school, None))
        self.column.addWidget(self.reason)
        self.column.addWidget(self.said)
        self.column.addWidget(self.view, 100)
        self._soon = QTimer(self)  # an edit is not to wait for the sheet, which follows it
        self._soon.setSingleShot(True)
        self._soon.setInterval(SOON_MS)
        self._soon.timeout.connect(self.show_sheet)
        self._waiting: tuple[Path, int] | None = (
            None  # a file that waits for the search, and the row of its model
        )
        self._state = ""  # how far the search was when the sheet was shown last
        self.workbench.companions.findings_changed.connect(self._soon.start)
        self.workbench.companions.searching.connect(self._search_went_on)
        look.follow(self, self.refresh)

    def _made(self) -> Sheet:
        model = self.workbench.model
        assert model is not None
        search = self.workbench.companions.search
        return make_sheet(model, self.school.currentData(), search.proof())

    def _school_chosen(self) -> None:
        advice = SCHOOLS[self.school.currentData()].advice
        self.reason.setText(advice)
        self.reason.setVisible(bool(advice))
        self.show_sheet()

    def showEvent(self, event: object) -> None:
        super().showEvent(event)  # type: ignore[arg-type]
        self.show_sheet()

    def refresh(self) -> None:
        self._soon.start()

    def show_sheet(self) -> None:
        """Show the sheet as it is now."""
        self._soon.stop()
        model = self.workbench.model
        if model is None or not self.isVisible():
            return
        bar = self.view.verticalScrollBar()
        at = bar.value() if bar else 0
        page = (
            sheet_html(self._made())
            .replace("font-size: 9pt", f"font-size: {look.px(11)}px")
            .replace("margin: 0 auto", "margin: 0")
        )
        palette = look.palette  # on paper it is dark on white; in the shed it is not to dazzle
        for printed, shown in (
            ("#1d2b2f", palette.ink), ("#e3e9e6", palette.sea_soft), ("#9b9484", palette.edge), ("#f7dfd0", palette.rust_soft),
            ("#a63a12", palette.rust),
        ):  # fmt: skip
            page = page.replace(printed, shown)
        self.view.setHtml(page)
        if bar:
            bar.setValue(at)

    def _choose(self, ending: str) -> None:
        model = self.workbench.model
        assert model is not None
        path = ask_where(self, "Save the sheet", model.name, {ending: FORMATS[ending].name})
        if path is not None:
            self.save(path)

    def save(self, path: Path) -> None:
        """Write the sheet to a file as soon as its model is searched; what goes wrong is said in
        the window.

        A sheet says how far its model was shaken down, so paper waits for a search that is under
        way."""
        search, of_model = self.workbench.companions.search, self.workbench.document.row
        self._waiting = None
        if not search.current and of_model is not None:
            search.search()
            if search.under_way:
                self._waiting = (path, of_model)
                self._say(
                    f"{path.name} is written as soon as the search has ended. To have it sooner, stop the search in the step "
                    "Shake it down; the sheet then says so."
                )
                return
        self._write(path)

    def _search_went_on(self) -> None:
        """Write the sheet that waited, when the search of its model has ended."""
        search = self.workbench.companions.search
        if search.state() != self._state:
            self._state = search.state()
            self._soon.start()
        if self._waiting is None or search.under_way:
            return
        path, of_model = self._waiting
        self._waiting = None
        if self.workbench.document.row != of_model:
            self._say(
                f"{path.name} was not written: another model came onto the bench before the search had ended."
            )
        else:
            self._write(path)

    def _say(self, words: str) -> None:
        self.said.setText(words)
        self.said.show()

    def _write(self, path: Path) -> None:
        made = self._made()

        def write() -> None:
            write_sheet(path, made)
            self._say(f"Written to {path}.")
            self.workbench.document.sheet_written()

        self.workbench.notices.attempt(write)
