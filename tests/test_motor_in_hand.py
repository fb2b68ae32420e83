# SPDX-License-Identifier: GPL-3.0-or-later
"""The motor in real hands: keys that are let go, switches under a finger, trims, and what an edit
may not start."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hands import Clock, stand_still
from keyed import sheet_of
from PyQt6.QtCore import QEvent, QPoint, QPointF, Qt
from PyQt6.QtGui import QKeyEvent, QMouseEvent
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from hypsos.core.document.document import Model
from hypsos.core.document.paths import with_at
from hypsos.core.document.program import Trim
from hypsos.core.engine import GuardState
from hypsos.core.engine.situation import Situation
from hypsos.desk.services.workbench import Workbench
from hypsos.desk.theme.look import look
from hypsos.hangar import Hangar

K, SHIFT, NONE = Qt.Key, Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.NoModifier


def key(
    widget: Any, code: Any, down: Any, modifiers: Any = NONE, repeat: Any = False, place: Any = 0
) -> Any:
    """A key event as the desktop sends it."""
    kind = QEvent.Type.KeyPress if down else QEvent.Type.KeyRelease
    event = QKeyEvent(kind, code, modifiers, place, 0, 0, "", repeat)
    QApplication.sendEvent(widget, event)
    return event.isAccepted()


def drag(widget: Any, to: Any, button: Any) -> None:
    """The pointer moved with a button down, as the desktop sends it."""
    at = QPointF(to)
    QApplication.sendEvent(
        widget, QMouseEvent(QEvent.Type.MouseMove, at, at, Qt.MouseButton.NoButton, button, NONE)
    )


def pass_time(bench: Workbench, seconds: Any) -> None:
    for _ in range(round(seconds / 0.02)):
        bench.simulation.clock.t += 0.02  # type: ignore[attr-defined]
        bench.simulation.tick()


def arm(bench: Workbench) -> None:
    """Low stick, switch from cut to run."""
    bench.simulation.set_control("throttle_stick", -100.0)
    bench.simulation.set_control("motor_switch", 0.0)
    bench.simulation.advance(1.5)
    bench.simulation.set_control("motor_switch", 1.0)
    bench.simulation.advance(0.1)
    assert bench.state.guard == GuardState.ARMED


@pytest.fixture
def still(window: Any) -> Any:
    """The window's bench, on which time passes only where the test says so."""
    return stand_still(window.workbench)


@pytest.fixture
def bench(hangar: Hangar) -> Any:
    return Workbench(hangar, "Samphire", clock=Clock())


def test_a_key_let_go_stops_the_throttle_whatever_else_is_down(still: Any, window: Any) -> None:
    stick = window.bench.hands.sticks["left"]
    events = (
        (
            (K.Key_W, True, NONE),
            (K.Key_Shift, True, SHIFT),
            (K.Key_W, False, SHIFT),
            (K.Key_Shift, False, NONE),
        ),
        (
            (K.Key_W, True, NONE),
            (K.Key_Up, True, NONE),
            (K.Key_W, False, NONE),
            (K.Key_Up, False, NONE),
        ),
        ((K.Key_S, True, NONE), (K.Key_W, True, NONE), (K.Key_W, False, NONE)),
    )
    for sequence in events:
        still.simulation.set_control("throttle_stick", -60.0)
        for code, down, modifiers in sequence:
            key(stick, code, down, modifiers)
        pass_time(still, 0.1)
        stopped = still.state.live.controls["throttle_stick"]
        pass_time(still, 0.5)
        assert still.state.live.controls["throttle_stick"] == stopped, sequence
        for code in (K.Key_S, K.Key_W, K.Key_Up):
            key(stick, code, False)
    key(stick, K.Key_W, True, place=25)  # the same key comes back under another name
    key(stick, K.Key_Agrave, False, place=25)
    pass_time(still, 0.1)
    was = still.state.live.controls["throttle_stick"]
    pass_time(still, 0.5)
    assert still.state.live.controls["throttle_stick"] == was


