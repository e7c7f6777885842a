"""The working behind a figure: the figure, the parts it is made of, and where each part can be read."""

from collections.abc import Sequence
from dataclasses import dataclass, field

from bolsa.core.months import Month
from bolsa.core.units import Figure

Ref = tuple[str, object] | tuple[str, object, Month]


@dataclass(frozen=True)
class Working:
    """One line of a working. Its figure is the sum of its parts' figures, when it has parts.

    `note` says in words what the part is; `ref` names what it leads to as (kind, key), such as ("entry", 17), which the web turns
    into an address; a third value is the month it is of, where that is not the one the whole working is of.
    """

    label: str
    figure: Figure
    note: str = ""
    ref: Ref | None = None
    parts: tuple["Working", ...] = field(default=())

    @property
    def adds_up(self) -> bool:
        """Whether the parts, where there are any, sum to the figure, all the way down."""
        if not self.parts:
            return True
        return self.figure == sum_of(self.parts, self.figure.zero) and all(part.adds_up for part in self.parts)


def sum_of(parts: Sequence[Working], zero: Figure) -> Figure:
    """The sum of the parts' figures, beginning with nothing of their kind."""
    total = zero
    for part in parts:
        total = total + part.figure  # type: ignore[operator]  # of one kind, or it raises
    return total


def total_of(label: str, parts: Sequence[Working], zero: Figure, *, note: str = "", ref: Ref | None = None) -> Working:
    """A working whose figure is the sum of its parts."""
    return Working(label, sum_of(parts, zero), note, ref, tuple(parts))
