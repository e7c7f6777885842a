"""The form of a plan: a plan as fields, and fields as a plan. Rows are numbered; an empty one is none."""

from collections.abc import Iterator, Sequence
from decimal import Decimal

from werkzeug.datastructures import MultiDict

from bolsa.core.ahead.plan import Event, Income, Pension, Person, Plan, Pot, TaxStep
from bolsa.core.house.kept import Member
from bolsa.core.months import Month
from bolsa.core.percents import parse_percent
from bolsa.core.whole_numbers import is_number, number_of
from bolsa.errors import InvalidInput
from bolsa.web.filters import in_field
from bolsa.web.forms import parse_optional_money

SPARE_ROWS = 2


def as_typed(plan: Plan, home: str) -> MultiDict:
    """A plan as its form shows it."""
    typed: dict[str, str] = {
        "spending": in_field(plan.spending_minor, home) if plan.spending_minor is not None else "",
        "after": _number(plan.after_percent), "inflation": _number(plan.inflation_percent), "until_age": str(plan.until_age),
        "save": in_field(plan.save_minor, home) if plan.save_minor else "",
        "less": in_field(plan.less_minor, home) if plan.less_minor else "",
    }  # fmt: skip
    for person in plan.people:
        typed |= {f"born-{person.member_id}": str(person.birth_year), f"works-{person.member_id}": str(person.works_until)}
    for at, income in enumerate(plan.incomes):
        typed |= {f"income-name-{at}": income.name, f"income-member-{at}": str(income.member_id or ""),
                  f"income-{at}": in_field(income.yearly_minor, home) if income.yearly_minor is not None else ""}  # fmt: skip
    for at, pension in enumerate(plan.pensions):
        typed |= {f"pension-name-{at}": pension.name, f"pension-member-{at}": str(pension.member_id),
                  f"pension-{at}": in_field(pension.yearly_minor, home), f"pension-age-{at}": str(pension.from_age)}  # fmt: skip
    for at, event in enumerate(plan.events):
        typed |= {f"event-name-{at}": event.name, f"event-year-{at}": str(event.year),
                  f"event-{at}": in_field(event.cost_minor, home), f"event-id-{at}": str(event.id),
                  f"event-every-{at}": str(event.every or ""), f"event-until-{at}": str(event.until or "")}  # fmt: skip
    for at, pot in enumerate(plan.pots):
        typed |= {f"pot-return-{at}": _number(pot.return_percent), f"pot-swing-{at}": _number(pot.swing_percent),
                  f"pot-taxed-{at}": "1" if pot.is_taxed else "", f"pot-place-{at}": str(at + 1),
                  f"pot-in-{at}": in_field(pot.paid_in_minor, home) if pot.paid_in_minor else "",
                  f"pot-free-{at}": str(pot.free_from or "")}  # fmt: skip
    for at, step in enumerate(plan.tax):
        typed |= {f"tax-above-{at}": in_field(step.above_minor, home), f"tax-{at}": _number(step.percent)}
    return MultiDict(typed)


def _number(value: Decimal) -> str:
    return f"{value.normalize():f}"


def parse_plan(form: MultiDict, before: Plan, members: Sequence[Member], home: str) -> Plan:
    """The plan of the form, on the one it showed: names of pots and categories of income stay. Raises: InvalidInput."""
    spending = parse_optional_money(form, "spending", home)
    return Plan(
        tuple(_people(form, members)), tuple(_incomes(form, before, home)), tuple(_pensions(form, home)), spending,
        _percent(form, "after"), tuple(_events(form, before, home)), tuple(_pots(form, before, home)), tuple(_tax(form, home)),
        _percent(form, "inflation"), _whole(form, "until_age"), parse_optional_money(form, "save", home) or 0,
        parse_optional_money(form, "less", home) or 0,
    )  # fmt: skip


