"""Payee names: tidying what a bank sends, and how alike two names are."""

import re
import unicodedata
from functools import lru_cache

from rapidfuzz import fuzz

_INVISIBLE = re.compile(r"[\u00ad\u200b-\u200f\u2060\ufeff]")
_BANK_WORDS = re.compile(
    r"^(?:(?:card|pos|debit|credit|online|contactless|direct|standing|sepa)\s+)*"
    r"(?:(?:purchase|payment)(?: to| from| at)?|transfer (?:to|from)|pos|card|debit|order|sepa(?: credit| debit)?)\b[\s:*/-]*",
    re.IGNORECASE,
)
_NOISE = re.compile(
    r"""\b(?:\d{1,2}[./-]\d{1,2}(?:[./-]\d{2,4})?|\d{1,2}:\d{2}(?::\d{2})?)\b   # days and times
      | \b(?:ref|no|nr|id|term|trn|mandate|auth)[.:#]?\s*[\w/-]*\d[\w/-]*        # references with a word
      | [*#]\s*\w*\d\w* | \b\w*\d{4,}\w*\b | \bx{2,}\d+\b                        # store numbers, card numbers
    """,
    re.IGNORECASE | re.VERBOSE,
)
FEWEST_LETTERS = 3  # of a name behind a payment service
_SMALL = {"and", "of", "the", "for", "in", "at", "by", "de", "la", "van", "den", "og", "och"}


# A bank sends the same texts again and again: each is tidied once.
_REMEMBERED = 20_000


@lru_cache(_REMEMBERED)
def clean_text(text: str) -> str:
    """The text without control and invisible characters, composed (NFC), blanks folded."""
    composed = unicodedata.normalize("NFC", _INVISIBLE.sub("", text))
    return " ".join("".join(c if c.isprintable() else " " for c in composed).split())


@lru_cache(_REMEMBERED)
def tidy_payee(raw: str) -> str:
    """The payee as a household would write it, from the text a bank sent.

    Removes bank words at the start, days, times, references and store numbers; shouting becomes title case.
    When nothing would remain, the cleaned text itself is kept.

    >>> tidy_payee("CARD PURCHASE GREBE STREET GROCER 0093 12/05"), tidy_payee("Transfer 0093")
    ('Grebe Street Grocer', 'Transfer')
    """
    cleaned = clean_text(raw)
    text = _NOISE.sub(" ", _after_service(_BANK_WORDS.sub("", cleaned.partition("//")[0] or cleaned)))
    text = " ".join(text.strip(" -*/,;:.#|").split())
    if sum(c.isalpha() for c in text) < 2:
        text = cleaned
    if text.isupper() or text.islower():
        words = text.lower().split(" ")
        text = " ".join(w if i and w in _SMALL else w[:1].upper() + w[1:] for i, w in enumerate(words))
    return text[:120]


def _after_service(text: str) -> str:
    """What follows the payment service that stands before a star, if that is a name: "SUMPAY *QUAYSIDE DIESEL" was paid to the
    latter."""
    service, star, name = text.partition("*")
    letters = sum(letter.isalpha() for letter in name)
    is_name = letters >= FEWEST_LETTERS and letters > sum(letter.isdigit() for letter in name)
    return name if star and is_name and service.strip() else text


@lru_cache(_REMEMBERED)
def payee_key(name: str) -> str:
    """The form in which two spellings of one payee compare equal: tidied, case-folded, letters and digits only."""
    return " ".join(re.findall(r"\w+", tidy_payee(name).casefold()))


def likeness(one: str, other: str) -> int:
    """How alike two payee names are, 0 to 100, in any order of words; a name inside the other counts as alike."""
    a, b = payee_key(one), payee_key(other)
    if not a or not b:
        return 0
    return round(fuzz.token_set_ratio(a, b))
