"""Tone, page Blacks: areas filled by a touch or where the pencils mark them; halos; how much black there is."""

from typing import Any

import numpy as np

from plain_stride.desk.controls.controls import Choice, Heading, Sentence
from plain_stride.desk.keys.key_plan import KEYS
from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.tools.drawing import LoopTool, PointTool
from plain_stride.desk.stations.mend_page import Make, MendPage, field_with, mm_of
from plain_stride.desk.stations.tone_words import tone_in_hand
from plain_stride.job.areas import areas_of
from plain_stride.job.pencil_records import FILL
from plain_stride.job.records import BLACK, HALO
from plain_stride.job.tone_balance import BalanceNow, JobBalance
from plain_stride.job.tone_fields import GAP_MM
from plain_stride.job.tone_questions import ToneMeasured
from plain_stride.job.tones import PARTS, WHITE
from plain_stride.texts import counted
from plain_stride.tone.halos import INSIDE, LEFT, OUTSIDE, RIGHT

HERE = 40
"""Ink is measured in the window itself while the job has no more lines."""
TOUCH = "**Black:** touch an area between lines. Esc ends it."
AROUND = "**Black by its edge:** draw round it. Esc gives it up."
CLOSED, EDGE = "closed ones", "to the edge too"
WHITE_PART, DOUBLED_TIMES = PARTS[WHITE], 8.0
WHERE, BETWEEN = "all round", "between blacks"


class BlackPage(MendPage):
    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._tone, self._shown = "", (-1, "")
        self._gap = field_with("Gaps bridged up to", f"{GAP_MM:g} mm")
        self._open = Choice((CLOSED, EDGE), CLOSED, "Whether an area may reach the sheet's edge")
        touch, around = self.tool_words("touch an area…", "draw its edge…")
        self._white = self.verb("draw in white", self._draw_white, of_lines=False)
        self._white.setToolTip("Takes a white part in hand, in front of all, and shows the paper grey")
        self._marked = self.verb("fill what the pencils mark", self._fill_marked, of_lines=False)
        self._says, self._measures, self._balance = Sentence(), Sentence(), Sentence("", colour="faint")
        self._weighed = -1
        self._width = field_with("A halo's width", "")
        self._side = Choice((INSIDE, OUTSIDE, LEFT, RIGHT), INSIDE, "On which side of an edge a halo lies")
        self._where = Choice((WHERE, BETWEEN), WHERE, "Whether a halo lies only where another black is beyond")
        self._halo = self.verb("cut a halo", self._cut_halo, of_lines=False)
        self._cure = self.verb("only between blacks", self._cure_edges, of_lines=False)
        self._anew = self.verb("lay it anew", lambda: self._set({}), of_lines=False)
        self._away = self.verb("take it away", self._delete, of_lines=False)
        self.add(self.fault, Heading("Blacks"), self._says, self._balance)
        self.add_verbs(touch, around)
        self.add_verbs(self._marked)
        self.add_verbs(self._white)
        self.add(self._gap)
        self.add_verbs(Sentence("areas"), self._open)
        self.add(Heading("Halos"), self._width)
        self.add(self._side)
        self.add(self._where)
        self.add_verbs(self._halo, self._cure)
        self.add(self._measures)
        self.add_verbs(self._anew, self._away)
        self._width.typed.connect(lambda text: self._changed(lambda: {"mm": mm_of(self._width)}))
        self._side.chosen.connect(lambda word: self._changed(lambda: {"side": word}))
        self._where.chosen.connect(lambda word: self._changed(lambda: {"between": word == BETWEEN or None}))

    def tools(self) -> dict[str, Make]:
        return {"black": lambda: PointTool(TOUCH, self._fill_at),
                "black by its edge": lambda: LoopTool(AROUND, self._fill_around)}  # fmt: skip

    def refresh(self) -> None:
        tone = tone_in_hand(self.session, BLACK, HALO)
        if tone != self._tone:
            self._tone = tone
            self._show_told()
        job = self.session.job
        if not self._width.entry.text():
            self._width.show_text(f"{job.plan.halo:g} mm")
        marked, blacks = len(areas_of(job, FILL)), len(job.rows.blacks)
        self._marked.setVisible(bool(marked))
        self._says.say(_sentence(marked, blacks))
        halo = bool(tone) and job.rows.tones[tone].kind == HALO
        self._halo.setEnabled(bool(self._edge()) and not halo)
        self._halo.setToolTip("" if self._edge() else "Choose a black or a line with W first")
        self._cure.setVisible(False)
        for word in (self._anew, self._away):
            word.setVisible(bool(tone))
        self._measure()

    def _edge(self) -> str:
        """The black or line beside which a halo would be cut: what is chosen alone."""
        return self.session.chosen[0] if len(self.session.chosen) == 1 else ""

    def _show_told(self) -> None:
        row = self.session.job.rows.tones.get(self._tone)
        if row is not None and row.kind == HALO:
            self._width.show_text(f"{row.told.get('mm', self.session.job.plan.halo):g} mm")
            self._side.show_chosen(str(row.told.get("side", INSIDE)))
            self._where.show_chosen(BETWEEN if row.told.get("between") else WHERE)

    # Blacks

    def _fill(self, **where: Any) -> None:
        told = {"gap": mm_of(self._gap), **({"to_edge": True} if self._open.current() == EDGE else {})}
        made = self.session.make("blacken", **told, **where)
        if made is not None:
            self.session.choose(self.session.job.tone_ink(str(made.results[0])))

    def _fill_at(self, at: np.ndarray) -> None:
        self.tried(lambda: self._fill(at=np.round(at, 2).tolist()))

    def _fill_around(self, loop: np.ndarray) -> None:
        self.tried(lambda: self._fill(around=np.round(loop, 2).tolist()))

    def _fill_marked(self) -> None:
        self._fill(marked=True)

    def _draw_white(self) -> None:
        """White over black: veins, scratches, sparks."""
        if self.session.job.part_named(WHITE_PART) is None:
            self.session.make("part", name=WHITE_PART, tier="near", order=1, ink="white")
        if self.session.job.part_named(WHITE_PART) is not None:
            self.session.take(part=WHITE_PART, grey_ground=True)
            self.session.said.emit(f"White over black. **{KEYS.shown(']')}** shows the paper white again.", False)

    # Halos

    def _cut_halo(self) -> None:
        edge = self._edge()
        of = "black" if edge in self.session.job.rows.blacks else "line"
        side = self._side.current()
        told = {"mm": mm_of(self._width), "side": side, **({"between": True} if self._is_between() else {})}
        made = self.session.make("halo", **{of: edge}, **told)
        if made is not None:
            self.session.choose(self.session.job.tone_ink(str(made.results[0])))

    def _is_between(self) -> bool:
        return self._where.current() == BETWEEN

    def _cure_edges(self) -> None:
        self._set({"between": True})
        self._where.show_chosen(BETWEEN)

    def _changed(self, told: Any) -> None:
        row = self.session.job.rows.tones.get(self._tone)
        self.tried(lambda: self._set(told()) if row is not None and row.kind == HALO else told())

    def _set(self, told: dict[str, Any]) -> None:
        if self.session.make("tone-set", tone=self._tone, to=told) is None:
            self._show_told()

    def _delete(self) -> None:
        self.session.make("tone-delete", tones=[self._tone])

    # What is measured

    def _measure(self) -> None:
        if self._weighed != self.session.job.version and self.session.job.rows.blacks:
            self.session.drawing.ask(BalanceNow(), self._show_balance, HERE)
        self._weighed = self.session.job.version
        now = (self.session.job.version, self._tone)
        if not self._tone:
            self._measures.say("")
        elif now != self._shown or not self._measures.text():
            self.session.drawing.ask(ToneMeasured(self._tone), self._show_measured)
        self._shown = now

    def _show_balance(self, told: JobBalance) -> None:
        tiers = ", ".join(f"{name} {share:.1%}" for name, share in told.tiers.items() if share >= 0.0005)
        most = f", most of it {told.of.heaviest}" if told.of.heaviest else ""
        self._balance.say(f"**{told.of.black:.1%}** of the sheet is black{most}" + (f": {tiers}." if tiers else "."))

    def _show_measured(self, told: dict[str, Any]) -> None:
        if told.get("id") != self._tone:
            return
        if "fault" in told:
            self._measures.say(f"{told['fault']}.", "red")
        else:
            halo = told["kind"] == HALO
            self._measures.say(_halo_words(told) if halo else _black_words(told), "text")
            self._cure.setVisible(halo and _is_doubled(told))


