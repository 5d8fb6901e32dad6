"""The strip: one line unrolled straight, its two edges drawn along its length, the raw hand behind it."""

from typing import Any

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from plain_stride.desk.controls.controls import focus_ring
from plain_stride.desk.look.painted import Painted
from plain_stride.desk.look.theme import BODY, LABEL, THEME
from plain_stride.desk.margins.strip_bands import layers_of, most_mm, paint_bands, paint_legend
from plain_stride.desk.margins.strip_edit import BOTH, END, LEFT_EDGE, RIGHT_EDGE, START, Laid, StripEdit
from plain_stride.desk.session.session import Session
from plain_stride.desk.session.strip_picture import StripPicture
from plain_stride.desk.session.weigher import FEW_LINES
from plain_stride.desk.sheet.seen_edit import SeenEdit
from plain_stride.hand.along import lengths_along
from plain_stride.hand.pull import working_samples
from plain_stride.job.reports import line_report
from plain_stride.job.weight_questions import Bands, BandsOf
from plain_stride.lines.shape import Shape
from plain_stride.render.paths import polygon, polyline
from plain_stride.texts import counted

HEIGHT, LARGE = 116, 300
UNROLLED_SAMPLES, PACE_PLACES = 700, 160
LEFT, RIGHT = 172, 18
_ARROW, _UP, _ALONG = Qt.CursorShape.ArrowCursor, Qt.CursorShape.SizeVerCursor, Qt.CursorShape.SizeHorCursor
_CURSORS = {BOTH: _UP, LEFT_EDGE: _UP, RIGHT_EDGE: _UP, START: _ALONG, END: _ALONG}
STEPS = (0.5, 1, 2, 5, 10, 20, 50, 100, 200, 500)