@pytest.mark.parametrize("taken_away", ["focus", "page", "model", "swallowed"])
def test_what_takes_the_keys_away_stops_the_throttle(
    still: Any, window: Any, taken_away: Any
) -> None:
    stick = window.bench.hands.sticks["left"]
    stick.setFocus()
    key(stick, K.Key_W, True)
    key(stick, K.Key_D, True)
    pass_time(still, 0.2)
    assert (
        still.state.live.controls["throttle_stick"] > -90
        and still.state.live.controls["rudder_stick"] > 0
    )
    if taken_away == "focus":
        QApplication.sendEvent(stick, QEvent(QEvent.Type.FocusOut))
        stick.clearFocus()
    elif taken_away == "page":
        window.bench.hide()
    elif taken_away == "model":
        still.document.open("Skerry")
    else:
        stick._given_up.timeout.emit()  # a second without a word from the keyboard
    was = still.state.live.controls["throttle_stick"]
    pass_time(still, 0.5)
    assert (
        still.state.live.controls["throttle_stick"] == was
        and still.state.live.controls["rudder_stick"] == 0.0
    )
    key(stick, K.Key_W, True, repeat=True)  # what was given up has to be pressed anew
    pass_time(still, 0.5)
    assert still.state.live.controls["throttle_stick"] == was


def test_a_key_that_is_heard_goes_on(still: Any, window: Any) -> None:
    stick = window.bench.hands.sticks["left"]
    key(stick, K.Key_W, True)
    assert stick._given_up.isActive() and stick._given_up.interval() == 1000
    assert [key(stick, code, False, repeat=True) for code in (K.Key_W, K.Key_F5)] == [
        True,
        False,
    ]  # its own keys alone
    stick._given_up.stop()
    key(stick, K.Key_W, False, repeat=True)
    key(stick, K.Key_W, True, repeat=True)
    assert stick._given_up.isActive()
    pass_time(still, 0.2)
    assert still.state.live.controls["throttle_stick"] > -90
    key(stick, K.Key_W, False)
    assert not stick._given_up.isActive()


def test_a_throttle_goes_as_far_as_the_pointer_and_no_click_beside_its_knob_moves_it(
    still: Any, window: Any, qtbot: QtBot
) -> None:
    stick = window.bench.hands.sticks["left"]
    left, right, f = Qt.MouseButton.LeftButton, Qt.MouseButton.RightButton, stick.field()
    top, middle = f.topLeft().toPoint() + QPoint(4, 4), f.center().toPoint()
    for button in (right, Qt.MouseButton.MiddleButton, left):
        qtbot.mousePress(stick, button, pos=top)
        assert still.state.live.controls["throttle_stick"] == -100
        assert still.state.live.controls["rudder_stick"] == (-100 if button == left else 0)
        qtbot.mouseRelease(stick, button, pos=top)
    qtbot.mousePress(stick, left, pos=top)
    stick.hide()
    assert still.state.live.controls["rudder_stick"] == 0
    stick.show()
    qtbot.mouseDClick(stick, left, pos=top)
    qtbot.mouseRelease(stick, left, pos=top)
    assert (
        still.state.live.controls["throttle_stick"] == -100
        and still.state.live.controls["rudder_stick"] == 0
    )
    up = QPoint(middle.x(), round(middle.y() - (f.width() / 2 - look.px(15)) / 2))
    qtbot.mousePress(stick, left, pos=middle)
    drag(stick, up, left)
    assert still.state.live.controls["throttle_stick"] == pytest.approx(-50, abs=1)
    qtbot.mousePress(stick, right, pos=up)  # another button lets nothing go
    qtbot.mouseRelease(stick, right, pos=up)
    drag(stick, middle, left)
    assert still.state.live.controls["throttle_stick"] == -100
    drag(stick, up, left)
    still.document.open("Marram")  # what is dragged is another model's
    drag(stick, up, left)
    assert still.state.live.controls["throttle_stick"] == still.state.plan.rest["throttle_stick"]
    qtbot.mouseRelease(stick, left, pos=middle)


