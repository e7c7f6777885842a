"""What a difference may be made of: groups of lines that sum to it, and amounts with two digits exchanged."""

from collections import defaultdict
from collections.abc import Iterable, Iterator
from itertools import combinations

from bolsa.core.checking.check import OpenItem

MOST_PAIRS = 600_000  # sums of two lines that are kept: 1,095 lines, well under a second
MOST_LINES_IN_SUM = 4


def sums_to(items: list[OpenItem], target_minor: int, most: int = 400) -> tuple[list[tuple[OpenItem, ...]], bool]:
    """The groups of two to four items whose amounts sum to the target, the fewest and the closest in time first, and whether
    all of them were looked at. Groups of more lines are given only when there is none of fewer: with 400 open lines nearly
    any amount is the sum of some four.

    Method: all sums of two are kept in a table, and a pair looks up what it lacks; the work is the square of the lines.
    """
    pairs: dict[int, list[tuple[int, int]]] = defaultdict(list)
    for i, j in combinations(range(len(items)), 2):
        pairs[items[i].amount_minor + items[j].amount_minor].append((i, j))
    for size in range(2, MOST_LINES_IN_SUM + 1):
        found: set[tuple[int, ...]] = set()
        for group in _groups(items, pairs, target_minor, size):
            found.add(group)
            if len(found) >= most:
                break
        if found:
            groups = [tuple(items[i] for i in group) for group in found]
            groups.sort(key=lambda g: (span(g), [item.line_id for item in g]))
            return groups, len(found) < most
    return [], True


def _groups(
    items: list[OpenItem], pairs: dict[int, list[tuple[int, int]]], target_minor: int, size: int
) -> Iterator[tuple[int, ...]]:
    if size == 2:
        yield from pairs.get(target_minor, ())
    elif size == 3:
        for k, item in enumerate(items):
            for pair in pairs.get(target_minor - item.amount_minor, ()):
                if k > pair[1]:
                    yield (*pair, k)
    else:
        for total, members in pairs.items():
            for pair in pairs.get(target_minor - total, ()) if total <= target_minor - total else ():
                for other in members:
                    if not set(pair) & set(other):
                        yield tuple(sorted((*pair, *other)))


def most_lines() -> int:
    return int((2 * MOST_PAIRS) ** 0.5)


def span(group: Iterable[OpenItem]) -> int:
    days = [item.day for item in group]
    return (max(days) - min(days)).days


def are_swapped(one: int, other: int) -> bool:
    """Whether two amounts of one sign differ by two neighbouring digits exchanged."""
    return other in set(swaps_of(one))


def swaps_of(amount_minor: int) -> Iterator[int]:
    """The amounts that exchanging two neighbouring digits makes of this one."""
    digits = str(abs(amount_minor)).zfill(3)  # the cents are written out: 0.05 has three digits
    for i in range(len(digits) - 1):
        if digits[i] != digits[i + 1]:
            swapped = int(digits[:i] + digits[i + 1] + digits[i] + digits[i + 2 :])
            if swapped:
                yield -swapped if amount_minor < 0 else swapped
