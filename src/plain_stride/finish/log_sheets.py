"""A log as a file to read: Markdown, one HTML file that stands alone, PDF, and CSV for a table.

A log is what `job.diary` and `job.months` tell; pictures are PNGs by the step that they show.
"""

import base64
import csv
import html
import io
from collections.abc import Mapping
from importlib.resources import files
from typing import Any

from plain_stride.texts import clean, counted, time_words

INK, FAINT, HAIR = "#302D33", "#655F66", "#CBC1B0"
COLUMNS = ("job", "begun", "ended", "active_s", "lines", "pulls", "mm", "taken_back", "stations", "parts", "nibs",
           "marks")  # fmt: skip
Pictures = Mapping[int, bytes]


def title_of(told: Mapping[str, Any]) -> str:
    return f"Log of {clean(told['job'])}" if "job" in told else "Log of all jobs"


def log_markdown(told: Mapping[str, Any], pictures: Mapping[int, str]) -> bytes:
    """pictures: the path of each beside the file, by step."""
    out = [f"# {_md(title_of(told))}", "", _md(told["sentence"]), ""]
    for month in told.get("months", ()):
        out += [f"## {month['month']}: {_summed(month)}", "", *_md_days(month["days"]), ""]
    for one in told["sittings"]:
        out += [f"## {_md(_when(one))}", "", *(f"- {_md(line)}" for line in sitting_lines(one)), ""]
        shown = [(word, pictures[one[word]]) for word in ("before", "after") if one[word] in pictures]
        if shown and "job" in told:
            out += [" ".join(f"![{word}]({path})" for word, path in shown), ""]
    out += _md_list("Marks", [mark_words(one) for one in told.get("marks", ())])
    out += _md_list("Notes", [note_words(one) for one in told.get("notes", ())])
    out += _md_list("The clock", told.get("clock", ()))
    return ("\n".join(out).rstrip() + "\n").encode()


def _md_days(days: Any) -> list[str]:
    rows = [(d["day"], time_words(d["active_s"]), d["lines"], f"{d['mm']:g}", _md(", ".join(d["jobs"]))) for d in days]
    return ["| day | at work | lines | mm | jobs |", "|---|---|---|---|---|",
            *(f"| {' | '.join(map(str, row))} |" for row in rows)]  # fmt: skip


def log_html(told: Mapping[str, Any], pictures: Pictures) -> bytes:
    """One file that stands alone."""
    title = html.escape(title_of(told))
    body = [f"<h1>{title}</h1><p>{html.escape(clean(told['sentence']))}</p>"]
    for month in told.get("months", ()):
        rows = "".join(f"<tr><td>{d['day']}</td><td>{time_words(d['active_s'])}</td><td>{d['lines']} lines</td>"
                       f"<td>{d['mm']:g} mm</td><td>{html.escape(clean(', '.join(d['jobs'])))}</td></tr>"
                       for d in month["days"])  # fmt: skip
        body.append(f"<h2>{month['month']}: {_summed(month)}</h2><table>{rows}</table>")
    for one in told["sittings"]:
        lines = "".join(f"<li>{html.escape(clean(line))}</li>" for line in sitting_lines(one))
        shown = "".join(f'<figure><img src="data:image/png;base64,{base64.b64encode(pictures[one[word]]).decode()}"'
                        f' alt="{word}"><figcaption>{word}</figcaption></figure>'
                        for word in ("before", "after") if "job" in told and one[word] in pictures)  # fmt: skip
        body.append(f"<h2>{html.escape(clean(_when(one)))}</h2><ul>{lines}</ul>{shown}")
    for head, words in _lists(told):
        rows = "".join(f"<li>{html.escape(clean(line))}</li>" for line in words)
        body.append(f"<h2>{head}</h2><ul>{rows}</ul>")
    return (f'<!doctype html><html lang="en"><head><meta charset="utf-8"><title>{title}</title><style>{_STYLE}</style>'
            f"</head><body>{''.join(body)}</body></html>\n").encode()  # fmt: skip


