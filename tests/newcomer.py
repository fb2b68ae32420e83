# SPDX-License-Identifier: GPL-3.0-or-later
"""A newcomer who has nothing but the sheet: reads its text and keys it into the small transmitter.

Nothing here looks at the design or at its settings. How to read is taken from the sheet's own half
page; ``Reading`` holds each of its rules, so that another reading of each can be tried."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Any, NamedTuple

from hypsos.core.schools.by_behaviour.behaviour_settings import (
    BehaviourSettings,
    OneCut,
    OwnMix,
    ReadyBehaviour,
    Slot,
    ValueAt,
)
from hypsos.core.schools.by_lines.lines_settings import LinesSettings
from hypsos.core.schools.figures import Bend
from hypsos.core.schools.stand_in.parts import (
    Channel,
    Command,
    Hand,
    HandFeel,
    Lever,
    Mode,
    Mover,
    RadioReceiver,
    Rule,
    Safe,
    Share,
    Shared,
    Sum,
)

FIGURE = r"−?[\d.]+"
STICKS = ("Aileron stick", "Elevator stick", "Throttle stick", "Rudder stick")


class Reading(NamedTuple):
    """The rules of reading, as the sheet has them."""

    slope: float = 5.0
    first_figure: str = "below"
    slow_per: float = 100.0
    turned_sticks: bool = True
    with_trim: bool = True
    no_trim: bool = True
    low_end: bool = True
    multiplies: str = "the sum so far"
    curve_ends: str = "kept"
    travel_first: str = "low"
    modes_from: str = "left"
    expo: float = 1.0
    first_place: int = 0
    most: float = 150.0


class Page(NamedTuple):
    """A block of the sheet: its sentences, the heads of its columns, its rows of cells."""

    lines: list[str]
    heads: list[str]
    rows: list[list[str]]


def slug(label: str) -> str:
    """A name that the small transmitter takes."""
    return re.sub(r"[^a-z0-9]+", "_", label.lower()).strip("_")


def number(text: str) -> float:
    """A figure as it is printed."""
    return float(text.replace("−", "-").replace("%", "").replace("±", "").replace("µs", "").strip())


def pages_of(text: str) -> dict[str, Page]:
    """The blocks of a sheet by their titles."""
    found: dict[str, Page] = {}
    for part in text.replace("\\", "").split("\n## ")[1:]:
        title, _, rest = part.partition("\n")
        lines = [x[2:] for x in rest.splitlines() if x.startswith("- ")]
        table = [x for x in rest.splitlines() if x.startswith("| ")]
        cells = [[c.strip() for c in x.strip("|").split("|")] for x in table]
        heads = cells[0][:-1] if cells else []
        found[title] = Page(lines, heads, [row[: len(heads)] for row in cells[1:]])
    return found


class Newcomer:
    """Reads one sheet."""

    def __init__(self, text: str, reading: Reading | None = None) -> None:
        self.reading = reading or Reading()
        self.pages = pages_of(text)
        self.school = re.search(r"The transmitter thinks (by \w+)", text).group(1)  # type: ignore[union-attr]
        self.places: dict[str, list[str]] = {}
        for label, _, positions, _ in self._rows("Controls"):
            named = [re.sub(r"^\d+ ", "", x) for x in positions.split(", ")]
            self.places[label] = named if positions[0] == "0" else []
        self.curves = {
            letter: self._bend(points, line) for letter, points, line in self._rows("Curves")
        }
        self.parts = [x[1] for x in self._rows("Outputs")] + [
            x[1] for x in self._rows("Outputs of motors")
        ]
        self.sums: list[str] = []

    def _rows(self, title: str) -> list[list[str]]:
        return self.pages[title].rows if title in self.pages else []

    def _two(self, text: str) -> dict[str, float]:
        """A weight: one figure, or one for each side."""
        both = [number(x) for x in text.split(" / ")]
        first, last = both[0], both[-1]
        below, above = (first, last) if self.reading.first_figure == "below" else (last, first)
        return {"below": below, "above": above}

    def _bend(self, points: str, line: str) -> Bend:
        pairs = [tuple(number(v) for v in p.split(": ")) for p in points.split(", ")]
        if self.reading.curve_ends == "run on":
            pairs = [_beyond(pairs[1], pairs[0]), *pairs, _beyond(pairs[-2], pairs[-1])]
        moved = re.search(r"point (.*) moved by (V\d+)(, left of the middle the other way)?", line)
        live: dict[str, Any] = {}
        if moved:
            which = tuple(int(x) - 1 for x in moved.group(1).split(" and "))
            live = {
                "live": which,
                "live_by": moved.group(2).lower(),
                "live_odd": bool(moved.group(3)),
            }
        return Bend(points=tuple(pairs), smooth=line.startswith("round"), **live)  # type: ignore[arg-type]

    # -- names ---------------------------------------------------------------------------------------

    def signal(self, label: str, part: str = "") -> str:
        """A source by what it is called beside a part."""
        if label == "Fixed":
            return "full"
        if label.startswith("own "):
            own = label.removeprefix("own ")
            label = next(x for x in self.sums if x in (f"{part}: {own}", f"{part}, {own}"))
        return slug(label)

    def reference(self, text: str) -> str:
        """Something that holds or not."""
        negated = text.startswith("not ")
        rest = text.removeprefix("not ")
        before = rest.endswith(" a frame before")
        rest = rest.removesuffix(" a frame before")
        name = self._asked(rest)
        return f"{'!' if negated else ''}{'was:' if before else ''}{name}"

    def _asked(self, text: str) -> str:
        for label, named in self.places.items():
            at = text.removeprefix(f"{label} at ")
            if at != text and at in named:
                place = named.index(at)
                if self.reading.first_place:
                    place = len(named) - 1 - place
                return f"{slug(label)}@{place}"
        if text.startswith("mode "):
            return f"mode:{slug(text.removeprefix('mode '))}"
        return {"link there": "link", "receiver has power": "power"}.get(text, slug(text))

    def _held(self, texts: list[str]) -> dict[str, Any]:
        """While what, and in which modes."""
        out: dict[str, Any] = {}
        for text in texts:
            if text.startswith("while "):
                out["when"] = tuple(map(self.reference, text.removeprefix("while ").split(" and ")))
            if text.startswith("in "):
                out["modes"] = tuple(map(slug, text.removeprefix("in ").split(" or ")))
        return out

    # -- hands ---------------------------------------------------------------------------------------

    def hands(self) -> tuple[Hand, ...]:
        sticks = [Hand(name=slug(x), positions=0, rest=0) for x in STICKS]
        turned = [
            Hand(name=slug(label), positions=len(named), rest=0)  # type: ignore[arg-type]
            for label, named in self.places.items()
        ]
        return (*sticks, *turned)

    def levers(self) -> tuple[Lever, ...]:
        found = []
        for command, stands, reach, scope in self._rows("Trims"):
            head, _, own = scope.partition(": ")
            by_mode = {}
            for text in own.split(", ") if own else []:
                mode, value = re.fullmatch(rf"(.*) ({FIGURE}) %", text).groups()  # type: ignore[union-attr]
                by_mode[slug(mode)] = number(value)
            kind = {
                "one for all": "common",
                "each its own": "per mode",
                "one for all, and on top": "offset",
            }
            start = number(stands.split(" %")[0])
            found.append(
                Lever(
                    name=f"{slug(command)}_trim",
                    reach=number(reach),
                    start=start,
                    scope=kind[head],
                    own=by_mode,
                )
            )  # type: ignore[arg-type]
        return tuple(found)

    def commands(self) -> tuple[Command, ...]:
        trims = {x[0] for x in self._rows("Trims")} if self.reading.with_trim else set()
        feels: dict[str, list[HandFeel]] = {}
        for title, page in self.pages.items():
            if not title.startswith("Rates and expo"):
                continue
            switch = title.removeprefix("Rates and expo by ")
            for row in page.rows:
                if switch in self.places:
                    cells = row[2:3] if row[2].startswith("always") else row[2:]
                    for place, cell in enumerate(cells):
                        when = () if cell.startswith("always") else (f"{slug(switch)}@{place}",)
                        feels.setdefault(row[0], []).append(
                            self._feel(row[1], cell, {"when": when})
                        )
                else:
                    holds = row[3].split(", ") if row[3] != "always" else []
                    held = self._held(holds)
                    for side in ("above", "below"):
                        held |= {"side": side} if f"{side} the middle" in holds else {}
                    feels.setdefault(row[0], []).append(self._feel(row[1], row[2], held))
        return tuple(
            Command(name=slug(n), feels=tuple(x), trim=f"{slug(n)}_trim" if n in trims else "")
            for n, x in feels.items()
        )

    def _feel(self, source: str, cell: str, held: dict[str, Any]) -> HandFeel:
        hand, *more = source.split(", ")
        rate, expo = re.sub(r"^always | \(.*\)$", "", cell).split(" / ")
        fields: dict[str, Any] = {"control": slug(hand), **held}
        fields["turned"] = "turned round" in more and self.reading.turned_sticks
        fields["pivot"] = -100 if "from its low end" in more and self.reading.low_end else 0
        for text in more:
            if text.startswith("curve "):
                fields["bend"] = self.curves[text.removeprefix("curve ")]
        fields |= {"weight_by": slug(rate)} if rate.startswith("V") else {"weight": number(rate)}
        fields |= (
            {"expo_by": slug(expo)}
            if expo.startswith("V")
            else {"expo": number(expo) * self.reading.expo}
        )
        return HandFeel(**fields)

    # -- lines ---------------------------------------------------------------------------------------

    def line(self, text: str, part: str = "", source: str = "") -> Share:
        """A line of a sum; ``source``: that of the column in which it stands."""
        fields: dict[str, Any] = {}
        for word, join in (("times ", "multiply"), ("instead ", "replace")):
            if text.startswith(word):
                text, fields["join"] = text.removeprefix(word), join
        if source:
            text = f"{source} {text}"
        label, weight, rest = re.fullmatch(
            rf"(.*?) ({FIGURE}(?: / {FIGURE})?)(?:, (.*))?", text
        ).groups()  # type: ignore[union-attr]
        fields |= {"source": self.signal(label, part), **self._two(weight)}
        fields |= self._more(rest.split(", ") if rest else [])
        return Share(**fields)

    def _more(self, texts: list[str]) -> dict[str, Any]:
        out: dict[str, Any] = self._held(texts)
        for text in texts:
            if text.startswith("by V"):
                out["by"] = slug(text.removeprefix("by "))
            elif text.startswith("curve "):
                out["bend"] = self.curves[text.removeprefix("curve ")]
            elif text == "from its low end":
                out["from_low"] = self.reading.low_end
            elif text == "no trim":
                out["trim"] = not self.reading.no_trim
            elif text.startswith("slow "):
                both = [
                    number(x) for x in text.removeprefix("slow ").removesuffix(" s").split(" / ")
                ]
                times = [x * 100.0 / self.reading.slow_per for x in (both[0], both[-1])]
                out |= {"slow_in": times[0], "slow_out": times[1]}
        return out

    @staticmethod
    def _sides(title: str, cells: list[str]) -> Iterator[tuple[str, list[list[str]]]]:
        """A row for one part, or for a left and a right one."""
        split = [[x for x in cell.split("<br>") if x] for cell in cells]
        if not title.startswith("Left, right "):
            yield title, split
            return
        for side, mark, other in (("Left", "L: ", "R: "), ("Right", "R: ", "L: ")):
            mine = [
                [x.removeprefix(mark) for x in cell if not x.startswith(other)] for cell in split
            ]
            yield title.replace("Left, right", side, 1), mine

    def all_sums(self) -> tuple[Sum, ...]:
        """Helping sums, parts, and their figures in flight modes."""
        made: dict[str, list[tuple[str, str]]] = {}
        helpers = self._rows("Helping sums, before what uses them")
        for title in (
            "Helping sums, before what uses them",
            "Parts",
            "Parts and what they share",
            "The other parts",
        ):
            for row in self._rows(title):
                heads = self.pages[title].heads[1:]
                for name, cells in self._sides(row[0], row[1:]):
                    self.sums += [name] if row in helpers else []
                    lines = made.setdefault(name, [])
                    for head, cell in zip(heads, cells, strict=True):
                        named = "" if head in ("Its lines", "And these lines") else head
                        lines += [(text, named) for text in cell if text not in ("nothing", "–")]
        presets = self._presets()
        sums = []
        for name, lines in made.items():
            held = ""
            shares = []
            for text, source in lines:
                back = re.fullmatch(r"all that is slow here is put back to 0 while (.*)", text)
                if back:
                    held = self.reference(back.group(1))
                    continue
                shares.append(self.line(text, name, source))
            shares += presets.get(name, [])
            if self.reading.multiplies == "what comes after":
                shares.sort(key=lambda x: x.join == "add")
            sums.append(Sum(name=slug(name), shares=tuple(shares), held=held))
        return tuple(sums)

    MODES = "Flight modes, what stands where in each, and shared values"

    def _presets(self) -> dict[str, list[Share]]:
        found: dict[str, list[Share]] = {}
        for row in self._rows(self.MODES):
            if row[0] in ("Flown while", "Fade into it, s") or re.match(r"V\d+ ", row[0]):
                continue
            for name, cells in self._sides(row[0], row[1:]):
                for mode, cell in zip(self.pages[self.MODES].heads[1:], cells, strict=True):
                    value = number(cell[0])
                    if value:
                        share = Share(source="full", above=value, below=value, modes=(slug(mode),))
                        found.setdefault(name, []).append(share)
        return found

    def modes(self) -> tuple[Mode, ...]:
        rows = {row[0]: row[1:] for row in self._rows(self.MODES)}
        if "Flown while" not in rows:
            return ()
        names = self.pages[self.MODES].heads[1:]
        fades = rows.get("Fade into it, s", ["0"] * len(names))
        made = []
        for name, when, fade in zip(names, rows["Flown while"], fades, strict=True):
            asked = "" if when == "no other is" else self.reference(when)
            made.append(Mode(name=slug(name), when=asked, fade_s=number(fade)))
        if self.reading.modes_from == "right":
            made = [*reversed(made[:-1]), made[-1]]
        return tuple(made)

    def shared(self) -> tuple[Shared, ...]:
        modes = (
            [slug(x) for x in self.pages[self.MODES].heads[1:]] if self.MODES in self.pages else []
        )
        moved = {row[0]: row[1:] for row in self._rows("Shared values moved in flight")}
        found = []
        for row in [*self._rows(self.MODES), *self._rows("Shared values")]:
            code = re.match(r"(V\d+) ", row[0])
            if not code:
                continue
            values = row[1:] if modes else row[1:2]
            by_mode = dict(zip(modes or ["base"], map(number, values), strict=True))
            bounds, how = moved.get(row[0], ["−10000 to 10000", "nothing"]) if modes else row[2:]
            low, high = (number(x) for x in bounds.split(" to "))
            found.append(
                Shared(
                    name=slug(code.group(1)),
                    by_mode=by_mode,
                    low=low,
                    high=high,
                    mover=self._mover(how),
                )
            )
        return tuple(found)

    def _mover(self, text: str) -> Mover | None:
        if text == "nothing":
            return None
        head, *more = text.split(", ")
        held = self._held(more)
        fields: dict[str, Any] = {
            "modes": held.get("modes", ()),
            "when": held.get("when", ("",))[0],
            "keep": "keeps its last" in more,
        }
        sets = re.fullmatch(r"(.*) sets it from bound to bound", head)
        adds = re.fullmatch(rf"(.*) adds up to ({FIGURE})", head)
        if sets:
            return Mover(kind="set", control=slug(sets.group(1)), amount=1.0, **fields)
        assert adds is not None, text
        return Mover(
            kind="add", control=slug(adds.group(1)), amount=number(adds.group(2)), **fields
        )

    # -- conditions ----------------------------------------------------------------------------------

    def rules(self) -> tuple[Rule, ...]:
        rows = [*self._rows("Conditions"), *self._rows("Motor guard: its conditions")]
        return tuple(Rule(name=slug(code), **self._rule(text)) for code, _, text in rows)

    def _rule(self, text: str) -> dict[str, Any]:
        ref = self.reference
        for pattern, kind in (
            (r"on from (.*), off from (.*)", "latch"), (r"the moment when (.*) begins", "begins"),
            (r"(.*), for (.*) s by now", "lasts"), (r"(.*), and (.*) s longer", "lingers"),
            (r"(.*) s from when (.*) begins", "pulse"), (r"(.*) or (.*), not both", "either"),
        ):  # fmt: skip
            found = re.fullmatch(pattern, text)
            if not found:
                continue
            if kind in ("latch", "either"):
                return {"kind": kind, "a": ref(found.group(1)), "b": ref(found.group(2))}
            if kind == "begins":
                return {"kind": kind, "a": ref(found.group(1))}
            if kind == "pulse":
                return {"kind": kind, "a": ref(found.group(2)), "seconds": number(found.group(1))}
            return {"kind": kind, "a": ref(found.group(1)), "seconds": number(found.group(2))}
        compared = re.fullmatch(
            rf"(the size of )?(.*?)(?: less (.*))? (above|below) ({FIGURE})", text
        )
        if compared:
            size, a, b, kind, level = compared.groups()
            return {
                "kind": kind,
                "a": self.signal(a),
                "b": self.signal(b) if b else "",
                "size": bool(size),
                "level": number(level),
            }
        for word in ("and", "or"):
            one, found_word, two = text.partition(f" {word} ")
            if found_word:
                return {"kind": word, "a": ref(one), "b": ref(two)}
        return {"kind": "or", "a": ref(text), "b": ref(text)}

    # -- outputs -------------------------------------------------------------------------------------

    def outputs(self) -> tuple[Channel, ...]:
        made = []
        for port, part, way, centre, travel, stops, _, _ in self._rows("Outputs"):
            bounds = {"low": -self.reading.most, "high": self.reading.most}
            made.append(self._output(port, part, way, number(centre), travel, stops, bounds))
        for row in self._rows("Outputs of motors"):
            port, part, way, travel, stops, low = row[:6]
            extra: dict[str, Any] = {
                "low": -100.0,
                "high": self.reading.most,
                "cut_at": self._percent(number(low)),
            }
            if len(row) > 7 and row[7]:
                at, _, when = row[7].partition(" µs while ")
                extra |= {"cut": self.reference(when), "cut_at": self._percent(number(at))}
            made.append(self._output(port, part, way, 1500.0, travel, stops, extra))
        return tuple(made)

    def _percent(self, us: float) -> float:
        return (us - 1500.0) / self.reading.slope

    def _output(
        self,
        port: str,
        part: str,
        way: str,
        centre: float,
        travel: str,
        stops: str,
        extra: dict[str, Any],
    ) -> Channel:
        low, high = (number(x) for x in travel.split(" / "))
        if self.reading.travel_first == "high":
            low, high = high, low
        ends = [self._percent(number(x)) for x in stops.split(" to ")]
        return Channel(
            port=int(port), sum=slug(part), turned="reversed" in way, centre=self._percent(centre), end_below=low, end_above=high,
            stop_below=ends[0], stop_above=ends[1], **extra,
        )  # fmt: skip

    def receiver(self) -> RadioReceiver:
        page = self.pages["Failsafe"]
        seconds = re.search(r"gone for ([\d.]+) s", " ".join(page.lines)).group(1)  # type: ignore[union-attr]
        motors = {x[0] for x in self._rows("Outputs of motors")}
        ports = {}
        for row in page.rows:
            does = {"stays": Safe(action="hold"), "no pulses": Safe(action="none")}
            safe = does.get(row[2]) or Safe(place_us=number(row[2]))
            ports[int(row[0])] = safe.changed({"unheard": -100.0 if row[0] in motors else 0.0})
        return RadioReceiver(after_s=float(seconds), ports=ports)

    # -- behaviours ----------------------------------------------------------------------------------

    def behaviours(self) -> Iterator[ReadyBehaviour]:
        for title, source, values, slots in self._rows("Behaviours"):
            master, *more = source.split(", ")
            kind = re.sub(r".*\((.*)\)$", r"\1", title).lower()
            asked = self._more(more)
            fields = {
                "bend": asked.get("bend"),
                "time_in": asked.get("slow_in", 0),
                "time_out": asked.get("slow_out", 0),
            }
            given = tuple(ValueAt(value=number(v.split(", ")[0])) for v in values.split("<br>"))
            parts = tuple(self._slot(x) for x in slots.split("<br>"))
            yield ReadyBehaviour(
                kind=kind,
                master=self.signal(master),
                trim=asked.get("trim", True),
                values=given,
                slots=parts,
                **fields,
            )  # type: ignore[arg-type]

    def _slot(self, text: str) -> Slot:
        label, weight, rest = re.fullmatch(
            rf"(.*?) ({FIGURE}(?: / {FIGURE})?)(?:, (.*))?", text
        ).groups()  # type: ignore[union-attr]
        bend = self._more(rest.split(", ")).get("bend") if rest else None
        return Slot(part=slug(label), bend=bend, **self._two(weight))

    def settings(self) -> LinesSettings | BehaviourSettings:
        """What the newcomer has keyed in."""
        same: dict[str, Any] = {
            "model": "x", "transmitter": "x", "us_per_percent": self.reading.slope, "hands": self.hands(), "levers": self.levers(),
            "outputs": self.outputs(), "failsafe": self.receiver(),
        }  # fmt: skip
        if self.school == "by behaviour":
            cut = None
            for port, _, at in self._rows("Cut"):
                cut = OneCut(port=int(port), places=tuple(map(self.reference, at.split(" or "))))
            mixes = [
                OwnMix(
                    master=self.signal(pair.split(" to ")[0]),
                    follower=slug(pair.split(" to ")[1]),
                    **self._two(rate),
                )
                for _, pair, rate, _ in self._rows("Mixes of your own")
            ]
            return BehaviourSettings(
                axes=self.commands(),
                behaviours=tuple(self.behaviours()),
                mixes=tuple(mixes),
                cut=cut,
                **same,
            )
        sums = self.all_sums()  # read first: they say which helping sums there are
        return LinesSettings(
            inputs=self.commands(),
            channels=sums,
            logic=self.rules(),
            modes=self.modes(),
            shared=self.shared(),
            **same,
        )


def _beyond(one: tuple[float, ...], end: tuple[float, ...]) -> tuple[float, ...]:
    """A point far beyond the end of a line, straight on."""
    way = 300.0 if end[0] > one[0] else -300.0
    return end[0] + way, end[1] + (end[1] - one[1]) / (end[0] - one[0]) * way