def test_no_click_on_a_stick_that_gives_power_starts_a_motor_whatever_stick_that_is(
    window: Any, qtbot: QtBot
) -> None:
    """The motor of this one goes by the elevator's stick: a stick with a spring."""
    bench, left = stand_still(window.workbench), Qt.MouseButton.LeftButton
    bench.document.edit("program.mixes[3].source", "elevator_stick", "power by another stick")
    bench.simulation.advance(1.0)
    bench.simulation.set_control("motor_switch", 1.0)
    bench.simulation.advance(0.1)
    stick = window.bench.hands.sticks["right"]
    f = stick.field()
    corner = f.topRight().toPoint() + QPoint(-4, 4)
    qtbot.mousePress(stick, left, pos=corner)
    assert (
        bench.state.live.controls["elevator_stick"],
        bench.state.live.controls["aileron_stick"],
    ) == (0, 100)
    drag(stick, corner + QPoint(0, round((f.width() / 2 - look.px(15)) / 2)), left)
    assert bench.state.live.controls["elevator_stick"] == pytest.approx(-50, abs=1)
    qtbot.mouseRelease(stick, left, pos=corner)
    assert bench.state.live.controls["elevator_stick"] == 0


def test_a_slider_that_gives_power_starts_no_motor_by_a_click(window: Any, qtbot: QtBot) -> None:
    window.workbench.document.open("Sandpiper")
    bench, left = window.workbench, Qt.MouseButton.LeftButton
    fader = next(
        f
        for n, f in window.bench.hands.faders.items()
        if n == bench.loaded.program.axis("thrust").control
    )
    bench.simulation.set_control(fader.control.name, -100.0)
    track = fader.track()
    for act in (qtbot.mouseClick, qtbot.mouseDClick):
        for button in (left, Qt.MouseButton.RightButton):
            act(fader, button, pos=track.center().toPoint())  # type: ignore[no-untyped-call]
            assert fader.stands == -100
    assert fader.tip() == "drag it, or Page Up and Page Down."
    for code in (K.Key_Up, K.Key_Right, K.Key_Down, K.Key_Left):  # the keys of elevator and aileron
        key(fader, code, True)
        assert fader.stands == -100, code
    key(fader, K.Key_PageUp, True)
    assert fader.stands == -95
    key(fader, K.Key_PageDown, True)
    assert fader.stands == -100
    qtbot.mousePress(fader, left, pos=QPoint(20, 20))
    drag(fader, QPoint(round(20 + track.width() / 4), 20), left)
    assert fader.stands == pytest.approx(-50, abs=2)
    qtbot.mouseRelease(fader, left)
    drag(fader, QPoint(60, 20), left)  # it was let go
    assert fader.stands == pytest.approx(-50, abs=2)


def test_only_what_is_meant_for_it_moves_the_motor_switch_to_run(
    still: Any, window: Any, qtbot: QtBot
) -> None:
    toggle = window.bench.hands.toggles["motor_switch"]
    left = Qt.MouseButton.LeftButton
    for i in (1, 0):
        qtbot.mouseClick(toggle, left, pos=toggle.slot(i).center().toPoint())
    for code in (
        K.Key_Up, K.Key_Right, K.Key_Down, K.Key_Left, K.Key_Space, K.Key_PageUp, K.Key_PageDown, K.Key_Home, K.Key_End,
        K.Key_Return,
    ):  # fmt: skip
        for repeat in (False, True, True):
            key(toggle, code, True, repeat=repeat)
        key(toggle, code, False)
        assert still.state.live.controls["motor_switch"] == 0 and toggle.value() == 0, code
    qtbot.mouseClick(toggle, Qt.MouseButton.RightButton, pos=toggle.slot(1).center().toPoint())
    assert still.state.live.controls["motor_switch"] == 0
    key(toggle, K.Key_2, True, repeat=True)
    assert still.state.live.controls["motor_switch"] == 0
    key(toggle, K.Key_2, True)
    assert still.state.live.controls["motor_switch"] == 1
    key(toggle, K.Key_Space, True)
    for _ in range(3):
        key(toggle, K.Key_Space, True, repeat=True)
    assert still.state.live.controls["motor_switch"] == 0
    other = window.bench.hands.toggles["flap_switch"]
    key(other, K.Key_Down, True)
    assert still.state.live.controls["flap_switch"] == 1


