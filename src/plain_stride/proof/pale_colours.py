"""Line colours: a coloured line that is not darker than the flats beside it by enough reads as part of them."""

from collections.abc import Iterator

from plain_stride.proof.finding import Finding
from plain_stride.proof.page import Page

KIND = "pale-colour"


def find(page: Page) -> Iterator[Finding]:
    """Coloured lines of which less than the limit of L* parts them from the darkest flat beside them."""
    for key, by in page.darker.items():
        if by < page.limit(KIND):
            places = page.stroke(key).points
            how = f"{by:.0f} of L* darker" if by >= 0.0 else f"{-by:.0f} of L* lighter"
            says = f"This line's colour is {how} than the flat beside it: take a darker ink at Hand over."
            yield page.found(KIND, places[len(places) // 2], places, (key,), by, says)
