"""Categories written as lines: a heading line begins a group, each line below it is a category.

    Living:
      Groceries
      Eating out
    Income (income):
      Pay

A heading ends with a colon, begins with "#", or stands before lines that are indented more. What a group is for stands in
brackets behind its name: "(income)" or "(spending)", which is what it is without. "- " and "* " before a line are left out.
"""

import re
from dataclasses import dataclass

from bolsa.errors import InvalidInput

MOST_LINES = 300
MOST_LETTERS = 60
TYPES = ("spending", "income", "transfer")
_FOR = re.compile(r"\s*\((spending|income|transfer)\)\s*$", re.IGNORECASE)
_MARK = re.compile(r"^\s*[-*•]\s+")


@dataclass(frozen=True)
class Written:
    """A category as it is written: its group, its name, and what it is for."""

    group: str
    name: str
    type: str


def read_lines(text: str, group: str = "") -> list[Written]:
    """The categories a text holds, in order; those before the first heading stand in `group`. One named twice is taken once.

    Raises: InvalidInput naming the line that makes no sense.

    >>> [(one.group, one.name, one.type) for one in read_lines("Living:\\nGroceries\\n- Eating out\\n# Pay (income)\\nNoor")]
    [('Living', 'Groceries', 'spending'), ('Living', 'Eating out', 'spending'), ('Pay', 'Noor', 'income')]
    """
    rows = [line.expandtabs(4).rstrip() for line in text.splitlines() if line.strip()]
    if len(rows) > MOST_LINES:
        raise InvalidInput(f"Up to {MOST_LINES} lines at once.", field="lines")
    found: list[Written] = []
    seen: set[str] = set()
    type_ = "spending"
    for at, row in enumerate(rows):
        name, is_heading = _name_of(row), _is_heading(rows, at)
        name = name.rstrip(":").rstrip()
        said = _FOR.search(name)
        name = _FOR.sub("", name).rstrip(":").strip()
        if not name or len(name) > MOST_LETTERS:
            raise InvalidInput(f"Line {at + 1}: a name has 1 to {MOST_LETTERS} letters.", field="lines")
        if is_heading:
            group, type_ = name, said[1].lower() if said else "spending"
            continue
        if not group:
            raise InvalidInput(f"Line {at + 1}: write the group first, with a colon behind it.", field="lines")
        if name.casefold() not in seen:
            seen.add(name.casefold())
            found.append(Written(group, name, said[1].lower() if said else type_))
    if not found:
        raise InvalidInput("Write at least one category, one a line.", field="lines")
    return found


def _name_of(row: str) -> str:
    return " ".join(_MARK.sub("", row).lstrip("# ").split())


def _is_heading(rows: list[str], at: int) -> bool:
    row = rows[at]
    bare = _FOR.sub("", row)
    if row.lstrip().startswith("#") or bare.endswith(":"):
        return True
    following = rows[at + 1] if at + 1 < len(rows) else ""
    is_marked = bool(_MARK.match(row))
    return not is_marked and _indent(following) > _indent(row)


def _indent(row: str) -> int:
    return len(row) - len(row.lstrip())
