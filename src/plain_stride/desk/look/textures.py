"""Ink textures by which the rules of a plan are told apart: solid, hatched, dotted, crossed; never by colour."""

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QBrush, QPainter, QPen

from plain_stride.desk.look.theme import THEME
from plain_stride.weight.rule_book import (
    BENDS,
    FADE,
    GROUND,
    LIGHT,
    MEETINGS,
    MIDDLES,
    ROLE,
    SHADOW,
    TIER,
    TUCKS,
)  # fmt: skip

_P = Qt.BrushStyle
TEXTURES = {
    ROLE: _P.SolidPattern, TIER: _P.BDiagPattern, LIGHT: _P.Dense4Pattern, MEETINGS: _P.Dense6Pattern,
    TUCKS: _P.Dense7Pattern, BENDS: _P.VerPattern, MIDDLES: _P.HorPattern, GROUND: _P.CrossPattern,
    SHADOW: _P.DiagCrossPattern, FADE: _P.FDiagPattern,
}  # fmt: skip
SWATCH = 12


def ink_brush(rule: str) -> QBrush:
    """The texture of a rule that adds steps."""
    return QBrush(THEME.color("text"), TEXTURES[rule])


def swatch(painter: QPainter, rule: str, x: float, y: float) -> None:
    """A small square of a rule's texture; an empty one for a rule that adds none."""
    box = QRectF(x, y, SWATCH, SWATCH)
    painter.setPen(QPen(THEME.color("text"), 1))
    painter.setBrush(ink_brush(rule) if rule in TEXTURES else Qt.BrushStyle.NoBrush)
    painter.drawRect(box)