@pytest.mark.parametrize("by", ["key", "mouse"])
def test_a_button_held_is_let_go_with_the_focus(
    still: Any, window: Any, qtbot: QtBot, by: Any
) -> None:
    from hypsos.core.edits.controls import with_control

    made, name = with_control(still.loaded, "momentary", 2, "right")
    still.document.apply(made, "a button")
    still.document.edit("program.guard.switch", name, "the motor runs while it is held")
    button = window.bench.hands.toggles[name]
    for arrow in (
        K.Key_Up,
        K.Key_Down,
        K.Key_1,
        K.Key_2,
        K.Key_Return,
    ):  # wild hands armed a motor by the elevator's key
        key(button, arrow, True)
        assert still.state.live.controls[name] == 0
    if by == "key":
        key(button, K.Key_Space, True)
    else:
        qtbot.mousePress(button, Qt.MouseButton.LeftButton)
    assert still.state.live.controls[name] == 1
    QApplication.sendEvent(button, QEvent(QEvent.Type.FocusOut))
    button.clearFocus()
    assert still.state.live.controls[name] == 0
    if by == "key":  # and by the finger itself; a key that is held and repeats is not let go
        key(button, K.Key_Space, True)
        key(button, K.Key_Space, False, repeat=True)
        key(button, K.Key_Space, True, repeat=True)
        assert still.state.live.controls[name] == 1
        key(button, K.Key_Space, False)
    else:
        qtbot.mousePress(button, Qt.MouseButton.LeftButton)
        assert still.state.live.controls[name] == 1
        qtbot.mouseRelease(button, Qt.MouseButton.LeftButton)
    assert still.state.live.controls[name] == 0


# -- trims --------------------------------------------------------------------------------------


def with_thrust_trim(bench: Workbench, **fields: Any) -> None:
    axes = tuple(
        a.changed({"trim": Trim(**fields)}) if a.command == "thrust" else a
        for a in bench.loaded.program.axes
    )
    bench.document.edit("program.axes", axes, "thrust trim")


def told(bench: Workbench) -> Any:
    return float(bench.state.live.result.outputs["motor"].us[-1])


def test_an_undo_a_snapshot_a_step_or_a_scope_that_moves_a_trim_locks(bench: Workbench) -> None:
    with_thrust_trim(bench)
    bench.document.trim("thrust", 20)
    bench.document.keep("with trim")
    number = bench.document.hangar.snapshots("Samphire")[0].id
    bench.document.edit("note", "x", "note")
    bench.document.trim("thrust", -20)

    def locks(act: Any) -> None:
        bench.document.look_again()
        arm(bench)
        assert told(bench) == 1000.0
        act()
        bench.simulation.advance(0.2)
        assert bench.state.guard == GuardState.LOCKED and told(bench) == 1000.0
        assert bench.loaded.program.axis("thrust").trim.clicks == 20

    locks(bench.document.undo)
    bench.document.trim("thrust", -20)
    locks(lambda: bench.document.restore(number, "back"))
    bench.document.undo()
    bench.document.trim("thrust", 20)
    bench.document.undo()
    locks(bench.document.redo)
    bench.document.undo()
    for field, value in (("step", 2.0), ("scope", "lever"), ("range", 40.0)):
        arm(bench)
        thrust = [a.command for a in bench.loaded.program.axes].index("thrust")
        bench.document.edit(f"program.axes[{thrust}].trim.{field}", value, field)
        assert bench.state.guard == GuardState.LOCKED, field


def test_the_levers_own_click_is_a_hands_movement(bench: Workbench) -> None:
    with_thrust_trim(bench)
    arm(bench)
    bench.document.trim("thrust", 3)
    bench.simulation.advance(0.1)
    assert (
        bench.state.guard == GuardState.ARMED
        and told(bench) == 1015.0
        and bench.state.trim_clicks("thrust") == 3
    )
    bench.document.trim("pitch", 3)
    bench.document.undo()  # reaches no motor
    assert bench.state.guard == GuardState.ARMED