_STYLE = (
    f"body{{font:15px/1.4 sans-serif;color:{INK};max-width:52em;margin:2em auto;padding:0 1em}}"
    f"h2{{font-size:1.05em;border-top:1px solid {HAIR};padding-top:.8em}}"
    "figure{display:inline-block;margin:0 1em 1em 0}"
    f"img{{width:20em;border:1px solid {HAIR};background:#fff}}figcaption{{color:{FAINT}}}td{{padding-right:1.2em}}"
)


def log_csv(told: Mapping[str, Any]) -> bytes:
    """A row for each sitting."""
    out = io.StringIO()
    rows = csv.writer(out, lineterminator="\n")
    rows.writerow(COLUMNS)
    for one in told["sittings"]:
        nibs = "; ".join(f"{n['nib']} {n['steadying']} {n['lines']}" for n in one["nibs"])
        shares = ("; ".join(f"{name} {took:g} s" for name, took in one[key].items()) for key in ("stations", "parts"))
        rows.writerow([clean(one.get("job", told.get("job", ""))), one["begun"], one["ended"], one["active_s"],
                       one["lines"], one["pulls"], one["mm"], one["pace"]["taken_back"], *map(clean, shares),
                       clean(nibs), clean("; ".join(one["marks"]))])  # fmt: skip
    return out.getvalue().encode()


def log_pdf(told: Mapping[str, Any], pictures: Pictures) -> bytes:
    """A4, as many pages as it takes."""
    from reportlab.lib.pagesizes import A4
    from reportlab.lib.units import mm
    from reportlab.platypus import SimpleDocTemplate

    out = io.BytesIO()
    page = SimpleDocTemplate(out, pagesize=A4, leftMargin=18 * mm, rightMargin=18 * mm, topMargin=16 * mm,
                             bottomMargin=16 * mm, title=title_of(told), author="", invariant=1)  # fmt: skip
    page.build(_flow(told, pictures))
    return out.getvalue()


def _flow(told: Mapping[str, Any], pictures: Pictures) -> list[Any]:
    from reportlab.lib.styles import ParagraphStyle
    from reportlab.lib.units import mm
    from reportlab.platypus import Image, KeepTogether, Paragraph, Spacer, Table

    plain = ParagraphStyle("plain", fontName=_font(), fontSize=9.5, leading=13, textColor=INK)
    head = ParagraphStyle("head", plain, fontName=_font(True), fontSize=11, leading=15, spaceBefore=9, spaceAfter=3)
    top = ParagraphStyle("top", head, fontSize=16, leading=21)

    def words(text: str, style: ParagraphStyle = plain) -> Any:
        return Paragraph(html.escape(clean(text)), style)

    flow = [words(title_of(told), top), words(told["sentence"])]
    for month in told.get("months", ()):
        rows = [[words(d["day"]), words(time_words(d["active_s"])), words(f"{d['lines']} lines"),
                 words(f"{d['mm']:g} mm"), words(", ".join(d["jobs"]))] for d in month["days"]]  # fmt: skip
        flow += [words(f"{month['month']}: {_summed(month)}", head),
                 Table(rows, [24 * mm, 24 * mm, 24 * mm, 26 * mm, 74 * mm], hAlign="LEFT")]  # fmt: skip
    for one in told["sittings"]:
        block = [words(_when(one), head), *(words(line) for line in sitting_lines(one))]
        shown = [Image(io.BytesIO(pictures[one[word]]), 58 * mm, 58 * mm, kind="proportional")
                 for word in ("before", "after") if "job" in told and one[word] in pictures]  # fmt: skip
        if shown:
            block += [Spacer(1, 3 * mm), Table([shown], [62 * mm] * len(shown), hAlign="LEFT")]
        flow.append(KeepTogether(block))
    for name, lines in _lists(told):
        flow += [words(name, head), *(words(line) for line in lines)]
    return flow


