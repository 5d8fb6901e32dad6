"""What the figures and words of the window mean: one sentence each, with the definition behind it."""

import re

TERMS = {
    "shake": "**Shake** is the fast tremor of a hand, 5 to 14 times a second: how far, on average (RMS), your pull lies"
             " beside the steadied path.",
    "shape moved": "**Shape moved** is the largest sideways distance by which steadying took the line from what your"
                   " hand meant, its shake left out.",
    "leeway": "**Leeway** is how far, in mm, steadying may move the shape that your hand meant. Shake does not count"
              " against it.",
    "steadied": "**Steadying** smooths a pull: after it (no lag), live (as you pull), or not at all. The pull itself is"
                " always kept.",
    "ceiling": "The **ceiling** is the mean width of a part's outer lines, ends left out: its inner lines should stay"
               " under it.",
    "print floor": "The **print floor** is the thinnest line that holds where this board is printed; thinner ones"
                   " vanish.",
    "one pixel": "**One pixel** is 25.4 mm divided by the board's dpi: no line of an export is finer.",
    "wobble": "**Wobble** is how far a finished line lies beside itself smoothed along its length (RMS, mm).",
    "straying": "**Straying** is the distance of ink from the pencil line that it follows, mm.",
    "flow": "**Flow** is how smooth a pull's speed is, by the spectral arc length of Balasubramanian and others (2012):"
            " 0 is smoothest.",
    "inked": "**Inked** is the share of the pencil's read length that has ink within reach.",
    "follow": "**Follow** takes a pull so far towards the pencil line it runs along: 0 % is your hand, 100 % the"
              " pencil.",
    "fade": "**Fade** is the darkness of the blackest pencil compared with ink.",
    "ready": "**Ready** is the share of the read length that lies outside undecided places.",
    "undecided": "An **undecided** place is one where passes lie apart, lines stop short, or nothing is drawn in a busy"
                 " form.",
    "arm's length": "**Arm's length** shows the ink alone at the scale that is told: what a reader sees at a glance.",
    "plan": "The **plan** gives each line a width by its role and depth: base x 2^(steps/2).",
    "base width": "The plan's **base width** is that of an inner line in the middle depth, mm.",
    "swell limit": "The **swell limit** is the fastest change of width along a line, mm for each mm: faster is a blob.",
    "response": "The **response** turns the pen's pressure, 0 to 100 %, into a share of the nib's range.",
    "nib": "A **nib** has a lightest and a heaviest width in mm at print size, ends, an edge, and its steadying.",
    "dpi": "**Dpi** is pixels for each 25.4 mm of the finished sheet, whatever it is inked at.",
    "larger": "**Inked larger** enlarges what you draw on, not what is printed: every figure stays a print figure.",
    "bleed": "**Bleed** is what is drawn beyond the trim, so that a cut a little off shows no paper.",
    "margin": "The safe **margin** is what stays clear of the trim for all that matters.",
    "grey": "A **grey** of lines is the share of a field that ink covers: their width over their pitch.",
    "pitch": "**Pitch** is how far strokes lie apart, from the middle of each to the next one, mm.",
    "uneven": "**Uneven by** is the coefficient of variation of pitches or widths, what was asked and what the form"
              " does to strokes divided out.",
    "reads as": "Light spreads in paper: so much ink **reads as** a darker grey (Yule and Nielsen 1951).",
    "clogs": "What **clogs** is white between strokes that is too thin for this board's print to hold.",
    "core shadow": "A **core shadow** is a form's own: what lies on the side that is turned away from the light.",
    "outer": "**Outer** lines bound a part against what is behind it; by the plan a step heavier than inner ones.",
    "inner": "**Inner** lines are the edges and folds within a part.",
    "detail": "**Detail** lines tell what a thing is made as: by the plan 1.25 steps lighter than inner ones.",
    "texture": "**Texture** lines tell what a thing is made of: by the plan two steps lighter than inner ones.",
    "ruled": "**Ruled** lines are even along their length.",
    "halo": "A **halo** is white left round an edge, of one width all along.",
    "near": "**Near**, middle, far are the depths of a part: by the plan a step heavier, none, a step lighter.",
    "covers": "A part that **covers** hides what lies behind it without cutting anything.",
}  # fmt: skip
"""By the words that call for them; the longer ones are looked for first."""

ALIASES = {"tremor": "shake", "moved at most": "shape moved", "steadying": "steadied", "off ": "straying",
           "floor": "print floor", "follows": "follow", "hand free": "follow", "following": "follow",
           "faded": "fade", "middle": "near", "far": "near", "resolution": "dpi", "roles": "inner",
           "shrinks": "steadied", "hand's own": "shake", "not steadied": "steadied", "px": "dpi",
           "mm wide": "nib", "of print size": "arm's length", "lightest": "nib", "heaviest": "nib"}  # fmt: skip
MOST = 2


def meanings(words: str, most: int = MOST) -> str:
    """What the terms in some words mean, in the order in which they stand, so many at most; '' without any."""
    known = {**{term: term for term in TERMS}, **ALIASES}
    longest = sorted(known, key=len, reverse=True)
    found = re.findall("|".join(rf"\b{re.escape(term)}" for term in longest), words.casefold())
    wanted = list(dict.fromkeys(known[term] for term in found))
    return " ".join(TERMS[term] for term in wanted[:most])