@pytest.mark.parametrize("scope", ["common", "per mode", "offset"])
def test_no_save_puts_back_a_trim_that_nobody_moved(bench: Workbench, scope: Any) -> None:
    """After recorded moves have moved a lever, what is no edit of movement changes no pulse; a
    click is one click."""
    import numpy as np

    bench.document.open("Marram")
    axes = tuple(
        a.changed({"trim": Trim(scope=scope)}) if a.trim else a for a in bench.loaded.program.axes
    )
    bench.document.edit("program.axes", axes, "trims")
    bench.simulation.play(
        Situation(
            np.arange(3) * 0.02, {**bench.state.plan.rest, "pitch_trim": np.array([0.0, 6.0, 6.0])}
        )
    )
    bench.simulation.clock.t += 1.0  # type: ignore[attr-defined]
    bench.simulation.tick()
    assert not bench.simulation.playing and bench.state.trim_clicks("pitch") == 6
    commanded = lambda: bench.state.live.result.commands["pitch"][-1]  # noqa: E731
    bench.document.edit("note", "n", "note")
    bench.document.edit("leads[0].label", "L", "label")
    bench.document.sheet_written()
    bench.document.undo()
    bench.simulation.advance(0.1)
    assert commanded() == 6.0 and bench.state.trim_clicks("pitch") == 6  # type: ignore[no-untyped-call]
    bench.document.trim("pitch", 1)
    bench.simulation.advance(0.1)
    assert commanded() == 7.0 and bench.state.trim_clicks("pitch") == 7  # type: ignore[no-untyped-call]
    bench.document.trim("pitch", -7)
    assert commanded() == 0.0 and bench.loaded.program.axis("pitch").trim.clicks == 0  # type: ignore[no-untyped-call]
    bench.simulation.power_up()
    bench.simulation.take(bench.loaded, bench.state.plan)
    assert commanded() == 0.0  # type: ignore[no-untyped-call]


def test_the_thrust_trim_lever_is_there_and_answers(still: Any, window: Any, qtbot: QtBot) -> None:
    with_thrust_trim(still)
    stick = window.bench.hands.sticks["left"]
    strip, flat = stick._trim_places()["throttle_stick"]
    assert not flat and strip.left() > stick.field().right()
    key(stick, K.Key_W, True, SHIFT)
    assert (
        still.state.trim_clicks("thrust") == 1
        and still.loaded.program.axis("thrust").trim.clicks == 1
    )

    below = strip.center().toPoint()
    below.setY(round(strip.bottom()) - 4)
    qtbot.mouseClick(stick, Qt.MouseButton.LeftButton, pos=below)
    qtbot.mouseClick(stick, Qt.MouseButton.LeftButton, pos=below)
    assert still.state.trim_clicks("thrust") < 1


def test_another_windows_write_locks_a_running_motor(bench: Workbench) -> None:
    arm(bench)
    other = Hangar(bench.document.hangar.path)
    other.save("Samphire", with_at(other.load("Samphire"), "note", "theirs"))
    bench.document.look_again()
    assert bench.state.guard == GuardState.LOCKED and bench.model.note == "theirs"
    arm(bench)
    other.save("Samphire", with_at(other.load("Samphire"), "note", "theirs again"))
    bench.document.edit("leads[0].label", "L", "label")
    assert bench.state.guard == GuardState.LOCKED
    other.close()


def test_a_locking_edit_forgets_how_long_the_stick_has_rested(bench: Workbench) -> None:
    bench.document.edit("program.guard.level", 3, "level")
    bench.document.edit("program.guard.rest_s", 1.0, "rest")
    bench.simulation.advance(2.0)
    bench.document.edit("program.guard.rest_s", 2.0, "rest")
    bench.simulation.advance(1.5)
    bench.simulation.set_control("motor_switch", 1.0)
    bench.simulation.advance(0.1)
    assert bench.state.guard == GuardState.LOCKED


# -- what is said of a motor is what its lead sends ---------------------------------------------


def full_power(bench: Workbench) -> None:
    arm(bench)
    bench.simulation.set_control("throttle_stick", 100.0)
    bench.simulation.advance(0.1)
    assert bench.state.powers()["motor"] == 100.0


