# SPDX-License-Identifier: GPL-3.0-or-later
"""Responses by the names that people give them, with their figures, and which name a response goes
by."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

from hypsos.core.parts.mix_lines import Response


class Figure(NamedTuple):
    """A figure of a named shape: its words, bounds, and where it begins. All in percent."""

    words: str
    low: float
    high: float
    begins: float


class NamedShape(NamedTuple):
    """A shape: its words, one line about it, its figures, and how it is made of them."""

    words: str
    about: str
    figures: tuple[Figure, ...]
    make: Callable[..., Response]


def _points(*points: tuple[float, float]) -> Response:
    kept = dict(sorted((float(x), min(150.0, max(-150.0, float(y)))) for x, y in points))
    return Response(points=tuple(kept.items()))


def _line(slope: float, offset: float) -> Response:
    return _points((-100, offset - slope), (100, offset + slope))


SHAPES: dict[str, NamedShape] = {
    "straight": NamedShape("straight", "As it comes.", (), lambda: _line(100, 0)),
    "upper": NamedShape("upper side only", "Nothing below the middle.", (), lambda: _points((-100, 0), (0, 0), (100, 100))),
    "lower": NamedShape(
        "lower side only", "Nothing above the middle.", (), lambda: _points((-100, -100), (0, 0), (100, 0))
    ),
    "dead band": NamedShape(
        "dead band", "Nothing near the middle, straight beyond it to both ends.", (Figure("Nothing within", 1, 90, 10),),
        lambda d: _points((-100, -100), (-d, 0), (d, 0), (100, 100)),
    ),
    "dead end": NamedShape(
        "dead end", "Nothing up to a place, straight from there to the upper end: a bump at the low end moves nothing.",
        (Figure("Nothing up to", -99, 90, -60),), lambda a: _points((-100, 0), (a, 0), (100, 100)),
    ),
    "v": NamedShape("V", "The same to both sides.", (), lambda: _points((-100, 100), (0, 0), (100, 100))),
    "offset": NamedShape(
        "straight, moved", "As it comes, and so much more.", (Figure("More by", -50, 50, 10),), lambda o: _line(100, o)
    ),
    "slope": NamedShape(
        "slope and offset", "So steep, and so much more: the other school's way to say a dead end.",
        (Figure("Slope", -100, 100, 50), Figure("Offset", -50, 50, 50)), _line,
    ),
}  # fmt: skip
"""The straight one first. ``slope`` and ``offset`` are what some transmitters have in the place of
points."""
BY_HAND = "points"


def made(name: str, *figures: float) -> Response:
    """A response of a named shape; with no figures as it begins."""
    shape = SHAPES[name]
    return shape.make(*(figures or tuple(f.begins for f in shape.figures)))


def named_shape(response: Response | None) -> tuple[str, tuple[float, ...]]:
    """The name a response goes by, and its figures; ``points`` where it has none."""
    if response is None:
        return "straight", ()
    if response.live or (response.shape == "smooth" and len(response.points) > 2):
        return BY_HAND, ()
    points = response.points
    for name, shape in SHAPES.items():
        for figures in _guesses(name, points):
            low_enough = all(
                f.low <= x <= f.high for f, x in zip(shape.figures, figures, strict=True)
            )
            if low_enough and _alike(shape.make(*figures), response):
                return name, figures
    return BY_HAND, ()


def _guesses(name: str, points: tuple[tuple[float, float], ...]) -> list[tuple[float, ...]]:
    if name in ("dead band", "dead end"):
        return [(x,) for x, y in points if y == 0]
    if name == "offset":
        return [((points[0][1] + points[-1][1]) / 2,)]
    if name == "slope":
        return [((points[-1][1] - points[0][1]) / 2, (points[0][1] + points[-1][1]) / 2)]
    return [()]


def _alike(a: Response, b: Response) -> bool:
    return len(a.points) == len(b.points) and all(
        abs(p[0] - q[0]) < 1e-6 and abs(p[1] - q[1]) < 1e-6
        for p, q in zip(a.points, b.points, strict=True)
    )


def with_point(response: Response, index: int, x: float, y: float) -> tuple[Response, bool]:
    """A response with one point elsewhere, kept between its neighbours and within the plot; True
    where it was held back."""
    xs = [p[0] for p in response.points]
    low = -100.0 if index == 0 else xs[index - 1] + 1.0
    high = 100.0 if index == len(xs) - 1 else xs[index + 1] - 1.0
    at = min(max(x, min(low, high)), max(low, high))
    up = min(150.0, max(-150.0, y))
    points = list(response.points)
    points[index] = (at, up)
    held_back = abs(at - x) > 1e-9 or abs(up - y) > 1e-9
    return response.changed({"points": tuple(points)}), held_back


def with_new_point(response: Response, x: float, y: float) -> tuple[Response, int]:
    """A response with one more point, and its number; one there already is moved instead."""
    points = dict(response.points)
    near = next((px for px in points if abs(px - x) < 1.0), x)
    old = response.points
    points[near] = y
    made_points = tuple(sorted(points.items()))
    index = next(i for i, p in enumerate(made_points) if p[0] == near)
    live = tuple(made_points.index((old[i][0], points[old[i][0]])) for i in response.live)
    return response.changed({"points": made_points, "live": live}), index


def without_point(response: Response, index: int) -> Response:
    """A response with one point less; two are left at the least."""
    points = tuple(p for i, p in enumerate(response.points) if i != index)
    live = tuple(i - (i > index) for i in response.live if i != index)
    fields: dict[str, object] = {"points": points, "live": live}
    return response.changed(fields | ({} if live else {"live_from": None, "live_odd": False}))
