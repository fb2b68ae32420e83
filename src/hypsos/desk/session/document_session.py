# SPDX-License-Identifier: GPL-3.0-or-later
"""The one writer: it owns the document and its history, saves every edit, and emits. Pages read and
ask."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QObject, pyqtSignal

from hypsos.core.base.errors import DocumentError, HangarMoved, HypsosError, MovedOn
from hypsos.core.checking.checks import first_problem
from hypsos.core.checking.reader import from_json
from hypsos.core.dependencies.motor_dependencies import motor_reach, same_but_for_lever
from hypsos.core.dependencies.y_leads import followed
from hypsos.core.document.document import Model, digest
from hypsos.core.document.logbook import Flight
from hypsos.core.document.paths import with_at
from hypsos.core.edits.condition_choices import without_orphans
from hypsos.core.edits.proposals import kept, settled_by
from hypsos.core.edits.trim_clicks import clicks_in, same_trims, with_clicks
from hypsos.core.engine import compile_plan
from hypsos.core.engine.axes import without_trims
from hypsos.core.engine.guard import locked
from hypsos.core.fitting.typed_figures import (
    change_words,
    followed_typed,
    no_longer_true,
    with_measures_kept,
    with_percent_kept,
    with_typed,
)
from hypsos.core.parts.typed_figure import TypedFigure
from hypsos.desk.session.notices import Notices
from hypsos.desk.session.simulation import Simulation
from hypsos.desk.session.undo_history import History, UndoStep
from hypsos.hangar import Hangar, StoredRow, Which
from hypsos.hangar.files import read_text
from hypsos.hangar.store import DAYS_IN_BIN

if TYPE_CHECKING:
    from hypsos.hangar.restoring import Restored


class DocumentSession(QObject):
    """Document and history of the model on the bench. It puts every model there that the simulation
    moves."""

    history_changed = pyqtSignal()
    hangar_changed = pyqtSignal()
    log_changed = pyqtSignal()
    unreadable = pyqtSignal()
    """A model of the hangar could not be read."""
    leaving = pyqtSignal()
    """The model is about to leave the bench: fields hand in what is typed in them."""

    def __init__(self, hangar: Hangar, simulation: Simulation, notices: Notices) -> None:
        super().__init__()
        self.hangar, self.simulation, self.state, self.notices = (
            hangar,
            simulation,
            simulation.state,
            notices,
        )
        self._stored: StoredRow | None = None
        self.history = History(self.history_changed.emit)
        self._typing: Callable[[Model], Iterable[TypedFigure]] | None = None
        self._left: dict[int, tuple[int, History]] = {}
        """Row in the hangar -> revision and history of a model that was on the bench before."""

    # -- which model -----------------------------------------------------------------------------

    def open(self, name: str) -> None:
        """Put a model of the hangar on the bench. Raises HypsosError; the old one then stays."""
        self.leaving.emit()
        try:
            stored = self.hangar.take(name)
        except DocumentError:
            self.unreadable.emit()
            raise
        plan = compile_plan(stored.model)
        if self._stored is not None:
            self._left[self._stored.id] = (self._stored.revision, self.history)
        revision, history = self._left.pop(stored.id, (-1, self.history))
        if revision != stored.revision:  # new on this bench, or changed elsewhere since
            history = History(self.history_changed.emit)
        self._stored, self.history = stored, history
        self.simulation.put_on(stored.model, plan)
        self.history_changed.emit()
        self.log_changed.emit()

    def add(self, model: Model) -> None:
        """Put a new model into the hangar and on the bench. Raises HypsosError when its name is
        taken."""
        problem = first_problem(model)
        if problem is not None:
            raise DocumentError(problem.text, problem.path, problem.remedy)
        if model.receiver.number == 0 or model.receiver.number in self.hangar.numbers():
            # so that no transmitter flies one model with another's settings
            number = self.hangar.free_number()
            model = model.changed({"receiver": model.receiver.changed({"number": number})})
        self.hangar.add(model)
        self.hangar_changed.emit()
        self.open(model.name)

    def import_file(self, path: Path) -> None:
        """Put a model file into the hangar and on the bench. Raises HypsosError with what is wrong
        with it, and where."""
        self.add(from_json(read_text(path), path.name))

    def show_file(self, path: Path) -> None:
        """Put a model file on the bench: the hangar's own where it holds just this one, else a new
        one in the hangar, under a name that is free, which is said. Raises HypsosError with what is
        wrong with the file, and where."""
        model = from_json(read_text(path), path.name)
        if model.name in self.hangar.names() and self.hangar.load(model.name) == model:
            self.open(model.name)
            return
        name = self.hangar.free_name(model.name)
        self.add(model.changed({"name": name}))
        said = f"{path.name} is in your hangar now" + (
            f", as {name}." if name != model.name else "."
        )
        self.notices.offered.emit(
            said, "Take it out again", lambda: self.notices.attempt(lambda: self.remove(name))
        )

    def back_up(self, reason: str) -> None:
        """Keep the whole hangar before something that lets much go. Where that can't be, it is said,
        and the work goes on: undo is there, too."""
        if self.hangar.passing or self.hangar.read_only:
            return
        from hypsos.hangar.backups import back_up_before

        try:
            back_up_before(self.hangar.path, reason)
        except HypsosError as error:
            self.notices.noticed.emit(f"No back-up could be made first. {error.plain}")

    def restore_hangar(self, source: Path) -> Restored:
        """Bring a back-up of the whole hangar back, and put the model of the same name on the bench.
        What is there now is kept first. Raises HypsosError; nothing is then changed."""
        from hypsos.hangar.restoring import restore

        self.leaving.emit()
        found = restore(source, self.hangar.path)
        self.hangar_changed.emit()
        name = "" if self.state.model is None else self.state.model.name
        if name in self.hangar.names():
            self.open(name)
        else:
            self._next_one(name)
        return found

    def remove(self, which: Which) -> None:
        """Take a model out of the hangar, with its flights and snapshots; it is offered back.
        Raises HypsosError."""
        row = which.id if isinstance(which, StoredRow) else which
        if isinstance(row, str):
            row = next(
                (p.id for p in self.hangar.places() if p.name.casefold() == str(row).casefold()),
                row,
            )
        if self._stored is not None and row == self._stored.id:
            # first, so that what is typed in its fields is handed in
            self._next_one(self._stored.name)
        gone = self.hangar.taken_out(row)
        self._left.pop(gone.row, None)
        self.hangar_changed.emit()

        def back() -> None:
            self.bring_back(gone.binned)

        said = (
            f"{gone.name} is out of the hangar, with its flights and snapshots. "
            f"For {DAYS_IN_BIN} days it can be brought back under Name the model, too."
        )
        self.notices.offered.emit(said, "Bring it back", lambda: self.notices.attempt(back))

    def bring_back(self, number: int) -> None:
        """Put a model from the bin into the hangar again, and on the bench. Raises HypsosError."""
        gone = self.hangar.from_bin(number)
        self.hangar.put_back(gone)
        self.hangar_changed.emit()
        self.open(gone.name)

    @property
    def row(self) -> int | None:
        """The row in the hangar of the model on the bench, by which it is known whatever its name
        becomes."""
        return self._stored.id if self._stored is not None else None

    def _next_one(self, name: str) -> None:
        """Put another model on the bench, or none where there is no other that can be read."""
        for other in (n for n in self.hangar.names() if n != name):
            try:
                self.open(other)
                return
            except DocumentError:
                continue
        self.leaving.emit()
        self._stored = None
        self.history = History(self.history_changed.emit)
        self.simulation.put_none()
        self.history_changed.emit()

    # -- edits -----------------------------------------------------------------------------------

    def edit(self, path: str, value: Any, label: str, merge: str = "") -> None:
        """Change one value of the document, save it, remember how to undo it.

        Raises HypsosError when the value is not allowed or cannot be saved; nothing is then
        changed."""
        assert self.state.model is not None
        self.apply(with_at(self.state.model, path, value), label, merge)

    def apply(self, model: Model, label: str, merge: str = "", lever: str | None = None) -> None:
        """Make this the document: finish the edit, check it, save it, take it over, remember how to
        undo it, in this order. What fails changes nothing. Steps with the same ``merge`` that
        follow each other become one.

        ``lever`` is the command whose trim lever a hand has clicked; see :meth:`_save`.
        """
        before = self.state.model
        if before is None:
            return
        if self._typing is not None:
            model = with_typed(model, self._typing(model))
        if model == before:
            return
        model = _finished(before, model)
        problem = first_problem(model)
        if problem is not None:
            raise DocumentError(problem.text, problem.path, problem.remedy)
        try:
            self._save(model, lever)
        except MovedOn as error:
            self._overtaken(error, label, before, model)
            return
        self.history.add(
            UndoStep(label, self._putting(before), self._putting(model), merge, before)
        )
        self._ask_which_to_keep(before, model, label)

    @contextmanager
    def typed(self, figures: Callable[[Model], Iterable[TypedFigure]]) -> Iterator[None]:
        """What is edited inside was typed in millimetres or degrees: ``figures`` says what and
        where, of the model with the edit in it."""
        self._typing = figures
        try:
            yield
        finally:
            self._typing = None

    def _ask_which_to_keep(self, before: Model, after: Model, label: str) -> None:
        """Where an edit has turned millimetres that were typed into others, say so, and ask which
        are to stay."""
        lost = no_longer_true(before, after)
        if not lost:
            return
        count = "This figure changes" if len(lost) == 1 else f"These {len(lost)} figures change"
        said = f"{count} with it. {change_words(after, lost)}."

        def keep_measures() -> None:
            assert self.state.model is not None
            made, missed = with_measures_kept(self.state.model, lost)
            self.apply(made, f"mm kept after {label}")
            if missed:
                self.notices.noticed.emit(f"Out of reach now: {'; '.join(missed)}.")

        def keep_percent() -> None:
            assert self.state.model is not None
            self.apply(with_percent_kept(self.state.model, lost), f"% kept after {label}")

        unit = "mm" if any(f.unit == "mm" for f in lost) else "degrees"
        self.notices.asked.emit(
            said,
            [
                (f"Keep the {unit}", lambda: self.notices.attempt(keep_measures)),
                ("Keep the %", lambda: self.notices.attempt(keep_percent)),
            ],
        )

    def _overtaken(
        self,
        error: MovedOn,
        label: str = "",
        before: Model | None = None,
        after: Model | None = None,
    ) -> None:
        """Another window has written this model: what it wrote is put on the bench, and one's own
        edit offered again. Raises ``error`` where it took the model away."""
        newer = self.hangar.newer(self._row())
        if newer is None:
            raise error
        self._put_newer(newer)
        if before is None or after is None:
            self.notices.noticed.emit(
                f"Another window has changed {newer.name}. What it wrote is on the bench; undo begins anew."
            )
            return
        said = f"Another window has changed {newer.name}. What it wrote is on the bench now; your edit ({label}) is not in it."
        self.notices.offered.emit(
            said,
            "Make my edit again",
            lambda: self.notices.attempt(lambda: self._again(label, before, after)),
        )

    def _again(self, label: str, before: Model, after: Model) -> None:
        from hypsos.core.checking.merge import carried

        assert self.state.model is not None
        self.apply(carried(before, after, self.state.model), label)

    def _put_newer(self, newer: StoredRow) -> None:
        plan = compile_plan(newer.model)
        old, self._stored = self._row(), newer
        self.history = History(self.history_changed.emit)
        trims = same_trims(old.model, newer.model)
        self.state.live.memory = locked(without_trims(self.state.live.memory, trims))
        self.simulation.take(newer.model, plan, trims)
        self.history_changed.emit()
        self.log_changed.emit()
        if newer.name != old.name:
            self.hangar_changed.emit()

    def look_again(self) -> None:
        """See whether another window has written the model on the bench; what it wrote is then put
        there, and said."""
        if self._stored is not None and (newer := self.hangar.newer(self._stored)) is not None:
            self._put_newer(newer)
            self.notices.noticed.emit(
                f"Another window has changed {newer.name}. What it wrote is on the bench; undo begins anew."
            )

    @property
    def last_act(self) -> str:
        """What was done last, for a report."""
        model = f" on {self.state.model.name}" if self.state.model is not None else ""
        return f"{self.undo_label or 'nothing yet'}{model}"

    def _putting(self, model: Model) -> Callable[[], None]:
        def put() -> None:
            assert self.state.model is not None  # a sheet that was written stays written
            self._save(model.changed({"sheet_of": self.state.model.sheet_of}))

        return put

    def keep_proposal(self, step: str, label: str) -> None:
        """Settle a step whose figures are only proposed as they are."""
        assert self.state.model is not None
        self.apply(kept(self.state.model, step), label)

    def sheet_written(self) -> None:
        """Remember that the sheet was written as the model is now. That is nothing to undo."""
        assert self.state.model is not None
        made = self.state.model.changed({"sheet_of": digest(self.state.model)})
        if made != self.state.model:
            self._save(made)

    def _save(self, model: Model, lever: str | None = None) -> None:
        """Compile this model, write it into the hangar, and put it on the bench, in this order.

        A trim that is the same in both documents stays where it stands on the bench: no save puts
        back a trim that nobody moved. Whatever changes what reaches a motor locks it. ``lever`` is
        the command whose trim lever a hand has just clicked: only that one movement does not
        lock."""
        before = self._row()
        plan = compile_plan(model)
        try:
            self._stored = self.hangar.put(before, model)
        except HangarMoved as error:
            self.notices.offer_elsewhere(error)
            raise
        staying = self._trims_that_stay(before.model, model, lever)
        if not _leaves_motors_alone(before.model, model, lever):
            self.state.live.memory = locked(self.state.live.memory)
        self.simulation.take(model, plan, staying)
        if model.name != before.name:
            self.hangar_changed.emit()

    def _trims_that_stay(self, before: Model, model: Model, lever: str | None) -> set[str]:
        """The commands whose trims stay where they stand on the bench; the engine forgets what it
        held of those that the document has not moved, and of ``lever`` what it held in the flight
        mode in which a hand has clicked it."""
        same, clicked = same_trims(before, model), None
        staying = same
        if lever is not None:
            axis = model.program.axis(lever)
            by_mode = (
                axis is not None
                and axis.trim is not None
                and axis.trim.scope in ("per mode", "offset")
            )
            staying = same | {lever} if by_mode else same - {lever}
            clicked = (lever, self.state.mode_name) if by_mode else None
        self.state.live.memory = without_trims(
            self.state.live.memory, staying - {lever or ""}, clicked
        )
        return staying

    def _row(self) -> StoredRow:
        assert self._stored is not None
        return self._stored

    @property
    def held(self) -> StoredRow:
        """The model on the bench as it was read: its row in the hangar stays the same under another
        name."""
        return self._row()

    # -- history ---------------------------------------------------------------------------------

    @property
    def undo_label(self) -> str | None:
        """What undo would take back."""
        return self.history.undo_label

    @property
    def redo_label(self) -> str | None:
        """What redo would bring back."""
        return self.history.redo_label

    def undo(self) -> None:
        """Take back the last step. Raises HypsosError when it cannot be saved."""
        self._stepping(self.history.undo)

    def redo(self) -> None:
        """Bring back the last step taken back. Raises HypsosError when it cannot be saved."""
        self._stepping(self.history.redo)

    def _stepping(self, step: Callable[[], None]) -> None:
        try:
            step()
        except MovedOn as error:
            self._overtaken(error)

    # -- flights and snapshots -------------------------------------------------------------------

    def log(self, flight: Flight) -> None:
        """Write a flight into the log."""
        held = self._row()

        def write() -> None:
            self.hangar.bring_back(held, number, flight)
            self.log_changed.emit()

        def strike() -> None:
            self.hangar.strike(number)
            self.log_changed.emit()

        number = self.hangar.log(held, flight)
        self.log_changed.emit()
        self.history.add(UndoStep(f"flight of {flight.date:%d %B}", strike, write))

    def strike(self, number: int, flight: Flight) -> None:
        """Take a flight out of the log."""
        held = self._row()

        def strike() -> None:
            self.hangar.strike(number)
            self.log_changed.emit()

        def write() -> None:
            self.hangar.bring_back(held, number, flight)
            self.log_changed.emit()

        strike()
        self.history.add(UndoStep(f"strike flight of {flight.date:%d %B}", write, strike))

    def keep(self, label: str) -> None:
        """Keep a named snapshot."""
        self.hangar.keep(self._row(), label)
        self.log_changed.emit()

    def restore(self, number: int, label: str) -> None:
        """Go back to a snapshot; this can be undone like any edit."""
        self.apply(self.hangar.snapshot(number), f"back to {label}")

    def trim(self, command: str, clicks: int) -> None:
        """Move a trim lever by clicks, as far as it goes: in the flight mode flown, where that has
        a trim of its own."""
        from hypsos.core.document.logbook import trim_words

        assert self.state.model is not None
        made = with_clicks(
            self.state.model, command, self.state.mode_name, clicks, self.state.trim_clicks(command)
        )
        if (
            made == self.state.model
        ):  # recorded moves had put it elsewhere, and the click brings it back
            self._save(self.state.model, command)
        elif made is not None:
            axis = made.program.axis(command)
            assert axis is not None and axis.trim is not None
            own = (
                f" in {self.state.mode_label}"
                if axis.trim.scope in ("per mode", "offset") and self.state.mode is not None
                else ""
            )
            words = f"trim {trim_words(command, clicks_in(axis.trim, self.state.mode_name))}{own}"
            self.apply(made, words, merge=f"trim {command} {self.state.mode_name}", lever=command)


def _finished(before: Model, edited: Model) -> Model:
    """An edit with what goes with it: the other half of a Y-lead follows, a proposal that was
    changed counts as settled, and what nobody uses any more is gone."""
    followed_by_y_leads = followed(before, edited)
    settled = settled_by(before, followed_by_y_leads)
    return followed_typed(before, without_orphans(before, settled))


def _leaves_motors_alone(before: Model, after: Model, lever: str | None) -> bool:
    """Whether nothing that reaches a motor is another, but for where the trim ``lever`` stands."""
    if lever is not None:
        return same_but_for_lever(before, after, lever)
    return motor_reach(before) == motor_reach(after)
