"""When the demo was inked: on three evenings before the day on which it is drawn, as its log then tells."""

from datetime import datetime, time, timedelta

import numpy as np

EVENINGS, BEGIN, LONG_H = 3, time(18, 40), 0.8
"""How many, when they begin, and how many hours each takes."""
BETWEEN_S = (3.0, 22.0)
"""Looking, turning the board, rehearsing: between two pulls."""
PAUSE_SHARE, PAUSE_S = 0.02, (150.0, 500.0)


class Evenings:
    """A clock that goes on with each thing that is done. seed: of its pauses."""

    def __init__(self, today: datetime, seed: int) -> None:
        """today: with its zone."""
        self._rng = np.random.default_rng(seed)
        self._day = today.date() - timedelta(days=EVENINGS)
        self._last, self._zone = today.date() - timedelta(days=1), today.tzinfo
        self._at = self._begin = datetime.combine(self._day, BEGIN, self._zone)

    def after(self, seconds: float) -> datetime:
        """The time once something that took so long is done."""
        if self._at - self._begin > timedelta(hours=LONG_H) and self._day < self._last:
            self._day += timedelta(days=1)
            self._at = self._begin = datetime.combine(self._day, BEGIN, self._zone)
        between = self._rng.uniform(*BETWEEN_S)
        if self._rng.random() < PAUSE_SHARE:
            between += self._rng.uniform(*PAUSE_S)
        self._at += timedelta(seconds=seconds + between)
        return self._at