def _people(form: MultiDict, members: Sequence[Member]) -> Iterator[Person]:
    for one in members:
        if form.get(f"born-{one.id}", "").strip() and form.get(f"works-{one.id}", "").strip():
            try:
                until = Month.parse(form[f"works-{one.id}"].strip())
            except InvalidInput as error:
                raise InvalidInput(f"{error.sentence} Work ends in a month like 2049-12.", field=f"works-{one.id}") from error
            yield Person(one.id, one.name, _whole(form, f"born-{one.id}"), until)


def _rows(form: MultiDict, name: str) -> Iterator[int]:
    at = 0
    while f"{name}-{at}" in form:
        if form.get(f"{name}-{at}", "").strip():
            yield at
        at += 1


def _incomes(form: MultiDict, before: Plan, home: str) -> Iterator[Income]:
    for at in _rows(form, "income-name"):
        name = form[f"income-name-{at}"].strip()
        category = next((one.category_id for one in before.incomes if one.name == name), None)
        yearly = parse_optional_money(form, f"income-{at}", home)
        if yearly is None and category is None:
            raise InvalidInput(f"Write what {name} brings in a year.", field=f"income-{at}")
        yield Income(name, yearly, category, _member(form, f"income-member-{at}"))


def _member(form: MultiDict, field: str) -> int | None:
    text = form.get(field, "")
    return number_of(text)


def _pensions(form: MultiDict, home: str) -> Iterator[Pension]:
    for at in _rows(form, "pension-name"):
        member_id = _member(form, f"pension-member-{at}")
        yearly = parse_optional_money(form, f"pension-{at}", home)
        if member_id is None or yearly is None:
            raise InvalidInput("A pension is somebody’s, and so much a year.", field=f"pension-{at}")
        yield Pension(form[f"pension-name-{at}"].strip(), member_id, yearly, _whole(form, f"pension-age-{at}"))


def _events(form: MultiDict, before: Plan, home: str) -> Iterator[Event]:
    known = {one.id: one for one in before.events}
    following = max(known, default=0) + 1
    for at in _rows(form, "event-name"):
        event_id = _member(form, f"event-id-{at}") or following
        following = max(following, event_id + 1)
        cost = parse_optional_money(form, f"event-{at}", home)
        if cost is None:
            raise InvalidInput("Write what it costs; less than 0 brings money in.", field=f"event-{at}")
        every, until = _optional(form, f"event-every-{at}"), _optional(form, f"event-until-{at}")
        is_out = known[event_id].is_out if event_id in known else False
        yield Event(event_id, form[f"event-name-{at}"].strip(), _whole(form, f"event-year-{at}"), cost, every, until, is_out)


def _pots(form: MultiDict, before: Plan, home: str) -> Iterator[Pot]:
    found = []
    for at, pot in enumerate(before.pots):
        place = _optional(form, f"pot-place-{at}") or at + 1
        told = Pot(
            pot.account_id, pot.name, _percent(form, f"pot-return-{at}"), _percent(form, f"pot-swing-{at}"),
            form.get(f"pot-taxed-{at}") == "1", parse_optional_money(form, f"pot-in-{at}", home) or 0,
            _optional(form, f"pot-free-{at}"),
        )  # fmt: skip
        found.append((place, at, told))
    yield from (told for _, _, told in sorted(found, key=lambda one: one[:2]))


def _tax(form: MultiDict, home: str) -> Iterator[TaxStep]:
    for at in _rows(form, "tax"):
        yield TaxStep(parse_optional_money(form, f"tax-above-{at}", home) or 0, _percent(form, f"tax-{at}"))


def _percent(form: MultiDict, field: str) -> Decimal:
    return parse_percent(form.get(field, "").strip() or "0", field, lowest=-100, highest=1_000)  # the plan says how far it goes


def _whole(form: MultiDict, field: str) -> int:
    text = form.get(field, "").strip()
    if not (is_number(text) and len(text) < 5):
        raise InvalidInput(f"“{text[:20]}” is no whole number.", field=field)
    return int(text)


def _optional(form: MultiDict, field: str) -> int:
    return _whole(form, field) if form.get(field, "").strip() else 0
