# SPDX-License-Identifier: GPL-3.0-or-later
"""Write the sheet: what is keyed into a transmitter, shown, proved, saved, printed."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtWidgets import QFrame, QPushButton, QTextBrowser, QVBoxLayout, QWidget

from hypsos.core.base.errors import HypsosError
from hypsos.core.edits.transmitters import OWN, transmitter_of
from hypsos.core.parts.transmitter_profile import Profile
from hypsos.core.schools.keying import Keying, keying
from hypsos.core.schools.settings_reader import settings_to_json
from hypsos.core.sheet import FORMATS, Sheet, make_sheet, sheet_html
from hypsos.core.sheet.field_card import field_card
from hypsos.core.sheet.keying_in import kept_numbers
from hypsos.desk.cards.keying_view import KeyingView
from hypsos.desk.cards.view_buttons import Views
from hypsos.desk.pages.step_page import StepPage
from hypsos.desk.services.settings import remember, text
from hypsos.desk.services.sheet_files import CARD_FORMATS, write_card, write_sheet
from hypsos.desk.theme.look import look
from hypsos.desk.widgets.fields import ChoiceBox
from hypsos.desk.widgets.file_choice import ask_where
from hypsos.desk.widgets.flow_layout import flowing
from hypsos.desk.widgets.page_layout import label, row
from hypsos.hangar.files import write_whole

SOON_MS = 250
PAPERS = ("A4", "Letter")
OWN_WORDS = "This model's own"
VIEWS = (("sheet", "The sheet"), ("keying", "Key it in"))


class LacksCard(QFrame):
    """What a transmitter lacks of what keeps motors safe; it has to be read before a sheet is
    written."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("caution")
        self.words = label("")
        self.seen = QPushButton("I have read this")
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 10, 12, 10)
        column.setSpacing(8)
        column.addWidget(self.words)
        column.addWidget(flowing(self.seen))


