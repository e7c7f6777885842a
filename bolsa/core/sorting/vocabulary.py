"""First guesses for a household without a past: kinds of shops and payments by their general words, in several languages.

The words are data, vocabulary.txt. A guess needs a word of a kind in the payee's name, and a category of the household's own
whose name has a word that goes with that kind. It is only ever a first guess: what the household itself decided goes before it.
"""

import unicodedata
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from functools import cache
from pathlib import Path

from bolsa.core.ledger.payees import payee_key

GUESSED = 0.5  # how sure such a guess is: never enough to be filed by itself
_FILE = Path(__file__).with_suffix(".txt")


@dataclass(frozen=True)
class Kind:
    """A kind of shop or payment: the words that tell it, and those of categories it goes to, best first."""

    name: str
    words: frozenset[str]
    beginnings: tuple[str, ...]
    endings: tuple[str, ...]
    categories: tuple[str, ...]

    def is_told_by(self, word: str) -> bool:
        return word in self.words or word.startswith(self.beginnings) or word.endswith(self.endings)


def fold(text: str) -> str:
    """Text without case and marks: ä becomes a, ß becomes ss."""
    bare = unicodedata.normalize("NFKD", text.casefold())
    return "".join(letter for letter in bare if not unicodedata.combining(letter)).replace("ø", "o").replace("ł", "l")


@cache
def list_kinds() -> tuple[Kind, ...]:
    """The kinds, in the order in which they are tried."""
    found = []
    for line in _FILE.read_text(encoding="utf-8").splitlines():
        if not line.strip() or line.startswith("#"):
            continue
        name, words, categories = (part.strip() for part in line.split("|"))
        every = words.split()
        found.append(
            Kind(
                name,
                frozenset(word for word in every if "*" not in word),
                tuple(word[:-1] for word in every if word.endswith("*")),
                tuple(word[1:] for word in every if word.startswith("*")),
                tuple(categories.split()),
            )
        )
    return tuple(found)


KIND_WORDS = frozenset(word for kind in list_kinds() for word in (*kind.words, *kind.beginnings, *kind.endings))


def kind_of(text: str) -> Kind | None:
    """The kind a payee's name, or the bank's text, speaks of: that of its last telling word, as "Ferry Bakery" is a bakery;
    None if it speaks of none.

    >>> kind_of("Bäckerei Sturm").name, kind_of("Miete Mai").name, kind_of("Quist")
    ('bakery', 'rent', None)
    """
    for word in reversed(fold(payee_key(text)).split()):
        for kind in list_kinds():
            if kind.is_told_by(word):
                return kind
    return None


def guess(text: str, categories: Mapping[int, str], allowed: Iterable[int]) -> tuple[int, str] | None:
    """The category a payee's words speak of, and the word of the kind; None if nothing speaks. `categories` are names by id, of
    which only the `allowed` ones are taken."""
    kind = kind_of(text)
    if kind is None:
        return None
    ids = list(allowed)
    for wanted in kind.categories:
        for id_ in ids:
            if any(word.startswith(wanted) for word in fold(categories[id_]).replace("-", " ").split()):
                return id_, kind.name
    return None
