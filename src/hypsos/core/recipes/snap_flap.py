# SPDX-License-Identifier: GPL-3.0-or-later
"""Flaps that help the elevator."""

from collections.abc import Iterator, Mapping
from typing import Annotated, ClassVar, Literal, Self

from pydantic import Field

from hypsos.core.base.values import Label, Name, Share
from hypsos.core.parts.airframe import Airframe
from hypsos.core.parts.mix_lines import MixLine, Response
from hypsos.core.recipes.one_edge import EDGE, OneEdge, edge_of, share_of
from hypsos.core.recipes.recipe_base import Controls, Ground, MadeLine, Parameter, Parts, left_of

SNAP_DEG = 6.0
"""How far the edge goes down with the stick all the way back: a usual first value."""


class SnapFlap(OneEdge):
    """Flaps += share * response(pitch), ailerons likewise with their own share; nothing within
    ``dead``, straight beyond it to full at full pull, and for a push the other way unless
    ``pull_only``. ``share_from`` multiplies the share of the flaps by a shared value; by one angle
    that of the ailerons, too, for the edge stays one, and where there are no flaps."""

    title: ClassVar[str] = "Snap flap"
    about: ClassVar[str] = (
        "Pulled, the flaps go down with the elevator: a tighter turn at less drag."
    )
    missing: ClassVar[str] = "there are no flaps and no ailerons with servos of their own"
    comes: ClassVar[bool] = False
    parameters: ClassVar[tuple[Parameter, ...]] = (
        Parameter("share", "Flaps, at full pull", of="edge_deg"),
        Parameter(
            "share_from",
            "Times the shared value",
            "So it can be set by flight mode, or in flight.",
            kind="shared",
            of="share",
        ),
        Parameter("aileron_share", "Ailerons, at full pull", of="edge_deg"),
        Parameter(
            "dead", "Nothing within", "Of the elevator command, to both sides of the middle."
        ),
        EDGE,
        Parameter("pull_only", "Only when pulled", kind="yes or no"),
        Parameter("flaps", "Flaps", kind="parts", roles=("flap", "flaperon")),
        Parameter("ailerons", "Ailerons", kind="parts", roles=("aileron", "flaperon")),
    )
    kind: Literal["snap_flap"] = "snap_flap"
    label: Label = "Snap flap"
    signal: Name = "snap_flap"
    share: Share = 20.0
    share_from: Name | None = None
    aileron_share: Share = 10.0
    dead: Annotated[float, Field(ge=0, le=90)] = 10.0
    pull_only: bool = True
    flaps: Parts = ()
    ailerons: Parts = ()
    moved_by: ClassVar[tuple[str, ...]] = ("pitch",)

    def times(self, key: str) -> str | None:
        return self._ailerons_from if key == "aileron_share" else super().times(key)

    @property
    def _ailerons_from(self) -> str | None:
        """The shared value that multiplies what the ailerons do."""
        return self.share_from if self.edge_deg is not None or not self.flaps else None

    @classmethod
    def begin(cls, ground: Ground) -> Self | None:
        flaps = sum(ground.sides("flap"), ())
        ailerons = sum(ground.sides("aileron", "flaperon"), ())
        if (not flaps and not ailerons) or "pitch" not in ground.steers:
            return None
        share = share_of(ground.body, (*flaps, *ailerons), SNAP_DEG)
        return cls(
            flaps=flaps,
            ailerons=ailerons,
            signal=ground.signal("snap_flap"),
            share=share,
            aileron_share=share,
            edge_deg=edge_of(ground.body, (*flaps, *ailerons)),
        )

    def _response(self) -> Response:
        # up from the end of the dead zone; a push mirrors it, or does nothing
        pull = [(self.dead, 0.0), (100.0, 100.0)]
        push = [(-100.0, 0.0)] if self.pull_only else [(-100.0, -100.0), (-self.dead, 0.0)]
        return Response(points=tuple(sorted(dict([*push, *pull]).items())))

    def expand(self, controls: Controls) -> Iterator[MadeLine]:
        line = MixLine(
            name=self.label,
            target=self.signal,
            source="pitch",
            response=self._response(),
            with_trim=False,
            when=self.when,
        )
        yield MadeLine(line, "dead")
        for name in self.flaps:
            flap = self.edge_line(
                self.share,
                name=self.label,
                target=name,
                source=self.signal,
                gain_from=self.share_from,
            )
            yield MadeLine(flap, "share")
        for name in self.ailerons if self.aileron_share else ():
            line = self.edge_line(
                self.aileron_share,
                name=self.named("ailerons"),
                target=name,
                source=self.signal,
                gain_from=self._ailerons_from,
            )
            yield MadeLine(line, "aileron_share")

    def edges(self, shared: Mapping[str, float]) -> Iterator[tuple[str, dict[str, float]]]:
        share = self.share * shared.get(self.share_from or "", 100.0) / 100.0
        ailerons = self.aileron_share * shared.get(self._ailerons_from or "", 100.0) / 100.0
        yield "", dict.fromkeys(self.flaps, share) | dict.fromkeys(self.ailerons, ailerons)

    def fitted(self, body: Airframe, gone: frozenset[str], new: frozenset[str]) -> Self | None:
        """What is left of flaps and ailerons goes on; let go where neither is."""
        flaps, ailerons = left_of(self.flaps, gone), left_of(self.ailerons, gone)
        if not flaps and not ailerons:
            return None
        same = flaps == self.flaps and ailerons == self.ailerons
        return self if same else self.changed({"flaps": flaps, "ailerons": ailerons})
