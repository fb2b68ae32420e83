# SPDX-License-Identifier: GPL-3.0-or-later
"""Name the model: its name and note, a new one from a template or a copy, files in and out,
snapshots."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QTimer, pyqtSignal
from PyQt6.QtGui import QHideEvent, QShowEvent
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout

from hypsos.core.base.errors import HypsosError
from hypsos.core.document.document import Model, checked, to_json
from hypsos.core.shape.templates import TEMPLATES
from hypsos.desk.pages.step_page import StepPage
from hypsos.desk.services import settings as remembered
from hypsos.desk.services.damaged_models import DamagedModels
from hypsos.desk.theme.look import look
from hypsos.desk.widgets.dates import local_time
from hypsos.desk.widgets.fields import ChoiceBox, NoteField, TextField
from hypsos.desk.widgets.file_choice import ask_where, ask_which
from hypsos.desk.widgets.page_layout import card, clear, label, row, worded
from hypsos.hangar import Snapshot
from hypsos.hangar.backups import back_up, backup_folder, backups
from hypsos.hangar.files import write_whole
from hypsos.hangar.store import DAYS_IN_BIN

if TYPE_CHECKING:
    from hypsos.hangar.restoring import Restored

NOTE_PAUSE_MS = 700
MOST_IN_BIN = 8
MOST_BACKUPS = 6
SAVED = "Every edit is saved at once."


class ModelPage(StepPage):
    """The model on the bench, and where others come from."""

    key = "model"
    pictures_wanted = pyqtSignal()

    def build(self) -> None:
        self.name = TextField()
        self.name.setAccessibleName("Model name")
        self.name.setMaxLength(60)
        self.name.editingFinished.connect(self._rename)
        self.complaint = label("", "complaint")
        self.complaint.hide()
        self.note = NoteField("Note", self._hand_in_note)
        self.note.setPlaceholderText("What it is for, what to remember.")
        look.hold(self.note, height=64)
        self._note_timer = QTimer(self)
        self._note_timer.setSingleShot(True)
        self._note_timer.setInterval(NOTE_PAUSE_MS)
        self._note_timer.timeout.connect(self._write_note)
        self.note.textChanged.connect(self._note_timer.start)
        self.facts = label("", "faint")
        self.here = card(
            label("On the bench", "section"), self.name, self.complaint, self.note, self.facts
        )
        self.column.addWidget(self.here)
        self._damaged = QVBoxLayout()
        self._damaged.setSpacing(10)
        self.column.addLayout(self._damaged)
        self._build_new()
        self._build_snapshots()
        self._build_files()
        self._build_bin()
        self._build_backups()
        self.workbench.document.log_changed.connect(self._show_snapshots)
        self.workbench.document.leaving.connect(self._hand_in)
        self.workbench.document.hangar_changed.connect(self._show_sources)
        self.damage = DamagedModels(self.workbench, self)
        self.damage.changed.connect(self.show_damaged)

    def in_hand(self) -> bool:
        return bool(self.new_name.text() or self.snapshot_name.text())

    def _build_new(self) -> None:
        self.source = ChoiceBox()
        self.source.setAccessibleName("Made from")
        self.new_name = TextField()
        self.new_name.setAccessibleName("Name of the new model")
        self.new_name.setPlaceholderText("Name of the new model")
        self.new_name.setMaxLength(60)
        self.new_name.returnPressed.connect(self.make_new)
        self.pictures = QPushButton("Choose by picture…")
        self.pictures.clicked.connect(self.pictures_wanted)
        self.about = label("", "faint")
        self.source.currentIndexChanged.connect(self._show_about)
        make = QPushButton("Make it")
        make.setObjectName("lead")
        make.clicked.connect(self.make_new)
        self.column.addWidget(
            card(
                label("New model", "section"),
                row(self.pictures, None),
                row("From", self.source, None),
                self.about,
                row(self.new_name, make),
            )
        )
        self._show_sources()

    def _build_snapshots(self) -> None:
        self.snapshot_name = TextField()
        self.snapshot_name.setAccessibleName("Name of the snapshot")
        self.snapshot_name.setPlaceholderText("its name")
        self.snapshot_name.setMaxLength(80)
        self.snapshot_name.returnPressed.connect(self._keep)
        keep = QPushButton("Keep a snapshot")
        keep.clicked.connect(self._keep)
        self._snapshots = QVBoxLayout()
        self.kept = card(
            label("Snapshots", "section"), row(self.snapshot_name, keep), self._snapshots
        )
        self.column.addWidget(self.kept)

    def _build_files(self) -> None:
        line = QHBoxLayout()
        for words, action in (
            ("Import a file…", self._choose_import),
            ("Export…", self._choose_export),
        ):
            button = QPushButton(words)
            button.clicked.connect(action)
            line.addWidget(button)
            self.export = button
        line.addStretch(1)
        self.remove = QPushButton("Take it out of the hangar")
        self.remove.setToolTip("With its flights and snapshots. It is offered back at once.")
        self.remove.clicked.connect(self._remove)
        self.column.addWidget(card(label("Files", "section"), line, row(self.remove, None)))

    # -- showing ---------------------------------------------------------------------------------

    def refresh(self) -> None:
        model = self.workbench.model
        if model is None:
            return
        if not self.name.hasFocus() or self.name.text() != model.name:
            self.name.setText(model.name)
        if self.note.toPlainText() != model.note and not self._note_timer.isActive():
            self.note.blockSignals(True)
            self.note.setPlainText(model.note)
            self.note.blockSignals(False)
        body = model.airframe
        passing = self.workbench.document.hangar.passing
        kept = (
            "This demo hangar vanishes when you close it: export what you want to keep."
            if passing
            else SAVED
        )
        self.facts.setText(
            f"{body.kind}: {body.panels[0].span_mm:.0f} mm span, {len(model.leads)} leads, receiver number "
            f"{model.receiver.number}. {kept}"
        )
        self._show_snapshots()

    def _build_bin(self) -> None:
        self._bin = QVBoxLayout()
        self._bin.setSpacing(6)
        kept = f"With its flights and snapshots, for {DAYS_IN_BIN} days."
        self.bin = card(label("Taken out", "section"), label(kept, "faint"), self._bin)
        self.column.addWidget(self.bin)
        self.workbench.document.hangar_changed.connect(self.show_bin)
        self.show_bin()

    def _build_backups(self) -> None:
        self._kept_hangars = QVBoxLayout()
        self._kept_hangars.setSpacing(6)
        self.make_backup = QPushButton("Make one now")
        self.make_backup.clicked.connect(self._back_up)
        place = backup_folder(self.workbench.document.hangar.path)
        words = label(
            "The whole hangar, every day and before something is let go. They lie in "
            f"{worded(str(place))}.",
            "faint",
        )
        self.backups = card(
            label("Back-ups", "section"), words, self._kept_hangars, row(self.make_backup, None)
        )
        self.column.addWidget(self.backups)
        self.backups.setVisible(not self.workbench.document.hangar.passing)

    def show_backups(self) -> None:
        """The newest back-ups of the hangar."""
        clear(self._kept_hangars)
        if self.workbench.document.hangar.passing:
            return
        found = backups(self.workbench.document.hangar.path)[:MOST_BACKUPS]
        if not found:
            self._kept_hangars.addWidget(label("None yet.", "faint"))
        for kept in found:
            back = QPushButton("Bring it back")
            back.setAccessibleName(f"Bring back the back-up of {kept.words}")
            back.clicked.connect(lambda _=False, x=kept.path: self.bring_back(x))
            line = row(label(kept.words), back)
            line.setStretch(0, 1)
            self._kept_hangars.addLayout(line)

    def _back_up(self) -> None:
        path = self.workbench.document.hangar.path

        def act() -> None:
            back_up(path, "asked")

        self.workbench.notices.attempt(act)
        self.show_backups()

    def bring_back(self, source: Path) -> None:
        """Bring a back-up of the whole hangar back, say what that did, and offer the way back."""
        found: list[Restored] = []

        def act() -> None:
            found.append(self.workbench.document.restore_hangar(source))

        if self.workbench.notices.attempt(act):
            kept = found[0].kept
            if kept is not None:
                self.workbench.notices.offered.emit(
                    found[0].words, "Undo this", lambda: self.bring_back(kept)
                )
        self.show_backups()

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.show_backups()

    def _show_sources(self) -> None:
        kept = self.source.currentData()
        self.source.clear()
        for key, template in TEMPLATES.items():
            self.source.addItem(template.title, f"template:{key}")
        try:
            for name in self.workbench.document.hangar.names():
                self.source.addItem(f"a copy of {name}", f"copy:{name}")
        except HypsosError as error:
            self.workbench.notices.noticed.emit(error.plain)
        index = self.source.findData(kept)
        self.source.setCurrentIndex(max(0, index))

    def show_bin(self) -> None:
        """The models that were taken out and can be brought back."""
        clear(self._bin)
        try:
            gone = self.workbench.document.hangar.binned()
        except HypsosError as error:
            self.workbench.notices.noticed.emit(error.plain)
            return
        self.bin.setVisible(bool(gone))
        for model in gone[:MOST_IN_BIN]:
            back = QPushButton("Bring it back")
            back.setAccessibleName(f"Bring {model.name} back")
            back.clicked.connect(
                lambda _=False, n=model.id: self.workbench.notices.attempt(
                    lambda: self.workbench.document.bring_back(n)
                )
            )
            said = f"{model.name}   {local_time(model.gone_at)}"
            self._bin.addLayout(row(label(said, wrap=False), None, back))
        if len(gone) > MOST_IN_BIN:
            self._bin.addWidget(label(f"And {len(gone) - MOST_IN_BIN} more before these.", "faint"))

    def show_damaged(self) -> None:
        """The models that cannot be read: what is wrong, and what can be done with them."""
        clear(self._damaged)
        for row_, name, why in self.damage.found:
            save = QPushButton("Export it as it is…")
            save.clicked.connect(lambda _=False, i=row_, n=name: self._choose_raw(i, n))
            remove = QPushButton("Remove it")
            remove.setToolTip(
                "It goes out of the hangar with its flights and snapshots. Export it first."
            )
            remove.clicked.connect(
                lambda _=False, i=row_: self.workbench.notices.attempt(
                    lambda: self.workbench.document.remove(i)
                )
            )
            backs: list[QPushButton] = []
            for snapshot in self._snapshots_of(row_):
                back = QPushButton(worded(f"Back to {snapshot.label}"))
                back.clicked.connect(
                    lambda _=False, i=row_, n=name, s=snapshot.id: self.mend(i, n, s)
                )
                backs.append(back)
            words = label(f"{name} cannot be read", "section")
            lines = [row(b, None) for b in backs]
            self._damaged.addWidget(
                card(words, label(why), *lines, row(save, remove, None), kind="caution")
            )

    def _snapshots_of(self, row_: int) -> list[Snapshot]:
        try:
            return self.workbench.document.hangar.snapshots(row_)[:3]
        except HypsosError as error:
            self.workbench.notices.noticed.emit(error.plain)
            return []

    def mend(self, row_: int, name: str, snapshot: int) -> None:
        """Put a damaged model back to one of its snapshots and on the bench."""

        def act() -> None:
            self.workbench.document.back_up("mend")
            self.workbench.document.hangar.mend(row_, snapshot)
            self.workbench.document.hangar_changed.emit()
            self.workbench.document.open(name)

        self.workbench.notices.attempt(act)

    def _choose_raw(self, row_: int, name: str) -> None:
        path = ask_where(self, "Export it as it is", name, {".json": "Model files"})
        if path is not None:
            self.workbench.notices.attempt(
                lambda: write_whole(path, self.workbench.document.hangar.raw(row_))
            )

    def _show_about(self) -> None:
        kind, _, key = (self.source.currentData() or "").partition(":")
        self.about.setText(
            TEMPLATES[key].about
            if kind == "template"
            else "Everything but its flights and snapshots."
        )

    def _show_snapshots(self) -> None:
        model = self.workbench.model
        if model is None:
            return
        clear(self._snapshots)
        try:
            kept = self.workbench.document.hangar.snapshots(self.workbench.document.held)
        except HypsosError as error:
            self.workbench.notices.noticed.emit(error.plain)
            return
        if not kept:
            self._snapshots.addWidget(
                label("None yet. Keep one before you try something.", "faint")
            )
        for snapshot in kept[:6]:
            back = QPushButton("Go back to it")
            back.setAccessibleName(f"Go back to {snapshot.label}")
            back.clicked.connect(
                lambda _=False, s=snapshot: self.workbench.notices.attempt(
                    lambda: self.workbench.document.restore(s.id, s.label)
                )
            )
            made = local_time(snapshot.made_at)
            self._snapshots.addLayout(
                row(label(f"{snapshot.label}   {made}", wrap=False), None, back)
            )

    # -- doing -----------------------------------------------------------------------------------

    def _rename(self) -> None:
        model, wanted = self.workbench.model, self.name.text().strip()
        if model is None or wanted == model.name or not self.name.isModified():
            return  # what nobody typed here may be another model's name
        try:
            self.workbench.document.edit("name", wanted, f"name {wanted}")
            self.complaint.hide()
        except HypsosError as error:
            self.complaint.setText(error.plain)
            self.complaint.show()
            self.name.setText(model.name)

    def _hand_in_note(self) -> None:
        if self._note_timer.isActive():
            self._note_timer.stop()
            self._write_note()

    def _hand_in(self) -> None:
        """What is typed belongs to the model on the bench: it is written before another one
        comes."""
        self._hand_in_note()
        self._rename()

    def hideEvent(self, event: QHideEvent | None) -> None:
        self._hand_in()
        super().hideEvent(event)

    def _write_note(self) -> None:
        text = self.note.toPlainText()
        model = self.workbench.model
        if model is not None and text != model.note:
            self.workbench.notices.attempt(
                lambda: self.workbench.document.edit("note", text, "note", merge="note")
            )

    def make_new(self) -> None:
        """Make the new model that the fields describe and put it on the bench."""
        kind, _, key = (self.source.currentData() or "").partition(":")
        wanted = self.new_name.text().strip()

        def make() -> None:
            base = TEMPLATES[key].title if kind == "template" else f"{key} copy"
            name = wanted or self.workbench.document.hangar.free_name(base)
            model = checked(
                lambda: (
                    TEMPLATES[key].begin(name) if kind == "template" else self._copy_of(key, name)
                )
            )
            if kind == "template":
                model = remembered.as_the_pilot_has_it(model)
            self.workbench.document.add(model)
            self.new_name.clear()

        self.workbench.notices.attempt(make)

    def _copy_of(self, key: str, name: str) -> Model:
        return Model(**{**dict(self.workbench.document.hangar.load(key)), "name": name})

    def _keep(self) -> None:
        words = self.snapshot_name.text().strip() or "snapshot"
        if self.workbench.notices.attempt(lambda: self.workbench.document.keep(words)):
            self.snapshot_name.clear()

    def _remove(self) -> None:
        model = self.workbench.model
        if model is not None:
            self.workbench.notices.attempt(
                lambda: self.workbench.document.remove(self.workbench.document.held)
            )

    def _choose_import(self) -> None:
        path = ask_which(self, "Import a model file", {".json": "Model files"})
        if path is not None:
            self.import_file(path)

    def import_file(self, path: Path) -> None:
        """Put a model file into the hangar and on the bench; what is wrong with it is said in the
        window."""
        self.workbench.notices.attempt(
            lambda: self.workbench.document.import_file(path), placed=True
        )

    def _choose_export(self) -> None:
        model = self.workbench.model
        assert model is not None
        path = ask_where(self, "Export this model", model.name, {".json": "Model files"})
        if path is not None:
            self.workbench.notices.attempt(lambda: write_whole(path, to_json(model)))