def test_without_a_link_everything_says_that_the_motor_runs(still: Any, window: Any) -> None:
    """Full power, the link cut, the switch to cut: the receiver holds full power until its failsafe
    acts."""
    from hypsos.core.parts.announcement_values import Announcement

    still.document.edit(
        "program.announcements", (Announcement(caption="Motor cut", when="guard:cut"),), "say"
    )
    window.finish()
    window.go("guard")
    page, spoken = window.page("guard"), []  # type: ignore[var-annotated]
    still.simulation.followers.append(
        lambda result, _: spoken.extend(x.caption for x in result.said)
    )
    full_power(still)
    still.simulation.set_link(False)
    pass_time(still, 0.1)
    spoken.clear()
    still.simulation.set_control("motor_switch", 0.0)
    pass_time(still, 0.3)
    lamp = window.bench.lamp
    said = "Motor RUNS at 100 %: the link is lost, the receiver holds it, cut cannot reach it until the failsafe acts (0."
    assert still.state.turning and lamp.words == lamp.text() == "Motor RUNS"
    for words in (lamp.accessibleName(), window.bench.reason.text(), page.strip.words.text(),
                  page.picture.accessibleDescription()):  # fmt: skip
        assert words.startswith(said), words
    assert "lead still sends 100 % power" in page.changes.text() and not spoken
    other = window.page("shake")
    window.go("shake")
    assert other.strip.words.text().startswith(said)
    assert (
        other.strip.show_.isHidden() and other.strip.next.isHidden() and other.strip.keep.isHidden()
    )
    pass_time(still, 1.5)
    assert not still.state.turning and lamp.words == "Motor cut" and spoken == ["Motor cut"]
    assert "RUNS" not in other.strip.words.text()


@pytest.mark.parametrize(
    ("failsafe", "before", "after"),
    [
        (
            {"action": "hold"},
            "the receiver holds it, and so does the failsafe (",
            "the failsafe holds it; cut cannot",
        ),
        (
            {"action": "preset", "value": 0.0},
            "until the failsafe acts (",
            "its failsafe is set so; cut cannot reach it",
        ),
    ],
)
def test_a_failsafe_that_runs_the_motor_is_said_too(
    bench: Workbench, failsafe: Any, before: Any, after: Any
) -> None:
    from hypsos.core.parts.leads import Failsafe

    index = bench.state.lead_index("motor")
    bench.document.edit(f"leads[{index}].failsafe", Failsafe(**failsafe), "failsafe")
    full_power(bench)
    bench.document.edit("program.guard.level", 4, "level")
    bench.document.edit("program.guard.relock_s", 0.5, "re-lock")
    full_power(bench)
    bench.simulation.set_link(False)
    bench.simulation.advance(0.7)  # level 4 has locked by now
    assert (
        bench.state.guard == GuardState.LOCKED
        and bench.state.motor_said.beyond_control
        and before in bench.state.guard_words
    )
    bench.simulation.advance(1.0)
    assert bench.state.motor_said.short == "Motor RUNS" and after in bench.state.guard_words


def test_a_lamp_that_was_hidden_says_what_is_so_now(still: Any, window: Any) -> None:
    """The screen reader hears the lamp's name; hidden, it had been told nothing."""
    lamp = window.bench.lamp
    still.simulation.advance(1.0)
    window.bench.hide()
    still.simulation.set_control("throttle_stick", 0.0)
    still.simulation.set_control("motor_switch", 1.0)
    still.simulation.advance(0.1)
    window.bench.show()
    QApplication.processEvents()
    assert lamp.isVisible() and lamp.accessibleName() == still.state.guard_words
    assert (
        "would be commanded 50 %" in lamp.accessibleName()
        and "would be commanded 50 %" in lamp.toolTip()
    )


def test_on_an_aeroplane_to_practise_on_the_lamp_says_what_its_motor_hears(hangar: Hangar) -> None:
    from hypsos.core.fitting.direction_finder import check_of
    from hypsos.core.fitting.practice_faults import practice_with, single_faults

    for name in ("Samphire", "Skerry", "Marram"):
        bench, turned = Workbench(hangar, name, clock=Clock()), 0
        bench.simulation.advance(0.1)
        for fault in single_faults(check_of(bench.loaded)):
            bench.simulation.practise(practice_with(bench.loaded, [fault]))
            turned += bench.state.turning
            assert bench.state.motor_said.beyond_control == bench.state.turning, fault
            assert ("RUNS at" in bench.state.guard_words) == bench.state.turning
        assert turned


