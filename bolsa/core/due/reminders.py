"""Reminders: days on which to think of something, until it is done."""

from dataclasses import dataclass
from datetime import date

from bolsa.errors import InvalidInput

MOST_WORDS = 200
DAYS_AHEAD = 30  # a reminder stands on Today so many days before its day


@dataclass(frozen=True)
class Reminder:
    """A day and what to think of; `done_on` is when it was done, None while it is open."""

    id: int
    day: date
    words: str
    done_on: date | None = None

    def is_near(self, today: date) -> bool:
        """Whether it is open and its day is past, or near."""
        return self.done_on is None and (self.day - today).days <= DAYS_AHEAD


def check_words(text: str) -> str:
    """The words of a reminder without needless blanks. Raises: InvalidInput."""
    words = " ".join(text.split())
    if not words or len(words) > MOST_WORDS:
        raise InvalidInput(f"Say what to think of, in up to {MOST_WORDS} letters.", field="words")
    return words
