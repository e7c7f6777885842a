"""Filters of a list as (clauses, params): the values never enter the SQL text."""

from dataclasses import dataclass
from datetime import date

Where = tuple[list[str], dict[str, object]]


@dataclass(frozen=True)
class RegisterFilter:
    """What a register shows: words to find, a state, a first and a last day; empty means all."""

    text: str = ""
    state: str = ""
    first_day: date | None = None
    last_day: date | None = None

    @property
    def is_empty(self) -> bool:
        return self == RegisterFilter()


def like_pattern(text: str) -> str:
    """The text for LIKE … ESCAPE '\\', found anywhere."""
    escaped = text.replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_")
    return f"%{escaped}%"


def where_register(wanted: RegisterFilter) -> Where:
    """The clauses over line l, entry e, payee p that a register's filter asks for."""
    clauses: list[str] = []
    params: dict[str, object] = {}
    if wanted.text:
        clauses.append(
            "(p.name LIKE :text ESCAPE '\\' OR e.memo LIKE :text ESCAPE '\\' OR e.note LIKE :text ESCAPE '\\' "
            "OR l.raw_text LIKE :text ESCAPE '\\' OR EXISTS (SELECT 1 FROM line o JOIN category c ON c.id = o.category_id "
            "WHERE o.entry_id = e.id AND c.name LIKE :text ESCAPE '\\'))"
        )
        params["text"] = like_pattern(wanted.text)
    if wanted.state:
        clauses.append("l.state = :state")
        params["state"] = wanted.state
    if wanted.first_day:
        clauses.append("l.day >= :first_day")
        params["first_day"] = wanted.first_day.isoformat()
    if wanted.last_day:
        clauses.append("l.day <= :last_day")
        params["last_day"] = wanted.last_day.isoformat()
    return clauses, params