def test_the_reason_named_is_the_one_that_holds_it(bench: Workbench) -> None:
    with_thrust_trim(bench)
    bench.document.trim("thrust", 20)
    bench.simulation.advance(1.0)
    bench.simulation.set_control("motor_switch", 1.0)
    bench.simulation.advance(0.1)
    assert (
        bench.state.guard_words
        == "Motor locked: Motor would be commanded 10 % by the thrust trim; take that back"
    )
    bench.document.trim("thrust", -20)
    bench.simulation.set_control("throttle_stick", 0.0)
    bench.simulation.advance(0.1)
    assert bench.state.guard_words.endswith("would be commanded 50 %; bring the throttle stick low")


def test_a_hold_says_its_own_word(bench: Workbench) -> None:
    bench.document.edit("program.guard.holds", ("flap_switch@2",), "hold")
    full_power(bench)
    bench.simulation.set_control("flap_switch", 2.0)
    bench.simulation.advance(0.1)
    held = bench.state.guard_words
    assert (
        bench.state.motor_said.short == "Motor held"
        and held.startswith("Motor held while")
        and "stands at run" in held
    )
    bench.simulation.set_control("motor_switch", 0.0)
    assert bench.state.guard_words == "Motor cut"  # the switch stops it, whatever else does
    bench.simulation.set_control("motor_switch", 1.0)
    bench.simulation.set_control("throttle_stick", -100.0)
    bench.simulation.set_control("flap_switch", 0.0)
    bench.simulation.advance(0.1)
    assert bench.state.guard_words == "Motor locked: the throttle stick has to rest low for 0.5 s"


def test_moves_that_are_played_say_nothing_before_their_first_frame(
    still: Any, window: Any
) -> None:
    """Without a link the pulses stay what they are until the first frame of the moves is there, and
    so do the words."""
    full_power(still)
    still.simulation.set_link(False)
    pass_time(still, 0.1)
    lamp, words = window.bench.lamp, still.state.guard_words
    assert lamp.text() == "Motor RUNS"
    still.simulation.play(Situation(np.arange(1.0, 51.0) / 50.0, {}))
    assert (
        still.state.turning
        and still.state.guard_words == words
        and lamp.text() == lamp.words == "Motor RUNS"
    )
    pass_time(still, 0.1)
    assert (
        not still.state.turning
        and lamp.text() == lamp.words == "Motor cut"
        and still.state.live.link == 1.0
    )


# -- other transmitters, other aeroplanes -------------------------------------------------------


def test_taking_a_transmitter_that_begins_at_the_other_end_keeps_cut_where_the_hand_has_it(
    still: Any, window: Any
) -> None:
    from hypsos.core.edits.transmitters import shipped, taken

    toggle = lambda: window.bench.hands.toggles["motor_switch"]  # noqa: E731
    still.document.edit("transmitter.first_end", "away", "a switch begins away")
    was = {p: toggle().slot(i).y() for i, p in enumerate(toggle().control.positions)}  # type: ignore[no-untyped-call]
    assert was["cut"] < was["run"]
    groyne = next(x for x in shipped() if x.first_end == "towards")
    change = taken(still.loaded, groyne)
    still.document.apply(change.model, "Groyne")
    assert not change.other_way and still.loaded.transmitter.first_end == "towards"
    places = {p: toggle().slot(i).y() for i, p in enumerate(toggle().control.positions)}  # type: ignore[no-untyped-call]
    assert places["cut"] < places["run"]
    control = still.loaded.transmitter.control("motor_switch")
    assert control.positions[int(still.state.live.controls["motor_switch"])] == "cut"
    assert {control.positions[i] for i in still.loaded.program.guard.cut} == {"cut"} | (
        set(control.positions) - set(was)
    )
    key(toggle(), K.Key_Down, True)  # type: ignore[no-untyped-call]  # towards the pilot is towards run here
    assert control.positions[int(still.state.live.controls["motor_switch"])] == "cut"


def test_a_switch_that_cannot_be_turned_round_is_said(bench: Workbench) -> None:
    from hypsos.core.conditions import Compare
    from hypsos.core.edits.transmitters import shipped, taken

    bench.document.edit(
        "program.logic",
        (*bench.loaded.program.logic, Compare(name="deep", kind="above", a="motor_switch", x=0)),
        "compares",
    )
    towards = next(x for x in shipped() if x.first_end == "towards")
    (said,) = taken(bench.loaded, towards).other_way
    assert said.startswith("Motor switch: MOTOR: cut now lies towards you")


