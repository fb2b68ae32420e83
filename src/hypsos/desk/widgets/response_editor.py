# SPDX-License-Identifier: GPL-3.0-or-later
"""A response at a place of the document: by name with its figures, or by its points, dragged, typed
or nudged."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import QCheckBox, QPushButton, QVBoxLayout, QWidget

from hypsos.core.base.errors import HypsosError
from hypsos.core.base.figure_words import plain
from hypsos.core.edits.named_shapes import (
    BY_HAND,
    SHAPES,
    made,
    named_shape,
    with_new_point,
    with_point,
    without_point,
)
from hypsos.core.engine.shaping import stored_values
from hypsos.core.parts.mix_lines import Response
from hypsos.desk.services.workbench import Workbench
from hypsos.desk.widgets.curve_canvas import CurveCanvas
from hypsos.desk.widgets.fields import ChoiceBox
from hypsos.desk.widgets.flow_layout import flowing
from hypsos.desk.widgets.number_field import NumberField
from hypsos.desk.widgets.page_layout import clear, label, row
from hypsos.desk.widgets.vanished_rows import while_there


class ResponseEdit(QWidget):
    """``get`` reads the response (None: unchanged), ``put`` takes a new one with words and what it
    merges with; ``source`` is the present input in percent, or None; ``shown`` is the response as
    it works, where something else moves its points. ``bare``: points alone, ``most`` of them, none
    of which moves in flight."""

    def __init__(
        self,
        workbench: Workbench,
        about: str,
        get: Callable[[], Response | None],
        put: Callable[[Response | None, str, str], None],
        source: Callable[[], float | None] = lambda: None,
        shown: Callable[[], Response] | None = None,
        bare: bool = False,
        most: int = 33,
    ) -> None:
        super().__init__()
        self.workbench, self.about = workbench, about
        self._get, self._put, self._source = get, put, source
        self._shown = shown
        self._bare, self._most = bare, most
        self._made_for = ""
        self.shape = ChoiceBox()
        self.shape.setAccessibleName(f"{about}: shape of the response")
        for key, found in SHAPES.items():
            self.shape.addItem(found.words, key)
        self.shape.addItem("points by hand", BY_HAND)
        self.shape.activated.connect(lambda k: self._shaped(self.shape.itemData(k)))
        self.hint = label("", "faint")
        self.figures: list[NumberField] = []
        self._figures = row()
        self.canvas = CurveCanvas(about)
        self.canvas.moved.connect(self._moved)
        self.canvas.wanted.connect(self._new)
        self.canvas.unwanted.connect(self._drop)
        self.canvas.chosen_changed.connect(lambda _: self._refresh_point())
        self.complaint = label("", "complaint")
        self.complaint.hide()
        self.at = NumberField(
            f"{about}: point at",
            lambda: self._point()[0],
            lambda v: self._typed(v, None),
            bounds=(-100, 100),
        )
        self.gives = NumberField(
            f"{about}: it gives", lambda: self._point()[1], lambda v: self._typed(None, v)
        )
        self.which = label("", "faint", wrap=False)
        self.drop = QPushButton("Take it away")
        self.drop.setObjectName("plain")
        self.drop.clicked.connect(lambda: self._drop(self.canvas.chosen))
        self.more = QPushButton("New point")
        self.more.setObjectName("plain")
        self.more.clicked.connect(self._between)
        self.smooth = QCheckBox("Smooth between the points")
        self.smooth.clicked.connect(self._smoothed)
        self.live = QCheckBox("This point moves in flight with")
        self.live.clicked.connect(lambda: self._lived())
        self.lever = ChoiceBox()
        self.lever.setAccessibleName(f"{about}: shared value that moves points in flight")
        self.lever.activated.connect(lambda _: self._lived(keep=True))
        self.keep = QPushButton("Keep the points where they are now")
        self.keep.clicked.connect(self.keep_now)
        self.keep.hide()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(5)
        if bare:
            for widget in (self.shape, self.hint):
                widget.setParent(None)
        else:
            column.addLayout(row("Goes", self.shape, None))
            column.addWidget(self.hint)
        column.addLayout(self._figures)
        column.addWidget(self.canvas)
        column.addWidget(flowing(self.which, self.at, "gives", self.gives))
        column.addLayout(row(self.more, self.drop, None))
        column.addWidget(self.smooth)
        column.addWidget(flowing(self.live, self.lever))
        column.addLayout(row(self.keep, None))
        column.addWidget(self.complaint)
        workbench.simulation.live_changed.connect(self._ride)
        self.refresh()

    # -- showing ---------------------------------------------------------------------------------

    def response(self) -> Response:
        """The response as points, the unchanged one too."""
        return self._get() or made("straight")

    def _point(self) -> tuple[float, float]:
        points = self.response().points
        return points[min(self.canvas.chosen, len(points) - 1)]

    def refresh(self) -> None:
        """Show it as it is now."""
        name, figures = named_shape(self._get())
        self.shape.setCurrentIndex(self.shape.findData(name))
        self.hint.setText(SHAPES[name].about if name in SHAPES else "")
        self.hint.setVisible(name in SHAPES and not self._bare)
        if name != self._made_for and not self._bare:
            self._made_for = name
            self._make_figures(name)
        for field in self.figures:
            field.refresh()
        del figures
        response = self.response()
        self.canvas.show_response(self._working(), self._source(), self._lift())
        self.smooth.setChecked(response.shape == "smooth")
        self._refresh_point()

    def _refresh_point(self) -> None:
        response, at = self.response(), self.canvas.chosen
        self.which.setText(f"Point {at + 1} of {len(response.points)}, at")
        self.drop.setEnabled(len(response.points) > 2)
        self.at.refresh()
        self.gives.refresh()
        shared = self.workbench.loaded.program.tunables
        names = [(x.name, x.label) for x in shared]
        self.lever.fill(names)
        self.live.setChecked(at in response.live)
        if response.live_from is not None:
            self.lever.setCurrentIndex(self.lever.findData(response.live_from))
        for widget in (self.live, self.lever):
            widget.setVisible(bool(names) and not self._bare)
        self.keep.setVisible(abs(self._lift()) > 0.05)

    def _working(self) -> Response:
        """The response with what moves its points in flight."""
        return self.response() if self._shown is None else self._shown()

    def _lift(self) -> float:
        name = self._working().live_from
        if name is None:
            return 0.0
        now = self.workbench.state.shared_now()
        return (
            now[name]
            if name in now
            else stored_values(self.workbench.loaded, self.workbench.state.mode_name).get(name, 0.0)
        )

    def keep_now(self) -> None:
        """What a lever has made of the curve becomes the curve."""
        lift = self._lift()
        points = self._working().lifted(lift)
        self._take(self.response().changed({"points": points}), "points kept as they are now")
        self.workbench.notices.noticed.emit(
            "Kept. Put the lever back to its middle now, or it counts twice."
        )

    @while_there
    def _ride(self) -> None:
        if self.isVisible() and self.workbench.model is not None:
            self.canvas.show_response(self._working(), self._source(), self._lift())
            self.keep.setVisible(abs(self._lift()) > 0.05)

    def _make_figures(self, name: str) -> None:
        clear(self._figures)
        self.figures = []
        shape = SHAPES.get(name)
        for i, figure in enumerate(shape.figures if shape is not None else ()):
            field = NumberField(
                f"{self.about}: {figure.words.lower()}",
                lambda i=i: self._figure(i),
                lambda v, i=i: self._figured(i, v),
                bounds=(figure.low, figure.high),
            )
            self.figures.append(field)
            self._figures.addWidget(label(figure.words, wrap=False))
            self._figures.addWidget(field)
        self._figures.addStretch(1)

    def _figure(self, index: int) -> float:
        name, figures = named_shape(self._get())
        return figures[index] if name == self._made_for and index < len(figures) else 0.0

    # -- edits -----------------------------------------------------------------------------------

    def _take(self, response: Response | None, words: str, merge: str = "") -> None:
        try:
            self._put(response, f"{self.about}: {words}", merge)
            self._complain("")
        except HypsosError as error:
            self._complain(error.plain)
        self.refresh()

    def _complain(self, why: str) -> None:
        self.complaint.setText(why)
        self.complaint.setVisible(bool(why))

    def _shaped(self, name: str) -> None:
        if name == BY_HAND:
            response = self.response()
            if named_shape(response)[0] != BY_HAND and len(response.points) == 2:
                points = tuple(
                    (
                        x,
                        response.points[0][1]
                        + (x + 100) / 200 * (response.points[1][1] - response.points[0][1]),
                    )
                    for x in (-100.0, -50.0, 0.0, 50.0, 100.0)
                )
                self._take(Response(points=points), "points by hand")
            else:
                self._complain("Drag a point, or write its figures: then it is by hand.")
                self.refresh()
            return
        self._take(None if name == "straight" else made(name), SHAPES[name].words)

    def _figured(self, index: int, value: float) -> None:
        name, figures = named_shape(self._get())
        new = tuple(value if i == index else x for i, x in enumerate(figures))
        shape = SHAPES[name]
        self._put(
            shape.make(*new),
            f"{self.about}: {shape.figures[index].words.lower()} {plain(value)} %",
            f"{self.about} {name}",
        )
        self.refresh()

    def _moved(self, index: int, x: float, y: float) -> None:
        new, held = with_point(self.response(), index, x, y)
        self._take(new, f"point {index + 1}", f"{self.about} point {index}")
        if held:
            self._complain("A point stays between its neighbours, and within 150 %.")

    def _typed(self, x: float | None, y: float | None) -> None:
        response, at = self.response(), self.canvas.chosen
        old = response.points[at]
        new, held = with_point(response, at, old[0] if x is None else x, old[1] if y is None else y)
        if held:
            raise HypsosError(
                "the next point lies there, and a point stays between its neighbours", ""
            )
        self._put(new, f"{self.about}: point {at + 1}", f"{self.about} point {at}")
        self.refresh()

    def _new(self, x: float, y: float) -> None:
        if len(self.response().points) >= self._most:
            self._complain(f"It has {self._most} points at the most.")
            return
        new, index = with_new_point(self.response(), x, min(150.0, max(-150.0, y)))
        self.canvas.chosen = index
        self._take(new, "new point")

    def _between(self) -> None:
        """A new point in the middle of the widest gap, on the line."""
        from hypsos.core.parts.curves import Curve

        response = self.response()
        xs = [p[0] for p in response.points]
        gap = max(range(len(xs) - 1), key=lambda i: xs[i + 1] - xs[i])
        x = (xs[gap] + xs[gap + 1]) / 2
        self._new(x, float(Curve(response.points, response.shape)(x)))

    def _drop(self, index: int) -> None:
        if len(self.response().points) > 2:
            self._take(without_point(self.response(), index), "point taken away")

    def _smoothed(self, on: bool) -> None:
        self._take(
            self.response().changed({"shape": "smooth" if on else "straight"}),
            "smooth" if on else "straight lines",
        )

    def _lived(self, keep: bool = False) -> None:
        response, at = self.response(), self.canvas.chosen
        live = set(response.live) if keep else set(response.live) ^ {at}
        name = self.lever.currentData()
        if keep and not live:
            return
        fields = {"live": tuple(sorted(live)), "live_from": name if live else None}
        self._take(response.changed(fields), "points that move in flight")
