"""References: pictures that stay beside the board whatever the view does, each enlarged on its own."""

import io

import numpy as np
from PIL import Image, ImageOps
from PySide6.QtCore import QObject, QPoint, QPointF, QRect, QRectF, QSize, Qt
from PySide6.QtGui import QImage, QMouseEvent, QPainter, QPaintEvent, QWheelEvent
from PySide6.QtWidgets import QWidget

from plain_stride.desk.look.painted import Painted
from plain_stride.desk.look.theme import LABEL, THEME
from plain_stride.desk.session.session import Session

WIDE, HEAD, GRIP, GAP = 220, 20, 18, 14
LEAST, MOST_PX, MOST_TIMES, STEP = (90, 70), 2600, 16.0, 1.2


class ReferenceCard(Painted, QWidget):
    """One picture on a card over the desk: drag its head to move it, its lower corner to size it, the picture to see
    another part of it; the wheel enlarges it round the pointer, a double click shows the whole."""

    def __init__(self, parent: QWidget, name: str, picture: QImage) -> None:
        super().__init__(parent)
        self._name, self._picture = name, picture
        self._times, self._middle = 1.0, QPointF(0.5, 0.5)
        self._drag: tuple[str, QPoint, QRect, QPointF] | None = None
        self.setCursor(Qt.CursorShape.ArrowCursor)
        self.setAccessibleName(f"Reference: {name}")
        high = round(WIDE * picture.height() / max(picture.width(), 1))
        self.resize(THEME.px(WIDE), THEME.px(min(max(high, LEAST[1]), WIDE * 2) + HEAD))

    @property
    def times(self) -> float:
        """How much larger the picture is shown than whole."""
        return self._times

    def _area(self) -> QRectF:
        return QRectF(1, THEME.px(HEAD), self.width() - 2, self.height() - THEME.px(HEAD) - 1)

    def _scale(self) -> float:
        """Pixels of the window for one of the picture."""
        area = self._area()
        whole = min(area.width() / self._picture.width(), area.height() / self._picture.height())
        return whole * self._times

    def _place(self) -> QRectF:
        """Where the whole picture would lie."""
        area, scale = self._area(), self._scale()
        w, h = self._picture.width() * scale, self._picture.height() * scale
        return QRectF(area.center().x() - self._middle.x() * w, area.center().y() - self._middle.y() * h, w, h)

    def enlarge(self, factor: float, at: QPointF) -> None:
        """Enlarges the picture; what lies under a pixel stays there."""
        place = self._place()
        share = QPointF((at.x() - place.x()) / place.width(), (at.y() - place.y()) / place.height())
        self._times = min(max(self._times * factor, 1.0), MOST_TIMES)
        area, scale = self._area().center(), self._scale()
        self._look_at(share.x() - (at.x() - area.x()) / (self._picture.width() * scale),
                      share.y() - (at.y() - area.y()) / (self._picture.height() * scale))  # fmt: skip

    def _look_at(self, x: float, y: float) -> None:
        """Brings a place of the picture (shares of its sides) to the middle, as far as it fills the card."""
        area, scale = self._area(), self._scale()
        half = (area.width() / (2.0 * self._picture.width() * scale),
                area.height() / (2.0 * self._picture.height() * scale))  # fmt: skip
        x, y = (0.5 if h >= 0.5 else min(max(v, h), 1.0 - h) for v, h in zip((x, y), half, strict=True))
        self._middle = QPointF(x, y)
        self.update()

    def paint(self, painter: QPainter, event: QPaintEvent) -> None:
        painter.fillRect(self.rect(), THEME.color("margin"))
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.save()
        painter.setClipRect(self._area())
        painter.drawImage(self._place(), self._picture)
        painter.restore()
        painter.setFont(THEME.font(LABEL))
        painter.setPen(THEME.color("faint"))
        head = QRectF(6, 0, self.width() - 12, THEME.px(HEAD))
        times = f"{self._times:.1f} x" if self._times > 1.0 else ""
        name = painter.fontMetrics().elidedText(self._name, Qt.TextElideMode.ElideMiddle, self.width() - THEME.px(60))
        painter.drawText(head, Qt.AlignmentFlag.AlignVCenter, name)
        painter.drawText(head, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, times)
        painter.setPen(THEME.color("hair"))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(self.rect().adjusted(0, 0, -1, -1))
        corner = self.rect().bottomRight()
        for k in (5, 9, 13):
            painter.drawLine(corner - QPoint(k, 2), corner - QPoint(2, k))

    def wheelEvent(self, event: QWheelEvent) -> None:
        if event.angleDelta().y():
            self.enlarge(STEP if event.angleDelta().y() > 0 else 1.0 / STEP, event.position())
        event.accept()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = event.position().toPoint()
        corner = self.rect().bottomRight() - at
        what = "size" if corner.x() < GRIP and corner.y() < GRIP else "move" if at.y() < THEME.px(HEAD) else "look"
        self._drag = (what, event.globalPosition().toPoint(), self.geometry(), QPointF(self._middle))
        self.raise_()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._drag is None:
            return
        what, start, box, middle = self._drag
        by = event.globalPosition().toPoint() - start
        if what == "size":
            self.resize(max(box.width() + by.x(), THEME.px(LEAST[0])), max(box.height() + by.y(), THEME.px(LEAST[1])))
            self._look_at(self._middle.x(), self._middle.y())
        elif what == "move":
            self.move(self._kept(box.topLeft() + by))
        else:
            scale = self._scale()
            self._look_at(middle.x() - by.x() / (self._picture.width() * scale),
                          middle.y() - by.y() / (self._picture.height() * scale))  # fmt: skip

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._drag = None

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self._times = 1.0
        self._look_at(0.5, 0.5)

    def _kept(self, at: QPoint) -> QPoint:
        """A place where its head can still be taken hold of."""
        desk = self.parentWidget()
        room = desk.size() if desk is not None else self.size()
        x = min(max(at.x(), GRIP * 2 - self.width()), room.width() - GRIP * 2)
        return QPoint(x, min(max(at.y(), 0), room.height() - THEME.px(HEAD)))

    def keep_within(self) -> None:
        """The desk has another size."""
        self.move(self._kept(self.pos()))


