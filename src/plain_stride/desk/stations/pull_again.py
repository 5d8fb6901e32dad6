"""Pull, page Again: the takes of the line in hand, ranked; and how far pulls follow the pencils."""

import numpy as np
from PySide6.QtGui import QPainter

from plain_stride.desk.controls.controls import Heading, Sentence, Slider, Word, tinted
from plain_stride.desk.controls.hints import Explained
from plain_stride.desk.controls.place_list import PlaceList
from plain_stride.desk.keys.key_plan import KEYS
from plain_stride.desk.look.inked import stroke
from plain_stride.desk.look.theme import THEME
from plain_stride.desk.session.session import Session
from plain_stride.desk.session.verbs import follow
from plain_stride.desk.stations.base import Page
from plain_stride.errors import StrideError
from plain_stride.hand.follow import SUGGESTED, line_followed
from plain_stride.hand.takes import TakeFigures, ranked, take_figures
from plain_stride.measure import MeasureError


class AgainPage(Page):
    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._keys, self._again = Explained("Again", "again"), Word("")
        self._heading, self._says = Heading("Takes, the best first"), Sentence("", colour="faint")
        self._takes, self._best = PlaceList("Takes of the line", 6), Word("choose the best")
        self._follow = Slider(
            "Follow the pencils", _draw_follow, lambda v: f"{v:.0%}", _read_share, _same, _same, 0.0, 0.1
        )
        self._follow_says = Sentence("", colour="faint")
        self._suggest, self._lay = Word(f"as suggested, {SUGGESTED:.0%}"), Word("draw the chosen lines so")
        self.add(self._keys, self._again, self._heading, self._takes, self._best, self._says)
        self.add(Heading("Follow"), self._follow, self._follow_says, self._suggest, self._lay)
        self._again.clicked.connect(self._arm)
        self._takes.picked.connect(self._choose)
        self._best.clicked.connect(lambda: self._choose(0))
        self._follow.settled.connect(self._set_follow)
        self._suggest.clicked.connect(lambda: self._set_follow(SUGGESTED))
        self._lay.clicked.connect(self._draw_chosen)
        self._order: list[str] = []

    def refresh(self) -> None:
        key, r = self.session.shown_line(), KEYS.shown("R")
        self._keys.explain(
            f"Tap **{r}** and the next pull redoes the line in hand. Hold **{r}** to rehearse: nothing is kept."
        )
        self._again.setText("the next pull is a new line" if self.session.now.again else "pull the line in hand again")
        self._again.updateGeometry()
        self._again.setVisible(key is not None)
        self._show_takes(key)
        self._follow.show_value(self.session.now.follow_share)
        self._say_follow()

    def _arm(self) -> None:
        self.session.arm_again()
        self.refresh()

    def _show_takes(self, key: str | None) -> None:
        takes = self.session.strokes.takes(self.session.shown_line())
        several = len(takes) > 1
        self._heading.setVisible(several)
        self._best.setVisible(several)
        if not several or key is None:
            self._takes.show_rows([])
            self._says.say("")
            return
        row = self.session.job.rows.lines[key]
        keys, figures = list(takes), self._figures(takes)
        order = ranked(figures)
        self._order = [keys[k] for k in order]
        rows = [f"take {k + 1}{' · chosen' if keys[k] == row.pull else ''} · {_words(figures[k])}" for k in order]
        self._takes.show_rows(rows, self._order.index(str(row.pull)))
        known = figures[0].straying is not None
        flow = figures[keys.index(str(row.pull))].flow
        words = f"Ranked by wobble, straying and flow: the chosen one flows at **{flow:.1f}**, 0 is smoothest, no unit."
        if not known:
            why = (
                "no pencil line that was read runs along it"
                if self.session.strokes.guides.lines
                else "no pencils are read yet"
            )
            words = f"Ranked by wobble and flow: {why}, so straying cannot count."
        self._says.say(words)

    def _figures(self, takes: dict[str, np.ndarray]) -> list[TakeFigures]:
        """Held against the pencil line that most of the first take runs along, if any is known."""
        pencil = line_followed(next(iter(takes.values())), self.session.strokes.guides)
        return [take_figures(points, self.session.job.pull(k).samples, pencil) for k, points in takes.items()]

    def _choose(self, row: int) -> None:
        key = self.session.shown_line()
        if key is not None and row < len(self._order):
            self.session.make("take", line=key, take=self._order[row])

    def _set_follow(self, share: float) -> None:
        follow(self.session, share)
        self.refresh()

    def _say_follow(self) -> None:
        share = self.session.now.follow_share
        if share <= 0.0:
            words = "Your hand is free."
        elif share >= 1.0:
            words = "A rough drag gives the pencil line, with your own pressure."
        else:
            words = f"Your hand leads; lines come **{share:.0%}** of the way to the pencils they run along."
        known = self.session.strokes.guides.lines
        self._follow_says.say(words if known or share <= 0.0 else f"{words} The pencils are not read yet.")
        self._lay.setVisible(bool(self.session.chosen_lines()) and bool(known))

    def _draw_chosen(self) -> None:
        wanted = []
        for key in self.session.chosen_lines():
            if self.session.job.rows.lines[key].pull:
                line = line_followed(self.session.shapes[key].flat[0], self.session.strokes.guides)
                if line is not None:
                    along = {"share": self.session.now.follow_share, "along": line.tolist()}
                    wanted.append(("follow", {"lines": [key], **along}))
        if wanted:
            self.session.make_several(wanted, "follow")
        else:
            self.session.said.emit("None of the chosen lines runs along a pencil line.", False)


def _words(figures: TakeFigures) -> str:
    if figures.straying is None:
        return f"wobble {figures.wobble:.3f} mm · flow {figures.flow:.1f}"
    return f"wobble {figures.wobble:.3f} mm · off {figures.straying:.2f} mm"


def _same(value: float) -> float:
    return value


def _read_share(text: str) -> float:
    try:
        value = float(text.replace("%", "").replace(",", ".").strip()) / 100.0
    except ValueError:
        raise MeasureError(f"'{text.strip()}' is no percentage") from None
    if not 0.0 <= value <= 1.0:
        raise StrideError("following goes from 0 to 100 %")
    return value


def _draw_follow(painter: QPainter, wide: float, high: float) -> None:
    """A hand that comes to a pencil line from left to right."""
    x = np.linspace(0.0, wide, 80)
    pencil = 2.0 * np.sin(x / 23.0)
    hand = pencil + (1.0 - x / wide) * (4.0 * np.sin(x / 9.0) + 2.0)
    painter.fillPath(stroke(np.column_stack([x, pencil]), np.full(80, 2.6)), tinted(THEME.color("pencil"), 0.8))
    painter.fillPath(stroke(np.column_stack([x, hand]), np.full(80, 1.5)), THEME.color("text"))