def test_trim_levers_that_a_transmitter_lacks_are_said(bench: Workbench) -> None:
    from hypsos.core.edits.transmitters import shipped, taken

    few = shipped()[0].changed({"trim_levers": ("roll", "pitch")})
    assert "yaw trim lever" in taken(bench.loaded, few).homeless
    assert "yaw trim lever" not in taken(bench.loaded, shipped()[0]).homeless


def test_without_a_motor_there_is_no_guard_and_a_motor_that_comes_gets_one_afresh(
    samphire: Model,
) -> None:
    from hypsos.core.checking.checks import problems
    from hypsos.core.document.migrate import migrated
    from hypsos.core.edits.controls import without_control
    from hypsos.core.shape.adapt_model import adapted

    motors = samphire.airframe.motors
    bare = adapted(samphire, samphire.airframe.changed({"motors": ()}))
    assert (
        bare.model.program.guard is None
        and "the motor guard" in bare.let_go
        and list(problems(bare.model)) == []
    )
    assert not any(x.when.startswith("guard:") for x in bare.model.program.announcements)
    for name in ("", "Sill", "Groyne"):
        assert not any("guard" in block.title for block in sheet_of(bare.model, name).blocks)
    gone = without_control(bare.model, "motor_switch")
    again = adapted(gone, samphire.airframe).model
    assert (
        again.program.guard.switch == "motor_switch"
        and "guard" in again.proposed
        and again.airframe.motors == motors
    )
    used = with_at(
        bare.model, "program.mixes[0].when", "motor_switch@1"
    )  # the idle switch got other work meanwhile
    fresh = adapted(used, samphire.airframe).model
    assert fresh.program.guard.switch == "motor_switch_2" and list(problems(fresh)) == []
    hidden = with_at(bare.model, "program.guard", samphire.program.guard)
    assert [p.path for p in problems(hidden)] == ["program.guard"]
    import json

    from hypsos.core.document.document import to_json

    old = json.loads(to_json(hidden)) | {"schema_version": 2}
    assert "guard" not in migrated(old)["program"] and migrated(old)["schema_version"] == 4


@pytest.mark.parametrize(
    ("positions", "cut", "said"),
    [
        (("CUT!", "run"), (1,), ("At CUT! the motor may run", "At run the motor is cut")),
        (
            ("Motor off", "Motor on"),
            (1,),
            ("At Motor off the motor may run", "At Motor on the motor is cut"),
        ),
        (("throttle cut", "normal"), (1,), ("At throttle cut the motor may run",)),
        (
            ("on", "On "),
            (0,),
            ("At on the motor is cut", "Two positions of Motor switch are called On"),
        ),
        (("cut", "normal"), (0,), ()),
    ],
)
def test_names_of_positions_that_say_another_thing_are_pointed_out(
    samphire: Model, positions: Any, cut: Any, said: Any
) -> None:
    from hypsos.core.rundown import attentions

    controls = tuple(
        c.changed({"positions": positions}) if c.name == "motor_switch" else c
        for c in samphire.transmitter.controls
    )
    model = with_at(with_at(samphire, "transmitter.controls", controls), "program.guard.cut", cut)
    found = [a.text for a in attentions(model) if a.path == "program.guard.cut"]
    assert len(found) == len(said) and all(
        f.startswith(s) for f, s in zip(found, said, strict=True)
    ), found


def test_another_motor_switch_brings_its_own_cut_positions(window: Any, still: Any) -> None:
    still.document.edit("program.guard.level", 2, "level")
    window.go("guard")
    page = window.page("guard")
    controls = list(still.loaded.transmitter.controls)
    other = next(c for c in controls if c.kind == "switch" and c.name not in ("motor_switch",))
    renamed = tuple(
        c.changed({"positions": ("go", *c.positions[1:-1], "stop")}) if c.name == other.name else c
        for c in controls
    )
    still.document.edit("transmitter.controls", renamed, "names")
    page.switch.setCurrentIndex(page.switch.findData(other.name))
    page.switch.activated.emit(page.switch.currentIndex())
    guard = still.loaded.program.guard
    assert (guard.switch, guard.cut) == (other.name, (len(other.positions) - 1,))