def _sentence(marked: int, blacks: int) -> str:
    if blacks:
        return f"**{counted(blacks, 'black')}** on the sheet, halos among them."
    if marked:
        return f"The pencils mark **{counted(marked, 'area')}** to be filled."
    return "Touch an area between lines, or draw its edge: it is filled to the middle of its lines."


def _black_words(told: dict[str, Any]) -> str:
    lost = told["print"]["lost"]
    rest = f" On {told['print']['target']} **{lost:.1%}** of it is too thin." if lost >= 0.005 else ""
    return f"**{told['area_mm2']:.0f} mm²** of black, **{told['share_of_sheet']:.1%}** of the sheet.{rest}"


def _halo_words(told: dict[str, Any]) -> str:
    if told["narrowest_mm"] is None:
        return "What it lay beside is gone."
    wide = f"White of **{told['narrowest_mm']:.2f}** to **{told['widest_mm']:.2f} mm**"
    way = "all the way round" if told["closed"] else "open"
    if _is_doubled(told):
        return f"{wide}, {way}. Over **{told['doubled_mm']:.0f} mm** a thin black edge is white on both sides."
    return f"{wide}, {way}."


def _is_doubled(told: dict[str, Any]) -> bool:
    """Whether so much of an edge is white on both sides that it is seen: more than round a corner."""
    doubled = told["doubled_mm"]
    return doubled is not None and doubled > DOUBLED_TIMES * told["mm"]
