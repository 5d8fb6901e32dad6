"""Hand over, page Send: what goes to whom, written by one press and opened again."""

import json
from pathlib import Path

from plain_stride.desk.controls.controls import Heading, Sentence
from plain_stride.desk.controls.file_dialogs import ask_file, ask_new_file
from plain_stride.desk.controls.json_files import given
from plain_stride.desk.controls.place_list import PlaceList
from plain_stride.desk.session.session import Session
from plain_stride.desk.stations.errand_page import ErrandPage
from plain_stride.desk.workers.hand_over_errands import Deliver
from plain_stride.errors import StrideError
from plain_stride.finish.delivery import USUAL, Delivery, WantedFile, checked_delivery
from plain_stride.job.delivered import changed_since, deliveries_of, last_delivered
from plain_stride.job.delivering import Delivered
from plain_stride.job.reading import read_json
from plain_stride.texts import counted

LIMIT_WORDS = {"least_mm": "no line under {:g} mm", "least_dpi": "pictures of {:g} dpi at least",
               "most_mb": "{:g} MB at most"}  # fmt: skip


class SendPage(ErrandPage):
    """The delivery in hand is the one that is chosen in the list."""

    stopped_words = "stopped: nothing was delivered"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._at, self._known = 0, ((-1, -1), "")
        self._list = PlaceList("Deliveries", 7)
        self._what, self._files, self._since = Sentence(), Sentence("", colour="faint"), Sentence()
        self.add(Heading("Deliveries"), self._list, self._what, self._files, self._since)
        self.add_verbs(self.verb("into a folder…", lambda: self._ask("folder"), of_lines=False),
                       self.verb("as a zip…", lambda: self._ask("zip"), of_lines=False))  # fmt: skip
        self._delete = self.verb("take it away", self._take_away, of_lines=False)
        self.add(self.stop_word, self.status, self.fault, Heading("Your own"))
        self.add_verbs(self.verb("open one…", self._ask_open, of_lines=False),
                       self.verb("save as JSON…", self._ask_save, of_lines=False), self._delete)  # fmt: skip
        self._list.picked.connect(self._pick)

    def refresh(self) -> None:
        super().refresh()
        all_ = deliveries_of(self.session.job)
        self._at = min(self._at, len(all_) - 1)
        rows = []
        for name in all_:
            sent = last_delivered(self.session.job, name)
            when = f" · sent {sent.made[:10]}" if sent is not None else ""
            rows.append(f"{name}{when}")
        self._list.show_rows(rows, self._at)
        wanted = self._wanted()
        limits = "; ".join(LIMIT_WORDS[name].format(value) for name, value in wanted.limits.items())
        self._what.say(
            f"**{counted(len(wanted.files), 'file')}** to the **{wanted.to}**" + (f": {limits}." if limits else ".")
        )
        self._files.say(" · ".join(_file_words(one) for one in wanted.files))
        sent = last_delivered(self.session.job, wanted.name)
        if sent is None:
            self._since.say("It was not delivered yet." if self.session.job.rows.lines else
                            "Nothing is inked yet: a delivery would be empty.")  # fmt: skip
        else:
            self._since.say(f"Since {sent.made[:16].replace('T', ' ')}: {self._changed_since(sent.step)}.")
        self._delete.setVisible(any(row.name == wanted.name for row in self.session.job.rows.deliveries.values()))

    def _changed_since(self, step: int) -> str:
        """What changed since a step, in words; worked out once for a state of the job."""
        key = (self.session.job.version, step)
        if self._known[0] != key:
            self._known = (key, ", ".join(changed_since(self.session.job, step)))
        return self._known[1]

    def _wanted(self) -> Delivery:
        return list(deliveries_of(self.session.job).values())[self._at]

    def _pick(self, row: int) -> None:
        self._at = row
        self.status.say("")
        self.fault.say("")
        self.refresh()

    def deliver(self, out: Path) -> bool:
        """Begins to write the delivery in hand; whether it could be begun."""
        wanted, step = self._wanted(), self.session.job.history.head
        self.status.say("")
        if not self.begin(Deliver(self.session.job.path, wanted, out), lambda made: self._told_done(made, wanted,
                          step, out)):  # fmt: skip
            return False
        self.status.say(f"{out.name} is being written; you can go on inking.", "faint")
        return True

    def _told_done(self, made: Delivered, wanted: Delivery, step: int, out: Path) -> None:
        self.session.document.note_delivered(wanted.name, step, made.manifest)
        broken = f" **But:** {'; '.join(made.broken)}." if made.broken else ""
        many = counted(len(made.manifest["files"]), "file")
        self.status.say(f"**Delivered:** {out.name}, {many}, each opened again and compared.{broken}",
                       "red" if broken else "text")  # fmt: skip
        self.refresh()

    def _ask(self, kind: str) -> None:
        start = self.session.job.path.with_name(f"{self.session.job.name} {self._wanted().name.lower()}")
        path = ask_new_file(self, "Deliver", start.with_suffix(".zip") if kind == "zip" else start, kind)
        if path is not None:
            self.deliver(path.with_suffix("") if kind == "folder" else path)

    def _ask_open(self) -> None:
        path = ask_file(self, "Open a delivery", self.session.job.path.parent, "Deliveries (*.json)")
        if path is not None:
            self.open_own(path)

    def open_own(self, path: Path) -> None:
        """Keeps a delivery of a file in the job."""
        try:
            told = read_json(path)
            name = checked_delivery(told).name
        except StrideError as fault:
            self.fault.say(f"{fault}. The deliveries are as they were.")
            return
        if self.session.make("delivery", name=name, told=told) is not None:
            self._at = list(deliveries_of(self.session.job)).index(name)
            self.refresh()

    def _ask_save(self) -> None:
        name = self._wanted().name
        start = self.session.job.path.with_name(f"{name}.json")
        path = ask_new_file(self, "Save the delivery", start, "json")
        if path is not None:
            own = {row.name: row.told for row in self.session.job.rows.deliveries.values()}
            given(path, json.dumps(own.get(name) or USUAL[name], indent=1, ensure_ascii=False), self.fault)

    def _take_away(self) -> None:
        self.session.make("delivery-delete", name=self._wanted().name)


def _file_words(one: WantedFile) -> str:
    size = f" {one.dpi:g} dpi" if one.dpi else f" {one.width} px" if one.width else ""
    more = [word for word, on in (("one bit", one.bw), ("bleed", one.bleed), ("marks", one.marks), ("flats", one.flats),
                                  ("each part", one.each), ("1–3 times", len(one.scales) > 1)) if on]  # fmt: skip
    return f"{one.kind.upper()}{size}{' (' + ', '.join(more) + ')' if more else ''}"
