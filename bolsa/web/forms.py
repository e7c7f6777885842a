"""From typed text to values: each `parse_` gives the value or InvalidInput with the field's name."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from datetime import date
from typing import Any

from flask import flash, g, get_flashed_messages, request
from werkzeug.datastructures import MultiDict

from bolsa.core.amounts import parse_amount
from bolsa.core.ledger.day_words import read_day_words
from bolsa.core.whole_numbers import is_number, number_of
from bolsa.errors import Conflict, InvalidInput
from bolsa.services.budget.closing import months_touched
from bolsa.services.changes import Done
from bolsa.services.sorting import rule_offers
from bolsa.web.filters import month_name

MOST_NAMED = 3


def parse_day(form: MultiDict, field: str, today: date, *, ahead: bool = False) -> date:
    """A day as the date field sends it (2026-05-14), or in words (yesterday, 12 May, 12/5); with `ahead` one to come."""
    text = form.get(field, "").strip()
    try:
        return date.fromisoformat(text)
    except ValueError:
        pass
    said = read_day_words(text.split(), today, day_first=g.reader.day_first, ahead=ahead) if text else None
    if said is None:
        raise InvalidInput(f"“{text[:20]}” is not a day. Write it like “2026-05-14” or “14 May”.", field=field)
    return said


def parse_money(form: MultiDict, field: str, currency: str) -> int:
    """An amount in minor units, as the reader writes it."""
    return parse_amount(form.get(field, ""), currency, decimal_mark=g.reader.decimal_mark, field=field)


def parse_optional_money(form: MultiDict, field: str, currency: str) -> int | None:
    """An amount in minor units, None when nothing is typed."""
    return parse_money(form, field, currency) if form.get(field, "").strip() else None


def parse_id(form: MultiDict, field: str) -> int:
    """The id a choice sends."""
    text = form.get(field, "")
    if not is_number(text):
        raise InvalidInput("Choose one.", field=field)
    return int(text)


def parse_optional_id(form: MultiDict, field: str) -> int | None:
    """The id a choice sends, None when none is chosen."""
    return parse_id(form, field) if form.get(field, "").strip() else None


def parse_version(form: MultiDict) -> int | None:
    """The version of the thing a form showed, None where it carries none."""
    text = form.get("seen", "")
    return number_of(text)


def parse_seen_minor(form: MultiDict) -> int | None:
    """The amount a form had shown, in minor units; None where it does not say."""
    text = form.get("seen", "")
    return number_of(text, signed=True)


def parse_ids(form: MultiDict, field: str) -> list[int]:
    """The ids of all chosen boxes."""
    return [int(text) for text in form.getlist(field) if is_number(text)]


def attach_uploads(attach: Callable[[str, bytes], Done]) -> None:
    """Attaches what the request uploads, and says so. Raises: InvalidInput if nothing was chosen."""
    uploads = [one for one in request.files.getlist("attachment") if one.filename]
    if not uploads:
        raise InvalidInput("Choose an image or a PDF first.")
    for one in uploads:
        tell(f"{one.filename} is attached", attach(one.filename or "", one.read()))


@dataclass(frozen=True)
class Message:
    """What the next page says: a sentence, the step that Undo undoes, and a link to where one goes on from there."""

    sentence: str
    step_id: int | None = None
    link: str = ""
    link_words: str = ""
    kind: str = "done"


def message_of(done: Done) -> Message:
    """What is said of a change, with Undo when it made a step."""
    return Message(done.sentence, done.step_id)


def tell(sentence: str, done: Done | None = None) -> None:
    """Says on the next page what happened, with Undo when it made a step."""
    tell_all((Message(sentence, done.step_id if done else None),))


def tell_problem(sentence: str) -> None:
    """Says on the next page what could not be done."""
    tell_all((Message(sentence, kind="problem"),))


def tell_in_the_way(error: Conflict, step_id: int) -> None:
    """Says which later step stands in the way of an undo, and offers to undo both."""
    tell_all((Message(error.sentence, step_id, kind="in the way"),))


def tell_all(messages: Iterable[Message]) -> None:
    """Says several things on the next page; of a step also which closed months it changed."""
    for message in messages:
        # Flask keeps whatever JSON can hold, though it says text.
        closed = _closed_words(message.step_id) if message.kind == "done" else ""
        kept: Any = [message.sentence + closed, message.step_id, message.link, message.link_words]
        flash(kept, message.kind)


OFFER = "rule-offer"  # what is told beside a row, and not above the page


def offer_rule(entry_id: int) -> None:
    """Offers, beside an entry's row on the next page, the rule its correction could become; nothing if a rule says so already."""
    found = rule_offers.offer_after(g.db, entry_id)
    if found is not None:
        kept: Any = [str(entry_id), found.would_follow, "", ""]
        flash(kept, OFFER)


def offered_rule() -> tuple[int, int] | None:
    """The entry beside whose row a rule is offered, and how many past ones would follow."""
    told: Any = get_flashed_messages(category_filter=[OFFER])
    return (int(told[0][0]), int(told[0][1])) if told else None


def _closed_words(step_id: int | None) -> str:
    closed = months_touched(g.db, step_id) if step_id else []
    if not closed:
        return ""
    names = ", ".join(month_name(month) for month in closed[:MOST_NAMED])
    more = f" and {len(closed) - MOST_NAMED} more" if len(closed) > MOST_NAMED else ""
    return f". {names}{more} {'is' if len(closed) == 1 else 'are'} closed: what is left since changes with it"
