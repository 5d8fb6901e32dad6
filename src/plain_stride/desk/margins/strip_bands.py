"""What each rule of the plan adds to the width of a line, stacked along it: rules told apart by ink textures."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QBrush, QPainter, QPen

from plain_stride.desk.controls.controls import tinted
from plain_stride.desk.look.textures import SWATCH, TEXTURES, ink_brush, swatch
from plain_stride.desk.look.theme import LABEL, THEME
from plain_stride.job.weight_questions import Bands
from plain_stride.render.paths import polygon, polyline
from plain_stride.weight.rule_book import ROLE, TIER

GUARANTEES, REST = "guarantees", "rest"
SHORT = {ROLE: "role", TIER: "depth", GUARANTEES: GUARANTEES, REST: "slope"}
LEAST_STEPS, BASE_TINT = 0.05, 0.4


@dataclass(frozen=True)
class Layer:
    """One rule along a line: mm (n,) from which and to which it takes the width; less: it takes some away."""

    name: str
    low: np.ndarray
    high: np.ndarray
    less: bool


def layers_of(bands: Bands) -> list[Layer]:
    """What adds first, in the order of the rules, then what takes away: the last one ends at the plan's width."""
    every = {**bands.steps, GUARANTEES: bands.guarantees, REST: bands.rest}
    out, at = [], np.zeros(len(bands.s))
    for less in (False, True):
        for name, steps in every.items():
            part = np.minimum(steps, 0.0) if less else np.maximum(steps, 0.0)
            if np.abs(part).max(initial=0.0) < LEAST_STEPS:
                continue
            before, after = (bands.base * 2.0 ** (level / 2.0) for level in (at, at + part))
            out.append(Layer(name, after, before, less) if less else Layer(name, before, after, less))
            at = at + part
    return out


def most_mm(bands: Bands, layers: Sequence[Layer]) -> float:
    """The largest width that is drawn."""
    return max([bands.base, *(float(layer.high.max()) for layer in layers)])


def paint_bands(painter: QPainter, bands: Bands, layers: Sequence[Layer], left: float, along: float, foot: float,
                across: float) -> None:  # fmt: skip
    """The stack on a baseline at y = foot, `along` and `across` pixels a mm."""
    x = left + bands.s * along
    base = np.full(len(x), foot - bands.base * across)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(tinted(THEME.color("text"), BASE_TINT))
    painter.drawPolygon(polygon(_between(x, np.full(len(x), foot), base)))
    for layer in layers:
        ring = polygon(_between(x, foot - layer.low * across, foot - layer.high * across))
        painter.setPen(Qt.PenStyle.NoPen)
        if layer.less:
            painter.setBrush(THEME.color("margin"))
            painter.drawPolygon(ring)
            painter.setBrush(QBrush(THEME.color("faint"), Qt.BrushStyle.FDiagPattern))
        else:
            painter.setBrush(_brush(layer.name))
        painter.drawPolygon(ring)
    top = layers[-1].low if layers and layers[-1].less else layers[-1].high if layers else np.full(len(x), bands.base)
    painter.setPen(QPen(THEME.color("chosen"), 1.6))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawPolyline(polyline(np.column_stack([x, foot - top * across])))


def paint_legend(painter: QPainter, layers: Sequence[Layer], x: float, y: float, most: float) -> float:
    """A swatch and a word for each rule; what takes away is named after a minus. Gives where it ends."""
    painter.setFont(THEME.font(LABEL))
    told = [("base", False), *((layer.name, layer.less) for layer in layers)]
    for name, less in told:
        words = ("− " if less else "") + SHORT.get(name, name)
        wide = SWATCH + 6 + painter.fontMetrics().horizontalAdvance(words) + 14
        if x + wide > most:
            break
        if less:
            painter.fillRect(int(x), int(y), SWATCH, SWATCH, QBrush(THEME.color("faint"), Qt.BrushStyle.FDiagPattern))
        elif name == "base":
            painter.fillRect(int(x), int(y), SWATCH, SWATCH, tinted(THEME.color("text"), BASE_TINT))
        elif name in TEXTURES:
            swatch(painter, name, x, y)
        else:
            painter.fillRect(int(x), int(y), SWATCH, SWATCH, _brush(name))
        painter.setPen(THEME.color("faint"))
        painter.drawText(QPointF(x + SWATCH + 6, y + SWATCH - 1), words)
        x += wide
    return x


def _brush(name: str) -> QBrush:
    """The texture of a rule; what is none of the rules that add is paler and dotted."""
    return ink_brush(name) if name in TEXTURES else QBrush(THEME.color("faint"), Qt.BrushStyle.Dense5Pattern)


def _between(x: np.ndarray, low: np.ndarray, high: np.ndarray) -> np.ndarray:
    return np.column_stack([np.append(x, x[::-1]), np.append(low, high[::-1])])