def _font(bold: bool = False) -> str:
    """The name of a face that has the letters of most names, registered once."""
    from reportlab.pdfbase import pdfmetrics
    from reportlab.pdfbase.ttfonts import TTFont

    name, file = ("Log-SemiBold", "NotoSans_600SemiBold.ttf") if bold else ("Log", "NotoSans_400Regular.ttf")
    if name not in pdfmetrics.getRegisteredFontNames():
        pdfmetrics.registerFont(TTFont(name, str(files("plain_stride").joinpath("desk", "fonts", file))))
    return name


def sitting_lines(one: Mapping[str, Any]) -> list[str]:
    """What a sitting comes to, a sentence each."""
    pace = one["pace"]
    out = [f"{time_words(one['active_s'])} at work: {counted(one['lines'], 'line')}, {one['mm']:,.0f} mm,"
           f" {counted(one['pulls'], 'pull')}, {pace['taken_back']:.0%} of them taken back or tried again"]  # fmt: skip
    if one["lines"]:
        out.append(f"{pace['mm_an_hour']:,.0f} mm and {pace['lines_an_hour']:.0f} lines an hour,"
                   f" {pace['takes_a_line']:.1f} takes a line")  # fmt: skip
    for word, key in (("Stations", "stations"), ("Parts", "parts")):
        if shares := shares_words(one[key]):
            out.append(f"{word}: {shares}")
    if one["nibs"]:
        out.append("Nibs: " + ", ".join(map(_nib_words, one["nibs"][:4])))
    if one["marks"]:
        out.append("Marks: " + ", ".join(one["marks"]))
    return out


def shares_words(seconds: Mapping[str, float], between: str = ", ", most: int = 6) -> str:
    """Shares of time, the longest first; what took no second is left out."""
    return between.join(f"{name} {time_words(s)}" for name, s in list(seconds.items())[:most] if s >= 1.0)


def _nib_words(nib: Mapping[str, Any]) -> str:
    leeway = "" if nib["leeway"] is None else f", leeway {nib['leeway']:g} mm"
    return (f"{nib['nib']} ({nib['lightest']:g} to {nib['heaviest']:g} mm, steadying {nib['steadying']}{leeway})"
            f" {counted(nib['lines'], 'line')}")  # fmt: skip


def mark_words(one: Mapping[str, Any]) -> str:
    return f"{one['name']}, {(one['made'] or 'at the beginning').replace('T', ' ')[:16]}"


def note_words(one: Mapping[str, Any]) -> str:
    """A note with what it is pinned to."""
    pins = [f"part {one['part']}"] if one["part"] else []
    pins += [f"line {one['line']}"] if one["line"] else []
    pins += [f"rule {one['rule']}"] if one["rule"] else []
    pins += ["{:g}, {:g} mm".format(*one["at"])] if one["at"] else []
    return f"{one['words']} ({', '.join([*pins, one['made'][:10]])})"


def _lists(told: Mapping[str, Any]) -> list[tuple[str, list[str]]]:
    every = [("Marks", [mark_words(one) for one in told.get("marks", ())]),
             ("Notes", [note_words(one) for one in told.get("notes", ())]),
             ("The clock", list(told.get("clock", ())))]  # fmt: skip
    return [(name, lines) for name, lines in every if lines]


def _md_list(head: str, lines: Any) -> list[str]:
    return [f"## {head}", "", *(f"- {_md(line)}" for line in lines), ""] if lines else []


def _md(words: str) -> str:
    """Words in which nothing is markup."""
    return "".join(f"\\{c}" if c in "\\`*_[]<>#|" else c for c in clean(words))


def _when(one: Mapping[str, Any]) -> str:
    day, begun, ended = one["begun"][:10], one["begun"][11:16], one["ended"][11:16]
    return f"{day}, {begun} to {ended}" + (f": {one['job']}" if "job" in one else "")


def _summed(sums: Mapping[str, Any]) -> str:
    return f"{time_words(sums['active_s'])}, {counted(sums['lines'], 'line')}, {sums['mm']:g} mm"
