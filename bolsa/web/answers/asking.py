"""What the address asks: days, conditions, the dimension; and addresses that ask something else."""

from dataclasses import dataclass
from datetime import date
from urllib.parse import urlencode

from flask import g, request, url_for

from bolsa.core.answers.cut import MEASURES, MOST_MONTHS, Condition, Cut
from bolsa.core.months import Month
from bolsa.errors import InvalidInput
from bolsa.web.filters import day, month_name

STRETCHES = ((1, "One month"), (3, "Three"), (12, "Twelve"), (36, "Three years"))
DIMENSION_WORDS = {
    "group": "group", "category": "category", "payee": "payee", "tags": "tag", "member": "member", "account": "account",
}  # fmt: skip
_LISTS = ("only", "without", "skip", "tag")  # what an address may name several times


@dataclass(frozen=True)
class Asked:
    """A question as the address holds it: the cut, and how many months back from the chosen one, where it names no days."""

    cut: Cut
    months: int | None

    @property
    def is_running(self) -> bool:
        """Whether its last days are still to come."""
        return self.cut.last > g.by.today

    @property
    def words(self) -> str:
        """The period in words."""
        first, last = self.cut.first, self.cut.last
        if not self.cut.is_whole:
            return f"{day(first)} to {day(last)}"
        months = self.cut.months
        return month_name(months[0]) if len(months) == 1 else f"{month_name(months[0])} to {month_name(months[-1])}"

    @property
    def kept(self) -> tuple[Condition, ...]:
        """The conditions under which alone it is asked."""
        return tuple(condition for condition in self.cut.conditions if not condition.is_left_out)

    @property
    def left_out(self) -> tuple[Condition, ...]:
        return tuple(condition for condition in self.cut.conditions if condition.is_left_out)


def asked(default_months: int = 1, *, last_full: bool = False) -> Asked:
    """The question of the address: from `from` to `to`, else so many `months` up to the chosen one (with `last_full`, up to
    the one before while the chosen one runs). Raises: InvalidInput."""
    measure = request.args.get("measure", MEASURES[0])
    if request.args.get("from") and request.args.get("to"):
        first, last, months = _day("from"), _day("to"), None
    else:
        months = request.args.get("months", default_months, type=int)
        months = months if 1 <= months <= MOST_MONTHS else default_months
        end = g.month + -1 if last_full and g.month >= g.present else g.month
        first, last = (end + (1 - months)).first_day, end.last_day
    return Asked(Cut(measure, first, last, conditions()).checked(), months)


def conditions() -> tuple[Condition, ...]:
    """The conditions of the address: `only=category.7` and `without=payee.12`, each as often as wanted."""
    only = [Condition.parse(text) for text in request.args.getlist("only")]
    out = [Condition.parse(f"-{text}") for text in request.args.getlist("without")]
    return tuple(dict.fromkeys((*only, *out)))


def skipped() -> list[Month]:
    """The months the address leaves out of a mean."""
    return [Month.parse(text) for text in request.args.getlist("skip")]


def dimension(default: str) -> str:
    """The dimension the address asks by."""
    by = request.args.get("by", default)
    if by not in DIMENSION_WORDS:
        raise InvalidInput("There is no such way to take it apart.", field="by")
    return by


def deeper(by: str) -> str:
    """By what one looks further into a part."""
    return {"group": "category", "category": "payee", "tags": "category", "member": "category", "account": "category"}.get(by, "")


def here(endpoint: str = "", add: dict[str, str] | None = None, drop: dict[str, str] | None = None, **changes: object) -> str:
    """The address of this question with something changed (None takes it away), one more of a list, or one less."""
    lists, kept = _asked_now()
    kept |= lists
    for name, value in (add or {}).items():
        kept[name] = [*(one for one in lists[name] if one != value), value]
    for name, value in (drop or {}).items():
        kept[name] = [one for one in lists[name] if one != value]
    kept |= changes
    path = _path(endpoint or request.endpoint or "")
    asked = urlencode(_filled(kept), doseq=True, safe="!$'()*,/:;?@")
    return f"{path}{'&' if '?' in path else '?'}{asked}" if asked else path


def _asked_now() -> tuple[dict[str, list[str]], dict[str, object]]:
    """What the address says: lists, and single words (a copy); read once a request, since a page has a thousand links."""
    if "asked_now" not in g:
        single = {name: value for name, value in request.args.items() if name not in _LISTS and name != "month"}
        g.asked_now = {name: request.args.getlist(name) for name in _LISTS}, single
    lists, single = g.asked_now
    return lists, dict(single)


def _path(endpoint: str) -> str:
    """The address of an answer's page without its question."""
    paths = g.setdefault("answer_paths", {})
    if endpoint not in paths:
        paths[endpoint] = url_for(endpoint)
    return paths[endpoint]


def _filled(values: dict[str, object]) -> dict[str, str]:
    """What is worth standing in an address; lists go through as they are."""
    return {name: value for name, value in values.items() if value not in (None, [], "")}  # type: ignore[misc]


def _day(name: str) -> date:
    try:
        return date.fromisoformat(request.args[name])
    except ValueError as error:
        raise InvalidInput(f"“{request.args[name][:20]}” is not a day. Write it like 2026-05-14.", field=name) from error