class Strip(Painted, QWidget):
    """Widths and sideways moves are drawn larger than along the line; how much larger is said."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Strip: the line unrolled")
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self._hand: tuple[Shape, np.ndarray] | None = None
        self._large = False
        self._session = session
        self._edit: StripEdit | None = None
        self._shows_bands = False
        self._bands: tuple[str, Bands | None] = ("", None)
        self.setMouseTracking(True)
        session.updates.add(self._redraw)
        THEME.changed.connect(self.update)
        self._redraw()

    def _redraw(self) -> None:
        key = self._session.shown_line()
        self.setAccessibleDescription(self._session.words_of(key) if key is not None else "No line yet")
        if self._shows_bands and key is not None:
            self._session.drawing.ask(BandsOf(key), lambda bands: self._take_bands(key, bands), FEW_LINES)
        self.update()

    def show_bands(self, on: bool) -> None:
        """Shows what each rule of the plan adds, or the line as it is."""
        if on != self._shows_bands:
            self._shows_bands, self._bands = on, ("", None)
            self._redraw()

    def _take_bands(self, key: str, bands: Bands | None) -> None:
        self._bands = (key, bands)
        self.update()

    def edit_with(self, seen: SeenEdit) -> None:
        """Drags edit the line that is unrolled; it is seen on the sheet meanwhile."""
        self._edit = StripEdit(self._session, seen)

    def _editable(self) -> str | None:
        """The line that a drag would edit."""
        shown = self._session.strip_picture is not None or self._shows_bands
        return None if shown or self._edit is None else self._session.shown_line()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        key, at = self._editable(), event.position()
        if key is not None and self._edit is not None and event.button() == Qt.MouseButton.LeftButton:
            shape = self._session.shapes[key]
            laid = self.laid(key, shape)
            if what := self._edit.under(shape, laid, at.x(), at.y()):
                self._edit.begin(key, what, laid, at.x())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        key, at = self._editable(), event.position()
        if key is None or self._edit is None:
            self.unsetCursor()
            return
        if self._edit.what:
            self._edit.to(at.x(), at.y())
            self.update()
            return
        shape = self._session.shapes[key]
        self.setCursor(_CURSORS.get(self._edit.under(shape, self.laid(key, shape), at.x(), at.y()), _ARROW))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._edit is not None:
            self._edit.end()
            self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """The line before or after, in drawing order; up and down, another of its takes; Esc gives a drag up."""
        if event.key() == Qt.Key.Key_Escape and self._edit is not None and self._edit.what:
            self.drop_edit()
            return
        takes = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}
        if event.key() in takes:
            self._choose_take(takes[Qt.Key(event.key())])
            return
        steps = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}
        lines = self._session.shapes.visible()
        if event.key() not in steps or not lines:
            super().keyPressEvent(event)
            return
        now = self._session.shown_line()
        at = lines.index(now) if now in lines else 0
        self._session.choose([lines[(at + steps[Qt.Key(event.key())]) % len(lines)]])

    def drop_edit(self) -> None:
        """Gives up what is dragged."""
        if self._edit is not None and self._edit.what:
            self._edit.drop()
            self.update()

    def _choose_take(self, step: int) -> None:
        """Another of the pulls that were tried for the line."""
        key = self._session.shown_line()
        row = self._session.job.rows.lines[key] if key is not None else None
        if row is None or row.pull is None or len(row.tried) < 2:
            self._session.said.emit("There is one take of this line only.", False)
            return
        k = (row.tried.index(row.pull) + step) % len(row.tried)
        if self._session.make("take", line=key, take=k + 1) is not None:
            self._session.said.emit(f"Take **{k + 1}** of {len(row.tried)}.", False)

    def enlarge(self, on: bool) -> None:
        """Large while its key is held, or as it was."""
        self._large = on
        self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(600, THEME.px(LARGE if self._large else HEIGHT))

    def paint(self, painter: QPainter, event: QPaintEvent) -> None:
        painter.fillRect(self.rect(), THEME.color("margin"))
        focus_ring(painter, self)
        key = self._session.shown_line()
        if self._session.strip_picture is not None:
            self._pencils(painter, self._session.strip_picture)
            return
        if key is None:
            self._empty(painter)
            return
        shape = self._edit.shape(key) if self._edit is not None else self._session.shapes[key]
        self._words(painter, key, shape)
        if self._shows_bands and self._bands[0] == key and self._bands[1] is not None:
            self._stack(painter, shape, self._bands[1])
        else:
            self._line(painter, key, shape)

    def _stack(self, painter: QPainter, shape: Shape, bands: Bands) -> None:
        layers = layers_of(bands)
        left, foot = THEME.px(LEFT), self.height() - THEME.px(32)
        along = (self.width() - left - RIGHT) / max(shape.length, 1e-6)
        across = (foot - THEME.px(26)) / most_mm(bands, layers)
        paint_bands(painter, bands, layers, left, along, foot, across)
        words = f"what each rule adds, {across / along:.0f} × as large across"
        painter.setFont(THEME.font(LABEL))
        end = self.width() - RIGHT - painter.fontMetrics().horizontalAdvance(words)
        paint_legend(painter, layers, left, THEME.px(5), end - 10)
        painter.setPen(THEME.color("faint"))
        painter.drawText(QPointF(end, THEME.px(16)), words)
        self._ruler(painter, shape.length, left, along)

    def _empty(self, painter: QPainter) -> None:
        painter.setPen(THEME.color("faint"))
        painter.setFont(THEME.font(BODY))
        words = "Pull a line, or choose one, and it is unrolled here: both edges, and your hand behind it."
        painter.drawText(QRectF(self.rect()), Qt.AlignmentFlag.AlignCenter, words)

    def _pencils(self, painter: QPainter, picture: StripPicture) -> None:
        """Pencil passes over each other, along the line that runs through them."""
        self._told(painter, picture.title, list(picture.facts), "ahead")
        left = THEME.px(LEFT)
        wide, top, foot = self.width() - left - RIGHT, THEME.px(24), THEME.px(40)
        along = wide / max(picture.long, 1e-6)
        high = self.height() - top - foot
        rows, columns = picture.dark.shape
        image = QImage(picture.dark.tobytes(), columns, rows, columns, QImage.Format.Format_Grayscale8)
        image.invertPixels()
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.drawImage(QRectF(left, top, wide, high), image)
        painter.setPen(QPen(THEME.color("chosen"), 1.2, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(left, top + high / 2.0), QPointF(left + wide, top + high / 2.0))
        times = high / (2.0 * picture.half) / along
        drawn = f"{times:.1f} × as large" if times >= 1.0 else f"drawn {1.0 / times:.0f} times narrower than long"
        self._legend(painter, [("the line as it was read", "chosen", 1.2)],
                     f"passes unrolled, {2.0 * picture.half:.1f} mm across, {drawn}")  # fmt: skip
        self._ruler(painter, picture.long, left, along)

    def _told(self, painter: QPainter, title: str, facts: list[str], colour: str = "text") -> None:
        """A title and facts under it, at the left."""
        painter.setPen(THEME.color(colour))
        painter.setFont(THEME.font(BODY, bold=True))
        painter.drawText(QPointF(18, THEME.px(24)), title)
        painter.setFont(THEME.font(LABEL))
        painter.setPen(THEME.color("faint"))
        for n, fact in enumerate(facts):
            shown = painter.fontMetrics().elidedText(fact, Qt.TextElideMode.ElideMiddle, THEME.px(LEFT) - 24)
            painter.drawText(QPointF(18, THEME.px(43 + 18 * n)), shown)

    def _words(self, painter: QPainter, key: str, shape: Shape) -> None:
        session = self._session
        row = session.job.rows.lines[key]
        part = session.job.rows.parts[row.part]
        report = line_report(session.job, session.shapes, key)
        title = "Chosen line" if session.chosen else "Last line"
        if len(session.chosen) > 1:
            title = f"{counted(len(session.chosen), 'line')} chosen"
        facts = [f"{part.name}, {row.role}", *_figures(report)]
        self._told(painter, title, facts)

    def _behind(self, key: str, shape: Shape) -> tuple[np.ndarray, list[np.ndarray]]:
        """(the raw hand, other takes) unrolled."""
        takes = [
            _unrolled(shape, points, _shares(points) * shape.length)
            for points in self._session.strokes.other_takes(self._session.shown_line())
        ]
        return self._unrolled_hand(key, shape), takes

    def laid(self, key: str, shape: Shape) -> Laid:
        """How a line lies here, so that all that is shown of it has room."""
        if self._edit is not None and self._edit.what:
            return self._edit.laid()
        raw, takes = self._behind(key, shape)
        off = [float(np.abs(rows[:, 1]).max()) for rows in (raw, *takes) if len(rows)]
        widest = max(float(shape.widths.full.max()) / 2.0, *off, 0.02)
        left = THEME.px(LEFT)
        across = min((self.height() - THEME.px(80)) / 2.0 / widest, 400.0)
        middle = THEME.px(46) + (self.height() - THEME.px(HEIGHT)) / 2.0
        return Laid(left, (self.width() - left - RIGHT) / max(shape.length, 1e-6), across, middle)

    def _line(self, painter: QPainter, key: str, shape: Shape) -> None:
        laid, (raw, takes) = self.laid(key, shape), self._behind(key, shape)
        left, along, across, middle = laid.left, laid.along, laid.across, laid.middle
        times = round(across / along, 1 if across / along < 3 else 0)
        w = shape.widths
        x = left + w.s * along
        top, foot = middle - w.left * across, middle + w.right * across
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(THEME.color("text" if THEME.variant != "day" else "ink"))
        painter.drawPolygon(polygon(np.column_stack([np.append(x, x[::-1]), np.append(top, foot[::-1])])))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for rows, colour in [*((rows, "pencil") for rows in takes), (raw, "chosen")]:
            painter.setPen(QPen(THEME.color(colour), 1.2 if colour == "chosen" else 1.8))
            points = np.column_stack([left + rows[:, 0] * along, middle - rows[:, 1] * across])
            painter.drawPolyline(polyline(points))
        pace = self._pace(painter, key, shape, left, along)
        told = [("ink", "text", 4.0), *([("your hand", "chosen", 1.6)] if len(raw) else []),
                *([("other takes", "pencil", 1.8)] if takes else []),
                *([(f"your speed, up to {pace:.0f} mm/s", "ahead", 1.0)] if pace else [])]  # fmt: skip
        self._legend(painter, told, f"{times:g} × as large across")
        self._ruler(painter, shape.length, left, along)

    def _pace(self, painter: QPainter, key: str, shape: Shape, left: float, along: float) -> float:
        """Draws the pull's speed along the line, above the ruler; gives the highest, mm/s, 0 where none is known."""
        if (
            self._session.job.rows.lines[key].pull is None
            or shape.length < 1.0
            or shape.source_t[-1] <= shape.source_t[0]
        ):
            return 0.0
        s = np.linspace(0.0, shape.length, PACE_PLACES)
        rising = shape.s + np.arange(len(shape.s)) * 1e-9
        time = np.interp(s, rising, shape.source_t)
        speed = np.convolve(np.diff(s) / np.maximum(np.diff(time), 1e-6), np.ones(5) / 5.0, mode="valid")
        high = float(speed.max())
        room = THEME.px(12) + (self.height() - THEME.px(HEIGHT)) * 0.25
        y = self.height() - THEME.px(27) - speed / max(high, 1e-9) * room
        painter.setPen(QPen(THEME.color("ahead"), 1.2, Qt.PenStyle.DashLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolyline(polyline(np.column_stack([left + (s[2:-3] + s[3:-2]) / 2.0 * along, y])))
        return high

    def _legend(self, painter: QPainter, told: list[tuple[str, str, float]], scale: str) -> None:
        painter.setFont(THEME.font(LABEL))
        y, x = THEME.px(16), THEME.px(LEFT)
        for name, colour, width in told:
            dashed = Qt.PenStyle.DashLine if colour == "ahead" else Qt.PenStyle.SolidLine
            painter.setPen(QPen(THEME.color(colour), width, dashed))
            painter.drawLine(QPointF(x, y - 4), QPointF(x + 20, y - 4))
            painter.setPen(THEME.color("faint"))
            painter.drawText(QPointF(x + 26, y), name)
            x += 40 + painter.fontMetrics().horizontalAdvance(name)
        left = self.width() - RIGHT - painter.fontMetrics().horizontalAdvance(scale)
        if left > x:
            painter.drawText(QPointF(left, y), scale)

    def _ruler(self, painter: QPainter, length: float, left: float, along: float) -> None:
        step = next((s for s in STEPS if s * along >= 70), STEPS[-1])
        y = self.height() - THEME.px(20)
        painter.setPen(THEME.color("faint"))
        for n in range(int(length / step + 1e-6) + 1):
            x = left + n * step * along
            painter.drawLine(QPointF(x, y - 5), QPointF(x, y))
            text = f"{n * step:g}" + (" mm" if n == 0 else "")
            width = painter.fontMetrics().horizontalAdvance(text)
            painter.drawText(QPointF(x - (4 if n == 0 else width / 2), y + 14), text)

    def _unrolled_hand(self, key: str, shape: Shape) -> np.ndarray:
        """(n, 2): arc length along the line and mm to its left, of the raw samples of its pull."""
        if self._hand is not None and self._hand[0] is shape:
            return self._hand[1]
        row = self._session.job.rows.lines[key]
        out = np.zeros((0, 2))
        if row.pull is not None and shape.length > 0.1:
            samples = working_samples(self._session.job.pull(str(row.pull)).samples)
            inside = (samples[:, 3] >= shape.source_t[0]) & (samples[:, 3] <= shape.source_t[-1])
            picked = samples[inside][:: max(1, int(inside.sum()) // UNROLLED_SAMPLES)]
            out = _unrolled(shape, picked[:, :2], np.interp(picked[:, 3], shape.source_t, shape.s))
        self._hand = (shape, out)
        return out


def _figures(report: dict[str, Any]) -> list[str]:
    """Length and time, width, speed and direction of a line, as far as they are known."""
    timed = f" in {report['duration']:.1f} s" if report["duration"] else ""
    pace = f"{report['speed']:.0f} mm/s" if report["speed"] else ""
    heading = f"at {report['direction']:.0f}°" if report["direction"] is not None else ""
    return [
        f"{report['length']:.1f} mm{timed}",
        f"{report['width_range'][1]:.2f} mm at most",
        f"{pace} {heading}".strip(),
    ]


def _unrolled(shape: Shape, places: np.ndarray, at: np.ndarray) -> np.ndarray:
    """Feet (n, 2) of places on the line, as arc length and mm to the left, by Newton's method from arc lengths near
    them."""
    points, s = shape.flat
    tangent = np.gradient(points, s, axis=0) if len(s) > 2 else np.zeros_like(points)
    for _ in range(3):
        off = places - _read(points, s, at)
        at = np.clip(at + (off * _read(tangent, s, at)).sum(axis=1), 0.0, shape.length)
    off, tangent = places - _read(points, s, at), _read(tangent, s, at)
    return np.column_stack([at, off[:, 0] * tangent[:, 1] - off[:, 1] * tangent[:, 0]])


def _shares(points: np.ndarray) -> np.ndarray:
    """How far along (0 to 1) each of a line's points lies."""
    s = lengths_along(points)
    out: np.ndarray = s / max(s[-1], 1e-9)
    return out


def _read(v: np.ndarray, s: np.ndarray, at: np.ndarray) -> np.ndarray:
    return np.column_stack([np.interp(at, s, v[:, 0]), np.interp(at, s, v[:, 1])])
