"""The horizontal rules of a drawing: round amounts, about five of them."""


def round_rules(bottom: float, top: float) -> list[int]:
    """Round amounts in minor units between two others, in order, a fifth of the way apart or a little more."""
    unit = _round_step((top - bottom) / 5)
    return [unit * k for k in range(int(-(-bottom // unit)), int(top // unit) + 1)]


def _round_step(least: float) -> int:
    """The smallest of 1, 2 or 5 times a power of ten that is at least so much."""
    power = 100
    while True:
        for factor in (1, 2, 5):
            if power * factor >= least:
                return power * factor
        power *= 10
