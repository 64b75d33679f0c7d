"""A chart's frame: its two scales, its axes and their steps. Every chart stands on this one."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass

import numpy as np

from bowyery.arrays import Floats
from bowyery.units.quantity import INCH, KILOGRAM_FORCE, POUND_FORCE, Units
from fellwind.drawing import svg


@dataclass(frozen=True)
class Chart:
    """Where a chart stands in its picture, and what its edges mean.

    Attributes:
        left, right, top, base: edges of the field within the picture, px.
        least, most: values at the left and the right edge.
        ceiling: value at the top; the base is nought.
    """

    left: float
    right: float
    top: float
    base: float
    least: float
    most: float
    ceiling: float

    def at(self, x: float, y: float) -> svg.Point:
        """Where a pair of values stands."""
        wide, tall = self.right - self.left, self.base - self.top
        return (
            self.left + (x - self.least) / (self.most - self.least) * wide,
            self.base - y / self.ceiling * tall,
        )

    def line(self, xs: Floats, ys: Floats, css: str) -> str:
        """A line through pairs of values."""
        return svg.path(self._points(xs, ys), css)

    def band(self, xs: Floats, low: Floats, high: Floats) -> str:
        """The field between two lines."""
        outline = self._points(xs, high) + self._points(xs, low)[::-1]
        return svg.path(outline, "band", close=True)

    def _points(self, xs: Floats, ys: Floats) -> list[svg.Point]:
        return [self.at(float(x), float(y)) for x, y in zip(xs, ys, strict=True)]

    def level(self, y: float, css: str) -> str:
        """A line across the whole field."""
        at = self.at(self.least, y)[1]
        return svg.line((self.left, at), (self.right, at), css)

    def axes(self) -> list[str]:
        """The left and the lower edge."""
        corner = (self.left, self.base)
        return [
            svg.line(corner, (self.right, self.base), "axis"),
            svg.line((self.left, self.top), corner, "axis"),
        ]

    def across(
        self, steps: Iterable[float], words: Callable[[float], str] = "{:g}".format
    ) -> list[str]:
        """Marks and figures under the lower edge."""
        parts = []
        for x in steps:
            a = self.at(float(x), 0)
            parts += [
                svg.line(a, (a[0], a[1] + 5), "axis"),
                svg.text((a[0], a[1] + 19), words(float(x)), "small muted", "middle"),
            ]
        return parts

    def upward(
        self, steps: Iterable[float], words: Callable[[float], str] = "{:g}".format
    ) -> list[str]:
        """Marks and figures beside the left edge."""
        parts = []
        for y in steps:
            a = self.at(self.least, float(y))
            parts += [
                svg.line((self.left - 4, a[1]), (self.left, a[1]), "axis"),
                svg.text((self.left - 8, a[1] + 4), words(float(y)), "small muted", "end"),
            ]
        return parts


@dataclass(frozen=True)
class DrawScales:
    """The units of a chart of weight against draw, and the steps a reader can count in.

    Attributes:
        length, force: of one unit, m and N.
        words: the units as written beside the axes.
    """

    length: float
    force: float
    words: str
    draw_step: float
    weight_steps: tuple[tuple[float, float], ...]

    def draws(self, chart: Chart) -> Floats:
        """Draws to mark."""
        first = np.ceil(chart.least / self.draw_step) * self.draw_step
        return np.arange(first, chart.most + 1e-9, self.draw_step)

    def weights(self, chart: Chart) -> Floats:
        """Weights to mark: no closer than a figure is high."""
        step = next(step for below, step in self.weight_steps if chart.ceiling < below)
        return np.arange(step, chart.ceiling, step)


def draw_scales(shown: Units) -> DrawScales:
    """The scales of one unit world."""
    if shown.imperial:
        steps = ((70.0, 10.0), (140.0, 20.0), (np.inf, 50.0))
        return DrawScales(INCH, POUND_FORCE, "lb against inches", 4, steps)
    steps = ((32.0, 5.0), (64.0, 10.0), (np.inf, 25.0))
    return DrawScales(0.001, KILOGRAM_FORCE, "kg against mm", 100, steps)
