"""The working behind a figure: the figure, the parts it is made of, and where each part can be read."""

from dataclasses import dataclass, field

SHARES = "shares"  # in the place of a currency: the amount is of shares, in 1e-8


@dataclass(frozen=True)
class Working:
    """One line of a working. Its amount is the sum of its parts' amounts, when it has parts.

    `note` says in words what the part is; `ref` names what it leads to as (kind, key), such as ("entry", 17), which the
    web turns into an address; `more` counts parts that were left out of the list, their sum in `rest_minor`.
    """

    label: str
    amount_minor: int
    currency: str
    note: str = ""
    ref: tuple[str, object] | None = None
    parts: tuple["Working", ...] = field(default=())

    @property
    def adds_up(self) -> bool:
        """Whether the parts, where there are any, sum to the amount, all the way down."""
        if not self.parts:
            return True
        return self.amount_minor == sum(p.amount_minor for p in self.parts) and all(p.adds_up for p in self.parts)


def total_of(label: str, parts: list[Working], currency: str, **more) -> Working:
    """A working whose amount is the sum of its parts."""
    return Working(label, sum(p.amount_minor for p in parts), currency, parts=tuple(parts), **more)
