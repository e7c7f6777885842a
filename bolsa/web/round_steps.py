"""The horizontal rules of a drawing: round amounts, about five of them."""

from bolsa.core.money import digits_of


def round_steps(bottom: float, top: float, currency: str) -> list[int]:
    """Round amounts in minor units of a currency between two others, in order, a fifth of the way apart or a little more."""
    unit = _round_step((top - bottom) / 5, 10 ** digits_of(currency))
    return [unit * k for k in range(int(-(-bottom // unit)), int(top // unit) + 1)]


def _round_step(least: float, unit: int) -> int:
    """The smallest of 1, 2 or 5 times a power of ten of whole units that is at least so much."""
    power = unit
    while True:
        for factor in (1, 2, 5):
            if power * factor >= least:
                return power * factor
        power *= 10