class ReferenceCards(QObject):
    """A card for each reference that is shown."""

    def __init__(self, session: Session, sheet: QWidget) -> None:
        super().__init__(sheet)
        self._session, self._sheet = session, sheet
        self.cards: dict[str, ReferenceCard] = {}
        session.updates.add(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Cards as the job has references now."""
        job = self._session.job
        wanted = {key: row for key, row in job.pencils() if row.kind == "reference" and row.image is not None}
        for key in self.cards.keys() - wanted.keys():
            card = self.cards.pop(key)
            card.hide()
            card.deleteLater()
        for key, row in wanted.items():
            if key not in self.cards:
                picture = picture_of(job.image(str(row.image)))
                if picture is not None:
                    self._add(key, str(row.name), picture)
            if key in self.cards:
                self.cards[key].setVisible(not row.hidden)

    def place(self, size: QSize) -> None:
        """The desk has another size: no card is lost beyond its edge."""
        for card in self.cards.values():
            card.keep_within()

    def _add(self, key: str, name: str, picture: QImage) -> None:
        card = ReferenceCard(self._sheet, name, picture)
        n = len(self.cards)
        card.move(self._sheet.width() - card.width() - GAP - n * GAP, GAP + n * (GAP + THEME.px(HEAD)))
        card.keep_within()
        self.cards[key] = card
        card.show()


def picture_of(data: bytes) -> QImage | None:
    """A picture in its own colours, upright, no larger than it is ever shown; None where it cannot be read."""
    try:
        with Image.open(io.BytesIO(data)) as opened:
            image = ImageOps.exif_transpose(opened).convert("RGB")
    except (OSError, ValueError, Image.DecompressionBombError):
        return None
    image.thumbnail((MOST_PX, MOST_PX))
    pixels = np.ascontiguousarray(image)
    h, w = pixels.shape[:2]
    return QImage(pixels.data, w, h, 3 * w, QImage.Format.Format_RGB888).copy()