class SheetPage(StepPage):
    """The sheet as it would be printed now, for a transmitter."""

    key = "sheet"
    lead_in = "Key it in from top to bottom and tick each line. The sheet is in the words and steps of the transmitter you choose."

    def build(self) -> None:
        self.view_shown = "sheet"
        self.views = Views(self, VIEWS, self.show_view)
        self.transmitter = ChoiceBox()
        self.transmitter.setAccessibleName("Transmitter to key it into")
        self.transmitter.activated.connect(self._transmitter_chosen)
        self.lacks = LacksCard()
        self.lacks.seen.clicked.connect(self._lacks_read)
        self.lacks.hide()
        buttons = []
        for ending, format_ in FORMATS.items():
            button = QPushButton(format_.words)
            button.clicked.connect(lambda _=False, e=ending: self._choose(e))
            buttons.append(button)
        buttons[0].setObjectName("lead")
        self.print = QPushButton("Print…")
        self.print.clicked.connect(self._print)
        self.keep = QPushButton("Save the settings…")
        self.keep.setToolTip("What is keyed in as JSON: hypsos prove plays it against the model.")
        self.keep.clicked.connect(self._choose_settings)
        self.card = QPushButton("Field card…")
        self.card.setToolTip(
            "For the transmitter's case: two on a page, or a picture for a telephone."
        )
        self.card.clicked.connect(self._choose_card)
        self.written = [*buttons, self.print, self.card, self.keep]
        self.paper = ChoiceBox()
        self.paper.setAccessibleName("Paper")
        self.paper.addItems(PAPERS)
        self.paper.setCurrentIndex(max(0, self.paper.findText(text("paper"))))
        self.paper.activated.connect(lambda _: remember("paper", self.paper.currentText()))
        self.state = label("", "faint")
        self.stop = QPushButton("Stop")
        self.stop.setAccessibleName("Stop the proof")
        self.stop.clicked.connect(lambda: self.workbench.companions.keying.stop())
        self.stop.hide()
        self.said = label("", "faint")
        self.said.hide()
        self.view = QTextBrowser()
        self.view.setAccessibleName("Sheet")
        look.hold(self.view, least_height=520)
        # a bar that comes and goes has the text laid out twice more
        self.view.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOn)
        self.column.addWidget(self.views.row)
        self.pin(self.views.row)
        self.column.addLayout(row("For", self.transmitter, None))
        self.refused = label("", "complaint")
        self.refused.hide()
        self.column.addWidget(self.refused)
        self.column.addWidget(self.lacks)
        self.paper_view, self.keying = QWidget(), KeyingView(self.workbench)
        self.keying.kept_changed.connect(self.show_sheet)
        self.keying.hide()
        paper = QVBoxLayout(self.paper_view)
        paper.setContentsMargins(0, 0, 0, 0)
        paper.setSpacing(10)
        paper.addWidget(flowing(*self.written, self.paper))
        going_on = row(self.stop)
        going_on.addWidget(self.state, 1)
        paper.addLayout(going_on)
        paper.addWidget(self.said)
        paper.addWidget(self.view, 100)
        self.column.addWidget(self.paper_view, 100)
        self.column.addWidget(self.keying)
        self._soon = QTimer(self)  # an edit is not to wait for the sheet, which follows it
        self._soon.setSingleShot(True)
        self._soon.setInterval(SOON_MS)
        self._soon.timeout.connect(self.show_sheet)
        self._waiting: tuple[Path, int] | None = None
        """A file that waits for search and proof, and the row of its model."""
        self._chosen: dict[str, str] = {}
        """The transmitter that was chosen, by model."""
        self._read: set[tuple[object, ...]] = set()
        """The lacks that were read."""
        self._made: Keying | None = None
        self._shown = ""
        companions = self.workbench.companions
        companions.findings_changed.connect(self._soon.start)
        companions.searching.connect(self._went_on)
        companions.keying.changed.connect(self._went_on)
        look.follow(self, self.refresh)

    # -- the views -------------------------------------------------------------------------------

    def view_keys(self) -> tuple[str, ...]:
        return self.views.keys

    def show_view(self, key: str) -> None:
        """Show the sheet, or its steps one by one."""
        self.view_shown = key
        self.views.mark(key)
        self.show_sheet()
        if key == "keying":
            self.keying.done.setFocus()

    # -- the transmitter -------------------------------------------------------------------------

    def _profiles(self) -> list[Profile]:
        """Those that can be chosen: the model's own one first, where it has taken none that is
        shared."""
        model, known = self.workbench.loaded, self.workbench.document.hangar.transmitters()
        mine = transmitter_of(model, known)
        return known if mine in known else [mine, *known]

    def profile(self) -> Profile:
        """The transmitter for which the sheet is."""
        model, profiles = self.workbench.loaded, self._profiles()
        mine = transmitter_of(model, profiles)
        wanted = self._chosen.get(model.name) or text(f"keyed on/{model.name}")
        return next((p for p in profiles if p.name == wanted), mine)

    def _show_transmitters(self, profile: Profile) -> None:
        names = [OWN_WORDS if p.name == OWN else p.name for p in self._profiles()]
        if [self.transmitter.itemText(i) for i in range(self.transmitter.count())] != names:
            self.transmitter.clear()
            self.transmitter.addItems(names)
        shown = OWN_WORDS if profile.name == OWN else profile.name
        self.transmitter.setCurrentIndex(max(0, self.transmitter.findText(shown)))

    def _transmitter_chosen(self) -> None:
        chosen = self.transmitter.currentText()
        name = OWN if chosen == OWN_WORDS else chosen
        self._chosen[self.workbench.loaded.name] = name
        remember(f"keyed on/{self.workbench.loaded.name}", name)
        self.said.hide()
        self.show_sheet()

    # -- what is lacking -------------------------------------------------------------------------

    def _motor_lacks(self) -> tuple[object, ...]:
        """What has to be read, as it is remembered; nothing where that is nothing."""
        made = self._made
        if made is None:
            return ()
        motors = [f"{x.need}: {x.instead} {x.help}" for x in made.reduced.lacks if x.motor]
        return (self.workbench.loaded.name, made.profile.name, *motors) if motors else ()

    def _lacks_read(self) -> None:
        self._read.add(self._motor_lacks())
        self._show_lacks()
        # what was pressed has gone: the focus goes on to what comes next
        wanted = self.keying.done if self.view_shown == "keying" else self.written[0]
        wanted.setFocus()

    def _show_lacks(self) -> None:
        """Show what has to be read, and let the sheet be written once it was."""
        lacks = self._motor_lacks()
        unread = bool(lacks) and lacks not in self._read
        self.lacks.setVisible(unread)
        if unread:
            name = self.workbench.loaded.name
            told = "\n".join(f"• {str(text_)[:1].upper()}{str(text_)[1:]}" for text_ in lacks[2:])
            self.lacks.words.setText(
                f"Take care. {lacks[1]} does not have all that keeps {name}'s motor safe:\n{told}"
            )
        for widget in (*self.written, self.keying):
            widget.setEnabled(self._made is not None and not unread)

    # -- showing ---------------------------------------------------------------------------------

    def showEvent(self, event: object) -> None:
        super().showEvent(event)  # type: ignore[arg-type]
        self.show_sheet()

    def refresh(self) -> None:
        self._soon.start()

    def _sheet(self) -> Sheet | None:
        """The sheet with what is known by now; None where it can't be keyed in."""
        model, made = self.workbench.loaded, self._made
        if made is None:
            return None
        companions = self.workbench.companions
        work = companions.keying.known(model, made.profile)
        proof = companions.search.proof()
        numbers = kept_numbers(self._kept())
        if work is None:
            lines = (*proof, "Not yet played against the design.")
            return make_sheet(model, made, None, lines, None, numbers)
        lines = (*proof, *work.lines(made))
        return make_sheet(model, made, work.lacks, lines, work.checks, numbers)

    def _kept(self) -> dict[str, str]:
        """The steps that were keyed into this transmitter."""
        document, made = self.workbench.document, self._made
        if made is None or document.row is None:
            return {}
        try:
            return document.hangar.keyed(document.held, made.profile.name)
        except HypsosError:
            return {}

    def show_sheet(self) -> None:
        """Show the sheet as it is now."""
        self._soon.stop()
        model = self.workbench.model
        if model is None or not self.isVisible():
            return
        profile = self.profile()
        self._show_transmitters(profile)
        try:
            self._made = keying(model, profile)
        except HypsosError as error:
            self._made = None
            where = "It can't be keyed in" if profile.name == OWN else f"Not on {profile.name}"
            self.refused.setText(f"{where}: {error.plain}")
        self.refused.setVisible(self._made is None)
        self.paper_view.setVisible(self._made is not None and self.view_shown == "sheet")
        self.keying.setVisible(self._made is not None and self.view_shown == "keying")
        sheet = self._sheet()
        if sheet is not None:
            if self.view_shown == "sheet":
                self._show_page(sheet_html(sheet, ticks=False))
            self.workbench.companions.keying.follow(model, profile)
        if self.view_shown == "keying":
            self.keying.take(self._made, sheet, self._kept())
        self._show_lacks()
        self._show_state()

    def _show_page(self, page: str) -> None:
        bar = self.view.verticalScrollBar()
        at = bar.value() if bar else 0
        page = page.replace("font-size: 9pt", f"font-size: {look.px(11)}px")
        page = page.replace("margin: 0 auto", "margin: 0")
        for printed_size, size in (("17pt", 17), ("12pt", 13)):
            page = page.replace(f"font-size: {printed_size}", f"font-size: {look.px(size)}px")
        palette = look.palette  # on paper it is dark on white; in the shed it is not to dazzle
        for printed, shown in (
            ("#1d2b2f", palette.ink), ("#e3e9e6", palette.sea_soft), ("#9b9484", palette.edge), ("#f7dfd0", palette.rust_soft),
            ("#a63a12", palette.rust), ("#5b6664", palette.ink),
        ):  # fmt: skip
            page = page.replace(printed, shown)
        if page != self._shown:
            self._shown = page
            self.view.setHtml(page)
        if bar:
            bar.setValue(at)

    def _show_state(self) -> None:
        """How far the proof is."""
        client = self.workbench.companions.keying
        self.stop.setVisible(client.under_way)
        if client.under_way:
            share = round(100 * (client.share or 0.0))
            self.state.setText(f"{share} %: {client.what or 'beginning'}")
        elif client.fault:
            self.state.setText(client.fault)
        elif self._made is not None:
            work = client.known(self.workbench.loaded, self._made.profile)
            self.state.setText("" if work is None else work.lines(self._made)[0])
        else:
            self.state.setText("")

    def _went_on(self) -> None:
        """Search or proof have come further: show that, and write the sheet that waited."""
        client = self.workbench.companions.keying
        if self.isVisible() and self.workbench.model is not None:
            if client.under_way:
                self._show_state()
            else:
                self._soon.start()
        if self._waiting is None:
            return
        path, of_model = self._waiting
        gone = self.workbench.document.row != of_model
        if not gone and self._still_works():
            return
        self._waiting = None
        if gone:
            self._say(
                f"{path.name} was not written: another model came onto the bench before it was proved."
            )
        else:
            self._write(path)

    # -- writing ---------------------------------------------------------------------------------

    def _choose(self, ending: str) -> None:
        name = self._file_name()
        path = ask_where(self, "Save the sheet", name, {ending: FORMATS[ending].name})
        if path is not None:
            self.save(path)

    def _file_name(self) -> str:
        made = self._made
        name = self.workbench.loaded.name
        return (
            name if made is None or made.profile.name == OWN else f"{name} on {made.profile.name}"
        )

    def _still_works(self) -> bool:
        companions = self.workbench.companions
        return companions.search.under_way or companions.keying.under_way

    def save(self, path: Path) -> None:
        """Write the sheet to a file as soon as its model is searched and proved; what goes wrong is
        said in the window."""
        search, of_model = self.workbench.companions.search, self.workbench.document.row
        self._waiting = None
        if not search.current and of_model is not None:
            search.search()
        if self._made is not None:
            self.workbench.companions.keying.begin(self.workbench.loaded, self._made.profile)
        if self._still_works() and of_model is not None:
            self._waiting = (path, of_model)
            self._say(
                f"{path.name} is written as soon as search and proof have ended. To have it sooner, stop the proof here, and the "
                "search in the step Shake it down; the sheet then says so."
            )
            return
        self._write(path)

    def _say(self, words: str) -> None:
        self.said.setText(words)
        self.said.show()

    def _write(self, path: Path) -> None:
        sheet = self._sheet()

        def write() -> None:
            if sheet is None:
                raise HypsosError("there is no sheet to write for this transmitter")
            write_sheet(path, sheet, self.paper.currentText())
            self._say(f"Written to {path}.")
            self.workbench.document.sheet_written()

        self.workbench.notices.attempt(write)

    def _choose_settings(self) -> None:
        made = self._made
        path = ask_where(self, "Save the settings", self._file_name(), {".json": "Settings"})
        if path is None or made is None:
            return

        def write() -> None:
            write_whole(path, settings_to_json(made.settings))
            self._say(f"Written to {path}. Try hypsos prove “{made.settings.model}” {path.name}.")

        self.workbench.notices.attempt(write)

    def _choose_card(self) -> None:
        made = self._made
        name = f"{self._file_name()}, field card"
        path = ask_where(self, "Save the field card", name, CARD_FORMATS)
        if path is None or made is None:
            return

        def write() -> None:
            write_card(path, field_card(self.workbench.loaded, made))
            self._say(f"Written to {path}.")

        self.workbench.notices.attempt(write)

    def _print(self) -> None:
        """Print the sheet as far as it is known by now; it says so itself."""
        from PyQt6.QtPrintSupport import QPrintDialog, QPrinter  # dear to import

        from hypsos.desk.services.sheet_pdf import paint_sheet, ready_printer

        sheet = self._sheet()
        if sheet is None:
            return
        printer = QPrinter(QPrinter.PrinterMode.HighResolution)
        ready_printer(printer, sheet.title, self.paper.currentText())
        dialog = QPrintDialog(printer, self)
        if dialog.exec() == QPrintDialog.DialogCode.Accepted:
            paint_sheet(sheet, printer)
            self.workbench.document.sheet_written()
