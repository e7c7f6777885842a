"""Giving rows to columns one to one so that the whole costs least: bookings to bookings, entries to dues."""

from collections.abc import Mapping, Sequence

import numpy as np

_NEVER = 1e9


def assign(weights: Sequence[Mapping[int, float]], charge: float = 0.0) -> dict[int, int]:
    """The column given to each row, by the row's place; rows better left alone are missing.

    Shapes: `weights[i]` holds the columns row i may be given, each with a weight; a negative weight is a gain. `charge` is
    added to every weight. No column is given twice, and no other choice of pairs has a smaller sum.
    Source: the linear sum assignment problem, solved by SciPy (modified Jonker-Volgenant; Crouse 2016), apart for each group of
    rows and columns that hang together.

    >>> assign([{0: -3.0, 1: -2.0}, {0: -2.5}])
    {0: 1, 1: 0}
    """
    given: dict[int, int] = {}
    for rows in find_groups(weights):
        if len(rows) == 1:
            column, weight = min(weights[rows[0]].items(), key=lambda one: (one[1], one[0]))
            if weight + charge < 0:
                given[rows[0]] = column
        else:
            given |= _solve(rows, weights, charge)
    return given


def _solve(rows: list[int], weights: Sequence[Mapping[int, float]], charge: float) -> dict[int, int]:
    from scipy.optimize import linear_sum_assignment  # half a second to import, and most files never need it

    columns = sorted({column for row in rows for column in weights[row]})
    place = {column: i for i, column in enumerate(columns)}
    # Behind the columns stands one seat for each row, in which it is left alone at no cost.
    costs = np.full((len(rows), len(columns) + len(rows)), _NEVER)
    for i, row in enumerate(rows):
        costs[i, len(columns) + i] = 0.0
        for column, weight in weights[row].items():
            costs[i, place[column]] = weight + charge
    seats = linear_sum_assignment(costs)[1]
    return {
        row: columns[seat]
        for row, seat in zip(rows, seats, strict=True)
        if seat < len(columns) and weights[row][columns[seat]] + charge < 0
    }


def find_groups(weights: Sequence[Mapping[int, float]]) -> list[list[int]]:
    """The rows that share columns, directly or through others, in order of their first."""
    rows_of: dict[int, list[int]] = {}
    for row, columns in enumerate(weights):
        for column in columns:
            rows_of.setdefault(column, []).append(row)
    groups, seen, reached = [], set(), set()
    for first, columns in enumerate(weights):
        if first in seen or not columns:
            continue
        seen.add(first)
        group, ahead = [], [first]
        while ahead:
            row = ahead.pop()
            group.append(row)
            for column in weights[row]:
                if column in reached:
                    continue
                reached.add(column)
                ahead += [other for other in rows_of[column] if other not in seen]
                seen.update(rows_of[column])
        groups.append(sorted(group))
    return groups
