"""From typed text to values: each `parse_` gives the value or InvalidInput with the field's name."""

from datetime import date

from flask import flash
from werkzeug.datastructures import MultiDict

from bolsa.core.amounts import parse_amount
from bolsa.core.quick_line import Vocabulary, understand
from bolsa.errors import InvalidInput

_NO_NAMES = Vocabulary((), (), ())


def parse_day(form: MultiDict, field: str, today: date) -> date:
    """A day as the date field sends it (2026-05-14), or in words (yesterday, 12 May, 12/5)."""
    text = form.get(field, "").strip()
    try:
        return date.fromisoformat(text)
    except ValueError:
        pass
    said = understand(f"x {text} 1.00", _NO_NAMES, "EUR", today)
    if not text or (said.day == today and text.lower() != "today"):
        raise InvalidInput(f"“{text[:20]}” is not a day. Write it like 2026-05-14 or 14 May.", field=field)
    return said.day


def parse_money(form: MultiDict, field: str, currency: str) -> int:
    """An amount in minor units."""
    return parse_amount(form.get(field, ""), currency, field=field)


def parse_optional_money(form: MultiDict, field: str, currency: str) -> int | None:
    """An amount in minor units, None when nothing is typed."""
    return parse_money(form, field, currency) if form.get(field, "").strip() else None


def parse_id(form: MultiDict, field: str) -> int:
    """The id a choice sends."""
    text = form.get(field, "")
    if not text.isdigit():
        raise InvalidInput("Choose one.", field=field)
    return int(text)


def parse_optional_id(form: MultiDict, field: str) -> int | None:
    """The id a choice sends, None when none is chosen."""
    return parse_id(form, field) if form.get(field, "").strip() else None


def parse_ids(form: MultiDict, field: str) -> list[int]:
    """The ids of all chosen boxes."""
    return [int(text) for text in form.getlist(field) if text.isdigit()]


def tell(sentence: str, step_id: int | None = None) -> None:
    """Says on the next page what happened, with Undo when there is a step to undo."""
    flash([sentence, step_id], "done")


def tell_problem(sentence: str) -> None:
    """Says on the next page what could not be done."""
    flash([sentence, None], "problem")
