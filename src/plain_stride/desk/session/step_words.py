"""What steps of the history did, in words for people."""

from plain_stride.job.job import Job
from plain_stride.job.rows import INKED


def step_words(job: Job, step: int) -> str:
    """What a step of the history did, in words for people."""
    if not step:
        return "the empty job" if not any(not s for s in job.history.marks.values()) else "where the history begins"
    made = job.history.steps[step]
    words = WORDS.get(made.words, made.words)
    if made.words in ("pull", "line", "black"):
        row = next((c.after for c in made.rows if c.table in INKED and c.after is not None), None)
        parts = {**job.rows.parts, **{c.id: c.after for c in made.rows if c.table == "parts"}}
        part = parts.get(row.part) if row is not None else None
        words += f": {part.name}" if part is not None else ""
    return words


WORDS = {
    "pull": "line pulled", "line": "line laid", "black": "black laid", "paste": "lines pasted",
    "delete": "taken away", "move": "lines moved", "duplicate": "lines duplicated", "trim": "line trimmed",
    "swell": "width changed", "set": "role, ends or part set", "steady": "steadied anew", "part": "part changed",
    "cover": "cover changed", "part-delete": "part taken away",
    "cover-edges": "edge of a cover laid", "cover-of": "cover made of lines",
    "part-merge": "parts merged",
    "black-join": "blacks joined", "black-cut": "black cut out", "black-offset": "blacks made larger or smaller",
    "black-push": "blacks pushed", "fill": "lines filled", "black-edges": "edges made lines",
    "board": "board changed", "pencils-add": "pencils placed", "pencils": "pencils changed",
    "pencils-remove": "pencils taken off", "nib": "nib changed", "nibs taken": "set of nibs taken",
    "plan": "plan changed", "parts": "parts made", "ends that meet": "ends that meet closed", "covers": "covers made",
    "draft lines": "drafts laid", "take-drafts": "drafts taken", "refuse-drafts": "drafts refused",
    "frame": "frame placed", "symmetric": "lines laid by a symmetry", "bend": "line bent", "push": "lines pushed",
    "redraw": "stretch drawn anew", "extend": "line carried on", "as-pulled": "as it was pulled",
    "width": "width set", "taper": "ends tapered",
    "find-roles": "roles found", "roles-found": "roles found",
    "from-black": "lines thick out of a black", "affine": "lines mapped", "hold": "lines held or loosed",
    "weight": "weight of lines set", "as-planned": "widths as the plan says",
    "widths-like": "widths of another line given", "even-widths": "widths made even", "align": "lined up",
    "space": "spaced evenly", "repeat": "laid along a line", "motif": "motif laid",
    "perspective": "put in perspective", "rub": "rubbed out", "cut-at-crossings": "cut at crossings",
    "join": "lines joined", "reverse": "lines turned to begin at their end", "split": "line broken into pieces",
    "simplify": "points made few", "node": "point edited", "straighten": "stretch made straight",
    "smooth": "stretch smoothed", "tidy": "ends tidied", "mend-ends": "ends tidied", "family": "family laid again",
    "release": "lines released", "frame-split": "frame split", "frame-merge": "frames merged",
    "frame-delete": "frames taken away", "frame-grid": "even frames made", "frame-lines": "frames lined",
    "target": "print target changed", "target-delete": "print target taken back", "job-sheet": "job sheet changed",
    "pencil-pass": "pencil pass drawn", "pass-delete": "pencil passes taken away", "cut": "line cut",
    "draw": "shape drawn", "beside": "parallels drawn", "mirror": "lines mirrored", "around": "lines turned round",
    "reshape": "line made a shape", "again": "line pulled again", "take": "another take chosen",
    "follow": "drawn to the pencils", "area": "area marked", "area-delete": "areas taken off",
    "X marks": "X marks kept", "no need to ink": "areas that need no ink", "own print target": "print target made",
    "print targets": "print targets taken in", "hatch": "hatching laid", "blacken": "blacks laid", "halo": "halo cut",
    "meant": "said to be meant so", "meant-off": "no longer meant so", "manners": "house manners laid",
    "remark": "remark left", "remark-set": "remark altered", "remark-delete": "remark taken away",
    "tone-set": "tone laid anew", "tone-apart": "tone taken apart",
    "tone-delete": "tone taken away", "tones": "tones laid", "speed-lines": "speed lines laid",
    "texture": "texture laid", "plane": "plane given its grey", "go-on": "next strokes laid",
    "note": "note left", "note-set": "note altered", "note-delete": "notes taken away", "notes": "notes left",
    "order": "order of work chosen", "step-aside": "step set aside or taken up", "step-split": "step parted",
    "schedule": "deadline and hours set", "ink": "ink changed", "recolour": "ink laid", "darker": "lines made darker",
    "finishes": "finishes laid", "flat": "flat chosen", "flat-split": "flats parted", "flat-clear": "flats as found",
    "delivery": "delivery kept", "delivery-delete": "delivery taken away", "ink-delete": "ink taken away",
    "hand-over": "bridges, spread and step set", "final-art": "scan laid as final art",
}  # fmt: skip
"""By the words that a step was made with."""
