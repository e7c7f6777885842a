"""Taking times: the middle of several, and a word about how quiet the machine was meanwhile."""

import statistics
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager

ROUNDS = 7
REQUESTS = 20  # of a whole page
BUSY = 1.3  # times the shortest a fixed piece of work ever took


def median_ms(work: Callable[[], object]) -> float:
    """Milliseconds: the middle of ROUNDS runs."""
    return statistics.median(seconds(work) * 1000 for _ in range(ROUNDS))


def percentile_95_ms(work: Callable[[], object], before: Callable[[], None] = lambda: None) -> float:
    """Milliseconds: what 95 in 100 of REQUESTS runs stay below, with something done before each that is not counted; nor is the
    first run, which fills what is kept."""
    work()
    taken = []
    for _ in range(REQUESTS):
        before()
        taken.append(seconds(work) * 1000)
    return sorted(taken)[max(0, int(REQUESTS * 0.95) - 1)]


def against(work: Callable[[], object], floor: Callable[[], object], rounds: int = ROUNDS) -> tuple[float, float]:
    """Milliseconds, and how many times the floor's; the two take turns, so that a slow moment slows both."""
    pairs = [(seconds(work), seconds(floor)) for _ in range(rounds)]
    return statistics.median(ms for ms, _ in pairs) * 1000, statistics.median(ms / max(least, 1e-9) for ms, least in pairs)


def seconds(work: Callable[[], object]) -> float:
    """How long one run takes."""
    start = time.perf_counter()
    work()
    return time.perf_counter() - start


class Machine:
    """How fast this machine is at its quietest, and whether it is busy with something else now."""

    def __init__(self) -> None:
        self.quiet = min(self._piece() for _ in range(20))

    @staticmethod
    def _piece() -> float:
        return seconds(lambda: sum(i * i for i in range(20_000)))

    @contextmanager
    def watched(self) -> Iterator[Callable[[], bool]]:
        """Gives, after the block, whether a fixed piece of work was slow before or after it."""
        before = self._now()
        slow = [False]
        yield lambda: slow[0]
        slow[0] = max(before, self._now()) > BUSY * self.quiet

    def _now(self) -> float:
        now = min(self._piece() for _ in range(5))
        self.quiet = min(self.quiet, now)
        return now
