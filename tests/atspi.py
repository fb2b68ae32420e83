# SPDX-License-Identifier: GPL-3.0-or-later
"""What a screen reader finds: the tree of a program over the bus of assistive technology (AT-SPI).

Run as a program of its own within a session bus: it starts that bus and the program named behind
it, under Xvfb, and writes what the tree says of its choices as JSON.

    dbus-run-session -- python tests/atspi.py hypsos --demo"""

from __future__ import annotations

import json
import os
import signal
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import suppress
from pathlib import Path
from typing import Any

from PyQt6.QtCore import QCoreApplication, QObject, pyqtSlot
from PyQt6.QtDBus import QDBusMessage

LAUNCHER = Path("/usr/libexec/at-spi-bus-launcher")
ACCESSIBLE = "org.a11y.atspi.Accessible"
ROOT = ("org.a11y.atspi.Registry", "/org/a11y/atspi/accessible/root")
LABELLED_BY = 2
VALUE, ACTION = "org.a11y.atspi.Value", "org.a11y.atspi.Action"
EVENTS = "org.a11y.atspi.Event.Object"
PATIENT_S = 60.0
Node = tuple[str, str]


class Ears(QObject):
    """Hears announcements."""

    def __init__(self, heard: list[str]) -> None:
        super().__init__()
        self._heard = heard

    @pyqtSlot(QDBusMessage)
    def hear(self, message: QDBusMessage) -> None:
        """One has come."""
        self._heard.append(str(message.arguments()[3]))


class Bus:
    """The bus of assistive technology."""

    def __init__(self) -> None:
        from PyQt6.QtDBus import QDBusConnection, QDBusInterface

        session = QDBusConnection.sessionBus()
        asked = QDBusInterface("org.a11y.Bus", "/org/a11y/bus", "org.a11y.Bus", session)
        address = asked.call("GetAddress").arguments()[0]
        self._bus = QDBusConnection.connectToBus(address, "heard")

    def _call(self, node: Node, interface: str, method: str, *arguments: str) -> Any:
        from PyQt6.QtDBus import QDBusMessage

        message = QDBusMessage.createMethodCall(*node, interface, method)
        message.setArguments(list(arguments))
        reply = self._bus.call(message, timeout=5000).arguments()
        return reply[0] if reply else None

    def name(self, node: Node) -> str:
        """What a reader calls it."""
        got = self._call(node, "org.freedesktop.DBus.Properties", "Get", ACCESSIBLE, "Name")
        return str(got)

    def role(self, node: Node) -> str:
        """What sort of thing it is."""
        return str(self._call(node, ACCESSIBLE, "GetRoleName"))

    def children(self, node: Node) -> list[Node]:
        """What lies within it."""
        found = self._call(node, ACCESSIBLE, "GetChildren")
        return list(map(_node, found)) if isinstance(found, list) else []

    def labels(self, node: Node) -> list[str]:
        """The names of the labels that belong to it."""
        relations = self._call(node, ACCESSIBLE, "GetRelationSet") or []
        labelled = [targets for kind, targets in relations if kind == LABELLED_BY]
        return [self.name(_node(target)) for targets in labelled for target in targets]

    def description(self, node: Node) -> str:
        """What more is said of it."""
        got = self._call(node, "org.freedesktop.DBus.Properties", "Get", ACCESSIBLE, "Description")
        return str(got)

    def value(self, node: Node) -> float:
        """Where something that stands at a value stands."""
        got = self._call(node, "org.freedesktop.DBus.Properties", "Get", VALUE, "CurrentValue")
        return float(got)

    def act(self, node: Node, name: str) -> None:
        """Do one of the things that can be done with it: *Increase*, *Press*."""
        from PyQt6.QtCore import QMetaType
        from PyQt6.QtDBus import QDBusArgument, QDBusMessage

        known = self._call(node, ACTION, "GetActions") or []
        names = [str(a[0]).casefold() for a in known]
        message = QDBusMessage.createMethodCall(*node, ACTION, "DoAction")
        index = QDBusArgument(names.index(name.casefold()), QMetaType.Type.Int.value)
        message.setArguments([index])
        self._bus.call(message, timeout=5000)

    def listen(self, heard: list[str]) -> QObject:
        """Note every announcement from now on."""
        ears = Ears(heard)
        self._bus.connect("", "", EVENTS, "Announcement", ears.hear)
        return ears

    def everything(self, node: Node) -> Iterator[Node]:
        """It, and all that lies within it."""
        yield node
        for child in self.children(node):
            yield from self.everything(child)


def _node(pair: Any) -> Node:
    place = pair[1]
    return str(pair[0]), place if isinstance(place, str) else place.path()


def main(command: list[str]) -> None:
    """Start the program and write what is heard of its choices, of its switches and of its notices,
    and what its descriptions say."""
    _application = QCoreApplication([])
    environment = os.environ | {"QT_LINUX_ACCESSIBILITY_ALWAYS_ON": "1"}
    launcher = subprocess.Popen([LAUNCHER, "--launch-immediately"], stdout=subprocess.DEVNULL)
    # with its display in a session of its own, so that both end together
    program = subprocess.Popen(
        ["xvfb-run", "-a", *command], env=environment, start_new_session=True
    )
    said: dict[str, Any] = {"choices": []}
    try:
        until = time.monotonic() + PATIENT_S
        while len(said["choices"]) < 3 and time.monotonic() < until:
            time.sleep(0.5)
            with suppress(IndexError):
                bus = Bus()
                whole = [n for top in bus.children(ROOT) for n in bus.everything(top)]
                boxes = [n for n in whole if bus.role(n) == "combo box"]
                said["choices"] = [(bus.name(box), bus.labels(box)) for box in boxes]
        said["marked up"] = [d for n in whole if "<qt>" in (d := bus.description(n))]
        said |= _moved(bus, whole)
        said["menu"] = _menu(bus, next(n for n in whole if bus.name(n) == "View"))
        sys.stdout.write(json.dumps(said))
    finally:
        os.killpg(program.pid, signal.SIGTERM)
        launcher.terminate()


def _moved(bus: Bus, whole: list[Node]) -> dict[str, Any]:
    """Where two switches stand after *increase*, and what is announced of that."""
    heard: list[str] = []
    _ears = bus.listen(heard)
    stands = {}
    for name in ("Flap switch", "Motor switch"):
        switch = next(n for n in whole if bus.name(n) == name)
        bus.act(switch, "increase")
        time.sleep(0.3)
        stands[name] = [bus.value(switch), bus.description(switch)]
    until = time.monotonic() + 5.0
    while not heard and time.monotonic() < until:
        QCoreApplication.processEvents()
        time.sleep(0.05)
    return {"stands": stands, "announced": heard}


def _menu(bus: Bus, button: Node) -> list[str]:
    """The rows of the menu that a button opens."""
    bus.act(button, "press")
    time.sleep(0.3)
    whole = [n for top in bus.children(ROOT) for n in bus.everything(top)]
    return [bus.name(n) for n in whole if bus.role(n) == "list item"]


if __name__ == "__main__":
    main(sys.argv[1:])
